// Package exercise reads exercise files: a bench, trials and marks. Their keys are declared in fields.go and by the
// registries of chips, parts and expectations. Every mistake in a file is reported with line and column.
package exercise

import (
	"math/big"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
)

// Exercise is a checked exercise.
type Exercise struct {
	Name  string
	Hash  [32]byte // of the text it was read from
	Title string
	Brief string         // what students are told
	Chip  *machine.Chip  // nil for a bench without one
	Board *machine.Board // nil for the chip's own names alone
	Clock clock.Rate
	// ClockPin is where the oscillator is, of a chip that looks at it.
	ClockPin string
	Supply   int64 // µV
	Parts    []*part.Instance
	Groups   []Group // of parts
	Trials   []Trial
	Step     *big.Rat                   // marks are rounded to multiples of it
	Each     bool                       // expectations are marked by what was seen alone
	Prices   map[finding.Price]*big.Rat // those that the file sets, as fractions

	Takes      []string // kinds of work that are taken
	Pulled     []Pull   // pins with a resistor more on the bench
	Deductions []Deduction
	ByHand     []ByHand
	Draft      bool     // its trials need not have expectations yet
	Varied     []Varied // values of this student

	Mended []func(*firmware.Image) *firmware.Image // changes of a firmware, where its causes are looked for

	// Others is the exercise for each other chip that its work may be done on.
	Others []*Exercise

	others     int   // how many chips there are besides the first
	moves      moves // of pins, from those of the first chip
	characters []display.Character
	unread     []string // parts that could not be read
	reader     Reader
}

// Again reads another text of this exercise as this one was read.
func (x *Exercise) Again(text []byte) (*Exercise, []spec.Problem) {
	r := x.reader
	r.Draft = false
	return r.Read(text)
}

// Trial is one simulated run.
type Trial struct {
	Name   string
	Length clock.Time
	Seed   uint64
	Cues   []Cue
	Expect []Expectation
	Hidden bool
	Most   *big.Rat // the most marks it gives; nil for no bound
	Notes  string   // for markers
}

// Pull is a resistor from a pin to the supply, or to ground.
type Pull struct {
	Pin  string
	Down bool
}

// Deduction takes marks off for a finding.
type Deduction struct {
	Finding finding.Code
	Marks   *big.Rat
	At      spec.Pos // of its finding, in the file
}

// ByHand is a row that a person marks.
type ByHand struct {
	What, Notes string
	Marks       *big.Rat
}

// Cue is a timed input.
type Cue struct {
	At   clock.Time
	Part string
	Name string
	part.Cue
	After *After // in place of At
	When  *When  // in place of At
	Line  int
}

// After ties a cue to another one.
type After struct {
	Cue string
	End bool
	By  clock.Time
}

// When ties a cue to what a display shows.
type When struct {
	Display string
	Until   clock.Time
	Shows   display.Matcher
}

// Expectation is a thing a trial must show, with its marks.
type Expectation struct {
	Kind  string
	Marks *big.Rat
	Line  int
	Bonus bool
	Gate  bool
	Notes string
	judge.Expectation
}

// Part finds a part of the bench by name, nil if there is none. The backlight of a display counts as one, and so does a
// group.
func (x *Exercise) Part(name string) *part.Instance {
	for _, p := range x.Parts {
		if p.Name == name {
			return p
		}
	}
	for i := range x.Groups {
		if g := &x.Groups[i]; g.Name == name {
			return g.part()
		}
	}
	if base, ok := strings.CutSuffix(name, part.BacklightSuffix); ok {
		if p := x.Part(base); p != nil && p.Lit() {
			return p.Backlight()
		}
	}
	return nil
}

// Senses reports whether the bench has a sensor: a voltage, or something else that programs measure and cues set.
func (x *Exercise) Senses() bool {
	set := func(name string) bool {
		return slices.ContainsFunc(x.Trials, func(t Trial) bool {
			return slices.ContainsFunc(t.Cues, func(c Cue) bool { return c.Part == name && c.Verb == part.Set })
		})
	}
	return slices.ContainsFunc(x.Parts, func(p *part.Instance) bool {
		return p.Kind.Measured && (p.Kind.Volts || set(p.Name))
	})
}

// Clone is a copy whose parts, settings and cues can be changed.
func (x *Exercise) Clone() *Exercise {
	out := *x
	out.Parts, out.Trials = nil, slices.Clone(x.Trials)
	for _, p := range x.Parts {
		b := *p
		b.Wired = slices.Clone(p.Wired)
		out.Parts = append(out.Parts, &b)
	}
	for i := range out.Trials {
		out.Trials[i].Cues = slices.Clone(out.Trials[i].Cues)
	}
	return &out
}

// Marks is what the whole exercise gives.
func (x *Exercise) Marks() *big.Rat {
	total := new(big.Rat)
	for _, t := range x.Trials {
		for _, e := range t.Expect {
			if !e.Bonus {
				total.Add(total, e.Marks)
			}
		}
	}
	for _, row := range x.ByHand {
		total.Add(total, row.Marks)
	}
	return total
}
