// Package part is the interface of everything on a bench: terminals, settings and, for a display, a drawing. Each kind
// of part is one folder that declares all this as data and registers it; the exercise file, its schema, the
// documentation, the terminal and the console read it from there.
package part

import (
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/spec"
)

// Kind is a kind of part.
type Kind struct {
	Name     string   // the word in exercise files
	Also     []string // other words that people write for it: told as what was meant
	Title    string
	Doc      string
	Source   string // the datasheet or standard it follows
	Settings []spec.Field
	Pins     []spec.Key // its terminals, in the order that Part uses
	Cues     []string   // verbs of cues it takes
	// as it stands under bench:, with <1>, <2>, <TXD> … for pins of whatever chip (exercise.Example)
	Example string

	// Check finds what is wrong with settings and pins beyond their types; may be nil.
	Check func(Instance) []spec.Problem
	// Controls are what a person at a keyboard can do with it while a bench runs; may be nil.
	Controls func(Instance) []Control
	// CheckCue finds what is wrong with a cue, beyond its verb; may be nil.
	CheckCue func(Instance, Cue) error
	// Value is the setting that says what the part is at before the first Set; empty where none does.
	Value string
	// Geometry gives the drawing of a display; nil for what shows nothing.
	Geometry func(Instance) display.Geometry
	// Ends gives the terminals at the anode and the cathode of each light, -1 for one inside the part: the
	// currents at the chip's pins follow. Nil where the part's own driver supplies its lights.
	Ends func(Instance) [][2]int
	// Symbol is how it is in a schematic; a box with its pins by default.
	Symbol Symbol
	// Function is in its box, where it shows nothing: the qualifying symbol of its function (IEC 60617-12), such as
	// SRG8.
	Function string
	// Resistors gives the resistor in the lead of each terminal, in ohms, 0 for none; nil where there are none at all.
	Resistors func(Instance) []int64
	// Backlit reports whether a light of its own is after the display, which makes a track by itself;
	// nil for never.
	Backlit func(Instance) bool
	// Follows tells that its lights follow its nets and nothing else: it drives no net, joins none, has no timers, and
	// tells the currents of all its lights whenever a net changed.
	Follows bool
	// Volts tells that it puts a voltage on a net, which is neither high nor low.
	Volts bool
	// Bus names the terminals of a two-wire bus, SDA and SCL, whose traffic is logged; may be empty.
	Bus [2]string
	// Exchanged are pairs of terminals whose wires get exchanged.
	Exchanged [][2]string
	// Driven are the terminals that programs have to drive, and nothing else does; may be nil.
	Driven func(Instance) []string
	// Turned are terminals of a word's bits in their order, which get connected, or sent, from the other end.
	Turned []string
	// Misread are settings that programs take for another value.
	Misread []Misread
	// Measured tells that programs measure its value, as that of a sensor.
	Measured bool
	// Scaled has a source of voltage give n/d of it; nil for what is none, or not in proportion to what it is set to.
	Scaled *Scaled
	// Input are the levels its logic inputs take; nil for a kind whose levels are the board's.
	Input *Input
	// Notes are what it may tell a person while it runs.
	Notes []finding.Entry
	// Signs are what its log tells of mistakes, where its display shows other than it should.
	Signs []Sign
	// New makes one for a run.
	New func(Instance, Host) Part
}

// Scaled is how a source of voltage gives n/d of it.
type Scaled struct {
	Settings func(b Instance, n, d int64) spec.Values
	Cue      func(to string, n, d int64) string // what a cue sets it to
}

// Sign is a mistake that the log of a part tells.
type Sign struct {
	finding.Entry
	// Find looks at all that the part took; text is empty where the mistake is not there.
	Find func(b Instance, log []Taken) (text string, at clock.Time)
}

// Taken is one thing that a part took from its bus.
type Taken struct {
	At   clock.Time
	What string
	Data []int // bytes that belong to it
}

// Misread is a setting that programs take for another value than it has, and what is told of it.
type Misread struct {
	finding.Entry
	Setting string
	// Assumed tells that no real part has the setting: with it a part works as the program takes it to.
	Assumed bool
	// Mends tells that a right program works as before with it: it is no mistake, and only repairs one.
	Mends  bool
	Taken  map[string][]string // for each value those that it is taken for
	Text   func(b Instance, taken string) string
	Wiring bool                // it is about lines and polarity: see fault.Fault
	Partly bool                // of those, some of what is expected may be shown all the same
	Only   func(Instance) bool // whether a part can be misread so; nil for any
	// Told reports whether what the part took in a run bears it out; nil where that tells nothing.
	Told func(b Instance, log []Taken) bool
	// Garbles tells that nothing readable comes of it: where nothing readable was shown, it is tried before others.
	Garbles bool
	// Called reports whether what was called on the bus, as 0x27, bears it out; nil where that tells nothing.
	Called func(b Instance, addresses []string) bool
}

// Symbol is a standard symbol of schematics (IEC 60617).
type Symbol string

