package bench

import (
	"math/bits"

	"hemble/core/machine"
)

// load adds up the currents of lights at the chip's pins, and tells when one is more than the chip bears.
type load struct {
	chip    *machine.Chip
	ways    [2]way // out of the pins, and into them
	touched uint32 // pins whose current changed since the last check
}

// way is the current in one direction.
type way struct {
	verb    string
	groups  []machine.Group
	groupOf [32]int   // of each pin, an index of groups; -1 for none
	pins    [32]int64 // nA
	sums    []int64   // of each group
	total   int64
}

func newLoad(chip *machine.Chip) *load {
	l := &load{chip: chip, ways: [2]way{{verb: "gave", groups: chip.Limits.Give}, {verb: "took", groups: chip.Limits.Take}}}
	for i := range l.ways {
		w := &l.ways[i]
		w.sums = make([]int64, len(w.groups))
		for pin := range w.groupOf {
			w.groupOf[pin] = -1
		}
		for g := range w.groups {
			for _, pin := range w.groups[g].Pins {
				w.groupOf[pin] = g
			}
		}
	}
	return l
}

// add changes the current from the net of an anode to that of a cathode.
func (l *load) add(ends [2]*node, nA int64) {
	for i, n := range ends {
		if n == nil {
			continue
		}
		for _, pin := range n.pins {
			w := &l.ways[i]
			w.pins[pin] += nA
			w.total += nA
			if g := w.groupOf[pin]; g >= 0 {
				w.sums[g] += nA
			}
			l.touched |= 1 << pin
		}
	}
}

const milliampere = 1_000_000

// check compares the pins that changed, their groups and the whole chip with their limits.
func (l *load) check(b *Bench) {
	limits, title := &l.chip.Limits, l.chip.Title
	for ; l.touched != 0; l.touched &= l.touched - 1 {
		pin := bits.TrailingZeros32(l.touched)
		for i := range l.ways {
			w := &l.ways[i]
			if nA := w.pins[pin]; nA > limits.Pin {
				name := l.chip.Pins[pin].Name
				b.note("current-"+name, "%s %s %d mA; a pin of the %s bears %d mA: is a resistor missing?", name, w.verb, nA/milliampere, title, limits.Pin/milliampere)
			}
			if g := w.groupOf[pin]; g >= 0 && w.sums[g] > w.groups[g].Most {
				b.note("current-"+w.groups[g].Name, "%s together %s %d mA; the %s bears %d mA there", w.groups[g].Name, w.verb, w.sums[g]/milliampere, title, w.groups[g].Most/milliampere)
			}
		}
	}
	if total := max(l.ways[0].total, l.ways[1].total); total > limits.Chip {
		b.note("current-chip", "all pins together carried %d mA; the %s bears %d mA", total/milliampere, title, limits.Chip/milliampere)
	}
}
