package wire

import (
	"encoding/json"
	"time"
)

// Override is a person's word on marks: of an expectation (Trial and Verdict, from 0), of a row marked by hand (Row,
// from 0), or of the whole where all three are left out.
type Override struct {
	ID      int64       `json:"id"`
	Trial   *int        `json:"trial,omitempty"`
	Verdict *int        `json:"verdict,omitempty"`
	Row     *int        `json:"row,omitempty"`
	Marks   json.Number `json:"marks"`
	Reason  string      `json:"reason"`
	By      string      `json:"by"`
	Created time.Time   `json:"created"`
}

// SetOverride makes an override, for one submission or for several of one exercise.
type SetOverride struct {
	Submissions []string    `json:"submissions,omitempty"`
	Trial       *int        `json:"trial,omitempty"`
	Verdict     *int        `json:"verdict,omitempty"`
	Row         *int        `json:"row,omitempty"`
	Marks       json.Number `json:"marks"`
	Reason      string      `json:"reason"`
}

// Comment is what a person says of a submission.
type Comment struct {
	ID      int64     `json:"id"`
	Text    string    `json:"text"`
	By      string    `json:"by"`
	Created time.Time `json:"created"`
}

// SetComment says it of one submission or of several of one exercise. Keep puts the text into the class's bank.
type SetComment struct {
	Submissions []string `json:"submissions,omitempty"`
	Text        string   `json:"text"`
	Save        bool     `json:"save,omitempty"`
}

// SavedComment is a comment of a class's bank.
type SavedComment struct {
	ID   int64  `json:"id"`
	Text string `json:"text"`
	Used int    `json:"used"`
}

// Alike is submissions whose reels first differ in the same way.
type Alike struct {
	Key         string       `json:"key"`
	First       string       `json:"first"` // the difference they have in common
	Submissions []Submission `json:"submissions"`
}

// Proposal is what a new revision or a new engine would make of a class's marks.
type Proposal struct {
	ID       int64          `json:"id"`
	Exercise string         `json:"exercise"`
	Revision int            `json:"revision"`
	Engine   string         `json:"engine"`
	By       string         `json:"by"`
	Created  time.Time      `json:"created"`
	Closed   *time.Time     `json:"closed,omitempty"`
	Waiting  int            `json:"waiting"` // submissions that are still to be marked again
	Moves    []ProposedMark `json:"moves,omitempty"`
	Same     int            `json:"same"` // submissions for which nothing would change
}

// ProposedMark is what would change for one submission.
type ProposedMark struct {
	Submission string      `json:"submission"`
	Login      string      `json:"login"`
	Student    string      `json:"student"`
	Attempt    int         `json:"attempt"`
	Old        json.Number `json:"old"`
	New        json.Number `json:"new"`
	Why        []string    `json:"why"`   // which expectations moved, and how
	State      string      `json:"state"` // proposed, taken, dropped
}

// Accept asks what it would be to accept something that a submission showed: a pair of a verdict's lanes on its sheet,
// or, without one, the whole sequence.
type Accept struct {
	Trial   int  `json:"trial"`
	Verdict int  `json:"verdict"`
	Pair    *int `json:"pair,omitempty"`
}

// Accepted is the exercise with it as an alternative, to be kept as a revision, and whose marks would change.
type Accepted struct {
	Exercise string         `json:"exercise"`
	What     string         `json:"what"` // is accepted, in words
	Text     string         `json:"text"` // of the exercise
	Was      string         `json:"was"`  // the lines that change
	Now      string         `json:"now"`
	Moves    []ProposedMark `json:"moves"`
	Same     int            `json:"same"` // submissions for which nothing would change
	// a newer revision, made for something else, whose changes the text has not
	NewerRevision int `json:"newer_revision,omitempty"`
}

// NewProposal asks for one. Revision 0 is the newest.
type NewProposal struct {
	Revision int `json:"revision"`
}

// Decide applies or drops proposed marks: of these submissions, or of all that are still open.
type Decide struct {
	Apply       bool     `json:"apply"`
	Submissions []string `json:"submissions,omitempty"`
}

// Release lets students see their marks, or hides them again.
type Release struct {
	Released bool `json:"released"`
}

// Gradebook is the marks of a class.
type Gradebook struct {
	Class     string          `json:"class"`
	Exercises []GradebookHead `json:"exercises"`
	Rows      []GradebookRow  `json:"rows"`
}

// GradebookHead is one exercise of a gradebook.
type GradebookHead struct {
	Exercise string      `json:"exercise"`
	Title    string      `json:"title"`
	Of       json.Number `json:"of"`
	Released bool        `json:"released"`
}

