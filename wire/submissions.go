package wire

import (
	"encoding/json"
	"time"

	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// State is where a submission is on its way.
type State string

// The states of a submission.
const (
	Queued    State = "queued"
	Running   State = "running"
	Marked    State = "marked"
	Failed    State = "failed"    // quarantined, with a reason; not the student's fault
	Cancelled State = "cancelled" // before it was marked
)

// Submission is work that was submitted. What its viewer may not see yet is left out.
type Submission struct {
	ID         string      `json:"id"`
	Class      string      `json:"class"`
	Exercise   string      `json:"exercise"`
	Revision   int         `json:"revision"`
	Login      string      `json:"login"`
	Student    string      `json:"student"`
	File       string      `json:"file"`
	Attempt    int         `json:"attempt"`
	Comment    string      `json:"comment,omitempty"` // of the student
	Wiring     bool        `json:"wiring,omitempty"`  // a wiring file came with it
	State      State       `json:"state"`
	Error      string      `json:"error,omitempty"`
	Marks      json.Number `json:"marks,omitempty"` // with overrides, before lateness
	Of         json.Number `json:"of,omitempty"`
	Late       int         `json:"late,omitempty" jsonschema:"description=seconds after the due time"`
	Percent    int         `json:"percent" jsonschema:"description=percent that count after lateness"`
	Counts     bool        `json:"counts,omitempty"`     // this attempt is the student's mark
	Overridden bool        `json:"overridden,omitempty"` // a person changed its marks
	Met        int         `json:"met"`
	Partly     int         `json:"partly"`
	Missed     int         `json:"missed"`
	First      string      `json:"first,omitempty"` // the first difference, in words
	Alike      string      `json:"alike,omitempty"` // the same for look-alikes
	Submitted  time.Time   `json:"submitted"`
	MarkedAt   *time.Time  `json:"marked_at,omitempty"`
	Progress   *Progress   `json:"progress,omitempty"`
}

// Progress is how far marking has come. Students get no counts: they would tell of hidden trials.
type Progress struct {
	Ahead int `json:"ahead"` // submissions that come first
	Done  int `json:"done,omitempty"`
	Of    int `json:"of,omitempty"`
}

// Receipt acknowledges a submission: from here on it cannot be lost.
type Receipt struct {
	Submission
	Same bool `json:"same,omitempty"` // the same file was here before: this is that submission
}

// Result is a submission with its mark sheet, as its viewer may see it.
type Result struct {
	Submission
	Title     string       `json:"title"`
	Sheet     *sheet.Sheet `json:"sheet,omitempty"`
	Hidden    string       `json:"hidden,omitempty"` // why there is no sheet, or there are no marks
	Overrides []Override   `json:"overrides,omitempty"`
	Comments  []Comment    `json:"comments,omitempty"`
	Previous  string       `json:"previous,omitempty"`
	Next      string       `json:"next,omitempty"`
}

// Window is a stretch of a run as driven.
type Window struct {
	From    clock.Time    `json:"from"`
	To      clock.Time    `json:"to"`
	Moments []reel.Moment `json:"moments"`
	Left    int           `json:"left"` // moments that did not fit: ask for less
}

// SourceFile is one file of the source that was submitted.
type SourceFile struct {
	Path string `json:"path"`
	Text string `json:"text"`
}

// Bulk is many files submitted at once, before somebody looked at the doubtful ones.
type Bulk struct {
	ID      string     `json:"id"`
	Done    bool       `json:"done"`
	Files   []BulkFile `json:"files"` // wrong kinds first, then doubtful, then sure ones
	Created time.Time  `json:"created"`
}

// BulkFile is one of the files.
type BulkFile struct {
	Number     int    `json:"number"`
	Name       string `json:"name"`
	Size       int    `json:"size"`
	Login      string `json:"login,omitempty"` // whose it is taken for
	Student    string `json:"student,omitempty"`
	How        string `json:"how"`               // login, number, name, near name, several, two names, nobody
	Sure       bool   `json:"sure"`              // it needs no review
	Problem    string `json:"problem,omitempty"` // why it cannot be taken
	Submission string `json:"submission,omitempty"`

	Candidates []string `json:"candidates,omitempty"` // the logins of those whose it may be, the likeliest first
}

// Confirm takes a bulk over. Logins correct whose a file is, by its number; "" leaves the file out. Doubtful ones that
// are not named stay out.
type Confirm struct {
	Logins map[int]string `json:"logins"`
}
