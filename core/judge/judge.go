// Package judge compares what a run showed with what an exercise expects. Each kind of expectation is one file that
// declares its options as data and registers itself; exercise files, their schema and the documentation follow from
// that.
package judge

import (
	"math/big"
	"sort"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Kind is a kind of expectation.
type Kind struct {
	Name   string // also the key that names the display
	Doc    string
	Fields []spec.Field // options beside Name and marks
	Free   bool         // Name is followed by another word than a display
	Parts  bool         // it can look at a part of its display

	Sequence    bool   // it lays frames beside frames
	Alternative bool   // all that a display showed in a trial can be beside it as an alternative
	Ends        string // of an Ending: what may be written where nothing says what comes behind its last frame

	Example string
	Build   func(Setting, spec.Values, *spec.Problems) Expectation
}

// Setting is what an expectation may ask about its trial while it is read.
type Setting struct {
	Part   func(name string) *part.Instance
	Names  []string // of all parts and groups
	Length clock.Time
	Cues   []string // names of cues
	// Does reports whether a cue to a part is of some sort; may be nil.
	Does func(name string, sort func(part.Cue) bool) bool
	// Captures are those of the trial, shared by its expectations; may be nil.
	Captures *Captures
}

// Expectation judges a run. Marks are shares of one; the exercise scales them.
type Expectation interface {
	Judge(*reel.Reel) Verdict
}

// Outcome is how an expectation came out.
type Outcome string

// The outcomes.
const (
	Met       Outcome = "met"
	Partly    Outcome = "partly"
	Missed    Outcome = "missed"
	NotJudged Outcome = "not judged"
)

// Outcomes lists them.
var Outcomes = []Outcome{Met, Partly, Missed, NotJudged}

// Verdict is an expectation, judged.
type Verdict struct {
	Outcome   Outcome     `json:"outcome"`
	Fraction  *big.Rat    `json:"-"` // of its marks, 0 to 1
	Text      string      `json:"-"` // what was expected, in words
	Display   string      `json:"display,omitempty"`
	Evidence  []string    `json:"evidence,omitempty"`
	Alignment []Pair      `json:"alignment,omitempty"` // expected beside seen
	Asks      bool        `json:"-"`                   // something visible must be shown
	Timed     bool        `json:"-"`                   // the lengths of expected frames in Lanes are what was asked for
	First     *Difference `json:"first,omitempty"`
}

// Operation is what the alignment made of a pair.
type Operation string

// The operations of an alignment.
const (
	Right    Operation = "right"
	Mistimed Operation = "mistimed"
	Near     Operation = "near" // the same value in another form
	Wrong    Operation = "wrong"
	Missing  Operation = "missing"
	Extra    Operation = "extra"
	Ignored  Operation = "ignored" // an extra frame where those are allowed
)

// Operations lists them.
var Operations = []Operation{Right, Mistimed, Near, Wrong, Missing, Extra, Ignored}

// Span is a stretch of time and what it shows.
type Span struct {
	From  clock.Time     `json:"from"`
	To    clock.Time     `json:"to"`
	Text  string         `json:"text"`
	State *display.State `json:"state,omitempty"`
	Place spec.Pos       `json:"-"` // of what is expected: where the file writes this state; zero where it does not
	// Within is the part of the display that is asked for; nil for all of it.
	Within *display.Region `json:"-"`
	// Example is how what is expected may look, the nearest to what was seen, where it can look in several ways.
	Example *display.State `json:"-"`
}

// Meant is the state that is expected, or an example of it; nil where neither is known.
func (s *Span) Meant() *display.State {
	if s.State != nil {
		return s.State
	}
	return s.Example
}

// meant is an expected span.
func meant(from, to clock.Time, w display.Matcher, t *display.Track, place spec.Pos) *Span {
	return &Span{From: from, To: to, Text: w.String(), State: w.Ideal(t.Geometry), Place: place,
		Within: display.Within(w)}
}

// shown is a seen span.
func shown(t *display.Track, f seen) *Span {
	return &Span{From: f.From, To: f.To, Text: t.Short(f.State), State: &f.State}
}

// Pair is one expected frame beside the seen one; either may be nil.
type Pair struct {
	Operation Operation `json:"operation"`
	Expected  *Span     `json:"expected,omitempty"`
	Seen      *Span     `json:"seen,omitempty"`
}

// Difference is the first place where a run and an expectation part.
type Difference struct {
	At       clock.Time     `json:"at"`
	Expected string         `json:"expected"`
	Seen     string         `json:"seen"`
	By       *machine.Place `json:"by,omitempty"` // the program point behind it
}

var kinds = map[string]*Kind{}

func register(k *Kind) {
	if k.Parts {
		inPart(k)
	}
	attend(k)
	kinds[k.Name] = k
}

// Find gives a kind of expectation, nil if there is none.
func Find(name string) *Kind { return kinds[name] }

// IsSequence reports whether a kind of expectation lays frames beside frames.
func IsSequence(name string) bool {
	k := Find(name)
	return k != nil && k.Sequence
}

// Kinds lists all kinds by name.
func Kinds() []*Kind {
	var all []*Kind
	for _, k := range kinds {
		all = append(all, k)
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Name < all[j].Name })
	return all
}

// Names lists their names.
func Names() (out []string) {
	for _, k := range Kinds() {
		out = append(out, k.Name)
	}
	return out
}

// outcome names a share.
func outcome(share *big.Rat) Outcome {
	switch {
	case share.Sign() <= 0:
		return Missed
	case share.Cmp(big.NewRat(1, 1)) >= 0:
		return Met
	}
	return Partly
}

// displayOf finds the display that an expectation is about, or reports it.
func displayOf(s Setting, kind string, v spec.Values, ps *spec.Problems) *part.Instance {
	name := v.Text(kind)
	p := s.Part(name)
	switch {
	case p == nil:
		ps.Unknown(v.At(kind), "part of the bench", name, s.Names)
	case p.Kind.Geometry == nil:
		ps.Add(v.At(kind), "%q is a %s and shows nothing; name a display", name, p.Kind.Name)
		return nil
	}
	return p
}
