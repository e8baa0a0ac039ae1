package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

func newCover(code []instruction) *machine.Cover[instruction] {
	return machine.NewCover(code, func(in *instruction) { in.op = opReach })
}

// reach notes the present instruction down and puts it where it belongs.
func (m *Machine) reach() { m.code[m.pc] = m.cover.Reach(int(m.pc), m.Now()) }

// Reached tells when the instruction at a byte address was first carried out.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	return m.cover.Reached(int(address / 2))
}

// Anew begins another round.
func (m *Machine) Anew() {
	if m.cover != nil {
		m.cover.Anew(m.code)
	}
}

// Rounds tells in which the instruction at a byte address was carried out.
func (m *Machine) Rounds(address uint32) machine.Rounds { return m.cover.Rounds(int(address / 2)) }
