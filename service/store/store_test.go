package store

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
)

func open(t *testing.T, dir string) *Store {
	s, err := Open(t.Context(), dir)
	require.NoError(t, err)
	return s
}

// A result is recorded exactly once, and only by the claim that holds.
func TestClaims(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.PutExercise(t.Context(), "x", "X", "", "1", []byte("text")))
	id, err := s.Submit(t.Context(), "x", "A", "a.hex", []byte("data"))
	require.NoError(t, err)
	one := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(1, 2)), Of: sheet.NewMarks(big.NewRat(1, 1))}

	first, err := s.Claim(t.Context())
	require.NoError(t, err)
	assert.Equal(t, id, first.Submission)
	_, err = s.Claim(t.Context())
	assert.ErrorIs(t, err, ErrNotFound, "one job is claimed once")

	require.NoError(t, s.Release(t.Context(), first))
	second, err := s.Claim(t.Context())
	require.NoError(t, err)
	require.NoError(t, s.Close()) // as if it had died

	s = open(t, dir)
	defer s.Close()
	assert.Greater(t, s.Epoch, second.Epoch)
	third, err := s.Claim(t.Context())
	require.NoError(t, err)
	assert.ErrorIs(t, s.Finish(t.Context(), second, one, ""), ErrStale, "the claim of an earlier life is stale")
	require.NoError(t, s.Finish(t.Context(), third, one, ""))
	assert.ErrorIs(t, s.Finish(t.Context(), third, one, ""), ErrStale)
	assert.ErrorIs(t, s.Fail(t.Context(), third, "x"), ErrStale)
	r, err := s.Result(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "0.5", r.Marks.String())
}

// A submission over which the service dies again and again is given up.
func TestPoison(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.PutExercise(t.Context(), "x", "X", "", "1", []byte("text")))
	id, err := s.Submit(t.Context(), "x", "A", "a.hex", []byte("data"))
	require.NoError(t, err)
	for i := 0; i < maxClaims; i++ {
		_, err := s.Claim(t.Context())
		require.NoError(t, err)
		require.NoError(t, s.Close())
		s = open(t, dir)
	}
	defer s.Close()
	_, err = s.Claim(t.Context())
	assert.ErrorIs(t, err, ErrNotFound)
	sub, err := s.Submission(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "failed", string(sub.State))
}

func TestDamagedFile(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	hash, err := s.putFile([]byte("firmware"))
	require.NoError(t, err)
	require.NoError(t, writeDurably(s.filePath(hash), []byte("something else")))
	_, err = s.File(hash)
	assert.ErrorContains(t, err, "damaged")
}
