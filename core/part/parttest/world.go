// Package parttest is a bench with one part, for tests: levels are set by hand, and everything the part does is
// recorded.
package parttest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"go.yaml.in/yaml/v3"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// World is a bench of one part.
type World struct {
	Part   part.Part
	Time   clock.Time
	Nets   []circuit.Drive // what others do to each terminal
	Driven []circuit.Drive // what the part does to each terminal
	Lights map[int]int64
	Cells  map[int]display.Cell
	At     *display.Cursor
	Closed map[[2]int]bool
	Flips  []clock.Time // when a contact changed
	Edges  []Edge       // what the part drove, and when
	Notes  []string
	Logged []string
	Back   int64
	Pushes []clock.Time // when a membrane was pushed
	Pitch  int          // of a tone
	Level  int          // of a graphic display
	Lines  []string     // of a terminal
	custom [][8]uint8
	timers map[int]clock.Time
	random *rand.Rand
	kind   *part.Kind
	built  part.Instance
}

// Edge is a change of what the part does to a terminal.
type Edge struct {
	At       clock.Time
	Terminal int
	High     bool
}

// New makes a part from its mapping in an exercise file.
func New(t testing.TB, kind, settings string, seed uint64) *World {
	k := part.Find(kind)
	var doc yaml.Node
	if err := yaml.Unmarshal([]byte("{"+settings+"}"), &doc); err != nil || k == nil {
		t.Fatalf("a %s with {%s}: %v", kind, settings, err)
	}
	var ps spec.Problems
	fields := slices.Clone(k.Settings)
	for _, m := range k.Misread {
		if m.Assumed { // what no real part has, but programs take it to have
			fields = append(fields, spec.Field{Name: m.Setting, Kind: spec.Text})
		}
	}
	v := spec.Decode(doc.Content[0], fields, &ps)
	if len(ps.List) > 0 {
		t.Fatalf("a %s with {%s}: %v", kind, settings, ps.List)
	}
	w := &World{Nets: make([]circuit.Drive, len(k.Pins)), Driven: make([]circuit.Drive, len(k.Pins)),
		Lights: map[int]int64{}, Cells: map[int]display.Cell{},
		Closed: map[[2]int]bool{}, timers: map[int]clock.Time{}, random: rand.New(rand.NewPCG(seed, 0)), kind: k}
	for i := range w.Nets {
		w.Nets[i], w.Driven[i] = circuit.Released, circuit.Released
	}
	w.built = part.Instance{Name: kind, Kind: k, Settings: v, Wired: make([]string, len(k.Pins)), Supply: 5_000_000}
	w.Part = k.New(w.built, w)
	return w
}

// Problems are those that the part's kind finds in its settings and pins.
func (w *World) Problems() []spec.Problem { return w.kind.Check(w.built) }

// Wire tells the part that terminals are wired, for those that ask; it starts again.
func (w *World) Wire(names ...string) {
	for _, name := range names {
		w.built.Wired[w.kind.Terminal(name)] = "net"
	}
	w.Part = w.kind.New(w.built, w)
}

// Set puts terminals at drives, all in the same instant: name, drive, name, drive, …
func (w *World) Set(pairs ...any) {
	changed := uint64(0)
	for i := 0; i < len(pairs); i += 2 {
		terminal := w.kind.Terminal(pairs[i].(string))
		w.Nets[terminal] = pairs[i+1].(circuit.Drive)
		changed |= 1 << terminal
	}
	w.Part.Changed(changed)
}

// Terminal is the index of a terminal.
func (w *World) Terminal(name string) int { return w.kind.Terminal(name) }

// Pulse takes a terminal from low to high and back, a microsecond each.
func (w *World) Pulse(name string) {
	w.Set(name, circuit.DrivenHigh)
	w.Pass(clock.Microsecond)
	w.Set(name, circuit.DrivenLow)
	w.Pass(clock.Microsecond)
}

// Outputs returns what the part does at n terminals from one on: 0, 1 or z.
func (w *World) Outputs(first string, n int) (out string) {
	for _, d := range w.Driven[w.Terminal(first):][:n] {
		out += map[circuit.Level]string{circuit.Low: "0", circuit.High: "1", circuit.Float: "z"}[d.Level]
	}
	return out
}

// Pass lets time go by, with the timers that come in it.
func (w *World) Pass(d clock.Time) {
	end := w.Time + d
	for {
		next, at := -1, end+1
		for timer, t := range w.timers {
			if t < at || t == at && timer < next {
				next, at = timer, t
			}
		}
		if next < 0 {
			break
		}
		delete(w.timers, next)
		w.Time = at
		w.Part.Wake(next)
	}
	w.Time = end
}

func (w *World) Now() clock.Time { return w.Time }

func (w *World) Net(terminal int) circuit.Drive {
	if d := w.Driven[terminal]; d.Strength > w.Nets[terminal].Strength {
		return d
	}
	return w.Nets[terminal]
}

func (w *World) Drive(terminal int, d circuit.Drive) {
	if d != w.Driven[terminal] {
		w.Edges = append(w.Edges, Edge{w.Time, terminal, d.Level == circuit.High})
	}
	w.Driven[terminal] = d
}

func (w *World) Contact(a, b int, closed bool) {
	w.Closed[[2]int{a, b}] = closed
	w.Flips = append(w.Flips, w.Time)
}

func (w *World) After(timer int, d clock.Time)     { w.timers[timer] = w.Time + d }
func (w *World) Random() uint64                    { return w.random.Uint64() }
func (w *World) Light(light int, nA int64)         { w.Lights[light] = nA }
func (w *World) Cell(cell int, value display.Cell) { w.Cells[cell] = value }

// Sink is the bench itself, whatever the display.
func (w *World) Sink() any { return w }

// Backlight keeps the current.
func (w *World) Backlight() display.LightSink { return back{w} }

type back struct{ *World }

func (b back) Light(_ int, nA int64) { b.Back = nA }

func (w *World) Shade(level int)                { w.Level = level }
func (w *World) Tone(hz int)                    { w.Pitch = hz }
func (w *World) Line(_ clock.Time, text string) { w.Lines = append(w.Lines, text) }

// LineNow changes the last one.
func (w *World) LineNow(_ clock.Time, text string) { w.Lines[len(w.Lines)-1] = text }
func (w *World) Move(pushed bool) {
	if pushed {
		w.Pushes = append(w.Pushes, w.Time)
	}
}
func (w *World) Log(what string, data ...byte) {
	if len(data) > 0 {
		what += fmt.Sprintf(" % x", data)
	}
	w.Logged = append(w.Logged, what)
}
func (w *World) Cursor(c *display.Cursor) { w.At = c }
func (w *World) Note(code, format string, a ...any) {
	if !slices.ContainsFunc(w.kind.Notes, func(e finding.Entry) bool { return string(e.Code) == code }) {
		panic("a note that its kind does not declare: " + code)
	}
	w.Notes = append(w.Notes, code+": "+fmt.Sprintf(format, a...))
}
func (w *World) Dots(c display.Cell) [8]uint8 { return w.custom[c-display.CustomCell] }

func (w *World) Custom(dots [8]uint8) display.Cell {
	w.custom = append(w.custom, dots)
	return display.CustomCell + display.Cell(len(w.custom)-1)
}
