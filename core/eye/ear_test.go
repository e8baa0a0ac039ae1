package eye

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/reel"
)

// play drives a membrane at a pitch for a time, from a moment on.
func (e *Ear) play(from clock.Time, hz int64, length clock.Time) clock.Time {
	period := clock.Second / clock.Time(hz)
	for t := from; t < from+length; t += period {
		e.Move(t, true, machine.Place{})
		e.Move(t+period/2, false, machine.Place{})
	}
	return from + length
}

func pitches(frames []reel.Frame) (out []int) {
	for _, f := range frames {
		out = append(out, f.Sight.Pitch)
	}
	return out
}

func TestTones(t *testing.T) {
	e := NewEar()
	at := e.play(100*ms, 440, 500*ms)
	at = e.play(at, 880, 500*ms)
	frames := e.Finish(at + 300*ms)
	assert.Equal(t, []int{0, 440, 880, 0}, pitches(frames))
	assert.Equal(t, 100*ms, frames[1].From)
	assert.InDelta(t, float64(600*ms), float64(frames[2].From), float64(3*ms))
	assert.InDelta(t, float64(1100*ms), float64(frames[3].From), float64(2*ms))

	e = NewEar()
	e.play(0, 10, clock.Second)
	assert.Equal(t, []int{0}, pitches(e.Finish(clock.Second)), "10 Hz is clicks, no tone")
	e = NewEar()
	e.Move(ms, true, machine.Place{})
	assert.Equal(t, []int{0}, pitches(e.Finish(clock.Second)), "a level is silent")
	e = NewEar()
	e.Tone(ms, 2300, machine.Place{})
	assert.Equal(t, 2300, e.Now(2*ms).Pitch)
	e.Tone(500*ms, 0, machine.Place{})
	assert.Equal(t, []int{0, 2300, 0}, pitches(e.Finish(clock.Second)))
}

// A tone whose periods vary by under a third of a semitone is one.
func TestUnsteadyTone(t *testing.T) {
	e := NewEar()
	at := clock.Time(0)
	for i := 0; i < 500; i++ {
		period := clock.Millisecond * clock.Time(1000+i%3*5) / 1000
		e.Move(at, true, machine.Place{})
		e.Move(at+period/2, false, machine.Place{})
		at += period
	}
	assert.Equal(t, []int{995, 0}, pitches(e.Finish(at+clock.Second)))
	assert.Zero(t, e.Now(at+clock.Second).Pitch)
}

// A line that grows is one line, with what it read when it paused; one that is written over is another.
func TestGrowingLine(t *testing.T) {
	p := NewPage()
	p.Add(ms, "n", machine.Place{})
	p.Change(2*ms, "name?", machine.Place{})
	p.Change(500*ms, "name? o", machine.Place{})
	p.Change(501*ms, "name? oke", machine.Place{})
	assert.Equal(t, "name? oke", p.Recent(1)[0].Sight.Line)
	p.Add(600*ms, "level 10", machine.Place{})
	p.Change(601*ms, "level 9", machine.Place{}) // no eye could have read it
	p.Change(900*ms, "level 8", machine.Place{})
	frames := p.Finish(clock.Second)
	assert.Len(t, frames, 4)
	assert.Equal(t, []reel.Stage{{To: 500 * ms, Line: "name?"}}, frames[1].Stages)
	assert.Equal(t, []string{"name? oke", "level 9", "level 8"}, []string{frames[1].Sight.Line, frames[2].Sight.Line, frames[3].Sight.Line})
	assert.Equal(t, 900*ms, frames[3].From)
}

func TestPage(t *testing.T) {
	p := NewPage()
	for i := clock.Time(1); i <= 3; i++ {
		p.Add(i*ms, "tick", machine.Place{})
	}
	assert.Len(t, p.Recent(2), 2)
	frames := p.Finish(clock.Second)
	assert.Len(t, frames, 4, "equal lines are lines of their own, however soon")
	assert.Equal(t, []clock.Time{0, ms, 2 * ms, 3 * ms}, []clock.Time{frames[0].From, frames[1].From, frames[2].From, frames[3].From})
	for i := 0; i < 2*maxLines; i++ {
		p.Add(clock.Second, "x", machine.Place{})
	}
	assert.Len(t, p.Finish(2*clock.Second), maxLines)
}
