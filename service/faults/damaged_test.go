package faults

import (
	"fmt"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo/class"
	"hemble/service/servicetest"
)

// Files of the data folder are damaged, cut off or gone while the service runs: reading what is left continues, backups
// name them and hold the rest, and what is restored is all that was whole.
func TestDamagedFolder(t *testing.T) {
	rounds := 2
	if all() {
		rounds = 20
	}
	binary, dir, address := servicetest.Binary(t), t.TempDir(), port(t)
	cmd, url := servicetest.Serve(t, binary, dir, address)
	c := servicetest.SignIn(t, url, class.Instructor, class.Password)
	ready(t, c)
	s := newStudents(t)
	for range 30 {
		login, firmware, data := s.work()
		r, err := c.Submit(t.Context(), class.Name, exercise,
			client.Work{Student: login, File: firmware + ".hex", Data: data})
		require.NoError(t, err)
		s.acked[r.ID] = firmware
	}
	s.settle(c)
	config := filepath.Join(t.TempDir(), "config.yaml")
	hemble := func(args ...string) (string, int) {
		c := exec.Command(binary, args...)
		c.Env = append(os.Environ(), "HEMBLE_CONFIG="+config, "HEMBLE_SERVER="+url, "HEMBLE_TOKEN="+s.token(t, url))
		out, err := c.CombinedOutput()
		if err != nil {
			var exit *exec.ExitError
			require.ErrorAs(t, err, &exit, "%s", out)
			return string(out), exit.ExitCode()
		}
		return string(out), 0
	}
	out, code := hemble("verify", dir)
	require.Zero(t, code, out)
	files, err := filepath.Glob(filepath.Join(dir, "files", "*", "*"))
	require.NoError(t, err)
	random := rand.New(rand.NewSource(3))
	random.Shuffle(len(files), func(i, j int) { files[i], files[j] = files[j], files[i] })
	for round := range rounds {
		file := files[round]
		switch round % 3 {
		case 0:
			require.NoError(t, os.Remove(file))
		case 1:
			require.NoError(t, os.WriteFile(file, []byte("nonsense"), 0o600))
		default:
			require.NoError(t, os.Truncate(file, 10))
		}
		_, err := c.Submissions(t.Context(), class.Name, exercise)
		require.NoError(t, err, "the list goes on")
		archive := filepath.Join(t.TempDir(), fmt.Sprintf("%d.tar.gz", round))
		out, code := hemble("backup", archive)
		require.Equal(t, 1, code, out)
		assert.Contains(t, out, fmt.Sprintf("%d damaged or missing", round+1))
		assert.Contains(t, out, filepath.Base(strings.TrimSuffix(file, ".gz")))
		restored := filepath.Join(t.TempDir(), "restored")
		out, code = hemble("restore", "--data", restored, archive)
		require.Equal(t, 1, code, out)
		left, err := filepath.Glob(filepath.Join(restored, "files", "*", "*"))
		require.NoError(t, err)
		assert.Len(t, left, len(files)-round-1)
		_, again := servicetest.Start(t, restored)
		list, err := again.Submissions(t.Context(), class.Name, exercise)
		require.NoError(t, err)
		assert.Len(t, list, len(s.acked))
	}

	// The database itself: a service that is started on a damaged one says so, and serves nothing of it.
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, cmd.Wait())
	f, err := os.OpenFile(filepath.Join(dir, "hemble.db"), os.O_RDWR, 0)
	require.NoError(t, err)
	_, err = f.WriteAt([]byte(strings.Repeat("x", 20_000)), 8192)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	out, code = hemble("serve", "--data", dir, "--listen", address)
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "is damaged")
	out, code = hemble("verify", dir)
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "✗ hemble.db")
	t.Logf("%d files damaged one after another, each named, the rest restored", rounds)
}

// token signs in and gives the session's token.
func (s *students) token(t *testing.T, url string) string {
	s.signIn.Do(func() { s.admin = servicetest.SignIn(t, url, class.Instructor, class.Password).Token })
	return s.admin
}
