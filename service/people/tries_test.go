package people

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/service/db"
)

// Tries are counted before they are looked at, over a restart, too.
func TestTries(t *testing.T) {
	dir := t.TempDir()
	now := time.Date(2026, 5, 4, 8, 0, 0, 0, time.UTC)
	at := func() *Store {
		d, err := db.Open(t.Context(), dir, func() time.Time { return now })
		require.NoError(t, err)
		return &Store{DB: d}
	}
	s := at()
	try := func() bool {
		until, err := s.Try(t.Context(), "login x", 10, 5*time.Minute)
		require.NoError(t, err)
		return until.IsZero()
	}
	for range 10 {
		assert.True(t, try())
	}
	require.NoError(t, s.Close())
	s = at()
	assert.False(t, try(), "the eleventh, after a restart")
	require.NoError(t, s.Close())
	s = at()
	defer s.Close()
	now = now.Add(4 * time.Minute)
	assert.False(t, try())
	now = now.Add(2 * time.Minute)
	for range 9 {
		assert.True(t, try())
	}
	require.NoError(t, s.Right(t.Context(), "login x", true))
	for range 10 {
		assert.True(t, try())
	}
	require.NoError(t, s.Right(t.Context(), "login x", false))
	assert.True(t, try())
	assert.False(t, try())
}
