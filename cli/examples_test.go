package cli

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/urfave/cli/v3"

	"hemble/service/servicetest"
)

// words splits a line as a shell does that knows double quotes alone.
func words(line string) (out []string) {
	for i, part := range strings.Split(line, `"`) {
		if i%2 == 1 {
			out = append(out, part)
		} else {
			out = append(out, strings.Fields(part)...)
		}
	}
	return out
}

// commands lists the paths of the commands that do something.
func commands(c *cli.Command, path string) (out []string) {
	for _, sub := range c.Commands {
		name := strings.TrimSpace(path + " " + sub.Name)
		if len(sub.Commands) == 0 {
			out = append(out, name)
		}
		out = append(out, commands(sub, name)...)
	}
	return out
}

// Every command's help has an example, and every example runs on the demo data as it is written.
func TestExamples(t *testing.T) {
	var have []string
	for _, e := range examples {
		have = append(have, e.command)
	}
	assert.ElementsMatch(t, commands(App(), ""), have, "each command has one example")

	binary := servicetest.Binary(t)
	_, address := servicetest.Serve(t, binary, t.TempDir(), "127.0.0.1:0")
	dir := t.TempDir()
	demo, err := filepath.Abs("../demo")
	require.NoError(t, err)
	require.NoError(t, os.Symlink(demo, filepath.Join(dir, "demo")))
	run := func(stdin, line string) {
		args := words(strings.ReplaceAll(line, "http://127.0.0.1:8080", address))
		cmd := exec.Command(binary, args[1:]...)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "HEMBLE_CONFIG="+filepath.Join(dir, "config.yaml"))
		cmd.Stdin = strings.NewReader(stdin)
		out, err := cmd.CombinedOutput()
		// 1 tells that what was looked at is not right: some examples look at what is not.
		if exit, ok := err.(*exec.ExitError); ok && exit.ExitCode() == exitCannot &&
			!bytes.Contains(out, []byte("hemble: ")) {
			err = nil
		}
		require.NoError(t, err, "%s\n%s", line, out)
	}
	_, noCompiler := exec.LookPath("avr-gcc")
	_, noSandbox := exec.LookPath("bwrap")
	ongoing := []string{"play", "serve", "demo"} // they go on until they are stopped, and have tests of their own
	for _, e := range examples {
		args := words(e.line)
		assert.Equal(t, append([]string{"hemble"}, strings.Fields(e.command)...),
			args[:1+len(strings.Fields(e.command))])
		switch {
		case slices.Contains(ongoing, e.command):
		case e.command == "build" && (noCompiler != nil || noSandbox != nil):
		case e.command == "login":
			run("wherry-lock\n", e.line)
			run("", `hemble class add lock-house "Wherry Lock"`)
		default:
			run("", e.line)
		}
	}
	var help bytes.Buffer
	app := App()
	app.Writer = &help
	require.NoError(t, app.Run(t.Context(), []string{"hemble", "grade", "--help"}))
	assert.Contains(t, help.String(), "Example: hemble grade demo/course/chamber-gauge")
}
