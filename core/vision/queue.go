package vision

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// change is a cell that looks different from the moment t on.
type change struct {
	t     clock.Time
	cell  int
	value uint16
	at    machine.Place
}

// queue keeps changes in the order of time until nothing earlier can come.
type queue []change

func (q *queue) put(c change) {
	i, _ := slices.BinarySearchFunc(*q, c, func(a, b change) int {
		if a.t <= b.t {
			return -1
		}
		return 1
	})
	*q = slices.Insert(*q, i, c)
}

// release hands on the changes before t.
func (q *queue) release(t clock.Time, s *settler) {
	n := 0
	for n < len(*q) && (*q)[n].t < t {
		c := (*q)[n]
		s.change(c.t, c.cell, c.value, c.at)
		n++
	}
	*q = slices.Delete(*q, 0, n)
}
