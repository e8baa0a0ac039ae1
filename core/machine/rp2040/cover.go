package rp2040

import "hemble/core/clock"

// cover tells when instructions were first carried out, by their addresses.
type cover map[uint32]clock.Time

// interpretCovered is interpret with each instruction noted down.
func (m *Machine) interpretCovered() {
	c := m.core
	for c.Cycle < c.Deadline {
		from := c.R[15]
		if _, known := m.cover[from]; !known {
			m.cover[from] = m.now.At(c.Cycle)
		}
		c.Step()
		if pc := c.R[15]; pc <= from && from-pc < maxLoop && c.Deadline-c.Cycle > minSkip && !m.config.NoSkip &&
			!m.config.Reference {
			m.skip(pc)
		}
	}
}

// Reached tells when the instruction at an address was first carried out.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	at, ok = m.cover[address]
	return at, ok
}
