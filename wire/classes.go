package wire

import (
	"encoding/json"
	"time"
)

// Class is a class as one of its members sees it.
type Class struct {
	Name      string    `json:"name"`
	Title     string    `json:"title"`
	Archived  bool      `json:"archived"`
	Role      Role      `json:"role"` // of who asks
	JoinCode  string    `json:"join_code,omitempty"`
	Students  int       `json:"students,omitempty"`
	Exercises int       `json:"exercises,omitempty"`
	Waiting   int       `json:"waiting,omitempty"`
	Created   time.Time `json:"created"`
}

// SetClass makes or changes a class.
type SetClass struct {
	Title    string `json:"title"`
	Archived bool   `json:"archived"`
}

// Member is somebody of a class.
type Member struct {
	Login    string    `json:"login"`
	Name     string    `json:"name"`
	Role     Role      `json:"role"`
	Group    string    `json:"group"`
	Number   string    `json:"number"` // at the school
	SignedIn bool      `json:"signed_in"`
	Created  time.Time `json:"created"`

	LinkUntil *time.Time `json:"link_until,omitempty"` // an open link ends; another one would replace it
}

// SetMember puts somebody into a class, or changes what is said of them there.
type SetMember struct {
	Name   string `json:"name"`
	Role   Role   `json:"role"`
	Group  string `json:"group"`
	Number string `json:"number"`
}

// RosterChange is what a roster does, or did, to a class.
type RosterChange struct {
	Added   []Member  `json:"added"`
	Changed []Member  `json:"changed"`
	Missing []Member  `json:"missing"` // in the class and not in the roster: they stay
	Wrong   []Mistake `json:"wrong"`   // rows that were not taken
	Done    bool      `json:"done"`

	Encoding string `json:"encoding"` // of the file, as it was recognised
}

// Library is a library that source of a class may include.
type Library struct {
	Name    string    `json:"name"`
	Headers []string  `json:"headers"`
	Created time.Time `json:"created"`
}

// Late is what happens to work after its due time.
type Late string

// Late policies.
const (
	LateNone   Late = "none"    // it gives nothing
	LateFull   Late = "full"    // it counts whole until the closing time
	LatePerDay Late = "per-day" // it loses a share for each day begun
	LateGrace  Late = "grace"   // whole within the grace time, nothing after it
)

// Counts is which attempt's marks count.
type Counts string

// Which attempt counts.
const (
	CountsBest Counts = "best"
	CountsLast Counts = "last"
)

// Moment is when students get to see something.
type Moment string

// The moments.
const (
	AtOnce    Moment = "at-once"
	AfterDue  Moment = "after-due"
	OnRelease Moment = "on-release"
)

// Assignment is an exercise opened to a class.
type Assignment struct {
	Class    string      `json:"class"`
	Exercise string      `json:"exercise"`
	Title    string      `json:"title"`
	Revision int         `json:"revision"`
	Newest   int         `json:"newest,omitempty"` // revision there is
	Marks    json.Number `json:"marks"`
	Policy
	Released    *time.Time  `json:"released,omitempty"`
	Submissions int         `json:"submissions"` // who asks sees: a student their own
	Students    int         `json:"students,omitempty"`
	Waiting     int         `json:"waiting"`
	Failed      int         `json:"failed,omitempty"`
	Doubtful    int         `json:"doubtful,omitempty"` // files submitted together that a person has to match
	Mean        json.Number `json:"mean,omitempty"`     // of what counts, before lateness
	Works       []Work      `json:"works,omitempty"`    // that are taken of a student, with how their files are called
	Standing    *Standing   `json:"standing,omitempty"` // a student's own
}

// Policy are what an assignment asks of students, and what it shows them.
type Policy struct {
	Opens     time.Time  `json:"opens"`
	Due       *time.Time `json:"due,omitempty"`
	Closes    *time.Time `json:"closes,omitempty"`
	Late      Late       `json:"late"`
	PerDay    int        `json:"per_day" jsonschema:"description=percent lost per day late"`
	Grace     int        `json:"grace" jsonschema:"description=minutes of grace"`
	Attempts  int        `json:"attempts"` // at most; 0 for any number
	Wait      int        `json:"wait" jsonschema:"description=minutes between attempts"`
	Counts    Counts     `json:"counts"`
	ShowSheet Moment     `json:"show_sheet"` // what the displays showed, verdicts and findings
	ShowMarks Moment     `json:"show_marks"`
	// kinds of work: firmware, source, capture; without it those that the exercise says
	Takes []string `json:"takes,omitempty"`
}

// SetAssignment opens an exercise to a class, or changes how. Revision 0 is the newest, or the one current.
type SetAssignment struct {
	Revision int `json:"revision"`
	Policy
}

// InForce makes a revision the one that work to come is marked by.
type InForce struct {
	Revision int `json:"revision"`
}

// Standing is where a student is with an exercise.
type Standing struct {
	Due      *time.Time `json:"due,omitempty"` // with the student's own extension
	Closes   *time.Time `json:"closes,omitempty"`
	Attempts int        `json:"attempts"`            // made
	Left     *int       `json:"left,omitempty"`      // nil for any number
	NextFrom *time.Time `json:"next_from,omitempty"` // the waiting time ends
	Open     bool       `json:"open"`
	Why      string     `json:"why,omitempty"` // it is not open

	Last  string `json:"last,omitempty"`  // the latest attempt
	State State  `json:"state,omitempty"` // of that
	// what counts by now, lateness taken off; empty where there is none, or it is not shown yet
	Marks json.Number `json:"marks,omitempty"`
	Of    json.Number `json:"of,omitempty"`
}

// Extension gives one student or a group more time or attempts.
type Extension struct {
	Kind     string     `json:"kind"` // student or group
	Who      string     `json:"who"`  // a login, or the group's name
	Due      *time.Time `json:"due,omitempty"`
	Closes   *time.Time `json:"closes,omitempty"`
	Attempts int        `json:"attempts"` // on top of those of the class
	Reason   string     `json:"reason"`
}

// Brief is an exercise as a student gets it: their own values, and what is wired where.
type Brief struct {
	Title  string      `json:"title"`
	Brief  string      `json:"brief"`
	Marks  json.Number `json:"marks"`
	Chip   string      `json:"chip,omitempty"`
	Clock  string      `json:"clock,omitempty"`
	Values []Value     `json:"values,omitempty"`
	Parts  []BriefPart `json:"parts"`
	Drawn
}

// Value is a value that varies from student to student.
type Value struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// BriefPart is a part of the bench and how it is wired.
type BriefPart struct {
	Name string     `json:"name"`
	Kind string     `json:"kind"`
	Doc  string     `json:"doc"`
	Pins []BriefPin `json:"pins"`
}

// BriefPin is one pin of a part.
type BriefPin struct {
	Pin string `json:"pin"`
	At  string `json:"at"` // a pin of the chip, a supply, or a net
}
