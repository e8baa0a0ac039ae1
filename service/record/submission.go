package record

import (
	"encoding/json"
	"time"

	"hemble/wire"
)

// Submission is an attempt of a student at an exercise.
type Submission struct {
	ID           string      `db:"id"`
	AssignmentID int64       `db:"assignment_id"`
	ClassID      int64       `db:"class_id"`
	AccountID    int64       `db:"account_id"`
	RevisionID   int64       `db:"revision_id"`
	Class        string      `db:"class"`
	Exercise     string      `db:"exercise"`
	Title        string      `db:"title"` // of the exercise
	Revision     int         `db:"revision"`
	Login        string      `db:"login"`
	Student      string      `db:"student"` // name
	Group        string      `db:"group"`
	File         string      `db:"file"`
	Attempt      int         `db:"attempt"`
	Comment      string      `db:"comment"` // of the student
	Wiring       bool        `db:"wiring"`  // a wiring file came with it
	Submitted    time.Time   `db:"submitted"`
	Blob         string      `db:"blob"` // what was submitted
	WiringBlob   string      `db:"wiring_blob"`
	Text         string      `db:"text"` // blob of the exercise
	Job          int64       `db:"job_id"`
	State        wire.State  `db:"state"`
	Error        string      `db:"error"`
	Done         int         `db:"done"` // trials, while it is marked
	Trials       int         `db:"trials"`
	Marks        json.Number `db:"marks"` // with overrides, before lateness
	Of           json.Number `db:"of"`
	Overridden   bool        `db:"overridden"` // a person changed its marks
	Met          int         `db:"met"`
	Partly       int         `db:"partly"`
	Missed       int         `db:"missed"`
	First        string      `db:"first"` // the first difference, in words
	Alike        string      `db:"alike"` // the same for look-alikes
	MarkedAt     *time.Time  `db:"marked_at"`

	Percent int `db:"-"` // of the marks that count, for lateness; worked out from the terms
}

// Wire is what the API says of it to those who mark.
func (s *Submission) Wire() wire.Submission {
	return wire.Submission{ID: s.ID, Class: s.Class, Exercise: s.Exercise, Revision: s.Revision, Login: s.Login,
		Student: s.Student,
		File:    s.File, Attempt: s.Attempt, Comment: s.Comment, Wiring: s.Wiring, State: s.State, Error: s.Error,
		Marks: s.Marks, Of: s.Of,
		Percent: s.Percent, Overridden: s.Overridden, Met: s.Met, Partly: s.Partly, Missed: s.Missed, First: s.First,
		Alike:     s.Alike,
		Submitted: s.Submitted, MarkedAt: s.MarkedAt}
}
