package eye

import (
	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Lights watches a display made of lights: lamps and segments.
type Lights struct {
	nominal int64 // nA at full brightness
	lights  []light
	queue   queue // changes of perceived lights
	settler *settler
	frames  []reel.Frame
	check   clock.Time // when some light must be looked at again
}

// light is what the eye knows of one light. A pulse is a time of current; it is visible when its
// charge, spread over the time to the next pulse or over Window, reaches Visible. Visible pulses in
// quick succession are one perceived light.
type light struct {
	current int64 // nA
	since   clock.Time
	charge  int64 // of the pulse under way, nA·ns

	on         bool // a pulse is under way
	judged     bool // it, or the one that ended last, is known to be visible or not
	start, end clock.Time
	startAt    machine.Place
	endAt      machine.Place

	seen      bool // perceived as lit
	lastStart clock.Time
	lastEnd   clock.Time
	lastEndAt machine.Place
	open      bool  // the visible pulse seen last is still under way
	total     int64 // charge of the perceived light so far, nA·ns
	from      clock.Time
	slow      int // successive periods above SteadyPeriod
}

// threshold is the charge in nA·ns that makes a single pulse visible.
const threshold = Visible * int64(Window/clock.Nanosecond)

// horizon is how long after a moment it is known whether a light began or ended then.
const horizon = FlickerPeriod + Window

// NewLights watches n lights whose full brightness is at nominal nA.
func NewLights(n int, nominal int64) *Lights {
	l := &Lights{nominal: nominal, lights: make([]light, n), check: clock.Never}
	l.settler = newSettler(n, l.accept)
	return l
}

// Set changes the current through one light, in nA.
func (l *Lights) Set(t clock.Time, i int, current int64, at machine.Place) {
	if t >= l.check {
		l.advance(t)
	}
	p := &l.lights[i]
	p.collect(t)
	p.current = current
	switch {
	case current > 0 && !p.on:
		l.judgeEnded(i, t)
		p.on, p.judged, p.charge, p.start, p.startAt = true, false, 0, t, at
		l.check = min(l.check, t+Window)
	case current <= 0 && p.on:
		p.on, p.end, p.endAt = false, t, at
		if p.judged && p.open {
			p.open, p.lastEnd, p.lastEndAt = false, t, at
			p.total += p.charge
		}
		l.check = min(l.check, t+Window)
	}
}

// collect adds up the charge since the last change.
func (p *light) collect(t clock.Time) {
	if d := t - p.since; p.current > 0 {
		if d < clock.Millisecond {
			p.charge += p.current * int64(d) / 1000
		} else {
			p.charge += p.current * int64(d/clock.Nanosecond)
		}
	}
	p.since = t
}

// judgeEnded decides whether the pulse that ended last was visible, now that the next begins at t
// or none came within Window.
func (l *Lights) judgeEnded(i int, t clock.Time) {
	p := &l.lights[i]
	if p.judged || p.end == 0 && p.start == 0 && p.charge == 0 {
		return
	}
	p.judged = true
	cycle := min(t-p.start, Window)
	if p.charge >= Visible*int64(cycle/clock.Nanosecond) && p.charge > 0 {
		l.visible(i)
		p.open, p.lastEnd, p.lastEndAt = false, p.end, p.endAt
		p.total += p.charge
	}
}

// visible joins a pulse that can be seen to the light seen before it, or begins a new one.
func (l *Lights) visible(i int) {
	p := &l.lights[i]
	if p.seen {
		period := p.start - p.lastStart
		if p.start-p.lastEnd <= Settle || period <= FlickerPeriod {
			if period > SteadyPeriod && p.lastEnd-p.lastStart < Settle {
				p.slow++
			} else {
				p.slow = 0
			}
			p.lastStart, p.open = p.start, true
			return
		}
		l.queue.put(change{p.lastEnd, i, 0, p.lastEndAt})
	}
	p.seen, p.from, p.total, p.slow = true, p.start, 0, 0
	p.lastStart, p.open = p.start, true
	l.queue.put(change{p.start, i, 1, p.startAt})
}

// advance judges what can be judged by the moment t.
func (l *Lights) advance(t clock.Time) {
	l.check = clock.Never
	for i := range l.lights {
		p := &l.lights[i]
		switch {
		case p.on && !p.judged:
			p.collect(t)
			if p.charge >= threshold {
				p.judged = true
				l.visible(i)
			} else {
				l.check = min(l.check, t+clock.Millisecond)
			}
		case !p.on && !p.judged:
			if t-p.start >= Window {
				l.judgeEnded(i, t)
			} else {
				l.check = min(l.check, p.start+Window)
			}
		}
		if p.seen && !p.open {
			if gone := max(p.lastEnd+Settle, p.lastStart+FlickerPeriod); t > gone+Window {
				l.queue.put(change{p.lastEnd, i, 0, p.lastEndAt})
				p.seen = false
			} else {
				l.check = min(l.check, gone+Window+1)
			}
		}
	}
	l.queue.release(t-2*horizon, l.settler)
	if len(l.queue) > 0 {
		l.check = min(l.check, l.queue[0].t+2*horizon+1)
	}
}

// accept makes a frame of a picture.
func (l *Lights) accept(p picture) {
	s := reel.Sight{Lights: make(reel.Lights, len(p.cells)), Levels: make([]int, len(p.cells))}
	brightest := int64(0)
	level := make([]int64, len(p.cells))
	for i, c := range p.cells {
		if c == 0 {
			continue
		}
		level[i] = l.lights[i].level(p.from)
		brightest = max(brightest, level[i])
	}
	for i := range level {
		if level[i] == 0 {
			continue
		}
		s.Levels[i] = int(min(255, max(1, level[i]*255/l.nominal)))
		s.Lights[i] = reel.Lit
		if level[i]*100 < brightest*LitShare {
			s.Lights[i] = reel.Dim
		}
		s.Flicker = s.Flicker || l.lights[i].slow >= 3
	}
	if n := len(l.frames); n > 0 {
		l.frames[n-1].To = p.from
	}
	at := p.at
	l.frames = append(l.frames, reel.Frame{From: p.from, Sight: s, At: &at})
}

// level is a light's mean current in nA since it was first seen.
func (p *light) level(clock.Time) int64 {
	total, until := p.total, p.lastEnd
	if p.open {
		total += p.charge
		until = p.since
	}
	if p.slow > 0 || until < p.from+Window { // repeated light: dark times count
		until = max(until, p.from+Window)
	}
	return max(1, total/max(1, int64((until-p.from)/clock.Nanosecond)))
}

// Finish ends the run at t and gives the frames.
func (l *Lights) Finish(t clock.Time) []reel.Frame {
	for i := range l.lights {
		p := &l.lights[i]
		p.collect(t)
		if !p.judged && (p.on || p.charge > 0) {
			p.judged = true
			if p.charge >= Visible*int64(min(max(t-p.start, clock.Millisecond), Window)/clock.Nanosecond) {
				l.visible(i)
				if !p.on {
					p.open, p.lastEnd, p.lastEndAt = false, p.end, p.endAt
					p.total += p.charge
				}
			}
		}
		if p.seen && !p.open && t-p.lastEnd > Settle {
			l.queue.put(change{p.lastEnd, i, 0, p.lastEndAt})
		}
	}
	l.queue.release(t+1, l.settler)
	l.settler.finish(t)
	if n := len(l.frames); n > 0 {
		l.frames[n-1].To = t
	}
	return l.frames
}
