package bench

import (
	"slices"

	"hemble/core/display"
	"hemble/core/part"
)

// Driven is how displays are driven at a moment: what a fast camera would see of them.
type Driven struct {
	Tracks []display.Track // of each part, without frames; without a geometry for what shows nothing
	States []display.State
}

// NewDriven begins with all displays dark.
func NewDriven(parts []*part.Instance) *Driven {
	d := &Driven{}
	for _, p := range parts {
		t, s := display.Track{Display: p.Name, Kind: p.Kind.Name}, display.State{}
		if p.Kind.Geometry != nil {
			t.Geometry = p.Kind.Geometry(*p)
			s = t.Geometry.Type().Dark(t.Geometry)
		}
		d.Tracks, d.States = append(d.Tracks, t), append(d.States, s)
	}
	return d
}

// Light takes a light's new current, in nA.
func (d *Driven) Light(number, light int, nA int64) {
	s := &d.States[number]
	s.Lights[light], s.Levels[light] = display.Dark, int(min(255, nA*255/display.Nominal))
	if nA >= visible {
		s.Lights[light] = display.Lit
	}
}

// Cell takes a cell's new content.
func (d *Driven) Cell(number, cell int, value display.Cell) {
	switch s := &d.States[number]; {
	case s.Pixels != nil:
		s.Pixels[cell] = byte(value)
	case value == 0:
		s.Cells[cell] = ' '
	default:
		s.Cells[cell] = value
	}
}

// State is a copy of that of one display.
func (d *Driven) State(number int) display.State {
	s := d.States[number]
	s.Lights, s.Levels = slices.Clone(s.Lights), slices.Clone(s.Levels)
	s.Cells, s.Pixels = slices.Clone(s.Cells), slices.Clone(s.Pixels)
	return s
}

// shows reports whether a display has a state that can be drawn.
func (d *Driven) shows(number int) bool {
	s := d.States[number]
	return s.Lights != nil || s.Cells != nil || s.Pixels != nil
}
