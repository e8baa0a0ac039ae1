package eye

import (
	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Ear listens to a membrane that is pushed and let go. A tone is heard from its first period on; it
// ends when the membrane rests for longer than Rest, or changes its pitch by more than PitchShare.
type Ear struct {
	frames []reel.Frame
	pushed bool
	tone              // under way
	last   clock.Time // the latest rise
	odd    int        // periods in a row that do not fit the tone
	oddAt  clock.Time // where those began
	oddBy  machine.Place
	next   tone          // what they may be the beginning of: those at the end that agree with each other
	place  machine.Place // of the latest move
}

// tone is some rises of the membrane at one pitch.
type tone struct {
	from   clock.Time // when it began to be heard
	by     machine.Place
	first  clock.Time // its first rise whose period counts
	rises  int64      // from that one on
	period clock.Time // the mean so far
}

// rise adds a rise at t.
func (n *tone) rise(t clock.Time) {
	n.rises++
	n.period = (t - n.first) / clock.Time(n.rises-1)
}

// fits tells whether a period is one of the tone's.
func (n *tone) fits(p clock.Time) bool {
	return n.rises < strays || n.near(p)
}

func (n *tone) near(p clock.Time) bool {
	return max(p-n.period, n.period-p)*100 <= n.period*PitchShare
}

// The numbers of a person's hearing.
const (
	// Rest is the longest period that is heard as a tone: 20 Hz.
	Rest = 50 * clock.Millisecond
	// PitchShare is how far a period may be off before it is another tone: a third of a semitone.
	PitchShare = 2 // percent
	// strays is how many periods in a row that agree make another tone, noise how many that do not end one.
	strays = 3
	noise  = 12
)

// NewEar hears silence.
func NewEar() *Ear { return &Ear{frames: []reel.Frame{{}}} }

// Move pushes the membrane or lets it go.
func (e *Ear) Move(t clock.Time, pushed bool, at machine.Place) {
	if pushed == e.pushed {
		return
	}
	e.place = at
	if e.pushed = pushed; !pushed {
		return
	}
	if e.rises > 0 && t-e.last > Rest {
		e.end(e.last + e.period)
	}
	p := t - e.last
	switch {
	case e.rises == 0:
		e.tone = tone{from: t, by: at, first: t, rises: 1}
	case e.fits(p):
		e.odd, e.next = 0, tone{}
		e.rise(t)
	default:
		e.stray(t, p, at)
	}
	e.last = t
}

// stray is a period that does not fit the tone under way. Once some agree with each other they are another
// one, which is heard since the first that did not fit.
func (e *Ear) stray(t, p clock.Time, at machine.Place) {
	if e.odd++; e.odd == 1 {
		e.oddAt, e.oddBy = e.last, at
	}
	if e.next.rises == 0 || !e.next.near(p) {
		e.next = tone{from: e.oddAt, by: e.oddBy, first: e.last, rises: 1}
	}
	e.next.rise(t)
	switch {
	case e.next.rises > strays:
		next := e.next
		e.end(e.oddAt)
		e.tone = next
	case e.odd == noise:
		e.end(e.oddAt)
	}
}

// Tone is a sounder that makes its own pitch in Hz, 0 for silence.
func (e *Ear) Tone(t clock.Time, hz int, at machine.Place) { e.frame(t, hz, at) }

// end closes the tone under way.
func (e *Ear) end(t clock.Time) {
	if e.rises >= strays && e.period > 0 {
		e.frame(e.from, pitch(e.period), e.by)
		e.frame(t, 0, e.place)
	}
	e.tone, e.next, e.odd = tone{}, tone{}, 0
}

func (e *Ear) frame(t clock.Time, pitch int, at machine.Place) {
	n := len(e.frames) - 1
	if e.frames[n].From == t || e.frames[n].Sight.Pitch == pitch || pitch > 0 && e.frames[n].Sight.Pitch == 0 && t-e.frames[n].From < Settle && n > 0 {
		if n > 0 && e.frames[n-1].Sight.Pitch == pitch { // the same tone goes on
			e.frames = e.frames[:n]
			return
		}
		e.frames[n].Sight.Pitch, e.frames[n].At = pitch, &at
		return
	}
	e.frames[n].To = t
	e.frames = append(e.frames, reel.Frame{From: t, Sight: reel.Sight{Pitch: pitch}, At: &at})
}

// Now gives what is heard.
func (e *Ear) Now(t clock.Time) reel.Sight {
	if e.rises >= strays && e.period > 0 && t-e.last <= Rest {
		return reel.Sight{Pitch: pitch(e.period)}
	}
	if e.rises > 0 {
		return reel.Sight{}
	}
	return e.frames[len(e.frames)-1].Sight
}

// pitch is that of a period, in Hz.
func pitch(period clock.Time) int {
	return int((int64(clock.Second) + int64(period)/2) / int64(period))
}

// Finish ends the run at t and gives the frames.
func (e *Ear) Finish(t clock.Time) []reel.Frame {
	if e.rises > 0 {
		e.end(min(t, e.last+e.period))
	}
	if n := len(e.frames); n > 1 && e.frames[n-1].From >= t {
		e.frames = e.frames[:n-1]
	}
	e.frames[len(e.frames)-1].To = t
	return e.frames
}
