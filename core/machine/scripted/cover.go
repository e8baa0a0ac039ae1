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
	for line := from; line <= min(to, from+mostLong) && line >= from && len(*c) < mostCovered; line++ {
		if _, known := (*c)[line]; !known {
			(*c)[line] = at
		}
	}
}

// Reached tells when a line was first carried out, on a board that notes that down.
func (m *Machine) Reached(address uint32) (at clock.Time, ok bool) {
	at, ok = m.cover[address]
	return at, ok
}
