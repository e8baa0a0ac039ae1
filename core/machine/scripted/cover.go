package scripted

import "hemble/core/clock"

// Bounds of the lines that are noted down: a script could forge them.
const (
	mostLong    = 1_000
	mostCovered = 100_000
)

// cover is when lines of the script, by their program addresses, were first carried out.
type cover map[uint32]clock.Time

// reach notes down that some lines are carried out.
func (c *cover) reach(from, to uint32, at clock.Time) {
	if *c == nil {
		*c = cover{}
	}
	last := min(uint64(to), uint64(from)+mostLong)
	for line := uint64(from); line <= last && len(*c) < mostCovered; line++ {
		if _, known := (*c)[uint32(line)]; !known {
			(*c)[uint32(line)] = at
		}
	}
}

// Reached tells when a line was first carried out, on a board that notes that down.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	at, ok = m.cover[address]
	return at, ok
}
