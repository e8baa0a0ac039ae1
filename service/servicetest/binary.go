package servicetest

import (
	"bufio"
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/demo/class"
)

// Binary builds the real command and gives its path.
func Binary(t testing.TB) string {
	t.Helper()
	binary := filepath.Join(t.TempDir(), "hemble")
	message, err := exec.Command("go", "build", "-o", binary, "hemble/cmd/hemble").CombinedOutput()
	require.NoError(t, err, "%s", message)
	return binary
}

// Serve starts the real command over a folder, with the demo's instructor as its first account, and gives the process
// and its address. before goes in front of the command, as a sandbox does.
func Serve(t testing.TB, binary, dir, listen string, before ...string) (*exec.Cmd, string) {
	t.Helper()
	cmd, address, said := TryServe(t, binary, dir, listen, before...)
	require.NotEmpty(t, address, "the service said %q", said)
	return cmd, address
}

// TryServe is Serve for a folder that the service may refuse: then it is over, the address is empty, and said is its
// reason.
func TryServe(t testing.TB, binary, dir, listen string, before ...string) (cmd *exec.Cmd, address, said string) {
	t.Helper()
	password := filepath.Join(t.TempDir(), "password")
	require.NoError(t, os.WriteFile(password, []byte(class.Password+"\n"), 0o600))
	args := append(before, binary, "serve", "--data", dir, "--listen", listen, "--login", class.Instructor,
		"--password-file", password)
	cmd = exec.Command(args[0], args[1:]...)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	var log bytes.Buffer
	cmd.Stderr = &log
	if os.Getenv("HEMBLE_LOG") != "" {
		cmd.Stderr = os.Stderr
	}
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill() })
	line, _ := bufio.NewReader(out).ReadString('\n')
	if address = regexp.MustCompile(`http://\S+`).FindString(line); address == "" {
		_ = cmd.Wait()
		return cmd, "", line + log.String()
	}
	return cmd, address, ""
}
