package wire

import (
	"encoding/json"
	"time"

	"hemble/core/author"
	"hemble/core/reel"
	"hemble/core/schematic"
	"hemble/core/sheet"
)

// Exercise is an exercise at its latest revision.
type Exercise struct {
	Name     string      `json:"name"`
	Title    string      `json:"title"`
	Brief    string      `json:"brief"`
	Revision int         `json:"revision"`
	Marks    json.Number `json:"marks"`
	Classes  int         `json:"classes"` // it is opened to
	Created  time.Time   `json:"created"`
	Text     string      `json:"text,omitempty"`  // the file, where one exercise is asked for
	Files    []string    `json:"files,omitempty"` // of its folder
	Works    []Work      `json:"works,omitempty"` // that its chips can be given, where one exercise is asked for
	// to which of the caller's classes, where one exercise is asked for
	Assigned []AssignedTo `json:"assigned,omitempty"`
	// of a revision that was just saved: what it changes from the one before, as a unified diff
	Changes string `json:"changes,omitempty"`
}

// Work is a kind of work, and how its files are called.
type Work struct {
	Kind    string   `json:"kind"`    // firmware, source, capture
	Endings []string `json:"endings"` // of file names: ".hex"
}

// AssignedTo is a class that an exercise is open to.
type AssignedTo struct {
	Class    string `json:"class"`
	Title    string `json:"title"`
	Revision int    `json:"revision"` // current there
}

// Compared is how a text differs from the newest revision.
type Compared struct {
	Revision int       `json:"revision"`
	By       string    `json:"by"`
	Created  time.Time `json:"created"`
	Changes  string    `json:"changes"` // from that revision to the text, as a unified diff; empty for none
}

// Revision is one revision of an exercise: it never changes.
type Revision struct {
	Number  int         `json:"number"`
	Title   string      `json:"title"`
	Marks   json.Number `json:"marks"`
	By      string      `json:"by"`
	Created time.Time   `json:"created"`
	Text    string      `json:"text,omitempty"`    // where one is asked for
	Changes string      `json:"changes,omitempty"` // there, too: what it changes from the one before, as a unified diff
}

// Reference is what may be in an exercise file.
type Reference struct {
	Parts        []ReferencePart        `json:"parts"`
	Expectations []ReferenceExpectation `json:"expectations"`
}

// ReferencePart is a kind of part.
type ReferencePart struct {
	Name     string   `json:"name"`
	Title    string   `json:"title"`
	Doc      string   `json:"doc"`
	Picture  string   `json:"picture,omitempty"` // of a display, as SVG
	Example  string   `json:"example"`           // as it stands under bench
	Pins     []Option `json:"pins"`
	Settings []Option `json:"settings,omitempty"`
}

// ReferenceExpectation is a kind of expectation.
type ReferenceExpectation struct {
	Name    string   `json:"name"`
	Doc     string   `json:"doc"`
	Example string   `json:"example"` // as it stands under expect
	Options []Option `json:"options,omitempty"`
}

// Option is something that may be said, and what it means.
type Option struct {
	Name    string `json:"name"`
	Doc     string `json:"doc"`
	Default string `json:"default,omitempty"`
}

// Checked is what is to be said of an exercise file.
type Checked struct {
	Valid    bool      `json:"valid"`
	Title    string    `json:"title,omitempty"`
	Mistakes []Mistake `json:"mistakes"`
	Drawn
}

// Drawn is the bench of an exercise: a circuit diagram, and what is wired where.
type Drawn struct {
	Schematic *schematic.Drawing `json:"schematic,omitempty"`
	Wires     []schematic.Wire   `json:"wires,omitempty"`
	Others    []OnChip           `json:"others,omitempty"` // the same on other chips that the work may be done on
}

// OnChip is a bench at another chip.
type OnChip struct {
	Chip      string             `json:"chip"`
	Clock     string             `json:"clock"`
	Schematic *schematic.Drawing `json:"schematic"`
	Wires     []schematic.Wire   `json:"wires"`
}

// Tried is a firmware that was tried on a draft of an exercise: its mark sheet and its reels.
type Tried struct {
	Sheet *sheet.Sheet `json:"sheet"`
	Reels []*reel.Reel `json:"reels"`
}

// Firmware is what a chip is programmed with: a file as it came, or what source was built to.
type Firmware struct {
	File string `json:"file"`
	Data []byte `json:"data"` // in base64
}

// Recorded is a draft with what a reference showed as its expectations.
type Recorded struct {
	Text     string   `json:"text"`
	Added    []string `json:"added"`
	Replaced []string `json:"replaced"` // in the place of what was there
	Left     []string `json:"left"`     // displays that nothing was recorded of, and why
}

// Practice is what a page needs to practise an assignment on its live bench.
type Practice struct {
	Title    string `json:"title"`
	Exercise string `json:"exercise"`         // the exercise file, as far as the caller may have it
	Works    []Work `json:"works"`            // the kinds of work that are taken
	Sheet    bool   `json:"sheet"`            // it says what is expected
	Marks    bool   `json:"marks"`            // and for how many marks
	Hidden   string `json:"hidden,omitempty"` // when that can be seen, in words
}

// Bench is a submission for a live bench.
type Bench struct {
	Title    string `json:"title"`
	Exercise string `json:"exercise"`         // the exercise file, with the student's values
	Wiring   string `json:"wiring,omitempty"` // the student's own
	File     string `json:"file"`
	Data     []byte `json:"data"` // what the chip is programmed with, in base64
}

// Demonstrated is a draft with a trial that was shown by hand.
type Demonstrated struct {
	Text         string           `json:"text"`
	Trial        string           `json:"trial"`
	Cues         []string         `json:"cues"`         // as the file has them
	Expectations []author.Drafted `json:"expectations"` // one for each display, with the ways to write it
	Left         []string         `json:"left"`         // displays that nothing can be expected of, and why
	Reel         *reel.Reel       `json:"reel"`         // what the reference showed with these cues
}

// Template is a small complete exercise to begin from.
type Template struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	Brief string `json:"brief"`
}

// FromTemplate makes an exercise of a template.
type FromTemplate struct {
	Template string `json:"template"`
	Title    string `json:"title"`
	Brief    string `json:"brief"`
}

// Variant is a faulty variant of a reference.
type Variant struct {
	Fault  string `json:"fault"`
	Part   string `json:"part"`
	Effect string `json:"effect"` // what it does
	Marks  string `json:"marks"`
	Of     string `json:"of"`
	Caught bool   `json:"caught"`        // it lost marks
	Add    string `json:"add,omitempty"` // what would catch it

	Picture string `json:"picture,omitempty"` // the first state in which it differs from the reference, as SVG
}
