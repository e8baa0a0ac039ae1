package record

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"hemble/wire"
)

// Assignment is an exercise opened to a class.
type Assignment struct {
	ID          int64       `db:"id"`
	ClassID     int64       `db:"class_id"`
	Class       string      `db:"class"`
	Archived    bool        `db:"archived"` // the class
	Exercise    string      `db:"exercise"`
	Title       string      `db:"title"`
	RevisionID  int64       `db:"revision_id"`
	Revision    int         `db:"revision"`
	Newest      int         `db:"newest"` // revision there is
	Blob        string      `db:"blob"`   // the exercise's text
	Marks       json.Number `db:"marks"`
	Released    *time.Time  `db:"released"`
	Submissions int         `db:"submissions"`
	Students    int         `db:"students"` // who submitted
	Waiting     int         `db:"waiting"`
	Failed      int         `db:"failed"`
	Doubtful    int         `db:"doubtful"` // files submitted together that a person has to match
	Policy
	Extensions []Extension `db:"-"`
}

// Wire is what the API says of it to those who mark.
func (o *Assignment) Wire() wire.Assignment {
	return wire.Assignment{Class: o.Class, Exercise: o.Exercise, Title: o.Title, Revision: o.Revision, Newest: o.Newest,
		Marks:  o.Marks,
		Policy: o.Policy.Wire(), Released: o.Released, Submissions: o.Submissions, Students: o.Students,
		Waiting: o.Waiting, Failed: o.Failed, Doubtful: o.Doubtful}
}

// Policy say when and how often work is taken, what lateness costs, and when students see what.
type Policy struct {
	Opens     time.Time   `db:"opens"`
	Due       *time.Time  `db:"due"`
	Closes    *time.Time  `db:"closes"`
	Late      wire.Late   `db:"late"`
	PerDay    int         `db:"per_day"`  // percent of the marks lost a day
	Grace     int         `db:"grace"`    // minutes
	Attempts  int         `db:"attempts"` // at most; 0 for any number
	Wait      int         `db:"wait"`     // minutes between attempts
	Counts    wire.Counts `db:"counts"`
	ShowSheet wire.Moment `db:"show_sheet"`
	ShowMarks wire.Moment `db:"show_marks"`
	Takes     Words       `db:"takes"` // kinds of work; none for those that the exercise says
}

// PolicyOf are terms as they were sent.
func PolicyOf(t wire.Policy) Policy {
	return Policy{Opens: t.Opens, Due: t.Due, Closes: t.Closes, Late: t.Late, PerDay: t.PerDay, Grace: t.Grace,
		Attempts: t.Attempts,
		Wait:     t.Wait, Counts: t.Counts, ShowSheet: t.ShowSheet, ShowMarks: t.ShowMarks, Takes: t.Takes}
}

// Wire is what the API says of them.
func (t Policy) Wire() wire.Policy {
	return wire.Policy{Opens: t.Opens, Due: t.Due, Closes: t.Closes, Late: t.Late, PerDay: t.PerDay, Grace: t.Grace,
		Attempts: t.Attempts,
		Wait:     t.Wait, Counts: t.Counts, ShowSheet: t.ShowSheet, ShowMarks: t.ShowMarks, Takes: t.Takes}
}

// Words are words in one column, with a space between two.
type Words []string

// Scan reads a column.
func (w *Words) Scan(v any) error {
	switch text := v.(type) {
	case string:
		*w = strings.Fields(text)
	case nil:
		*w = nil
	default:
		return fmt.Errorf("%T are no words", v)
	}
	return nil
}

// Extension gives a student or a group more time, or more attempts.
type Extension struct {
	Kind     string     `db:"kind"` // student or group
	Who      string     `db:"who"`  // a login, or the group's name
	Due      *time.Time `db:"due"`
	Closes   *time.Time `db:"closes"`
	Attempts int        `db:"attempts"` // on top of those of the class
	Reason   string     `db:"reason"`
}

// Wire is what the API says of it.
func (x *Extension) Wire() wire.Extension { return wire.Extension(*x) }
