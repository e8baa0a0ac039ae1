package bench

import (
	"fmt"
	"maps"
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// visible is the current in nA from which a light is written as on: what vision may see if it lasts.
const visible = 200_000

// Window shows a stretch of a run as driven: every change of nets and displays as it was driven, with
// its time to the cycle. It is a Watcher.
type Window struct {
	From, To clock.Time
	// Place names the program point of a change; may be nil.
	Place   func(machine.Place) string
	States  bool // keep how displays look, too, for drawing
	Moments []reel.Moment

	tracks   []display.Track // of each part; without a form for what shows nothing
	states   []display.State
	nets     map[string]string     // levels now
	changed  []string              // nets that changed at this moment ...
	was      map[string]string     // and what they were at before, until the window begins
	touched  map[int]bool          // displays that did ...
	looked   map[int]display.State // and how they looked before
	started  bool
	overflow int
}

// maxMoments bounds a window.
const maxMoments = 10_000

// NewWindow looks at the parts of a bench from one time to another.
func NewWindow(parts []*part.Instance, from, to clock.Time) *Window {
	w := &Window{From: from, To: to, nets: map[string]string{"GND": "low", "VCC": "high"}, touched: map[int]bool{},
		was: map[string]string{}, looked: map[int]display.State{}}
	for _, p := range parts {
		t, s := display.Track{Display: p.Name}, display.State{}
		if p.Kind.Geometry != nil {
			t.Geometry = p.Kind.Geometry(*p)
			s = t.Geometry.Type().Dark(t.Geometry)
		}
		w.tracks, w.states = append(w.tracks, t), append(w.states, s)
	}
	return w
}

// Net takes a net's new level.
func (w *Window) Net(name string, d circuit.Drive, contended bool) {
	text := d.Level.String()
	switch {
	case contended:
		text = "high and low"
	case d.Strength == circuit.Analog, d.Strength == circuit.Resistive:
		text = fmt.Sprintf("%.3f V", float64(d.Microvolts)/1e6)
	case d.Strength == circuit.Pull:
		text = "pulled " + text
	}
	if now := w.nets[name]; now != text {
		if _, known := w.was[name]; !known && !w.started {
			w.was[name] = now
		}
		w.nets[name] = text
		w.changed = append(w.changed, name)
	}
}

// Light takes a light's new current.
func (w *Window) Light(number, light int, nA int64) {
	s := w.change(number)
	s.Lights[light], s.Levels[light] = display.Dark, int(min(255, nA*255/display.Nominal))
	if nA >= visible {
		s.Lights[light] = display.Lit
	}
}

// change gives the state of a display that changes now, and keeps how it looked until the window begins.
func (w *Window) change(number int) *display.State {
	s := &w.states[number]
	if _, known := w.looked[number]; !known && !w.started {
		before := *s
		before.Lights, before.Levels = slices.Clone(s.Lights), slices.Clone(s.Levels)
		before.Cells, before.Pixels = slices.Clone(s.Cells), slices.Clone(s.Pixels)
		w.looked[number] = before
	}
	w.touched[number] = true
	return s
}

// Cell takes a cell's new content.
func (w *Window) Cell(number, cell int, value display.Cell) {
	switch s := w.change(number); {
	case s.Pixels != nil:
		s.Pixels[cell] = byte(value)
	case value == 0:
		s.Cells[cell] = ' '
	default:
		s.Cells[cell] = value
	}
}

// Settled ends a moment. The first one of a window is everything as it stood before the window began.
func (w *Window) Settled(t clock.Time, at machine.Place) {
	if t >= w.From {
		w.begin()
		if t <= w.To && len(w.changed)+len(w.touched) > 0 {
			w.moment(t, at, w.nets, w.states)
		}
	}
	w.changed = w.changed[:0]
	clear(w.touched)
	clear(w.was)
	clear(w.looked)
}

// begin writes the state before the window.
func (w *Window) begin() {
	if w.started {
		return
	}
	w.started = true
	changed, touched := w.changed, w.touched
	nets, states := maps.Clone(w.nets), slices.Clone(w.states)
	maps.Copy(nets, w.was)
	for i, s := range w.looked {
		states[i] = s
	}
	w.changed, w.touched = slices.Sorted(maps.Keys(nets)), map[int]bool{}
	for i, t := range w.tracks {
		w.touched[i] = t.Geometry.TypeName != ""
	}
	w.moment(w.From, machine.Place{}, nets, states)
	w.changed, w.touched = changed, touched
}

func (w *Window) moment(t clock.Time, at machine.Place, nets map[string]string, states []display.State) {
	if len(w.Moments) == maxMoments {
		w.overflow++
		return
	}
	m := reel.Moment{At: t, Nets: map[string]string{}, Displays: map[string]string{}}
	if w.States {
		m.States = map[string]display.State{}
	}
	for _, name := range w.changed {
		if nets[name] != "" {
			m.Nets[name] = nets[name]
		}
	}
	for i, touched := range w.touched {
		if s := states[i]; touched && (s.Lights != nil || s.Cells != nil || s.Pixels != nil) {
			m.Displays[w.tracks[i].Display] = w.tracks[i].Describe(s)
			if w.States {
				m.States[w.tracks[i].Display] = display.State{Lights: slices.Clone(s.Lights),
					Levels: slices.Clone(s.Levels), Cells: slices.Clone(s.Cells), Pixels: slices.Clone(s.Pixels)}
			}
		}
	}
	if w.Place != nil && at != (machine.Place{}) {
		m.Source = w.Place(at)
	}
	w.Moments = append(w.Moments, m)
}

// Finish makes the first moment where nothing happened in the window.
func (w *Window) Finish() { w.begin() }

// Left is how many moments did not fit.
func (w *Window) Left() int { return w.overflow }
