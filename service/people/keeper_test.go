package people

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"hemble/service/db"
	"hemble/wire"
)

func keeper(t *testing.T, now func() time.Time) (*Authenticator, *Store) {
	d, err := db.Open(t.Context(), t.TempDir(), now)
	require.NoError(t, err)
	t.Cleanup(func() { _ = d.Close() })
	s := &Store{DB: d}
	k := NewAuthenticator(s)
	require.NoError(t, k.FirstAccount(t.Context(), "Keeper", "I. Keeper", "wherry-lock"))
	return k, s
}

var here = Client{Agent: "test", Address: "192.0.2.1"}

func TestSignIn(t *testing.T) {
	k, s := keeper(t, nil)
	require.NoError(t, k.FirstAccount(t.Context(), "somebody", "Else", "wherry-lock"), "only where there is none yet")
	_, _, _, err := k.SignIn(t.Context(), "somebody", "wherry-lock", here)
	assert.ErrorIs(t, err, ErrWrong)
	a, token, expires, err := k.SignIn(t.Context(), " KEEPER", "wherry-lock", here)
	require.NoError(t, err)
	assert.Equal(t, wire.Admin, a.Role)
	assert.Regexp(t, `^\$argon2id\$v=19\$m=19456,t=2,p=1\$`, a.Password)
	assert.Greater(t, len(token), 40)
	assert.InDelta(t, SessionLength.Hours(), time.Until(expires).Hours(), 1)
	session, err := s.Session(t.Context(), token)
	require.NoError(t, err)
	assert.Equal(t, "192.0.2.1", session.Address)
	require.NoError(t, s.EndSession(t.Context(), a.ID, session.ID))
	_, err = s.Session(t.Context(), token)
	assert.ErrorIs(t, err, db.ErrNotFound)
}

func TestSessionsEndByTheClock(t *testing.T) {
	now := time.Now()
	k, s := keeper(t, func() time.Time { return now })
	_, token, _, err := k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	require.NoError(t, err)
	now = now.Add(SessionLength + time.Minute)
	_, err = s.Session(t.Context(), token)
	assert.ErrorIs(t, err, db.ErrNotFound)
	link, err := k.Link(t.Context(), "keeper", 0, "keeper")
	require.NoError(t, err)
	now = now.Add(LinkLength + time.Minute)
	_, err = s.UseLink(t.Context(), link.Token)
	assert.ErrorIs(t, err, db.ErrNotFound)
}

// Guessing locks out the name that is guessed at for a time, and no other; many names from one address, that address.
func TestLockOut(t *testing.T) {
	now := time.Now()
	k, _ := keeper(t, func() time.Time { return now })
	var locked LockedError
	for range maxWrong {
		_, _, _, err := k.SignIn(t.Context(), "keeper", "guess", here)
		require.ErrorIs(t, err, ErrWrong)
	}
	_, _, _, err := k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	require.ErrorAs(t, err, &locked)
	_, _, _, err = k.SignIn(t.Context(), "other", "guess", here)
	assert.ErrorIs(t, err, ErrWrong)
	now = now.Add(lockTime + time.Second)
	_, _, _, err = k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	assert.NoError(t, err)
	for i := range maxWrongFrom {
		_, _, _, _ = k.SignIn(t.Context(), strings.Repeat("x", i+1), "guess", here)
	}
	_, _, _, err = k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	assert.ErrorAs(t, err, &locked)
	_, _, _, err = k.SignIn(t.Context(), "keeper", "wherry-lock", Client{Address: "192.0.2.2"})
	assert.NoError(t, err)
}

// Passwords of the first schema go on, and are hashed again when they are next used.
func TestOldHashes(t *testing.T) {
	k, s := keeper(t, nil)
	old, err := bcrypt.GenerateFromPassword([]byte("wherry-lock"), bcrypt.MinCost)
	require.NoError(t, err)
	a, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	require.NoError(t, s.Rehash(t.Context(), a.ID, string(old)))
	_, _, _, err = k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	require.NoError(t, err)
	a, err = s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	assert.Contains(t, a.Password, "argon2id")
	_, _, _, err = k.SignIn(t.Context(), "keeper", "wherry-lock", here)
	assert.NoError(t, err)
}

func TestForms(t *testing.T) {
	for in, want := range map[string]string{"Oke": "oke", " r.oke@school.example ": "r.oke@school.example",
		"4001": "4001"} {
		got, err := Login(in)
		assert.NoError(t, err)
		assert.Equal(t, want, got)
	}
	for _, bad := range []string{"", "-x", "a b", "ä", strings.Repeat("x", 65), "../x", "a\x00"} {
		_, err := Login(bad)
		assert.Error(t, err, "%q", bad)
	}
	for _, bad := range []string{"", " ", "a\u202eb", "\x00x", strings.Repeat("x", 121), "\xff"} {
		_, err := Name(bad)
		assert.Error(t, err, "%q", bad)
	}
	k, _ := keeper(t, nil)
	for _, bad := range []string{"", "short", strings.Repeat("x", 201)} {
		_, err := k.Hash(t.Context(), bad)
		assert.Error(t, err)
	}
	codes := map[string]bool{}
	for range 100 {
		codes[JoinCode()] = true
	}
	assert.Len(t, codes, 100)
}
