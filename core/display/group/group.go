// Package group is the display type of several displays of lights that are read as one: single digits as a number,
// lamps as a phase.
package group

import (
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/display/lights"
)

// Form is the word for it in reels.
const Form display.TypeName = "group"

// MaxLights is how many lights a group may have together: as many as a bit set of them holds.
const MaxLights = 64

func init() { display.Register(group{}) }

type group struct{ lights.Type }

func (group) Name() display.TypeName { return Form }

func (group) Mistakes() []*display.Mistake { return []*display.Mistake{lights.Pattern, lights.Dot} }

// Join is the geometry of displays of lights side by side. Where all of them are of one type that joins, such as
// digits, so is the whole.
func Join(members []display.Member) display.Geometry {
	const gap = 8
	out := display.Geometry{TypeName: members[0].Geometry.TypeName}
	lights, digits := 0, 0
	for _, m := range members {
		out.Height = max(out.Height, m.Geometry.Height)
		if j, ok := display.As[display.Joining](m.Geometry); !ok || !j.Joins(m.Geometry) ||
			m.Geometry.TypeName != out.TypeName {
			out.TypeName = Form
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
				s.Circle = &display.Circle{X: s.Circle.X + out.Width, Y: s.Circle.Y + y, R: s.Circle.R}
			}
			out.Shapes = append(out.Shapes, s)
		}
		lights += m.Geometry.Lights()
		digits += max(1, m.Geometry.Digits())
		out.Width += m.Geometry.Width
	}
	if out.TypeName == Form {
		out.Members = members
	}
	return out
}

// Split gives the states of a group's members.
func Split(g display.Geometry, s display.State) (out []display.State) {
	from := 0
	for _, m := range g.Members {
		to := from + m.Geometry.Lights()
		out = append(out, display.State{Lights: s.Lights[from:to], Levels: s.Levels[from:to], Flicker: s.Flicker})
		from = to
	}
	return out
}

// track is a member as a display of its own.
func track(m display.Member) *display.Track {
	return &display.Track{Display: m.Name, Geometry: m.Geometry}
}

// Describe returns what the members show, lamps by their names alone.
func (group) Describe(t *display.Track, s display.State) string {
	var words []string
	for i, one := range Split(t.Geometry, s) {
		m := t.Geometry.Members[i]
		one.Flicker = false
		switch {
		case !m.Geometry.Type().Traits().Single:
			words = append(words, m.Name+" "+track(m).Short(one))
		case one.Lights[0] == display.Lit:
			words = append(words, m.Name)
		case one.Lights[0] == display.Dim:
			words = append(words, m.Name+" dim")
		}
	}
	if words == nil {
		return "all off"
	}
	return strings.Join(words, " + ")
}

// Spell writes what each member shows.
func (group) Spell(t *display.Track, s display.State) []string {
	var words []string
	for i, one := range Split(t.Geometry, s) {
		m := t.Geometry.Members[i]
		words = append(words, m.Name+": "+m.Geometry.Type().Spell(track(m), one)[0])
	}
	return []string{"{" + strings.Join(words, ", ") + "}"}
}

// Sketch draws the members side by side.
func (group) Sketch(t *display.Track, s display.State) (out []string) {
	var all [][]string
	high := 0
	for i, one := range Split(t.Geometry, s) {
		m := t.Geometry.Members[i]
		a := m.Geometry.Type().Sketch(track(m), one)
		all, high = append(all, a), max(high, len(a))
	}
	out = make([]string, high)
	for _, a := range all {
		wide, above := display.Width(a), (high-len(a))/2
		for i := range out {
			line := strings.Repeat(" ", wide)
			if k := i - above; k >= 0 && k < len(a) {
				line = display.Fit(a[k], wide)
			}
			out[i] += line
		}
	}
	return out
}
