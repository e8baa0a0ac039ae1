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
	rises  int64      // of the tone under way
	first  clock.Time // its first rise ...
	last   clock.Time // ... and the latest
	period clock.Time // the mean so far
	odd    int        // periods in a row that do not fit
	oddAt  clock.Time // where those began
	place  machine.Place
	oddBy  machine.Place
	toneAt machine.Place
}

// The numbers of a person's hearing.
const (
	// Rest is the longest period that is heard as a tone: 20 Hz.
	Rest = 50 * clock.Millisecond
	// PitchShare is how far a period may be off before it is another tone: a third of a semitone.
	PitchShare = 2 // percent
	// strays is how many periods in a row make another tone.
	strays = 3
)

// NewEar hears silence.
func NewEar() *Ear { return &Ear{frames: []reel.Frame{{}}} }

// Move pushes the membrane or lets it go.
func (e *Ear) Move(t clock.Time, pushed bool, at machine.Place) {
	if pushed == e.pushed {
		return
	}
	if e.pushed = pushed; !pushed {
		return
	}
	if e.rises > 0 && t-e.last > Rest {
		e.end(e.last + e.period)
	}
	if e.rises == 0 {
		e.rises, e.first, e.last, e.period, e.odd, e.toneAt = 1, t, t, 0, 0, at
		return
	}
	p := t - e.last
	if e.rises >= strays && (p-e.period)*100 > e.period*PitchShare || e.rises >= strays && (e.period-p)*100 > e.period*PitchShare {
		if e.odd++; e.odd == 1 {
			e.oddAt, e.oddBy = e.last, at
		}
		if e.odd == strays { // a new tone since the first of them
			e.end(e.oddAt)
			e.rises, e.first, e.period, e.toneAt = strays+1, e.oddAt, (t-e.oddAt)/strays, e.oddBy
			e.odd = 0
		}
		e.last = t
		return
	}
	e.odd = 0
	e.rises++
	e.last = t
	e.period = (t - e.first) / clock.Time(e.rises-1)
}

// Tone is a sounder that makes its own pitch in Hz, 0 for silence.
func (e *Ear) Tone(t clock.Time, hz int, at machine.Place) { e.frame(t, hz, at) }

// end closes the tone under way.
func (e *Ear) end(t clock.Time) {
	if e.rises >= strays && e.period > 0 {
		e.frame(e.first, pitch(e.period), e.toneAt)
		e.frame(t, 0, e.place)
	}
	e.rises, e.period, e.odd = 0, 0, 0
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
