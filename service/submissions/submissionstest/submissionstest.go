// Package submissionstest makes data folders with submissions for tests.
package submissionstest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/people"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/wire"
)

// Folder is a data folder with a class that has one exercise and one student.
type Folder struct {
	*submissions.Store
	By         *record.Account // who runs the service
	Assignment *record.Assignment
	Student    *record.Member
}

// Fill makes what there is in a new data folder. The exercise is of a text.
func Fill(t *testing.T, d *db.DB, text []byte) *Folder {
	t.Helper()
	f := &Folder{Store: &submissions.Store{DB: d}}
	p := &people.Store{DB: d}
	c := &classes.Store{DB: d, People: p}
	x := &exercises.Store{DB: d}
	made, err := p.AddFirst(t.Context(), record.Account{Login: "keeper", Name: "I. Keeper", Role: wire.Admin,
		Password: "x"})
	require.NoError(t, err)
	require.True(t, made)
	f.By, err = p.Account(t.Context(), "keeper")
	require.NoError(t, err)
	require.NoError(t, c.AddClass(t.Context(), f.By, "lock", "Lock"))
	class, err := c.Class(t.Context(), f.By, "lock")
	require.NoError(t, err)
	require.NoError(t,
		c.PutMember(t.Context(), "keeper", class.ID, "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	require.NoError(t,
		x.PutExercise(t.Context(), f.By, exercises.NewRevision{Name: "x", Title: "X", Marks: "1", Text: text}))
	terms := record.Policy{Opens: d.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce,
		ShowMarks: wire.AtOnce}
	require.NoError(t, x.Assign(t.Context(), "keeper", class.ID, "x", 0, terms))
	f.Assignment, err = x.Assignment(t.Context(), class.ID, "x", 0)
	require.NoError(t, err)
	f.Student, err = c.Student(t.Context(), class.ID, "oke")
	require.NoError(t, err)
	return f
}

// Hand hands a file in for the student.
func (f *Folder) Hand(t *testing.T, file string, data []byte) string {
	t.Helper()
	id, _, err := f.Submit(t.Context(), submissions.Work{Assignment: f.Assignment, Student: f.Student, By: f.By,
		File: file,
		Data: data})
	require.NoError(t, err)
	return id
}
