package faults

import (
	"bytes"
	"context"
	"math/rand"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo/class"
	"hemble/service/backup"
	"hemble/service/servicetest"
	"hemble/wire"
)

// port gives an address that is free now.
func port(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	return l.Addr().String()
}

// Killed at random moments while four clients submit and the workers mark.
func TestKilled(t *testing.T) {
	moments := 5
	if all() {
		moments = 200
	}
	binary, dir, address := servicetest.Binary(t), t.TempDir(), port(t)
	random := rand.New(rand.NewSource(5))
	s := newStudents(t)
	cmd, url := servicetest.Serve(t, binary, dir, address)
	c := servicetest.SignIn(t, url, class.Instructor, class.Password)
	ready(t, c)
	for range moments {
		ctx, cancel := context.WithCancel(t.Context())
		done := make(chan error, 1)
		go func() { done <- s.handIn(ctx, c, 4) }()
		time.Sleep(time.Duration(20+random.Intn(400)) * time.Millisecond)
		require.NoError(t, cmd.Process.Signal(syscall.SIGKILL))
		_ = cmd.Wait()
		<-done
		cancel()
		cmd, _ = servicetest.Serve(t, binary, dir, address)
	}
	require.Greater(t, s.acknowledged(), moments)
	s.settle(c)
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	assert.NoError(t, cmd.Wait(), "an orderly stop")
	once(t, dir)
	t.Logf("%d moments, %d submissions acknowledged, none lost", moments, s.acknowledged())
}

// The disk fills up midway: what cannot be kept is refused as such, what was acknowledged stays and can be read, and
// with room made all continues. On a disk that takes nothing at all the service says so and does not start.
func TestDiskFull(t *testing.T) {
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bubblewrap is not installed; `make tools` installs it")
	}
	binary, dir := servicetest.Binary(t), t.TempDir()
	_, url := servicetest.Serve(t, binary, dir, "127.0.0.1:0", "bwrap", "--die-with-parent", "--bind", "/", "/",
		"--dev", "/dev", "--proc", "/proc", "--size", strconv.Itoa(24<<20), "--tmpfs", dir)
	c := servicetest.SignIn(t, url, class.Instructor, class.Password)
	ready(t, c)
	s := newStudents(t)
	inside := insideOf(t, dir)
	few, cancel := context.WithTimeout(t.Context(), time.Second)
	require.NoError(t, s.handIn(few, c, 4))
	cancel()
	// Everything that is left is taken by somebody else.
	filler, err := os.Create(filepath.Join(inside, "filler"))
	require.NoError(t, err)
	block := make([]byte, 4096)
	for err == nil {
		_, err = filler.Write(block)
	}
	filler.Close()
	refused := s.handIn(t.Context(), c, 4)
	require.Equal(t, "storage", client.Code(refused), "%v", refused)
	assert.ErrorContains(t, refused, "nothing was saved")
	kept := s.acknowledged()
	require.NotZero(t, kept)
	status := func(path string) int {
		r, err := c.HTTP.Get(url + path)
		require.NoError(t, err)
		r.Body.Close()
		return r.StatusCode
	}
	assert.Equal(t, 200, status("/healthz"), "it lives")
	assert.Eventually(t, func() bool { return status("/readyz") == 503 }, 5*time.Second, 100*time.Millisecond,
		"and says that it takes nothing")
	list, err := c.Submissions(t.Context(), class.Name, exercise)
	require.NoError(t, err, "what is there can be read")
	assert.GreaterOrEqual(t, len(list), kept)
	// Room is made: all continues, without a restart.
	require.NoError(t, os.Remove(filepath.Join(inside, "filler")))
	assert.Eventually(t, func() bool { return status("/readyz") == 200 }, 5*time.Second, 100*time.Millisecond)
	more, cancel := context.WithTimeout(t.Context(), time.Second)
	defer cancel()
	require.NoError(t, s.handIn(more, c, 4))
	assert.Greater(t, s.acknowledged(), kept)
	s.settle(c)

	out, err := exec.Command("bwrap", "--die-with-parent", "--ro-bind", "/", "/", "--dev", "/dev", "--proc", "/proc",
		binary, "serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0").CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(out), "takes nothing", "a disk that cannot be written to: %s", out)
}

// insideOf finds a folder that only a sandboxed service sees, by way of its process.
func insideOf(t *testing.T, dir string) string {
	procs, err := filepath.Glob("/proc/[0-9]*/cmdline")
	require.NoError(t, err)
	for _, p := range procs {
		line, err := os.ReadFile(p)
		inside := filepath.Join(filepath.Dir(p), "root", dir)
		if err != nil || !bytes.Contains(line, []byte("serve\x00--data\x00"+dir)) ||
			bytes.HasPrefix(line, []byte("bwrap")) {
			continue
		}
		if _, err := os.Stat(filepath.Join(inside, "hemble.db")); err == nil {
			return inside
		}
	}
	t.Skip("the sandboxed service's folder cannot be looked into on this machine")
	return ""
}

