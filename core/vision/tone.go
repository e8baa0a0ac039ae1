package vision

import (
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// Tone listens to a membrane that is pushed and let go. A tone is heard from its first period on; it
// ends when the membrane rests for longer than two of its periods, or changes its pitch by more than PitchShare. One
// that is shorter than Shortest is a click, and none.
type Tones struct {
	frames []display.Frame
	pushed bool
	tone              // under way
	last   clock.Time // the latest rise
	lastBy machine.Place
	odd    int        // periods in a row that do not fit the tone
	oddAt  clock.Time // where those began
	oddBy  machine.Place
	next   tone          // what they may be the beginning of: those at the end that agree with each other
	place  machine.Place // of the latest move
}

// tone is some periods of the membrane at one pitch.
type tone struct {
	from    clock.Time // its first rise
	by      machine.Place
	begun   bool
	periods int64
	sum     clock.Time // of those periods, and no others: neither gaps nor strays
}

// period is the mean so far.
func (n *tone) period() clock.Time { return n.sum / clock.Time(max(1, n.periods)) }

// add adds a period.
func (n *tone) add(p clock.Time) {
	n.periods++
	n.sum += p
}

// heard reports whether there are enough periods to have a pitch.
func (n *tone) heard() bool { return n.periods >= strays-1 }

func (n *tone) near(p clock.Time) bool {
	m := n.period()
	return max(p-m, m-p)*100 <= m*PitchFraction
}

// The numbers of a person's hearing.
const (
	// Rest is the longest period that is heard as a tone: 20 Hz.
	Rest = 50 * clock.Millisecond
	// Shortest is the shortest tone that has a pitch: below some 10 ms a tone burst is heard as a click, whatever its
	// frequency (Doughty and Garner, J. Exp. Psychol. 37, 1947).
	Shortest = 10 * clock.Millisecond
	// PitchFraction is how far a period may be off before it is another tone: a third of a semitone.
	PitchFraction = 2 // percent
	// strays is how many rises make a tone, and how many periods in a row that agree another one; noise how many that
	// do not agree end one.
	strays = 3
	noise  = 12
)

// NewTones hears silence.
func NewTones() *Tones { return &Tones{frames: []display.Frame{{}}} }

// Move pushes the membrane or lets it go.
func (e *Tones) Move(t clock.Time, pushed bool, at machine.Place) {
	if pushed == e.pushed {
		return
	}
	e.place = at
	if e.pushed = pushed; !pushed {
		return
	}
	p := t - e.last
	switch {
	case !e.begun:
		e.start(t, at)
	case p > Rest || e.heard() && p > 2*e.period():
		e.end(e.last + e.period())
		e.start(t, at)
	case e.periods == 0 || e.near(p):
		e.odd, e.next = 0, tone{}
		e.add(p)
	case !e.heard(): // not yet a tone: it may begin here
		e.tone = tone{from: e.last, by: e.lastBy, begun: true}
		e.add(p)
	default:
		e.stray(p)
	}
	e.last, e.lastBy = t, at
}

// start begins a tone with its first rise.
func (e *Tones) start(t clock.Time, at machine.Place) { e.tone = tone{from: t, by: at, begun: true} }

// stray is a period that does not fit the tone under way. Once some agree with each other they are another
// one, which is heard since the first that did not fit.
func (e *Tones) stray(p clock.Time) {
	if e.odd++; e.odd == 1 {
		e.oddAt, e.oddBy = e.last, e.lastBy
	}
	if !e.next.begun || !e.next.near(p) {
		e.next = tone{from: e.oddAt, by: e.oddBy, begun: true}
	}
	e.next.add(p)
	switch {
	case e.next.periods >= strays:
		next := e.next
		e.end(e.oddAt)
		e.tone = next
	case e.odd == noise:
		e.end(e.oddAt)
	}
}

// Tone is a sounder that makes its own pitch in Hz, 0 for silence.
func (e *Tones) Tone(t clock.Time, hz int, at machine.Place) { e.frame(t, hz, at) }

// end closes the tone under way.
func (e *Tones) end(t clock.Time) {
	if e.heard() {
		e.frame(e.from, pitch(e.period()), e.by)
		e.frame(t, 0, e.place)
	}
	e.tone, e.next, e.odd = tone{}, tone{}, 0
}

// frame begins a frame of a pitch; a tone before it that was too short to be one is forgotten.
func (e *Tones) frame(t clock.Time, pitch int, at machine.Place) {
	n := len(e.frames) - 1
	if n > 0 && e.frames[n].State.Pitch > 0 && t-e.frames[n].From < Shortest && pitch != e.frames[n].State.Pitch {
		e.frames = e.frames[:n]
		n--
	}
	if e.frames[n].From == t || e.frames[n].State.Pitch == pitch || pitch > 0 && e.frames[n].State.Pitch == 0 &&
		t-e.frames[n].From < Settle && n > 0 {
		if n > 0 && e.frames[n-1].State.Pitch == pitch { // the same tone continues
			e.frames = e.frames[:n]
			return
		}
		e.frames[n].State.Pitch, e.frames[n].At = pitch, &at
		return
	}
	e.frames[n].To = t
	e.frames = append(e.frames, display.Frame{From: t, State: display.State{Pitch: pitch}, At: &at})
}

// Now gives what is heard.
func (e *Tones) Now(t clock.Time) display.State {
	if e.heard() && t-e.last <= min(Rest, 2*e.period()) {
		return display.State{Pitch: pitch(e.period())}
	}
	if e.begun {
		return display.State{}
	}
	return e.frames[len(e.frames)-1].State
}

// pitch is that of a period, in Hz.
func pitch(period clock.Time) int {
	return int((int64(clock.Second) + int64(period)/2) / int64(period))
}

// Finish ends the run at t and gives the frames.
func (e *Tones) Finish(t clock.Time) []display.Frame {
	if e.begun {
		e.end(min(t, e.last+e.period()))
	}
	if n := len(e.frames); n > 1 && e.frames[n-1].From >= t {
		e.frames = e.frames[:n-1]
	}
	e.frames[len(e.frames)-1].To = t
	return e.frames
}
