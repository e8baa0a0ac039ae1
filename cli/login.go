package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"hemble/client"
)

// login is what is kept of a sign-in, in the user's configuration folder.
type login struct {
	Server string `json:"server"`
	Token  string `json:"token"`
}

func loginPath() (string, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(dir, "hemble", "login.json"), nil
}

// signedIn gives a client for the service that `hemble login` named.
func signedIn() (*client.Client, error) {
	path, err := loginPath()
	if err != nil {
		return nil, err
	}
	text, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, errors.New("not signed in; `hemble login ADDRESS` does that")
	}
	if err != nil {
		return nil, err
	}
	var l login
	if err := json.Unmarshal(text, &l); err != nil {
		return nil, fmt.Errorf("%s is damaged (%w); `hemble login ADDRESS` writes it anew", path, err)
	}
	return client.New(l.Server, l.Token), nil
}

func loginCommand() *cli.Command {
	return &cli.Command{
		Name:         "login",
		Usage:        "sign in to a service, for submit and results",
		ArgsUsage:    "ADDRESS",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "name", Value: "instructor", Usage: "the account's `NAME`"},
			&cli.BoolFlag{Name: "password-stdin", Usage: "read the password from standard input without asking"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("login takes the service's address: hemble login http://127.0.0.1:8080")
			}
			password, err := askPassword(c.Bool("password-stdin"))
			if err != nil {
				return err
			}
			api := client.New(c.Args().First(), "")
			session, err := api.SignIn(ctx, c.String("name"), password)
			if err != nil {
				return err
			}
			path, err := loginPath()
			if err != nil {
				return err
			}
			if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
				return err
			}
			text, err := json.Marshal(login{api.Server, session.Token})
			if err != nil {
				return err
			}
			if err := os.WriteFile(path, text, 0o600); err != nil {
				return err
			}
			fmt.Fprintf(c.Root().Writer, "signed in to %s as %s until %s\n", api.Server, session.Name, session.Expires.Format("2 January 2006"))
			return nil
		},
	}
}

func askPassword(quietly bool) (string, error) {
	if !quietly && term.IsTerminal(int(os.Stdin.Fd())) {
		fmt.Fprint(os.Stderr, "Password: ")
		text, err := term.ReadPassword(int(os.Stdin.Fd()))
		fmt.Fprintln(os.Stderr)
		return string(text), err
	}
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if line == "" && err != nil {
		return "", errors.New("no password on standard input")
	}
	return strings.TrimRight(line, "\r\n"), nil
}
