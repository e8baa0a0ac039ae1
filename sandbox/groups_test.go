package sandbox

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Groups of processes that are no more are cleared away, others stay; a name that is taken is not taken again; and a
// group that cannot be removed at once is removed later.
func TestGroupsLeaveNothing(t *testing.T) {
	parent := t.TempDir()
	g := &groups{parents: []string{parent}, two: true}
	long := time.Now().Add(-time.Hour)
	put := func(name string, old bool) string {
		dir := filepath.Join(parent, name)
		require.NoError(t, os.Mkdir(dir, 0o755))
		if old {
			require.NoError(t, os.Chtimes(dir, long, long))
		}
		return dir
	}
	gone := put("hemble-run-999999999-1", true)
	fresh := put("hemble-run-999999999-2", false)
	living := put(fmt.Sprintf("hemble-run-%d-1", os.Getppid()), true)
	other := put("somebody-else-1", true)
	g.clear()
	assert.NoDirExists(t, gone)
	for _, dir := range []string{fresh, living, other} {
		assert.DirExists(t, dir)
	}

	taken := put(fmt.Sprintf("hemble-run-%d-%d", os.Getpid(), runs.Load()+1), false)
	assert.NotEqual(t, filepath.Base(taken), g.free())

	busy := put("busy", false)
	require.NoError(t, os.WriteFile(filepath.Join(busy, "process"), nil, 0o644))
	(&group{dirs: []string{busy}}).remove()
	assert.DirExists(t, busy)
	require.NoError(t, os.Remove(filepath.Join(busy, "process")))
	sweep()
	assert.NoDirExists(t, busy)
}
