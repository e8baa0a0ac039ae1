package display

import (
	"slices"
	"strings"

	"hemble/core/clock"
)

// GroupKind is what the track of a group has for its kind of part.
const GroupKind = "group"

// MaxGroup is how many lights a group may have together: as many as Lights.Bits holds.
const MaxGroup = 64

// Mixture is how long a state between two others may last without being noticed: members that change together change one
// after the other, each by its own pins. The eye has the same time for mixtures within one display.
const Mixture = 25 * clock.Millisecond

// Member is a display within the look of a group.
type Member struct {
	Name     string   `json:"name"`
	Geometry Geometry `json:"look"`
}

// Join is the look of displays of lights side by side. Where all of them are digits it is a display of digits.
func Join(members []Member) Geometry {
	const gap = 8
	out := Geometry{Form: FormDigits}
	lights, digits := 0, 0
	for _, m := range members {
		out.Height = max(out.Height, m.Geometry.Height)
		if m.Geometry.Form != FormDigits || m.Geometry.Colon > 0 {
			out.Form = FormGroup
		}
	}
	for i, m := range members {
		if i > 0 {
			out.Width += gap
		}
		y := (out.Height - m.Geometry.Height) / 2
		for _, s := range m.Geometry.Shapes {
			s.Light += lights
			s.Digit += digits
			s.Points = slices.Clone(s.Points)
			for k := range s.Points {
				s.Points[k][0] += out.Width
				s.Points[k][1] += y
			}
			if s.Circle != nil {
				s.Circle = &Circle{s.Circle.X + out.Width, s.Circle.Y + y, s.Circle.R}
			}
			out.Shapes = append(out.Shapes, s)
		}
		lights += m.Geometry.Lights()
		digits += max(1, m.Geometry.Digits())
		out.Width += m.Geometry.Width
	}
	if out.Form == FormGroup {
		out.Members = members
	}
	return out
}

// Split gives the sights of a group's members.
func (l Geometry) Split(s State) (out []State) {
	from := 0
	for _, m := range l.Members {
		to := from + m.Geometry.Lights()
		out = append(out, State{Lights: s.Lights[from:to], Levels: s.Levels[from:to], Flicker: s.Flicker})
		from = to
	}
	return out
}

// group tells what the members show, lamps by their names alone.
func (t *Track) group(s State) string {
	var words []string
	for i, one := range t.Geometry.Split(s) {
		m := t.Geometry.Members[i]
		if m.Geometry.Form != FormLamp {
			words = append(words, m.Name+" "+(&Track{Geometry: m.Geometry}).Short(State{Lights: one.Lights, Levels: one.Levels}))
			continue
		}
		switch one.Lights[0] {
		case Lit:
			words = append(words, m.Name)
		case Dim:
			words = append(words, m.Name+" dim")
		}
	}
	if words == nil {
		return "all off"
	}
	return strings.Join(words, " + ")
}
