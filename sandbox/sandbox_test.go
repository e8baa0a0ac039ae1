package sandbox

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var limits = Limits{Wall: 20 * time.Second, CPU: 10 * time.Second, Memory: 256 << 20, Processes: 16, Disk: 8 << 20,
	Files: 200, Output: 1 << 20, Messages: 4096}

func box(t testing.TB) *Box {
	t.Helper()
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bwrap is not installed; `make tools` installs it")
	}
	b, err := New([]string{"id", "ls", "sleep", "head", "tr"}, nil)
	require.NoError(t, err)
	return b
}

func run(t testing.TB, b *Box, script string, l Limits, files ...File) *Outcome {
	t.Helper()
	o, err := b.Run(t.Context(), files, script, l)
	require.NoError(t, err)
	return o
}

func TestRun(t *testing.T) {
	b := box(t)
	dir := t.TempDir()
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o711)) // the sandbox's user has to come by
	t.Setenv("TMPDIR", dir)
	o := run(t, b, `cat /src/a/@b.c; echo said >&2; cat /src/a/@b.c > made; cat made`, limits,
		File{"/src/a/@b.c", []byte("text\n")})
	assert.Equal(t, &Outcome{OK: true, Output: []byte("text\ntext\n"), Messages: "said\n"}, o)
	o = run(t, b, `exit 3`, limits)
	assert.False(t, o.OK)
	assert.Empty(t, o.Stopped)
	for _, path := range []string{"/src", "src/a", "/src/../x/y", "/a//b", ""} {
		_, err := b.Run(t.Context(), []File{{path, nil}}, "", limits)
		assert.ErrorContains(t, err, "no place for a file", path)
	}
	_, err := b.Run(t.Context(), []File{{"/src/a", nil}, {"/src/a", nil}}, "", limits)
	assert.Error(t, err, "no file is written over another")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

// What a script can see and do: nothing of the machine.
func TestHeldBack(t *testing.T) {
	b := box(t)
	require.NoError(t, os.WriteFile(filepath.Join(t.TempDir(), "secret"), []byte("4711"), 0o644))
	o := run(t, b, `
id -u; id -G
echo "root: $(ls -A / | tr '\n' ' ' 2>/dev/null)"
for f in /x /dev/x /dev/shm/x /src/x /usr/bin/x /usr/x /tmp/../x; do (echo x > $f) 2>/dev/null && echo "wrote $f"; done
for f in /etc/passwd /proc/self/status /proc/1/root /sys/kernel /root /home /var /run /tmp/../etc; do [ -e $f ] && echo "saw $f"; done
ls /tmp -A; env 2>/dev/null; echo "$HOME$USER$HEMBLE"
kill -9 1 2>/dev/null; ls /dev | cat`, limits, File{"/src/a.c", nil})
	text := string(o.Output)
	assert.True(t, strings.HasPrefix(text, "65534\n65534\n"), text)
	assert.NotContains(t, text, "wrote")
	assert.NotContains(t, text, "saw")
	for _, device := range []string{"sda", "vda", "mem", "kmsg", "loop"} {
		assert.NotContains(t, text, device)
	}
}

// hoard takes memory by what it writes, from three processes that are each below the limit.
const hoard = `for i in 1 2 3; do head -c 30000000 /dev/zero > /tmp/$i & done; wait; sleep 30`

