package avr

import (
	"slices"

	"hemble/core/clock"
)

// cover tells which instructions were carried out, and when first: opReach stands in the place of each until then, so
// that it costs nothing afterwards.
type cover struct {
	marked []instruction // what belongs there
	at     []clock.Time  // by word address; -1 before
}

func newCover(code []instruction) *cover {
	c := &cover{marked: slices.Clone(code), at: make([]clock.Time, len(code))}
	for pc := range code {
		code[pc].op, c.at[pc] = opReach, -1
	}
	return c
}

// reach notes the present instruction down and puts it where it belongs.
func (m *Machine) reach() {
	m.code[m.pc], m.cover.at[m.pc] = m.cover.marked[m.pc], m.Now()
}

// Reached tells when the instruction at a byte address was first carried out.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	if m.cover == nil || int(address/2) >= len(m.cover.at) {
		return 0, false
	}
	at = m.cover.at[address/2]
	return at, at >= 0
}
