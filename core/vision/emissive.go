package vision

import (
	"math/bits"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// Emissive watches a display made of lights: lamps and segments.
type Emissive struct {
	nominal int64 // nA at full brightness
	lights  []light
	queue   queue // changes of perceived lights
	settler *settler
	frames  []display.Frame
	check   clock.Time // when some light must be looked at again
	scan    scan
	even    int // evenness at worst so far, in percent
	looks   []look
	glimpse display.State // as it was given last; without lights before the first
	wave    wave
}

// light is what vision knows of one light. A pulse is a time of current; it is visible when its
// charge, spread over the time to the next pulse or over Window, reaches Visible. Visible pulses in
// quick succession are one perceived light.
type light struct {
	known
	past []spell // the perceived lights before, as far back as a picture may still ask
}

// known is what vision knows of a light now.
type known struct {
	current int64 // nA
	since   clock.Time
	charge  int64 // of the pulse under way, nA·ns
	shed    int64 // of all pulses so far, nA·ns; it wraps, only differences count

	on         bool       // a pulse is under way
	judged     bool       // it, or the one that ended last, is known to be visible or not
	inherited  bool       // it began as the tail of the neighbour's pattern
	pattern    clock.Time // how long that was on
	ghost      ghost
	start, end clock.Time
	startAt    machine.Place
	endAt      machine.Place

	seen      bool // perceived as lit
	lastStart clock.Time
	lastEnd   clock.Time
	lastEndAt machine.Place
	open      bool // the visible pulse seen last is still under way
	spell
	bright brightness
}

// spell is one stretch for which a light was perceived, at one brightness.
type spell struct {
	from  clock.Time
	total int64 // charge of its pulses, nA·ns
	until clock.Time
	slow  int // successive periods above SteadyPeriod
}

// ghost is the latest stretch for which a light showed ghosts.
type ghost struct {
	from, to clock.Time // its first and its last pulse
	level    int64      // nA, their mean
}

// add adds a ghost's pulse that comes back after cycle.
func (g *ghost) add(t clock.Time, charge int64, cycle clock.Time) {
	if g.level == 0 || t-g.to > FlickerPeriod {
		g.from, g.level = t, 1
	}
	// The last one of a stretch has no next to tell its cycle by.
	g.to, g.level = t, max(g.level, charge/int64(max(cycle, clock.Microsecond)/clock.Nanosecond))
}

// maxPast is how many spells fit between the present and the last accepted picture: they are at
// least Settle apart.
const maxPast = 16

// seenBy reports whether a pulse of a charge in nA·ns is visible when it lasted for on and the next one
// came, or the present is, after cycle.
func seenBy(charge int64, on, cycle clock.Time) bool {
	return charge > 0 && charge >= Visible*int64(max(on, min(cycle, Window))/clock.Nanosecond)
}

// horizon is how long after a moment it is known whether a light began or ended then.
const horizon = FlickerPeriod + Window

// NewEmissive watches lights whose full brightness is at nominal nA; digits tells of each light which
// digit it belongs to, -1 for none.
func NewEmissive(digits []int, nominal int64) *Emissive {
	n := len(digits)
	l := &Emissive{nominal: nominal, lights: make([]light, n), check: clock.Never, scan: newScan(digits), even: 100}
	l.settler = newSettler(n, l.accept)
	return l
}

// Set changes the current through one light, in nA.
func (l *Emissive) Set(t clock.Time, i int, current int64, at *machine.Place) {
	if t >= l.check {
		l.advance(t)
	}
	if current < Visible { // it can never come to a visible mean
		current = 0
	}
	p := &l.lights[i]
	p.collect(t)
	was := p.current
	p.current = current
	switch {
	case current > 0 && p.on && p.judged && p.open && current != was:
		l.varies(i, t, at)
	case current > 0 && !p.on:
		l.judgeEnded(i, t)
		p.on, p.judged, p.charge, p.start, p.startAt = true, false, 0, t, *at
		p.inherited, p.pattern = l.scan.begin(l.lights, i, t)
		l.check = min(l.check, t+Window)
	case current <= 0 && p.on:
		p.on, p.end, p.endAt = false, t, *at
		if p.judged && p.open {
			p.open, p.lastEnd, p.lastEndAt = false, t, *at
			p.total += p.charge
		}
		l.check = min(l.check, t+Window)
	}
}

// collect adds up the charge since the last change.
func (p *light) collect(t clock.Time) {
	if d := t - p.since; p.current > 0 {
		var more int64
		if d < clock.Millisecond {
			more = p.current * int64(d) / 1000
		} else {
			more = p.current * int64(d/clock.Nanosecond)
		}
		p.charge += more
		p.shed += more
	}
	p.since = t
}

// judgeEnded decides whether the pulse that ended last was visible, now that the next begins at t
// or none came within Window.
func (l *Emissive) judgeEnded(i int, t clock.Time) {
	p := &l.lights[i]
	if p.judged || p.end == 0 && p.start == 0 && p.charge == 0 {
		return
	}
	p.judged = true
	if p.inherited && l.scan.ghost(i, p.end-p.start, t-p.start, p.pattern) {
		p.ghost.add(p.start, p.charge, min(t-p.start, FlickerPeriod))
		return
	}
	if seenBy(p.charge, p.end-p.start, t-p.start) {
		l.visible(i)
		p.open, p.lastEnd, p.lastEndAt = false, p.end, p.endAt
		p.total += p.charge
	}
}

// visible joins a pulse that can be seen to the light seen before it, or begins a new one.
func (l *Emissive) visible(i int) {
	p := &l.lights[i]
	if p.seen {
		period := p.start - p.lastStart
		if p.start-p.lastEnd <= Settle || period <= FlickerPeriod {
			if period > SteadyPeriod && p.lastEnd-p.lastStart < Settle {
				p.slow++
			} else {
				p.slow = 0
			}
			l.sample(i, p.start, p.total, p.startAt)
			p.lastStart, p.open = p.start, true
			return
		}
		l.queue.put(change{p.lastEnd, i, 0, p.lastEndAt})
	}
	if p.seen || p.until > 0 {
		p.spell.until = p.lastEnd
		if p.past = append(p.past, p.spell); len(p.past) > maxPast {
			p.past = slices.Delete(p.past, 0, 1)
		}
	}
	p.seen, p.spell, p.bright = true, spell{from: p.start}, brightness{from: p.start, at: p.startAt}
	p.lastStart, p.open = p.start, true
	l.queue.put(change{p.start, i, 1, p.startAt})
}

// advance judges what can be judged by the moment t.
func (l *Emissive) advance(t clock.Time) {
	l.check = clock.Never
	for i := range l.lights {
		p := &l.lights[i]
		switch {
		case p.on && !p.judged:
			p.collect(t)
			if t-p.start >= Window && seenBy(p.charge, t-p.start, Window) {
				p.judged = true
				pulsed := p.seen
				l.visible(i)
				if pulsed { // from now on no pulse tells how bright it is
					p.bright.varies, p.bright.touched = true, true
				}
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
		if p.seen && p.open && p.bright.varies {
			l.follow(i, t)
		}
		if p.seen && !p.open {
			if gone := max(p.lastEnd+Settle, p.lastStart+FlickerPeriod); t > gone+Window {
				l.queue.put(change{p.lastEnd, i, 0, p.lastEndAt})
				p.seen, p.until = false, p.lastEnd
			} else {
				l.check = min(l.check, gone+Window+1)
			}
		}
	}
	l.settler.settle = Settle
	for i := range l.lights {
		if l.lights[i].slow > 0 { // a scan this slow takes longer to bring a new picture
			l.settler.settle = FlickerPeriod
		}
	}
	l.queue.release(t-2*horizon, l.settler)
	if len(l.queue) > 0 {
		l.check = min(l.check, l.queue[0].t+2*horizon+1)
	}
}

// state is what a picture looks like, as far as its lights' brightness is known now. even is the brightness
// of the dimmest lit digit in percent of the brightest's.
func (l *Emissive) state(p picture) (s display.State, even int) {
	level, flicker := make([]int64, len(p.cells)), false
	for i, c := range p.cells {
		if c == 0 {
			continue
		}
		now := l.lights[i].at(p.from)
		level[i] = now.level()
		flicker = flicker || now.slow >= 3
	}
	s, even = l.graded(level)
	s.Flicker = flicker
	for i := range level {
		// A ghost is drawn with what a person sees of it, and is never lit.
		if g := l.lights[i].ghost; level[i] == 0 && g.level >= Visible && g.to >= p.from && g.from < p.to-Settle {
			s.Lights[i], s.Levels[i] = display.Dim, int(min(255, max(1, g.level*255/l.nominal)))
		}
	}
	return s, even
}

// graded is what lights of these mean currents in nA look like beside each other: one far below the brightest of its
// digit, or a digit far below the brightest one, is dim.
func (l *Emissive) graded(level []int64) (s display.State, even int) {
	s = display.State{Lights: make(display.Lights, len(level)), Levels: make([]int, len(level))}
	brightest := make([]int64, l.scan.digits) // of each digit
	most := int64(0)
	for i, v := range level {
		if d := l.scan.of[i]; d != alone {
			brightest[d] = max(brightest[d], v)
			most = max(most, v)
		}
	}
	for i, v := range level {
		if v == 0 {
			continue
		}
		s.Levels[i] = int(min(255, max(1, v*255/l.nominal)))
		s.Lights[i] = display.Lit
		if l.scan.of[i] == alone {
			continue
		}
		if d := brightest[l.scan.of[i]]; v*100 < d*LitFraction || d*100 < most*DigitFraction {
			s.Lights[i] = display.Dim
		}
	}
	even = 100
	for _, b := range brightest {
		if b*100 >= most*DigitFraction && most > 0 {
			even = min(even, int(b*100/most))
			s.Uneven = s.Uneven || b*100 < most*EvenFraction
		}
	}
	return s, even
}

// accept makes a frame of a picture.
func (l *Emissive) accept(p picture) {
	s, even := l.state(p)
	l.even = min(l.even, even)
	if n := len(l.frames); n > 1 && p.from-l.frames[n-1].From < Settle &&
		onlyDim(l.frames[n-1].State, l.frames[n-2].State, s) {
		l.frames = l.frames[:n-1]
	}
	if n := len(l.frames); n > 0 {
		l.frames[n-1].To = p.from
	}
	at := p.at
	l.frames = append(l.frames, display.Frame{From: p.from, State: s, At: &at})
}

// onlyDim reports whether what a short state has of its own, beside those before and after it, is too
// dim beside the rest to be noticed.
func onlyDim(short, before, after display.State) bool {
	return short.Lights.Bits()&^(before.Lights.Bits()|after.Lights.Bits()) == 0
}

// at gives the spell for which a light was perceived at the moment t, as far as it is known.
func (p *light) at(t clock.Time) spell {
	if p.from <= t || len(p.past) == 0 {
		now := p.spell
		if now.until = p.lastEnd; p.open {
			now.total += p.charge
			now.until = p.since
		}
		return now
	}
	for i := len(p.past) - 1; i > 0; i-- {
		if p.past[i].from <= t {
			return p.past[i]
		}
	}
	return p.past[0]
}

// level is the mean current in nA over a spell; of a single short pulse, over Window.
func (s spell) level() int64 {
	until := max(s.until, s.from+Window)
	return max(1, s.total/int64((until-s.from)/clock.Nanosecond))
}

// Now gives the state that vision is sure of by the moment t; everything is dark at first.
func (l *Emissive) Now(t clock.Time) display.State {
	l.advance(t)
	if p, ok := l.settler.standing(t - 2*horizon); ok {
		s, _ := l.state(p)
		return s
	}
	if n := len(l.frames); n > 0 {
		return l.frames[n-1].State
	}
	return display.State{Lights: make(display.Lights, len(l.lights)), Levels: make([]int, len(l.lights))}
}

// Quality returns how well the display was scanned; nil for one that was not.
func (l *Emissive) Quality() *display.Quality {
	s := &l.scan
	if s.turns < minTurns {
		return nil
	}
	high, low := bits.Mul64(uint64(10*clock.Second), uint64(s.turns)) // beyond 64 bits after a million turns
	if uint64(s.turning) <= high {                                    // turns that took no time are none
		return nil
	}
	tenths, _ := bits.Div64(high, low, uint64(s.turning))
	q := &display.Quality{Refresh: float64(tenths) / 10, Evenness: l.even}
	if s.ghosts*minShare >= s.turns { // what came once and for all nobody saw
		q.Ghost = int((s.strength/s.ghosts + 5) / 10)
	}
	return q
}

// minTurns is how often the digits must have come round to speak of a scan, and minShare in how many of the turns at
// most there must be a ghost to speak of ghosts.
const (
	minTurns = 10
	minShare = 100
)

// Finish ends the run at t and gives the frames.
func (l *Emissive) Finish(t clock.Time) []display.Frame {
	for i := range l.lights {
		p := &l.lights[i]
		if p.seen && p.open && p.bright.varies {
			l.follow(i, t)
		}
		p.collect(t)
		if !p.judged && (p.on || p.charge > 0) {
			p.judged = true
			on := t - p.start
			if !p.on {
				on = p.end - p.start
			}
			if seenBy(p.charge, on, max(t-p.start, clock.Millisecond)) {
				l.visible(i)
				if !p.on {
					p.open, p.lastEnd, p.lastEndAt = false, p.end, p.endAt
					p.total += p.charge
				}
			}
		}
		if p.seen && !p.open && t > max(p.lastEnd+Settle, p.lastStart+FlickerPeriod) {
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