// Each limit holds for all the processes of a run together, and whatever it started is gone afterwards.
func TestLimits(t *testing.T) {
	b := box(t)
	many := `for i in 1 2 3 4 5 6; do `
	for name, c := range map[string]struct{ script, stopped string }{
		"wall":                    {`sleep 60`, "longer than 2s"},
		"wall in the background":  {`sleep 60 & sleep 61 & wait`, "longer than 2s"},
		"processor time of many":  {many + `(while :; do :; done) & done; wait`, "more than 1s of processor time"},
		"processor time of short": {`while :; do id >/dev/null; done`, "more than 1s of processor time"},
		"memory of many":          {hoard, "of memory"},
		"files":                   {`i=0; while :; do i=$((i+1)); : > f$i; done`, "more than 200 files"},
		"output": {`while :; do echo 0123456789012345678901234567890123456789; done`,
			"more output than a program has"},
		"messages beyond their room": {`while :; do echo 0123456789012345678901234567890123456789 >&2; done`,
			"more than 1s of processor time"},
	} {
		t.Run(name, func(t *testing.T) {
			l := limits
			l.Wall, l.CPU, l.Memory = 2*time.Second, time.Second, 48<<20
			if strings.HasPrefix(name, "wall") || strings.HasPrefix(name, "memory") {
				l.Disk = 128 << 20
				l.CPU = time.Minute
			}
			if !strings.HasPrefix(name, "wall") {
				l.Wall = 20 * time.Second
			}
			began := time.Now()
			o := run(t, b, c.script, l)
			assert.False(t, o.OK)
			assert.Contains(t, o.Stopped, c.stopped, "%.200s", o.Messages)
			assert.LessOrEqual(t, len(o.Messages), limits.Messages)
			t.Logf("stopped after %s", time.Since(began))
		})
	}
	t.Run("memory without control groups", func(t *testing.T) {
		alone := *b
		alone.groups = nil
		l := limits
		l.Memory, l.Disk = 48<<20, 128<<20
		o := run(t, &alone, hoard, l)
		assert.Contains(t, o.Stopped, "of memory")
	})
	assert.Empty(t, strays(t), "nothing is left of what was started")
}

// strays are the processes of sandboxes that are left of this test's own.
func strays(t *testing.T) (list []string) {
	for _, pid := range family(os.Getpid())[1:] {
		if line, _ := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid)); strings.Contains(string(line), "bwrap") {
			list = append(list, strings.ReplaceAll(string(line), "\x00", " "))
		}
	}
	return list
}

// A run cannot take more of its folder, or more processes, than it may; it continues without.
func TestRefusedInside(t *testing.T) {
	b := box(t)
	o := run(t, b,
		`head -c 20000000 /dev/zero > /tmp/big || echo full; : > /tmp/big; head -c 100 /dev/zero > /tmp/small && echo goes on`, limits)
	assert.Equal(t, "full\ngoes on\n", string(o.Output), o.Messages)
	o = run(t, b, `for i in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22; do sleep 20 & done; sleep 20`,
		limits)
	assert.False(t, o.OK, "more processes than it may have: %s", o.Messages)
}

// A run ends when nobody wants it any more.
func TestCancel(t *testing.T) {
	b := box(t)
	ctx, cancel := context.WithCancel(t.Context())
	time.AfterFunc(300*time.Millisecond, cancel)
	began := time.Now()
	_, err := b.Run(ctx, nil, `(while :; do :; done) & while :; do :; done`, limits)
	assert.ErrorIs(t, err, context.Canceled)
	assert.Less(t, time.Since(began), 3*time.Second)
	assert.Empty(t, strays(t))
}

func TestWithoutBubblewrap(t *testing.T) {
	t.Setenv("PATH", t.TempDir())
	_, err := New(nil, nil)
	assert.ErrorContains(t, err, "bwrap is not installed")
}

// Where bubblewrap cannot hold a run back there is no sandbox, not a weaker one.
func TestWeakSandbox(t *testing.T) {
	b := box(t)
	for name, script := range map[string]string{
		"no sandbox at all": "#!/bin/sh\necho ready; while read -r line; do :; done\n",
		"no namespaces":     "#!/bin/sh\necho 'bwrap: No permissions to create new namespace' >&2; exit 1\n",
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			require.NoError(t, os.Chmod(filepath.Dir(dir), 0o755))
			weak := *b
			weak.bwrap = filepath.Join(dir, "bwrap")
			require.NoError(t, os.WriteFile(weak.bwrap, []byte(script), 0o755))
			assert.Error(t, weak.check())
		})
	}
}

// A folder for temporary files that the sandbox's user cannot come to is told by name, not found out by each build.
func TestClosedFolder(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root's sandbox has a user of its own")
	}
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o700))
	t.Setenv("TMPDIR", dir)
	_, err := New(nil, nil)
	assert.ErrorContains(t, err, "is closed to the sandbox's user")
}
