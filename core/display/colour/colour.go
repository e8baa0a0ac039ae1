// Package colour is the display type of a red, a green and a blue light whose colours mix.
package colour

import (
	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/spec"
)

// Form is the word for it in reels.
const Form display.TypeName = "colour"

func init() { display.Register(colour{}) }

type colour struct{ lights.Type }

func (colour) Name() display.TypeName { return Form }
func (colour) Traits() display.Traits { return display.Traits{Mixes: true} }

// mixtures are those that people have a word for, in thousandths of full light.
var mixtures = []struct {
	name   string
	levels [3]int // red, green, blue
}{
	{"red", [3]int{1000, 0, 0}}, {"orange", [3]int{1000, 350, 0}}, {"yellow", [3]int{1000, 1000, 0}},
	{"green", [3]int{0, 1000, 0}}, {"cyan", [3]int{0, 1000, 1000}}, {"blue", [3]int{0, 0, 1000}},
	{"violet", [3]int{400, 0, 1000}}, {"magenta", [3]int{1000, 0, 1000}}, {"white", [3]int{1000, 1000, 1000}},
}

// names lists them.
func names() (out []string) {
	for _, m := range mixtures {
		out = append(out, m.name)
	}
	return append(out, "off")
}

// levels gives those of a colour by name, in thousandths.
func levels(name string) (of [3]int, ok bool) {
	for _, m := range mixtures {
		if m.name == name {
			return m.levels, true
		}
	}
	return of, name == "off"
}

// Describe names the mixture: the nearest one, brightness left aside.
func (colour) Describe(_ *display.Track, s display.State) string { return name(s) }

func name(s display.State) string {
	most := max(s.Levels[0], s.Levels[1], s.Levels[2])
	if most == 0 {
		return "off"
	}
	best, least := "", 1<<40
	for _, m := range mixtures {
		off := 0
		for i, want := range m.levels {
			d := s.Levels[i]*1000/most - want
			off += d * d
		}
		if off < least {
			best, least = m.name, off
		}
	}
	return best
}

// Sketch writes the colour's word: it says more than a drawing.
func (colour) Sketch(t *display.Track, s display.State) []string {
	dot := "○"
	if s.Lights.Bits() != 0 {
		dot = "●"
	}
	return []string{" " + dot + " " + t.Describe(s) + " "}
}

func (colour) Read(w display.Written, ps *spec.Problems) display.Matcher {
	if _, ok := levels(w.Text); !ok {
		ps.Add(w.Pos, "%q is no colour of such a lamp%s", w.Text, spec.Nearest(w.Text, names()))
		return nil
	}
	return matcher(w.Text)
}

// matcher is the colour of a lamp that mixes three.
type matcher string

func (m matcher) Match(_ *display.Track, s display.State) (bool, int) {
	if name(s) == string(m) {
		return true, 0
	}
	return false, 1000
}

func (m matcher) Ideal(display.Geometry) *display.State {
	s := display.Emissive(0, 3)
	of, _ := levels(string(m))
	for i, l := range of {
		if l > 0 {
			s.Lights[i], s.Levels[i] = display.Lit, l*255/1000
		}
	}
	return &s
}

func (m matcher) Same(other display.Matcher) bool { return m == other }
func (m matcher) String() string                  { return string(m) }
