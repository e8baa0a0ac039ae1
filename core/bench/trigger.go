package bench

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/part"
	"hemble/core/reel"
)

// glance is how often the displays are looked at while a cue waits for one. What is seen then is what the eye is sure
// of, about a sixth of a second behind: the same in every run.
const glance = 5 * clock.Millisecond

// waiting is a cue that waits for a display.
type waiting struct {
	cue    exercise.Cue
	number int // in the trial
	part   *fitted
	track  int // 1 for its backlight
	armed  clock.Time
}

// schedule puts the cues of a trial into the events, or keeps those that wait.
func (b *Bench) schedule(cues []exercise.Cue) {
	b.cues, b.started = cues, make([]clock.Time, len(cues))
	for i, c := range cues {
		b.started[i] = -1
		switch {
		case c.When != nil:
			name, track := c.When.Display, 0
			k := slices.IndexFunc(b.parts, func(f *fitted) bool { return f.built.Name == name || f.built.Name+part.BacklightSuffix == name })
			if b.parts[k].built.Name != name {
				track = 1
			}
			b.waiting = append(b.waiting, &waiting{cue: c, number: i, part: b.parts[k], track: track, armed: -1})
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
	t := w.part.live(now)[w.track]
	if t.Look.Form != reel.FormLines {
		return w.cue.When.Shows.Matches(&t, t.Frames[0].Sight)
	}
	return slices.ContainsFunc(t.Frames, func(f reel.Frame) bool {
		return f.From >= w.armed && w.cue.When.Shows.Matches(&t, f.Sight)
	})
}
