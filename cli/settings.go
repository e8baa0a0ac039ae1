package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/urfave/cli/v3"
	"go.yaml.in/yaml/v3"

	"hemble/client"
)

// settings are what is kept of a sign-in, in a file of the user's own; environment variables go before it.
type settings struct {
	Server string `yaml:"server"`
	Token  string `yaml:"token"`
	Class  string `yaml:"class,omitempty"` // for commands that name none
}

// The environment variables.
const (
	envConfig = "HEMBLE_CONFIG"
	envServer = "HEMBLE_SERVER"
	envToken  = "HEMBLE_TOKEN"
	envClass  = "HEMBLE_CLASS"
)

var classFlag = &cli.StringFlag{Name: "class",
	Usage: "class `NAME` (default: set by hemble class use, or your only class)", Sources: cli.EnvVars(envClass)}

func settingsPath() (string, error) {
	if path := os.Getenv(envConfig); path != "" {
		return path, nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(dir, "hemble", "config.yaml"), nil
}

// readSettings gives what the file says, and over it the environment.
func readSettings() (s settings, err error) {
	path, err := settingsPath()
	if err != nil {
		return s, err
	}
	text, err := os.ReadFile(path)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return s, err
	}
	if err := yaml.Unmarshal(text, &s); err != nil {
		return s, fmt.Errorf("%s is damaged (%w); `hemble login ADDRESS` writes a new one", path, err)
	}
	for name, value := range map[string]*string{envServer: &s.Server, envToken: &s.Token, envClass: &s.Class} {
		if v := os.Getenv(name); v != "" {
			*value = v
		}
	}
	return s, nil
}

func writeSettings(s settings) error {
	path, err := settingsPath()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	text, err := yaml.Marshal(s)
	if err != nil {
		return err
	}
	return os.WriteFile(path, text, 0o600)
}

// signedIn gives a client for the service that `hemble login` or the environment names.
func signedIn() (*client.Client, error) {
	s, err := readSettings()
	if err != nil {
		return nil, err
	}
	if s.Server == "" || s.Token == "" {
		return nil, fmt.Errorf("not signed in; `hemble login ADDRESS` does that, or %s and %s", envServer, envToken)
	}
	return client.New(s.Server, s.Token), nil
}

// inClass gives a client and the class that a command is about.
func inClass(c *cli.Command) (*client.Client, string, error) {
	api, err := signedIn()
	if err != nil {
		return nil, "", err
	}
	if class := c.String("class"); class != "" {
		return api, class, nil
	}
	s, err := readSettings()
	if err != nil {
		return nil, "", err
	}
	if s.Class == "" {
		return nil, "", misused("which class? name it with --class, or once for all with `hemble class use NAME`")
	}
	return api, s.Class, nil
}
