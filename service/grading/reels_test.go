package grading

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The cache of reels forgets what was looked at longest ago.
func TestReelsForget(t *testing.T) {
	dir := t.TempDir()
	now := time.Now()
	for i, name := range []string{"1-0.reel.gz", "2-0.reel.gz", "3-0.reel.gz"} {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, make([]byte, 100), 0o600))
		require.NoError(t,
			os.Chtimes(path, now.Add(time.Duration(i)*time.Minute), now.Add(time.Duration(i)*time.Minute)))
	}
	c := reels{Most: 280}
	require.NoError(t, c.added(dir, 100))
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, left, 2)
	assert.Equal(t, "2-0.reel.gz", left[0].Name())
	assert.Equal(t, int64(200), c.size)
}