// The symbols of parts that are not a box with pins. Their terminals are in the order of the kind's pins.
const (
	SymbolLamp          Symbol = "lamp"   // a diode that shines
	SymbolButton        Symbol = "button" // a contact that closes while it is pushed
	SymbolSwitch        Symbol = "switch"
	SymbolBuzzer        Symbol = "buzzer"
	SymbolResistor      Symbol = "resistor"
	SymbolPotentiometer Symbol = "potentiometer"
	SymbolDivider       Symbol = "divider" // a thermistor and a resistor between the supply's ends
	SymbolVoltage       Symbol = "voltage" // a source of voltage
	SymbolWave          Symbol = "wave"    // a source of a square wave
)

// Instance is a part as an exercise has it.
type Instance struct {
	Name     string
	Kind     *Kind
	Settings spec.Values
	Wired    []string // what each terminal is wired to, "" for nothing
	Supply   int64    // µV

	Characters []display.Character // custom ones that the exercise has a letter for
}

// Lit reports whether the part has a light of its own behind its display.
func (b *Instance) Lit() bool { return b.Kind.Backlit != nil && b.Kind.Backlit(*b) }

// Part is a part of a bench during a run.
type Part interface {
	// Changed tells that nets of terminals in the set look different now.
	Changed(terminals uint64)
	// Wake is a timer, set by World.After, that has come.
	Wake(timer int)
	// Cue does what a cue asks.
	Cue(c Cue) error
}

// Steady is a part whose state can be compared: told the same in the same state, it does the same, whenever that is.
type Steady interface {
	// State is a comparable value of all that decides what the part goes on to do; never nil.
	State() any
}

// Finisher is a part that has something left to show when a run ends.
type Finisher interface{ Finish() }

// The verbs of cues.
const (
	Press   = "press"   // push and let go
	Hold    = "hold"    // push
	Release = "release" // let go
	Turn    = "turn"    // by some detents
	Set     = "set"     // to a value
	Type    = "type"    // some text
)

// Verbs lists them.
var Verbs = []string{Press, Hold, Release, Turn, Set, Type}

// Cue is a verb at its moment, with what belongs to it.
type Cue struct {
	Verb string
	For  clock.Time // how long: of Press, or from detent to detent of Turn
	By   int64      // detents of Turn, clockwise positive
	To   string     // of Set: a value as the part takes it
	Text string     // of Type
	Key  string     // of Press, Hold and Release: which key, where there are several
}

// Describe tells in words what a cue does to a part.
func (c Cue) Describe(part string) string {
	what := c.Verb + " " + part
	if c.Key != "" {
		what += " key " + c.Key
	}
	switch c.Verb {
	case Turn:
		what += fmt.Sprintf(" by %d", c.By)
	case Set:
		what += " to " + c.To
	case Type:
		what += " " + strconv.Quote(c.Text)
	}
	return what
}

// Moves returns how long it takes to carry a cue out.
func (c Cue) Moves() clock.Time {
	switch c.Verb {
	case Press:
		return c.For
	case Turn:
		return c.For * clock.Time(max(c.By, -c.By))
	}
	return 0
}

// Host is what a part may do to its bench.
type Host interface {
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
	// Sink is what takes the doings of its display: one of the sinks of display types; nil for what shows nothing.
	Sink() any
	// Backlight is the sink of the light behind the display.
	Backlight() display.LightSink
	// Log adds to the record of what went over buses. Bytes with the same text as the entry before join it.
	Log(what string, data ...byte)
	// Note tells a person something about this part, once for each code.
	Note(code, format string, args ...any)
}

// Sink is that of a part's display. One of another kind than its display type has is an error of the program.
func Sink[S any](w Host) S { return w.Sink().(S) }

// Passive can be embedded by parts that have no timers and take no cues.
type Passive struct{}

// Wake does nothing.
func (Passive) Wake(int) {}

// Cue refuses.
func (Passive) Cue(c Cue) error { return fmt.Errorf("this part takes no cue %q", c.Verb) }

// Meant returns what kind a word that is none was meant for.
func Meant(word string) string {
	var names []string
	low := strings.ToLower(word)
	for _, k := range Kinds() {
		names = append(names, k.Name)
		if slices.Contains(k.Also, low) {
			return fmt.Sprintf("; did you mean %q?", k.Name)
		}
	}
	return spec.Nearest(word, names)
}

func init() {
	finding.Provide(finding.Note, func() (out []finding.Entry) {
		for _, k := range Kinds() {
			out = append(out, k.Notes...)
		}
		return out
	})
}

var kinds = map[string]*Kind{}

// Register adds a kind of part; each kind's file does so once.
func Register(k *Kind) {
	if kinds[k.Name] != nil {
		panic("part registered twice: " + k.Name)
	}
	if k.Input != nil {
		k.Settings = append(slices.Clip(k.Settings), supplySetting)
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

// Always gives the same terminals for every part of a kind.
func Always(terminals ...string) func(Instance) []string {
	return func(Instance) []string { return terminals }
}

// PinNames lists the terminals.
func (k *Kind) PinNames() []string {
	var out []string
	for _, p := range k.Pins {
		out = append(out, p.Name)
	}
	return out
}

// Display is the part as a display with its name; it has one.
func (b *Instance) Display() display.Named {
	return display.Named{Name: b.Name, Geometry: b.Kind.Geometry(*b)}
}