// The end of the database's log is torn off, as on a disk that promised and did not keep: what was acknowledged is
// taken up from its receipts.
func TestTornLog(t *testing.T) {
	times := 2
	if all() {
		times = 25
	}
	binary, address := servicetest.Binary(t), port(t)
	random := rand.New(rand.NewSource(7))
	dir := t.TempDir()
	s := newStudents(t)
	cmd, url := servicetest.Serve(t, binary, dir, address)
	c := servicetest.SignIn(t, url, class.Instructor, class.Password)
	ready(t, c)
	// The class itself is safe in the database before anything is torn, and in a backup.
	var archive bytes.Buffer
	require.NoError(t, c.Backup(t.Context(), &archive))
	restored := 0
	restart := func() {
		var refused string
		if cmd, _, refused = servicetest.TryServe(t, binary, dir, address); refused == "" {
			return
		}
		// Torn was what the database had half applied. It is refused, and one continues as docs/service.md tells.
		require.Contains(t, refused, "hemble.db is damaged")
		fresh := filepath.Join(t.TempDir(), "restored")
		_, err := backup.Restore(t.Context(), bytes.NewReader(archive.Bytes()), fresh)
		require.NoError(t, err)
		message, err := exec.Command("cp", "-rn", filepath.Join(dir, "files"), filepath.Join(dir, "receipts"),
			fresh).CombinedOutput()
		require.NoError(t, err, "%s", message)
		dir = fresh
		restored++
		cmd, _ = servicetest.Serve(t, binary, dir, address)
	}
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, cmd.Wait())
	for range times {
		restart()
		ctx, cancel := context.WithTimeout(t.Context(), time.Duration(300+random.Intn(500))*time.Millisecond)
		_ = s.handIn(ctx, c, 4)
		cancel()
		require.NoError(t, cmd.Process.Signal(syscall.SIGKILL))
		_ = cmd.Wait()
		tear(t, filepath.Join(dir, "hemble.db-wal"), random)
	}
	restart()
	s.settle(c)
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, cmd.Wait())
	once(t, dir)
	t.Logf("%d logs torn, %d databases damaged by it and restored, %d submissions, none lost", times, restored,
		s.acknowledged())
}

// tear cuts a file somewhere in its second half, and writes nonsense over what is then its end.
func tear(t *testing.T, path string, random *rand.Rand) {
	info, err := os.Stat(path)
	if err != nil || info.Size() == 0 {
		return
	}
	left := info.Size()/2 + random.Int63n(info.Size()/2)
	require.NoError(t, os.Truncate(path, left))
	f, err := os.OpenFile(path, os.O_WRONLY, 0)
	require.NoError(t, err)
	defer f.Close()
	nonsense := make([]byte, min(500, left))
	random.Read(nonsense)
	_, err = f.WriteAt(nonsense, left-int64(len(nonsense)))
	require.NoError(t, err)
}

// The clock jumps back and forth by days: nothing is lost, attempts stay in their order.
func TestClockJumps(t *testing.T) {
	jumps := 20
	if all() {
		jumps = 200
	}
	var off atomic.Int64
	config := servicetest.Config(t.TempDir())
	config.Now = func() time.Time { return time.Now().Add(time.Duration(off.Load())) }
	running, c := servicetest.StartWith(t, config)
	ready(t, c)
	s := newStudents(t)
	random := rand.New(rand.NewSource(9))
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- s.handIn(ctx, c, 4) }()
	for range jumps {
		time.Sleep(50 * time.Millisecond)
		off.Store(int64(time.Duration(random.Intn(13*24)-6*24) * time.Hour)) // sessions last 14 days
	}
	off.Store(0)
	cancel()
	require.NoError(t, <-done)
	s.settle(c)
	list, err := c.Submissions(t.Context(), class.Name, exercise)
	require.NoError(t, err)
	last := map[string]int{}
	for _, sub := range list {
		assert.Equal(t, last[sub.Login]+1, sub.Attempt)
		last[sub.Login] = sub.Attempt
	}
	require.NoError(t, running.Close())
	once(t, config.Dir)
}

// A backup that is taken while clients submit and workers mark, restored, is what the source was: everything
// acknowledged before it was begun is in it, file and all.
func TestBackupUnderLoad(t *testing.T) {
	times := 2
	if all() {
		times = 20
	}
	_, c := servicetest.Start(t, t.TempDir())
	ready(t, c)
	s := newStudents(t)
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- s.handIn(ctx, c, 4) }()
	type copied struct {
		data   []byte
		before map[string]string
	}
	var backups []copied
	for range times {
		time.Sleep(300 * time.Millisecond)
		b := copied{before: map[string]string{}}
		s.lock.Lock()
		for id, firmware := range s.acked {
			b.before[id] = firmware
		}
		s.lock.Unlock()
		var buf bytes.Buffer
		require.NoError(t, c.Backup(t.Context(), &buf))
		b.data = buf.Bytes()
		backups = append(backups, b)
	}
	cancel()
	require.NoError(t, <-done)
	s.settle(c)
	source, err := c.Submissions(t.Context(), class.Name, exercise)
	require.NoError(t, err)
	by := map[string]wire.Submission{}
	for _, sub := range source {
		by[sub.ID] = sub
	}
	for _, b := range backups {
		dir := filepath.Join(t.TempDir(), "restored")
		report, err := backup.Restore(t.Context(), bytes.NewReader(b.data), dir)
		require.NoError(t, err)
		assert.Empty(t, report.Damaged)
		running, again := servicetest.Start(t, dir)
		restored := &students{t: t, acked: b.before}
		restored.settle(again)
		list, err := again.Submissions(t.Context(), class.Name, exercise)
		require.NoError(t, err)
		for _, sub := range list {
			from, known := by[sub.ID]
			require.True(t, known)
			assert.Equal(t, []any{from.Login, from.File, from.Attempt, from.Submitted, from.Marks, from.First},
				[]any{sub.Login, sub.File, sub.Attempt, sub.Submitted, sub.Marks, sub.First})
			if strings.HasSuffix(sub.ID, "0") { // some of the files, whole
				want, err := c.File(t.Context(), sub.ID)
				require.NoError(t, err)
				got, err := again.File(t.Context(), sub.ID)
				require.NoError(t, err)
				assert.Equal(t, want, got)
			}
		}
		require.NoError(t, running.Close())
	}
	t.Logf("%d backups under load, the last of %d submissions", len(backups), len(backups[len(backups)-1].before))
}
