package vision

import "hemble/core/clock"

// Light that comes and goes the same way again and again, as by PWM, is a wave. Once a period of it has left all that
// vision knows as it was, but for times that went on by the period and sums that grew, the next one does the same: no
// decision is about anything but how far times lie apart. That ends where something is looked at that lasts longer. Who
// carries out each period gets the same pictures.

// wave is how everything was before a period.
type wave struct {
	lights []known
	past   []int
	starts [][2]clock.Time
	scan   scan
	check  clock.Time
	queued int
}

// Remember notes how everything is.
func (l *Emissive) Remember() {
	w := &l.wave
	w.lights, w.past = w.lights[:0], w.past[:0]
	for i := range l.lights {
		w.lights, w.past = append(w.lights, l.lights[i].known), append(w.past, len(l.lights[i].past))
	}
	w.starts = append(w.starts[:0], l.scan.starts...)
	w.scan, w.check, w.queued = l.scan, l.check, len(l.queue)
}

// Repeats is how many more periods, at most so many, would leave all but times and sums as it is, after one that ended
// with a change at t.
func (l *Emissive) Repeats(t, period clock.Time, most int64) int64 {
	w := &l.wave
	if l.check != w.check || len(l.queue) != w.queued || l.scan.now != w.scan.now {
		return 0
	}
	for d, now := range l.scan.starts {
		if was := w.starts[d]; now != was && now != [2]clock.Time{was[0] + period, was[1] + period} {
			return 0
		}
	}
	until := l.check
	for i := range l.lights {
		p, was := &l.lights[i], &w.lights[i]
		same, moved := p.goesOn(was, period)
		if !same || len(p.past) != w.past[i] {
			return 0
		}
		if l.scan.digits > 1 && !moved && (p.on || p.end > 0 && p.end+handover >= t-period) { // may seem to hand on
			return 0
		}
		if p.seen && moved {
			until = min(until, p.bright.from+LevelTime)
		}
	}
	return max(0, min(most, int64((until-1-t)/period)))
}

// goesOn reports whether a light is as it was a period before, and whether it came on and went off meanwhile.
func (p *known) goesOn(was *known, period clock.Time) (same, moved bool) {
	then := *was
	move := func(t *clock.Time, now clock.Time) {
		if now == *t+period {
			*t = now
		}
	}
	move(&then.since, p.since)
	move(&then.start, p.start)
	move(&then.end, p.end)
	move(&then.lastStart, p.lastStart)
	move(&then.lastEnd, p.lastEnd)
	move(&then.ghost.to, p.ghost.to)
	then.shed, then.total = p.shed, p.total
	return then == *p, p.start != was.start && p.end != was.end
}

// Repeat lets periods pass, after Repeats allowed them.
func (l *Emissive) Repeat(times int64, period clock.Time) {
	w := &l.wave
	for i := range l.lights {
		p, was := &l.lights[i].known, &w.lights[i]
		on := func(t *clock.Time, was clock.Time) {
			if *t != was {
				*t += clock.Time(times) * period
			}
		}
		on(&p.since, was.since)
		on(&p.start, was.start)
		on(&p.end, was.end)
		on(&p.lastStart, was.lastStart)
		on(&p.lastEnd, was.lastEnd)
		on(&p.ghost.to, was.ghost.to)
		p.shed += times * (p.shed - was.shed)
		p.total += times * (p.total - was.total)
	}
	s := &l.scan
	for d := range s.starts {
		if s.starts[d] != w.starts[d] {
			s.starts[d][0] += clock.Time(times) * period
			s.starts[d][1] += clock.Time(times) * period
		}
	}
	s.turns += times * (s.turns - w.scan.turns)
	s.turning += times * (s.turning - w.scan.turning)
	s.ghosts += times * (s.ghosts - w.scan.ghosts)
	s.strength += times * (s.strength - w.scan.strength)
}
