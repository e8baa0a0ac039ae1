package bench

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/machine"
)

// load adds up the currents of lights at the chip's pins, and returns when one is more than the chip bears.
type load struct {
	chip  *machine.Chip
	ways  [2]way // out of the pins, and into them
	whole gauge
	alarm bool // some current is, or was at the last check, above what is borne

	checks int // how often all were looked at
}

// way is the current in one direction.
type way struct {
	verb    string
	groups  []gauge
	groupOf []int // of each pin, an index of groups; -1 for none
	pins    []gauge
	total   int64
}

// gauge watches one current.
type gauge struct {
	name   string
	nA     int64
	bears  int64
	since  clock.Time // it has been above what it bears; -1 while it is not
	most   int64      // since then
	hints  string
	verb   string
	joined string
}

// lasting is how long a current must be too high: what happens while pins are set up one after the other is
// transient (notes 3 and 4 of the datasheet's DC characteristics speak of steady state).
const lasting = clock.Millisecond

const milliampere = 1_000_000

func newLoad(chip *machine.Chip) *load {
	l := &load{chip: chip, whole: gauge{name: "all pins", joined: " together", verb: "carried", bears: chip.Limits.Chip,
		since: -1}}
	for i, groups := range [2][]machine.Group{chip.Limits.Source, chip.Limits.Sink} {
		w := &l.ways[i]
		w.verb = [2]string{"gave", "took"}[i]
		for _, pin := range chip.Pins {
			w.groupOf = append(w.groupOf, -1)
			w.pins = append(w.pins, gauge{name: pin.Name, verb: w.verb, bears: chip.Limits.Pin, since: -1,
				hints: ": is a resistor missing?"})
		}
		for g, group := range groups {
			w.groups = append(w.groups, gauge{name: group.Name, joined: " together", verb: w.verb, bears: group.Most,
				since: -1})
			for _, pin := range group.Pins {
				w.groupOf[pin] = g
			}
		}
	}
	return l
}

// tap is where a light's current goes through the chip.
type tap struct {
	way        *way
	pin, group *gauge // group is nil for none
}

// taps gives those of a light between the nets of its anode and its cathode.
func (l *load) taps(ends [2]*node) (taps []tap) {
	for i, n := range ends {
		if n == nil || len(n.pins) == 0 {
			continue
		}
		w := &l.ways[i]
		pin := n.pins[0] // a net has one pin of the chip
		t := tap{way: w, pin: &w.pins[pin]}
		if g := w.groupOf[pin]; g >= 0 {
			t.group = &w.groups[g]
		}
		taps = append(taps, t)
	}
	return taps
}

// add changes the current of a light.
func (l *load) add(taps []tap, nA int64) {
	for _, t := range taps {
		t.pin.nA += nA
		t.way.total += nA
		over := t.pin.nA > t.pin.bears || t.way.total > l.whole.bears
		if t.group != nil {
			t.group.nA += nA
			over = over || t.group.nA > t.group.bears
		}
		if over {
			l.alarm = true
		}
	}
}

// check looks at all currents, as long as there is an alarm.
func (l *load) check(b *Bench) {
	l.checks++
	l.whole.nA = max(l.ways[0].total, l.ways[1].total)
	l.whole.look(b, l.chip)
	l.alarm = l.whole.since >= 0
	for i := range l.ways {
		w := &l.ways[i]
		for _, list := range [2][]gauge{w.pins, w.groups} {
			for k := range list {
				list[k].look(b, l.chip)
				l.alarm = l.alarm || list[k].since >= 0
			}
		}
	}
}

// look notes when the current rose above what is borne, and tells once it is over.
func (g *gauge) look(b *Bench, chip *machine.Chip) {
	switch {
	case g.nA > g.bears && g.since < 0:
		g.since, g.most = b.now, g.nA
	case g.nA > g.bears:
		g.most = max(g.most, g.nA)
	case g.since >= 0:
		g.tell(b, chip)
		g.since = -1
	}
}

func (g *gauge) tell(b *Bench, chip *machine.Chip) {
	if g.since < 0 || b.now-g.since < lasting {
		return
	}
	b.note("current-"+g.name, "%s", fmt.Sprintf("%s%s %s %d mA for %s; the %s is rated for %d mA there%s", g.name,
		g.joined,
		g.verb, g.most/milliampere,
		(b.now-g.since).Short(), chip.Title, g.bears/milliampere, g.hints))
}

// finish tells of currents that are still too high.
func (l *load) finish(b *Bench) {
	for i := range l.ways {
		w := &l.ways[i]
		for pin := range w.pins {
			w.pins[pin].tell(b, l.chip)
		}
		for g := range w.groups {
			w.groups[g].tell(b, l.chip)
		}
	}
	l.whole.tell(b, l.chip)
}
