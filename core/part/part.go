// Package part says what anything on a bench is: terminals, settings and, for a display, a drawing.
// Each kind of part is one small file or folder that declares all this as data and registers it;
// the exercise file, its schema, the documentation, the terminal and the console pick it up from
// there.
package part

import (
	"fmt"
	"sort"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Kind is a kind of part.
type Kind struct {
	Name     string // the word in exercise files
	Title    string
	Doc      string
	Source   string // the datasheet or standard it follows
	Settings []spec.Field
	Pins     []spec.Key // its terminals, in the order that Part uses
	Cues     []string   // verbs of cues it takes
	Example  string     // as it stands under bench:

	// Check finds what is wrong with settings and pins beyond their types; may be nil.
	Check func(Built) []spec.Problem
	// Look gives the drawing of a display; nil for what shows nothing.
	Look func(Built) reel.Look
	// New makes one for a run.
	New func(Built, World) Part
}

// Built is a part as an exercise has it.
type Built struct {
	Name     string
	Kind     *Kind
	Settings spec.Values
	Wired    []string // what each terminal is wired to, "" for nothing
	Supply   int64    // µV
}

// Part is a part of a bench during a run.
type Part interface {
	// Changed tells that nets of terminals in the set look different now.
	Changed(terminals uint64)
	// Wake is a timer, set by World.After, that has come.
	Wake(timer int)
	// Cue does what a cue asks.
	Cue(c Cue) error
}

// Cue is a verb at its moment; For is its duration where it has one.
type Cue struct {
	Verb string
	For  clock.Time
}

// World is what a part may do to its bench.
type World interface {
	Now() clock.Time
	// Net is what the net of a terminal is at; a terminal wired to nothing floats.
	Net(terminal int) circuit.Drive
	Drive(terminal int, d circuit.Drive)
	// Contact closes or opens a contact between two terminals.
	Contact(a, b int, closed bool)
	// After sets a timer; setting it again replaces it.
	After(timer int, d clock.Time)
	// Random is a stream of its own for this part, the same in every run with the same seed.
	Random() uint64
	Light(light int, nA int64)
	Cell(cell int, value reel.Cell)
	// Custom gives the cell value for a character drawn by its dots.
	Custom(dots [8]uint8) reel.Cell
	Cursor(c *reel.Cursor)
	// Note tells a person something about this part, once for each code.
	Note(code, format string, args ...any)
}

// Passive can be embedded by parts that have no timers and take no cues.
type Passive struct{}

// Wake does nothing.
func (Passive) Wake(int) {}

// Cue refuses.
func (Passive) Cue(c Cue) error { return fmt.Errorf("this part takes no cue %q", c.Verb) }

var kinds = map[string]*Kind{}

// Register adds a kind of part; each kind's file does so once.
func Register(k *Kind) {
	if kinds[k.Name] != nil {
		panic("part registered twice: " + k.Name)
	}
	kinds[k.Name] = k
}

// Find gives a kind by its word, nil if there is none.
func Find(name string) *Kind { return kinds[name] }

// Kinds lists all kinds by name.
func Kinds() []*Kind {
	var all []*Kind
	for _, k := range kinds {
		all = append(all, k)
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Name < all[j].Name })
	return all
}

// Terminal is the index of a terminal by its name, -1 if there is none.
func (k *Kind) Terminal(name string) int {
	for i, p := range k.Pins {
		if p.Name == name {
			return i
		}
	}
	return -1
}

// PinNames lists the terminals.
func (k *Kind) PinNames() []string {
	var out []string
	for _, p := range k.Pins {
		out = append(out, p.Name)
	}
	return out
}
