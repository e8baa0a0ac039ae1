package scripted

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// Bounds of the lines that are noted down: a script could forge them.
const (
	mostLong    = 1_000
	mostCovered = 100_000
)

// cover tells when lines of the script, by their program addresses, were carried out. The script tells of each once in
// a round.
type cover struct {
	lines map[uint32]carried
	round int
	anew  bool // it was not told yet of the round that has begun
}

// carried is when a line was first carried out, and in which rounds.
type carried struct {
	first  clock.Time
	rounds machine.Rounds
}

// reach notes down that some lines are carried out.
func (c *cover) reach(from, to uint32, at clock.Time) {
	if c.lines == nil {
		c.lines = map[uint32]carried{}
	}
	last := min(uint64(to), uint64(from)+mostLong)
	for line := uint64(from); line <= last && len(c.lines) < mostCovered; line++ {
		x, known := c.lines[uint32(line)]
		if !known {
			x.first = at
		}
		x.rounds |= 1 << c.round
		c.lines[uint32(line)] = x
	}
}

// Reached tells when a line was first carried out, on a board that notes that down.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	x, ok := m.cover.lines[address]
	return x.first, ok
}

// Anew begins another round.
func (m *Machine) Anew() {
	m.cover.round++
	m.cover.anew = m.cover.lines != nil
}

// Rounds tells in which a line was carried out.
func (m *Machine) Rounds(address uint32) machine.Rounds { return m.cover.lines[address].rounds }
