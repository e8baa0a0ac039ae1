package vision

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// play drives a membrane at a pitch for a time, from a moment on.
func (e *Tones) play(from clock.Time, hz int64, length clock.Time) clock.Time {
	period := clock.Second / clock.Time(hz)
	for t := from; t < from+length; t += period {
		e.Move(t, true, machine.Place{})
		e.Move(t+period/2, false, machine.Place{})
	}
	return from + length
}

func pitches(frames []display.Frame) (out []int) {
	for _, f := range frames {
		out = append(out, f.State.Pitch)
	}
	return out
}

func TestTones(t *testing.T) {
	e := NewTones()
	at := e.play(100*ms, 440, 500*ms)
	at = e.play(at, 880, 500*ms)
	frames := e.Finish(at + 300*ms)
	assert.Equal(t, []int{0, 440, 880, 0}, pitches(frames))
	assert.Equal(t, 100*ms, frames[1].From)
	assert.InDelta(t, float64(600*ms), float64(frames[2].From), float64(3*ms))
	assert.InDelta(t, float64(1100*ms), float64(frames[3].From), float64(2*ms))

	e = NewTones()
	e.play(0, 10, clock.Second)
	assert.Equal(t, []int{0}, pitches(e.Finish(clock.Second)), "10 Hz is clicks, no tone")
	e = NewTones()
	e.Move(ms, true, machine.Place{})
	assert.Equal(t, []int{0}, pitches(e.Finish(clock.Second)), "a level is silent")
	e = NewTones()
	e.Tone(ms, 2300, machine.Place{})
	assert.Equal(t, 2300, e.Now(2*ms).Pitch)
	e.Tone(500*ms, 0, machine.Place{})
	assert.Equal(t, []int{0, 2300, 0}, pitches(e.Finish(clock.Second)))
}

// A tone that is repeated after a short gap keeps its pitch, and its onsets and ends are exact to a period, whatever
// the gap.
func TestRepeatedTone(t *testing.T) {
	for _, gap := range []clock.Time{28 * ms, 35 * ms, 44 * ms, 60 * ms} {
		for _, hz := range []int64{188, 440, 2000} {
			e := NewTones()
			period := clock.Second / clock.Time(hz)
			var want []clock.Time
			at := 20 * ms
			for range 4 {
				want = append(want, at)
				end := e.play(at, hz, 100*ms)
				want = append(want, end)
				at = end + gap
			}
			frames := e.Finish(at + clock.Second)
			p := pitches(frames)
			if !assert.Equal(t, []int{0, int(hz), 0, int(hz), 0, int(hz), 0, int(hz), 0}, p, "%d Hz, %s", hz, gap) {
				continue
			}
			for i, w := range want {
				assert.InDelta(t, float64(w), float64(frames[i+1].From), float64(period), "%d Hz, %s, %d", hz, gap, i)
			}
		}
	}
}

// A change of pitch without a pause, up or down by any interval, is heard within a period.
func TestScale(t *testing.T) {
	e := NewTones()
	at, notes := 50*ms, []int64{262, 294, 330, 262, 523, 131, 1047, 262}
	var want []clock.Time
	for _, hz := range notes {
		want = append(want, at)
		at = e.play(at, hz, 120*ms)
	}
	frames := e.Finish(at + clock.Second)
	if assert.Len(t, frames, len(notes)+2) {
		for i, hz := range notes {
			assert.InDelta(t, float64(hz), float64(frames[i+1].State.Pitch), float64(hz)/100)
			assert.InDelta(t, float64(want[i]), float64(frames[i+1].From), float64(clock.Second/clock.Time(hz)+8*ms),
				"%d Hz", hz)
		}
	}
}

// A click of some periods, before or after a tone or alone, is none; one missing or late period does not end a tone.
func TestClicks(t *testing.T) {
	e := NewTones()
	e.play(10*ms, 2000, 2200*clock.Microsecond)
	at := e.play(300*ms, 2000, 200*ms)
	e.play(at+400*ms, 2000, 5*ms)
	e.Tone(at+500*ms, 2300, machine.Place{})
	e.Tone(at+503*ms, 0, machine.Place{})
	assert.Equal(t, []int{0, 2000, 0}, pitches(e.Finish(at+clock.Second)))

	e = NewTones()
	for i, at := 0, 10*ms; i < 400; i++ {
		e.Move(at, true, machine.Place{})
		e.Move(at+clock.Millisecond/2, false, machine.Place{})
		at += clock.Millisecond
		if i%50 == 49 {
			at += clock.Millisecond * 4 / 10
		}
	}
	assert.Equal(t, []int{0, 1000, 0}, pitches(e.Finish(clock.Second)))
}

// A tone whose periods vary by under a third of a semitone is one.
func TestUnsteadyTone(t *testing.T) {
	e := NewTones()
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
	p := NewTextLines()
	p.Add(ms, "n", machine.Place{})
	p.Change(2*ms, "name?", machine.Place{})
	p.Change(500*ms, "name? o", machine.Place{})
	p.Change(501*ms, "name? oke", machine.Place{})
	assert.Equal(t, "name? oke", p.Recent(1)[0].State.Line)
	p.Add(600*ms, "level 10", machine.Place{})
	p.Change(601*ms, "level 9", machine.Place{}) // no eye could have read it
	p.Change(900*ms, "level 8", machine.Place{})
	frames := p.Finish(clock.Second)
	assert.Len(t, frames, 4)
	assert.Equal(t, []display.Stage{{To: 500 * ms, Line: "name?"}}, frames[1].Stages)
	assert.Equal(t, []string{"name? oke", "level 9", "level 8"},
		[]string{frames[1].State.Line, frames[2].State.Line, frames[3].State.Line})
	assert.Equal(t, 900*ms, frames[3].From)
}

func TestPage(t *testing.T) {
	p := NewTextLines()
	for i := clock.Time(1); i <= 3; i++ {
		p.Add(i*ms, "tick", machine.Place{})
	}
	assert.Len(t, p.Recent(2), 2)
	frames := p.Finish(clock.Second)
	assert.Len(t, frames, 4, "equal lines are lines of their own, however soon")
	assert.Equal(t, []clock.Time{0, ms, 2 * ms, 3 * ms}, []clock.Time{frames[0].From, frames[1].From, frames[2].From,
		frames[3].From})
	for i := 0; i < 2*maxLines; i++ {
		p.Add(clock.Second, "x", machine.Place{})
	}
	assert.Len(t, p.Finish(2*clock.Second), maxLines)
}
