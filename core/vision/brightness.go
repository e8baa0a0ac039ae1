package vision

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// brightness follows how bright a light is that stays lit. It is looked at in stretches of LevelTime at least, of whole
// pulses where there are some; once two looks in a row agree that it has visibly changed, a new spell begins.
type brightness struct {
	from  clock.Time // of the look under way
	total int64      // the spell's charge then, nA·ns
	at    machine.Place
	level int64 // nA, what vision holds the light to be; 0 before the first look

	doubted int // looks in a row that saw another level
	since   clock.Time
	cut     int64 // the spell's charge then
	mean    int64
	by      machine.Place

	varies  bool // it is lit without a pause, and its current has changed of late
	touched bool // in the look under way
	steps   uint16
}

// maxDoubts is how many looks in a row may differ from each other before the last is believed: a quick fade.
const maxDoubts = 3

// changed reports whether a person notices the difference of two levels.
func (l *Emissive) changed(a, b int64) bool {
	low, high := min(a, b), max(a, b)
	return high*100 >= low*LevelRatio && (high-low)*100 >= l.nominal*LevelFraction
}

// sample ends a look at t, when the light's spell has come to a charge in all, and begins the next.
func (l *Emissive) sample(i int, t clock.Time, total int64, at machine.Place) {
	p := &l.lights[i]
	b := &p.bright
	d := t - b.from
	if d < LevelTime {
		return
	}
	mean := (total - b.total) / int64(d/clock.Nanosecond)
	switch {
	case b.level == 0:
		b.level = mean
	case !l.changed(mean, b.level):
		b.doubted = 0
	case b.doubted > 0 && (!l.changed(mean, b.mean) || b.doubted == maxDoubts):
		l.step(i, mean)
		total -= b.cut
	default:
		b.doubted++
		b.since, b.cut, b.mean, b.by = b.from, b.total, mean, b.at
	}
	b.from, b.total, b.at, b.touched = t, total, at, false
}

// step begins a new spell, of another brightness, with the look that first saw it.
func (l *Emissive) step(i int, mean int64) {
	p := &l.lights[i]
	b := &p.bright
	old := p.spell
	old.total, old.until = b.cut, b.since
	if p.past = append(p.past, old); len(p.past) > maxPast {
		p.past = slices.Delete(p.past, 0, 1)
	}
	p.spell = spell{from: b.since, total: p.total - b.cut, slow: old.slow}
	b.level, b.doubted = mean, 0
	b.steps++
	l.queue.put(change{b.since, i, 1 + b.steps%1000, b.by})
}

// varies is told that the current of a light that is on has changed. A look begins there, so that a step of brightness
// is known to the edge.
func (l *Emissive) varies(i int, t clock.Time, at *machine.Place) {
	p := &l.lights[i]
	b := &p.bright
	if !b.varies {
		total := p.total + p.charge
		if d := t - b.from; b.level == 0 && d >= clock.Millisecond {
			b.level = (total - b.total) / int64(d/clock.Nanosecond)
		}
		b.varies, b.from, b.total, b.at = true, t, total, *at
	}
	b.touched = true
	l.check = min(l.check, b.from+LevelTime)
}

// follow looks at a light without pauses whose current has changed, up to t, at moments that do not depend on when it
// is asked.
func (l *Emissive) follow(i int, t clock.Time) {
	p := &l.lights[i]
	b := &p.bright
	for end := b.from + LevelTime; end <= t; end = b.from + LevelTime {
		if end > p.since {
			p.collect(end)
		}
		charge := p.charge - p.current*int64((p.since-end)/clock.Nanosecond) // what came later is added up already
		quiet := !b.touched
		l.sample(i, end, p.total+charge, p.startAt)
		if quiet && b.doubted == 0 {
			b.varies = false
			return
		}
	}
	l.check = min(l.check, b.from+LevelTime)
}