// GradebookRow is one student, with a cell for each exercise.
type GradebookRow struct {
	Login  string          `json:"login"`
	Name   string          `json:"name"`
	Number string          `json:"number"`
	Group  string          `json:"group"`
	Cells  []GradebookCell `json:"cells"`
	Total  json.Number     `json:"total"`
}

// GradebookCell is a student's mark for an exercise: that of the attempt that counts, less what lateness costs. An
// empty one has no submission.
type GradebookCell struct {
	Submission string      `json:"submission,omitempty"`
	Marks      json.Number `json:"marks,omitempty"`
	Percent    int         `json:"percent,omitempty" jsonschema:"description=percent that count after lateness"`
	Attempts   int         `json:"attempts"`
	Waiting    bool        `json:"waiting,omitempty"`
	Overridden bool        `json:"overridden,omitempty"`
}

// Filled is the school's own file with a column filled in.
type Filled struct {
	Data    []byte   `json:"data"` // the file, in base64: as it was but for the column
	Filled  int      `json:"filled"`
	Unknown []string `json:"unknown"` // rows whose student the class does not have
	Without []string `json:"without"` // students of the class without a row

	Encoding string `json:"encoding"` // of the file, as it was recognised
	Students string `json:"students"` // the heading of the column that told the students
}

// Columns is what a school's own file has.
type Columns struct {
	Encoding string   `json:"encoding"`
	Columns  []string `json:"columns"`
	Students string   `json:"students"` // the heading of the column that tells the students
	Rows     int      `json:"rows"`     // without the headings
	Known    int      `json:"known"`    // rows whose student the class has
}

// Statistics is how a class did in an exercise, by the attempts that count.
type Statistics struct {
	Students     int              `json:"students"`
	Submitted    int              `json:"submitted"`
	Right        int              `json:"right"` // every expectation met
	Mean         json.Number      `json:"mean,omitempty"`
	Median       json.Number      `json:"median,omitempty"`
	Of           json.Number      `json:"of"`
	Spread       []int            `json:"spread"` // students by tenths of the marks, the last with full marks
	Expectations []ExpectationSum `json:"expectations"`
	Findings     []FindingSum     `json:"findings"`
	FirstRight   []int            `json:"first_right" jsonschema:"description=minutes to a first right attempt"`
}

// ExpectationSum is how often an expectation was met.
type ExpectationSum struct {
	Trial       string `json:"trial"`
	Expectation string `json:"expectation"`
	Met         int    `json:"met"`
	Partly      int    `json:"partly"`
	Missed      int    `json:"missed"`
}

// FindingSum is how often a finding was made, of whichever pins and numbers.
type FindingSum struct {
	Code  string `json:"code"`
	Text  string `json:"text"` // what such a program does wrong, as docs/causes.md has it
	Count int    `json:"count"`
	// whose sheets say so
	Sheets []FoundIn `json:"sheets"`
}

// FoundIn is a submission whose sheet has a finding.
type FoundIn struct {
	Submission string `json:"submission"`
	Student    string `json:"student"`
	Text       string `json:"text"` // the finding in the words of that sheet
}

// SimilarCode is a run of instructions that several submissions share, and neither the reference nor a library has.
type SimilarCode struct {
	Instructions int           `json:"instructions"`
	Of           string        `json:"of"` // what these are: instructions, cells of designs, words of scripts
	Students     int           `json:"students"`
	Rank         float64       `json:"rank"` // bits: rarer and longer is more
	In           []SimilarSite `json:"in"`
}

// SimilarSite is where it is in one submission.
type SimilarSite struct {
	Submission string `json:"submission"`
	Student    string `json:"student"`
	Address    string `json:"address"`
	Function   string `json:"function,omitempty"`
	Source     string `json:"source,omitempty"`
}

// SeedSensitivity is a submission under several seeds.
type SeedSensitivity struct {
	Marks   []json.Number `json:"marks"`
	Passed  int           `json:"passed"`
	Depends bool          `json:"depends"` // the seed decides about the marks
}

// AuditEntry is one change of a mark or a right.
type AuditEntry struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Class   string    `json:"class,omitempty"`
	Action  string    `json:"action"`
	Subject string    `json:"subject"`
	Detail  string    `json:"detail,omitempty"`
}

// QueueState is what waits to be marked.
type QueueState struct {
	Waiting     int        `json:"waiting"`
	Running     []QueueJob `json:"running"`
	Quarantined []QueueJob `json:"quarantined"` // given up, with reasons
}

// QueueJob is one job of the queue.
type QueueJob struct {
	Job        int64     `json:"job"`
	Submission string    `json:"submission"`
	Class      string    `json:"class"`
	Exercise   string    `json:"exercise"`
	Student    string    `json:"student"`
	Kind       string    `json:"kind"` // first or again
	Error      string    `json:"error,omitempty"`
	Queued     time.Time `json:"queued"`
}
