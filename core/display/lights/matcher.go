package lights

import (
	"math/bits"

	"hemble/core/display"
)

// Matcher is a pattern of lights that are lit, all others dark.
type Matcher struct {
	Pattern uint64
	N       int // how many lights there are
	Text    string
}

// Match counts the lights that are other than wanted: a third of them is as bad as all.
func (m *Matcher) Match(_ *display.Track, s display.State) (bool, int) {
	off := bits.OnesCount64(s.Lights.Bits() ^ m.Pattern)
	return off == 0, min(1000, off*3000/m.N)
}

// Ideal has them fully lit.
func (m *Matcher) Ideal(display.Geometry) *display.State {
	s := display.Emissive(m.Pattern, m.N)
	return &s
}

// Same compares the patterns.
func (m *Matcher) Same(other display.Matcher) bool {
	o, ok := other.(*Matcher)
	return ok && o.Pattern == m.Pattern
}

func (m *Matcher) String() string { return m.Text }
