package bench

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/part"
	"hemble/core/reel"
)

// glance is how often the displays are looked at while a cue waits for one. What is seen then is what vision is sure
// of, about a sixth of a second behind: the same in every run.
const glance = 5 * clock.Millisecond

// waiting is a cue that waits for a display.
type waiting struct {
	cue    exercise.Cue
	number int         // in the trial
	parts  []*instance // the display, or the members of the group
	group  *reel.Group // nil for a display
	track  int         // 1 for its backlight
	armed  clock.Time
	since  clock.Time // when a group came to show it; -1 for not yet
}

// schedule puts the cues of a trial into the events, or keeps those that wait.
func (b *Bench) schedule(cues []exercise.Cue) {
	b.cues, b.started = cues, make([]clock.Time, len(cues))
	for i, c := range cues {
		b.started[i] = -1
		switch {
		case c.When != nil:
			w := &waiting{cue: c, number: i, armed: -1, since: -1}
			for k := range b.exercise.Groups {
				if g := &b.exercise.Groups[k]; g.Name == c.When.Display {
					w.group = &g.Group
				}
			}
			for _, f := range b.parts {
				switch name := f.of.Name; {
				case name == c.When.Display, w.group != nil && slices.Contains(w.group.Of, name):
					w.parts = append(w.parts, f)
				case name+part.BacklightSuffix == c.When.Display:
					w.parts, w.track = append(w.parts, f), 1
				}
			}
			b.waiting = append(b.waiting, w)
		case c.After == nil:
			b.events.add(event{at: c.At, kind: eventCue, cue: c, number: i})
		}
	}
}

// begun is told that a cue of the trial begins: others may follow it.
func (b *Bench) begun(number int) {
	if number < 0 || number >= len(b.cues) {
		return
	}
	b.started[number] = b.now
	for i, c := range b.cues {
		if c.After == nil || c.After.Cue == "" || c.After.Cue != b.cues[number].Name || b.started[i] >= 0 {
			continue
		}
		at := b.now + c.After.By
		if c.After.End {
			at += b.cues[number].Moves()
		}
		b.events.add(event{at: at, kind: eventCue, cue: c, number: i})
	}
}

// look gives when the displays must be looked at next.
func (b *Bench) look() clock.Time {
	if len(b.waiting) == 0 {
		return clock.Never
	}
	return b.glanced + glance
}

// glanceAt looks whether a display shows what a cue waits for. A cue waits from the moment on when the one before it in
// the trial began.
func (b *Bench) glanceAt() {
	if len(b.waiting) == 0 || b.now < b.glanced+glance {
		return
	}
	b.glanced = b.now - b.now%glance
	b.waiting = slices.DeleteFunc(b.waiting, func(w *waiting) bool {
		if b.now > w.cue.When.Until {
			return true
		}
		if w.armed < 0 && (w.number == 0 || b.started[w.number-1] >= 0) {
			w.armed = b.now
		}
		if w.armed < 0 || !w.shows(b.now) {
			return false
		}
		b.events.add(event{at: b.now, kind: eventCue, cue: w.cue, number: w.number})
		return true
	})
}

func (w *waiting) shows(now clock.Time) bool {
	if w.group != nil {
		return w.gathered(now)
	}
	t := w.parts[0].live(now, sure)[w.track]
	if !t.Geometry.Type().Traits().Lines {
		return w.is(&t, t.Frames[0].State)
	}
	return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
		return f.From >= w.armed && w.is(&t, f.State)
	})
}

// is reports whether a state is what is waited for.
func (w *waiting) is(t *display.Track, s display.State) bool {
	ok, _ := w.cue.When.Shows.Match(t, s)
	return ok
}

// gathered reports whether the group shows what is waited for, and for long enough to be no mixture.
func (w *waiting) gathered(now clock.Time) bool {
	var r reel.Reel
	for _, f := range w.parts {
		r.Tracks = append(r.Tracks, f.live(now, sure)...)
	}
	t, ok := r.Gather(*w.group)
	if !ok || !w.is(&t, t.Frames[len(t.Frames)-1].State) {
		w.since = -1
		return false
	}
	if w.since < 0 {
		w.since = now
	}
	return now-w.since >= display.Mixture
}
