package judge

import (
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/spec"
)

// Matcher tells whether a sight is one that was asked for.
type Matcher interface {
	Matches(*display.Track, display.State) bool
	String() string
}

// ReadMatcher reads a frame as `shows` has it; nil where it cannot be read.
func ReadMatcher(v spec.Value, p *part.Built, ps *spec.Problems) Matcher {
	if v.Node == nil {
		return nil
	}
	w, _ := readWant(v, p, false, ps)
	if w == nil {
		return nil
	}
	return matcher{w}
}

type matcher struct{ want }

func (m matcher) Matches(t *display.Track, s display.State) bool {
	ok, _ := m.shows(t, s)
	return ok
}
