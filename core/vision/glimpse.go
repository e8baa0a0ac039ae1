package vision

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
)

// A look is what had shone of each light by a moment, in nA·ns since power-on.
type look struct {
	t    clock.Time
	shed []int64
}

// maxLooks bounds how far back a glimpse may reach: at a look every few milliseconds, further than FlickerPeriod.
const maxLooks = 32

// shedBy is what a light gave by the moment t, which is not before its last change.
func (p *light) shedBy(t clock.Time) int64 {
	return p.shed + p.current*int64((t-p.since)/clock.Nanosecond)
}

// span is how long the light of a display is added up for a glimpse: Window, or a whole turn of its scan.
func (l *Emissive) span() clock.Time {
	long := Window
	for _, at := range l.scan.starts {
		if period := at[0] - at[1]; at[1] >= 0 && period <= FlickerPeriod {
			long = max(long, period)
		}
	}
	return long
}

// Glimpse is what a hand at the bench sees: the light of the last moments, with the same thresholds, where something
// came on or went out that Now is not sure of yet. It looks back to earlier glimpses; asked seldom, or of a light that
// flickers, it gives what is sure.
func (l *Emissive) Glimpse(t clock.Time) display.State {
	sure := l.Now(t)
	var before *look
	long := l.span()
	for i := range l.looks {
		if t-l.looks[i].t >= long {
			before = &l.looks[i]
		}
	}
	if n := len(l.looks); n == 0 || t-l.looks[n-1].t >= 2*clock.Millisecond {
		now := look{t: t, shed: make([]int64, len(l.lights))}
		for i := range l.lights {
			now.shed[i] = l.lights[i].shedBy(t)
		}
		if l.looks = append(l.looks, now); n == maxLooks {
			l.looks = l.looks[1:]
		}
	}
	if before == nil || t-before.t > max(long, LevelTime)+Window || sure.Flicker {
		return sure
	}
	mean := make([]int64, len(l.lights))
	for i := range l.lights {
		if m := (l.lights[i].shedBy(t) - before.shed[i]) / int64((t-before.t)/clock.Nanosecond); m >= Visible {
			mean[i] = m
		}
	}
	seen, _ := l.graded(mean)
	for i, was := range sure.Lights {
		if seen.Lights[i] == display.Dim && was != display.Dim { // it fades, or comes: in a moment it is sure
			seen.Lights[i], seen.Levels[i] = display.Dark, 0
		}
	}
	switch {
	case sameLit(seen, sure):
		return sure
	case len(l.glimpse.Lights) == 0 || !sameLit(seen, l.glimpse) || l.brighter(seen, l.glimpse):
		l.glimpse = seen
	}
	return l.glimpse
}

func sameLit(a, b display.State) bool {
	return slices.EqualFunc(a.Lights, b.Lights, func(a, b display.Light) bool {
		return (a == display.Lit) == (b == display.Lit)
	})
}

// brighter reports whether a person notices that some light of a is brighter than in b.
func (l *Emissive) brighter(a, b display.State) bool {
	for i, v := range a.Levels {
		if v > b.Levels[i] && l.changed(int64(v)*l.nominal/255, int64(b.Levels[i])*l.nominal/255) {
			return true
		}
	}
	return false
}

// Glimpse is what a hand at the bench sees: contents that have just come, and stay for longer than vision adds up, are
// there at once. Now is sure of them much later.
func (s *LCD) Glimpse(t clock.Time) display.State {
	state := s.Now(t)
	if s.glimpsed == nil {
		s.glimpsed = make([]uint16, len(s.cells))
	}
	for i, c := range s.cells {
		if t-c.since >= Window {
			s.glimpsed[i] = c.value
		}
	}
	seen := s.state(s.glimpsed)
	for i, c := range state.Cells {
		if c&display.WashedOut != 0 { // it is never there for long
			seen.Cells[i] = c
		}
	}
	state.Cells, state.Pixels = seen.Cells, seen.Pixels
	return state
}
