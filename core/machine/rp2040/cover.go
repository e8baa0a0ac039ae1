package rp2040

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// cover tells when instructions were carried out, by their addresses.
type cover struct {
	at    map[uint32]carried
	round machine.Rounds
}

// carried is when an instruction was first carried out, and in which rounds.
type carried struct {
	first  clock.Time
	rounds machine.Rounds
}

// interpretCovered is interpret with each instruction noted down.
func (m *Machine) interpretCovered() {
	c := m.core
	for c.Cycle < c.Deadline {
		from := c.R[15]
		m.cover.reach(from, m.now.At(c.Cycle))
		c.Step()
		if pc := c.R[15]; pc <= from && from-pc < maxLoop && c.Deadline-c.Cycle > minSkip && !m.config.NoSkip &&
			!m.config.Reference {
			m.skip(pc)
		}
	}
}

// reach notes an instruction down.
func (c *cover) reach(address uint32, now clock.Time) {
	x, known := c.at[address]
	if known && x.rounds&c.round != 0 {
		return
	}
	if !known {
		x.first = now
	}
	x.rounds |= c.round
	c.at[address] = x
}

// Reached tells when the instruction at an address was first carried out.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	if m.cover == nil {
		return 0, false
	}
	x, ok := m.cover.at[address]
	return x.first, ok
}

// Anew begins another round.
func (m *Machine) Anew() {
	if m.cover != nil {
		m.cover.round <<= 1
	}
}

// Rounds tells in which the instruction at an address was carried out.
func (m *Machine) Rounds(address uint32) machine.Rounds {
	if m.cover == nil {
		return 0
	}
	return m.cover.at[address].rounds
}
