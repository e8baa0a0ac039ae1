package vision

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// dimmer is a lamp that a program dims by pulse width.
type dimmer struct {
	*Emissive
	t clock.Time
}

func newDimmer(lights int) *dimmer {
	return &dimmer{Emissive: NewEmissive(make([]int, lights), full)}
}

// pulse makes periods with a share of each on.
func (d *dimmer) pulse(period clock.Time, percent int, length clock.Time) {
	for end := d.t + length; d.t < end; d.t += period {
		if percent > 0 {
			d.Set(d.t, 0, full, &machine.Place{})
		}
		if percent < 100 {
			d.Set(d.t+period*clock.Time(percent)/100, 0, 0, &machine.Place{})
		}
	}
}

func levels(frames []display.Frame) (out []int) {
	for _, f := range frames {
		if f.State.Levels[0] > 0 {
			out = append(out, (f.State.Levels[0]*100+127)/255)
		}
	}
	return out
}

// A light that is on without a pause after pulses, or before them, has a brightness of its own.
func TestFullAfterPulses(t *testing.T) {
	for _, period := range []clock.Time{500 * clock.Microsecond, 2 * ms, 10 * ms} {
		d := newDimmer(1)
		d.pulse(period, 30, 400*ms)
		steady := d.t
		d.Set(d.t, 0, full, &machine.Place{}) // and no edge any more
		d.t += 400 * ms
		less := d.t
		d.pulse(period, 60, 400*ms)
		frames := d.Finish(d.t)
		if seen := levels(frames); assert.Len(t, seen, 3, "%s", period) {
			for i, want := range []float64{30, 100, 60} {
				assert.InDelta(t, want, seen[i], 2, "%s", period)
			}
			last := frames[len(frames)-2:]
			assert.InDelta(t, float64(steady), float64(last[0].From), float64(LevelTime+period), "%s", period)
			assert.InDelta(t, float64(less), float64(last[1].From), float64(LevelTime+period), "%s", period)
		}
	}
}

// Two steps of pulse width are two brightnesses, each from the period on that began it.
func TestStepsOfPulseWidth(t *testing.T) {
	for _, period := range []clock.Time{500 * clock.Microsecond, 2 * ms, 10 * ms, 20 * ms} {
		d := newDimmer(1)
		d.pulse(period, 20, 400*ms)
		step := d.t
		d.pulse(period, 80, 400*ms)
		frames := d.Finish(d.t)
		if seen := levels(frames); assert.Len(t, seen, 2, "%s", period) {
			assert.InDelta(t, 20, seen[0], 1)
			assert.InDelta(t, 80, seen[1], 1)
			last := frames[len(frames)-1]
			assert.InDelta(t, float64(step), float64(last.From), float64(LevelTime+period), "%s", period)
		}
	}
}

// A fade is as many states as an eye tells apart, no more, up and down.
func TestFade(t *testing.T) {
	d := newDimmer(1)
	for percent := 4; percent <= 100; percent += 2 {
		d.pulse(ms, percent, 20*ms)
	}
	for percent := 100; percent >= 4; percent -= 2 {
		d.pulse(ms, percent, 20*ms)
	}
	seen := levels(d.Finish(d.t))
	assert.GreaterOrEqual(t, len(seen), 8)
	assert.LessOrEqual(t, len(seen), 20)
	top := 0
	for i, v := range seen {
		if v > seen[top] {
			top = i
		}
	}
	assert.Greater(t, seen[top], 80)
	assert.IsIncreasing(t, seen[:top+1])
	assert.IsDecreasing(t, seen[top:])
}

// A light whose current changes without a pause (a potentiometer, a shared resistor) steps at the edge itself; what
// changes too little, or too quickly to be followed, is no step.
func TestStepsOfCurrent(t *testing.T) {
	set := func(d *dimmer, at clock.Time, current int64) { d.Set(at, 0, current, &machine.Place{}) }
	d := newDimmer(1)
	set(d, 100*ms, full)
	set(d, 1013*ms, full/5)
	set(d, 2017*ms, full/2)
	frames := d.Finish(3 * clock.Second)
	assert.Equal(t, []int{100, 20, 50}, levels(frames))
	assert.Equal(t, []clock.Time{100 * ms, 1013 * ms, 2017 * ms},
		[]clock.Time{frames[1].From, frames[2].From, frames[3].From})

	d = newDimmer(1)
	set(d, 10*ms, full)
	for at := 100 * ms; at < clock.Second; at += 4 * ms { // the other segments of a shared resistor come and go
		set(d, at, full*6/10)
		set(d, at+2*ms, full)
	}
	assert.Len(t, levels(d.Finish(clock.Second)), 1, "a ripple of 100 Hz, mean 80 %")

	d = newDimmer(1)
	for i, at := 0, 10*ms; at < 2*clock.Second; i, at = i+1, at+50*ms {
		set(d, at, full-int64(i%3)*full/20)
	}
	assert.Len(t, levels(d.Finish(2*clock.Second)), 1, "10 % is no step")
}

// What is seen does not depend on whether somebody looked meanwhile, as `play` does.
func TestLooksChangeNothing(t *testing.T) {
	run := func(look bool) []display.Frame {
		d := newDimmer(2)
		for i := range 120 {
			d.pulse(ms*clock.Time(1+i%3)/2, 5+i*7%90, 23*ms)
			d.Set(d.t, 1, int64(1+i%9)*full/9, &machine.Place{})
			if look {
				d.Now(d.t + clock.Microsecond)
			}
		}
		return d.Finish(d.t + 100*ms)
	}
	assert.Equal(t, run(false), run(true))
}

// However long a light is dimmed and brightened, memory is bounded by what is seen.
func TestMemoryOfBrightness(t *testing.T) {
	d := newDimmer(1)
	for range 2000 {
		d.pulse(500*clock.Microsecond, 30, 10*ms)
		d.pulse(500*clock.Microsecond, 32, 10*ms)
	}
	assert.LessOrEqual(t, len(d.Finish(d.t)), 3)
	assert.LessOrEqual(t, cap(d.lights[0].past), 2*maxPast)
}
