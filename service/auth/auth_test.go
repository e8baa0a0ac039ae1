package auth

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/service/store"
)

func keeper(t *testing.T) (*Keeper, *store.Store) {
	s, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return NewKeeper(s), s
}

func TestFirstAccount(t *testing.T) {
	k, _ := keeper(t)
	password, err := k.FirstAccount(t.Context(), "instructor", "")
	require.NoError(t, err)
	assert.Len(t, password, 16, "one is made up")
	again, err := k.FirstAccount(t.Context(), "somebody", "else")
	require.NoError(t, err)
	assert.Empty(t, again, "only where there is none yet")
	_, _, _, err = k.SignIn(t.Context(), "somebody", "else")
	assert.ErrorIs(t, err, ErrWrong)
	a, token, expires, err := k.SignIn(t.Context(), "instructor", password)
	require.NoError(t, err)
	assert.Equal(t, Instructor, a.Role)
	assert.NotContains(t, a.Password, password, "passwords are kept as hashes")
	assert.Greater(t, len(token), 40)
	assert.InDelta(t, SessionLength.Hours(), time.Until(expires).Hours(), 1)

	other, _ := keeper(t)
	second, err := other.FirstAccount(t.Context(), "instructor", "")
	require.NoError(t, err)
	assert.NotEqual(t, password, second)
}

func TestSessionsEnd(t *testing.T) {
	k, s := keeper(t)
	_, err := k.FirstAccount(t.Context(), "instructor", "wherry-lock")
	require.NoError(t, err)
	a, token, _, err := k.SignIn(t.Context(), "instructor", "wherry-lock")
	require.NoError(t, err)
	found, err := s.SessionAccount(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, a.ID, found.ID)
	require.NoError(t, s.EndSession(t.Context(), token))
	_, err = s.SessionAccount(t.Context(), token)
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.AddSession(t.Context(), a.ID, "old", time.Now().Add(-time.Minute)))
	_, err = s.SessionAccount(t.Context(), "old")
	assert.ErrorIs(t, err, store.ErrNotFound, "an expired session is none")
}

// Guessing is slowed for the name that is guessed at, and for no other.
func TestGuessing(t *testing.T) {
	k, _ := keeper(t)
	_, err := k.FirstAccount(t.Context(), "instructor", "wherry-lock")
	require.NoError(t, err)
	for i := 0; i < 11; i++ {
		_, _, _, err = k.SignIn(t.Context(), "victim", "guess")
	}
	assert.ErrorIs(t, err, ErrOften)
	_, _, _, err = k.SignIn(t.Context(), "instructor", "wherry-lock")
	assert.NoError(t, err)
}
