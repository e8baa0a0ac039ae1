// Package storetest makes stores for tests.
package storetest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/service/store"
	"hemble/wire"
)

// HandedIn is a store with a class that has one exercise, of a text, and one student, who has handed a file in.
func HandedIn(t *testing.T, text []byte, file string, data []byte) (s *store.Store, submission string) {
	t.Helper()
	s, err := store.Open(t.Context(), t.TempDir(), nil)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	_, err = s.AddFirst(t.Context(), store.Account{Login: "keeper", Name: "I. Keeper", Role: wire.Admin})
	require.NoError(t, err)
	by, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	require.NoError(t, s.AddClass(t.Context(), by, "lock", "Lock"))
	class, err := s.Class(t.Context(), by, "lock")
	require.NoError(t, err)
	require.NoError(t, s.PutMember(t.Context(), "keeper", class.ID, "marsh", wire.SetMember{Name: "A. Marsh", Role: wire.Student}))
	require.NoError(t, s.PutExercise(t.Context(), by, store.NewRevision{Name: "x", Title: "X", Marks: "10", Text: text}))
	terms := wire.Terms{Opens: s.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce, ShowMarks: wire.AtOnce}
	require.NoError(t, s.Open(t.Context(), "keeper", class.ID, "x", wire.SetOpening{Terms: terms}))
	o, err := s.Opening(t.Context(), class.ID, "x", 0)
	require.NoError(t, err)
	marsh, err := s.Student(t.Context(), class.ID, "marsh")
	require.NoError(t, err)
	submission, _, err = s.Submit(t.Context(), store.Handed{Opening: o, Student: marsh, By: by, File: file, Data: data})
	require.NoError(t, err)
	return s, submission
}
