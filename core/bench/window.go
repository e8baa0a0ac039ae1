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

	driven   *Driven
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
	return &Window{From: from, To: to, driven: NewDriven(parts), nets: map[string]string{"GND": "low", "VCC": "high"},
		touched: map[int]bool{},
		was:     map[string]string{}, looked: map[int]display.State{}}
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
	w.change(number)
	w.driven.Light(number, light, nA)
}

// Cell takes a cell's new content.
func (w *Window) Cell(number, cell int, value display.Cell) {
	w.change(number)
	w.driven.Cell(number, cell, value)
}

// change notes that a display changes now, and keeps how it looked until the window begins.
func (w *Window) change(number int) {
	if _, known := w.looked[number]; !known && !w.started {
		w.looked[number] = w.driven.State(number)
	}
	w.touched[number] = true
}

// Settled ends a moment. The first one of a window is everything as it stood before the window began.
func (w *Window) Settled(t clock.Time, at machine.Place) {
	if t >= w.From {
		w.begin()
		if t <= w.To && len(w.changed)+len(w.touched) > 0 {
			w.moment(t, at, w.nets, w.driven)
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
	nets, before := maps.Clone(w.nets), &Driven{w.driven.Tracks, slices.Clone(w.driven.States)}
	maps.Copy(nets, w.was)
	for i, s := range w.looked {
		before.States[i] = s
	}
	w.changed, w.touched = slices.Sorted(maps.Keys(nets)), map[int]bool{}
	for i, t := range w.driven.Tracks {
		w.touched[i] = t.Geometry.TypeName != ""
	}
	w.moment(w.From, machine.Place{}, nets, before)
	w.changed, w.touched = changed, touched
}

func (w *Window) moment(t clock.Time, at machine.Place, nets map[string]string, driven *Driven) {
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
		if !touched || !driven.shows(i) {
			continue
		}
		t := &driven.Tracks[i]
		m.Displays[t.Display] = t.Describe(driven.States[i])
		if w.States {
			m.States[t.Display] = driven.State(i)
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
