package display

import (
	"fmt"
	"maps"
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/spec"
)

// Type is a display type: all that is particular to lamps, to digits, to a character display and so on. Each is one
// folder beside this one, which registers it; judging, recording, drawing and the faults ask it, and know none by name.
type Type interface {
	// Name is the word for it in reels.
	Name() TypeName
	Traits() Traits

	// Dark is the state of a display that shows nothing, as one that was just switched on.
	Dark(Geometry) State
	// Watch makes what turns the doings of a part into frames; it is the sink of the part, too: one of LightSink,
	// CellSink, ToneSink and LineSink.
	Watch(Geometry, Bench) Observer

	// Describe tells a state in words, Short in few.
	Describe(*Track, State) string
	Short(*Track, State) string
	// Alike reports whether a person would take two states for the same.
	Alike(t *Track, a, b State) bool

	// Keys are what a frame of an exercise file may have, written as a mapping, beside `text`, `one-of` and `for`.
	Keys() []Key
	// Read reads a frame; nil where it cannot be read, which is told.
	Read(Written, *spec.Problems) Matcher
	// Spell writes a state as frames that may read back as it, the best one first.
	Spell(*Track, State) []string

	// Draw draws a state in the units of the geometry, Sketch in the characters of a terminal: lines of one width.
	Draw(*Track, State) Drawing
	Sketch(*Track, State) []string
	// Sample is a state to draw it in where there is no run: all in one light.
	Sample(Geometry, Light) State

	// Mistakes are the ways in which programs get such a display wrong, Signs what it looks like where that cannot be
	// repaired.
	Mistakes() []*Mistake
	Symptoms() []*Symptom
}

// Traits are the plain facts that others ask about a type.
type Traits struct {
	Lines  bool   // each frame is a line of text and an event of its own, never joined to the one before it
	Tone   bool   // it is heard
	Member bool   // it may be a member of a group
	Single bool   // it is one light: its name says what is lit
	Mixes  bool   // its lights mix to a colour of their own
	Unseen string // what is told of one that showed nothing all along; that it never lit where it is empty
}

// The abilities that only some types have.
type (
	// Divided is a type of which a part can be looked at by itself.
	Divided interface {
		// Size is how many columns and rows it has.
		Size(Geometry) (columns, rows int)
		// Part is a part as a display of its own, Cut what that shows, Widen the reverse, with the rest blank.
		Part(Geometry, Region) Geometry
		Cut(*Track, State, Region) State
		Widen(Geometry, State, Region) State
	}
	// Worded is a type that shows text, row by row.
	Worded interface{ Texts(*Track, State) []string }
	// Lettered is a type whose text can be put in other words.
	Lettered interface {
		Rows(*Track, State) []string // as they stand, with the spaces around them
		WithRows(*Track, State, []string) State
	}
	// Spaced is a type whose symbols stand side by side, so that text can pass over it.
	Spaced interface{ Places(Geometry) int }
	// Counting is a type that shows numbers.
	Counting interface {
		// ReadNumber reads the nth number, counted from 0; ok is false where there is none.
		ReadNumber(t *Track, s State, nth int) (n int, ok bool)
		// WriteNumber puts one in its place, as wide as that where it had leading zeros.
		WriteNumber(t *Track, s State, nth, n int) State
		// Figures is how many figures a number fills where the display sets that; 0 where the number does.
		Figures(Geometry) int
		// Fit gives a number as the display would have it: without a colon where there is none.
		Fit(g Geometry, text string) string
	}
	// Joining is a type of which several side by side may be one larger display.
	Joining interface{ Joins(Geometry) bool }
	// Attentive is a type of which something is looked at only where an expectation has a key of a frame.
	Attentive interface{ Attend() Attention }
	// Composed is a type whose frames are mappings of their own.
	Composed interface {
		ReadMapping(Written, *spec.Problems) (Matcher, clock.Time)
	}
)

// Attention is what is compared where some frame has a key, and not otherwise.
type Attention struct {
	Key  string
	With func(Geometry) Geometry
}

// Bench is where a display stands while it is watched.
type Bench interface {
	Now() clock.Time
	// Place is the program point behind what happens now.
	Place() *machine.Place
}

// Observer turns what a display does into what a person saw of it.
type Observer interface {
	// Now is what is seen at a moment, as far as that is sure; a terminal gives its latest lines.
	Now(clock.Time) []Frame
	// Finish ends the run and gives all frames.
	Finish(clock.Time) []Frame
}

// Glimpsed is an observer that can tell what a hand at the bench sees, before it is sure; see vision.
type Glimpsed interface{ Glimpse(clock.Time) []Frame }

// Scanned is an observer that can tell how well a display was scanned; nil for one that was not.
type Scanned interface{ Quality() *Quality }

// LightVision is an observer of lights: it may be told later what happened at a moment, and by which program point.
type LightVision interface {
	LightSink
	LightAt(at clock.Time, light int, nA int64, place *machine.Place)
	// Remember notes how everything is before a period of light that comes and goes the same way again and again.
	// Repeats is how many more periods, at most so many, would leave all but times and sums as it is, after one that
	// ended with a change at t; Repeat lets so many pass.
	Remember()
	Repeats(t, period clock.Time, most int64) int64
	Repeat(times int64, period clock.Time)
}

// The sinks: what a part tells of its display while a bench runs.
type (
	// LightSink takes the current through a light in nA.
	LightSink interface{ Light(light int, nA int64) }
	// CellSink takes what is in a cell: a character, or a column of eight pixels.
	CellSink interface {
		Cell(cell int, value Cell)
		// Custom gives the cell value for a character drawn by its dots.
		Custom(dots [8]uint8) Cell
		Cursor(*Cursor)
		// Shade is how strongly all of it shines from now on, 0 to 255.
		Shade(level int)
	}
	// ToneSink takes the moves of a membrane, or the pitch of a sounder that makes its own, in Hz; 0 for silence.
	ToneSink interface {
		Move(pushed bool)
		Tone(hz int)
	}
	// LineSink takes lines of text: one that begins, its first character at the given time, and how it reads from a
	// time on.
	LineSink interface {
		Line(from clock.Time, text string)
		LineNow(from clock.Time, text string)
	}
)

var types = map[TypeName]Type{}

// TypeNames lists the words for the display types there are.
func TypeNames() []TypeName { return slices.Sorted(maps.Keys(types)) }

// Register adds a display type; each folder does so once.
func Register(t Type) {
	if types[t.Name()] != nil {
		panic("display type registered twice: " + t.Name())
	}
	types[t.Name()] = t
}

// Types lists them by their forms.
func Types() (out []Type) {
	for _, f := range slices.Sorted(maps.Keys(types)) {
		out = append(out, types[f])
	}
	return out
}

// Type is that of a display. One of a form that nobody registered is an error of the program.
func (g Geometry) Type() Type {
	t := types[g.TypeName]
	if t == nil {
		panic(fmt.Sprintf("no display type %q", g.TypeName))
	}
	return t
}

// As gives an ability of a display's type; ok is false where it has not got it.
func As[A any](g Geometry) (a A, ok bool) {
	a, ok = g.Type().(A)
	return a, ok
}
