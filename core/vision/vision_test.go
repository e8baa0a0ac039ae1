package vision

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

const (
	ms   = clock.Millisecond
	us   = clock.Microsecond
	full = 10_000_000 // nA
)

// watch drives lights from a list of patterns with their lengths; write returns how one pattern
// becomes the next.
type shot struct {
	pattern uint8
	length  clock.Time
}

func watch(shots []shot, order []int, gap clock.Time) []display.Frame {
	l := NewEmissive(make([]int, 8), full)
	t, now := clock.Time(0), uint8(0)
	for _, s := range shots {
		start := t
		for _, i := range order {
			if (now^s.pattern)>>i&1 == 1 {
				l.Set(t, i, int64(s.pattern>>i&1)*full, &machine.Place{PC: uint32(i)})
			}
			t += gap
		}
		now, t = s.pattern, start+s.length
	}
	return l.Finish(t)
}

func patterns(frames []display.Frame) (out []uint8) {
	for _, f := range frames {
		out = append(out, uint8(f.State.Lights.Bits()))
	}
	return out
}

// A directly driven sequence gives its own times to the edge, whatever the order in which pins are
// written and however slowly.
func TestDirectSequence(t *testing.T) {
	random := rand.New(rand.NewSource(3))
	for run := 0; run < 200; run++ {
		var shots []shot
		var want []uint8
		for i := 0; i < 12; i++ {
			p := uint8(random.Intn(255) + 1)
			if len(want) > 0 && want[len(want)-1] == p {
				continue
			}
			shots = append(shots, shot{p, clock.Time(60+random.Intn(500)) * ms})
			want = append(want, p)
		}
		gap := []clock.Time{0, 62_500, us, 100 * us, 2 * ms}[random.Intn(5)]
		order := random.Perm(8)
		frames := watch(shots, order, gap)
		require.Equal(t, want, patterns(frames), "run %d gap %s", run, gap.Short())
		at := clock.Time(0)
		for i, f := range frames {
			require.InDelta(t, float64(at), float64(f.From), float64(8*gap), "run %d frame %d", run, i)
			if gap == 0 {
				require.Equal(t, at, f.From)
			}
			at += shots[i].length
		}
	}
}

func TestGapsAndFlashes(t *testing.T) {
	all := []int{0, 1, 2, 3, 4, 5, 6, 7}
	assert.Equal(t, []uint8{6, 91}, patterns(watch([]shot{{6, 500 * ms}, {0, 20 * ms}, {91, 500 * ms}}, all, 0)),
		"a short dark gap is no state")
	assert.Equal(t, []uint8{6, 0, 91}, patterns(watch([]shot{{6, 500 * ms}, {0, 80 * ms}, {91, 500 * ms}}, all, 0)),
		"a long one is")
	assert.Equal(t, []uint8{0, 4, 0, 4, 0},
		patterns(watch([]shot{{0, 95 * ms}, {4, 5 * ms}, {0, 95 * ms}, {4, 5 * ms}, {0, 200 * ms}}, all, 0)),
		"a flash of 5 ms is seen")
	assert.Equal(t, []uint8{0}, patterns(watch([]shot{{0, 95 * ms}, {4, 100 * us}, {0, 200 * ms}}, all, 0)),
		"one of 100 µs is not")
	assert.Equal(t, []uint8{1, 3, 1}, patterns(watch([]shot{{1, 300 * ms}, {3, 300 * ms}, {1, 300 * ms}}, all, 0)))
}

// A glimpse of 3 ms beside steady segments is too dim to be a state; alone in the dark it is one.
func TestGlimpse(t *testing.T) {
	all := []int{0, 1, 2, 3, 4, 5, 6, 7}
	assert.Equal(t, []uint8{0x40, 0x66},
		patterns(watch([]shot{{0x40, 500 * ms}, {0x5b, 3 * ms}, {0x66, 500 * ms}}, all, 0)))
	assert.Equal(t, []uint8{0, 0x5b, 0}, patterns(watch([]shot{{0, 500 * ms}, {0x5b, 3 * ms}, {0, 500 * ms}}, all, 0)))
}

// pwm drives light 0 with a period and a duty.
func pwm(period, on, length clock.Time) []display.Frame {
	l := NewEmissive(make([]int, 1), full)
	for t := clock.Time(0); t < length; t += period {
		l.Set(t, 0, full, &machine.Place{})
		if on < period {
			l.Set(t+on, 0, 0, &machine.Place{})
		}
	}
	return l.Finish(length)
}

func TestRepeatedLight(t *testing.T) {
	for _, period := range []clock.Time{125 * clock.Nanosecond, 10 * us, ms, 16 * ms, 24 * ms} {
		frames := pwm(period, period/4, clock.Second)
		require.Len(t, frames, 1, "period %s is one steady light", period.Short())
		assert.Equal(t, display.Lit, frames[0].State.Lights[0])
		assert.False(t, frames[0].State.Flicker)
		assert.InDelta(t, 64, frames[0].State.Levels[0], 4, "its level is its duty, at %s", period.Short())
	}
	frames := pwm(50*ms, 15*ms, clock.Second)
	require.Len(t, frames, 1)
	assert.True(t, frames[0].State.Flicker, "20 Hz is one flickering light")
	assert.Len(t, pwm(200*ms, 100*ms, clock.Second), 10, "5 Hz comes and goes")
	assert.Equal(t, []uint8{0}, patterns(pwm(ms, ms/100, clock.Second)), "0.1 mA is dark")
}

func TestWeakLight(t *testing.T) {
	l := NewEmissive(make([]int, 2), full)
	l.Set(0, 0, 90_000, &machine.Place{}) // a pull-up alone
	l.Set(0, 1, 400_000, &machine.Place{})
	frames := l.Finish(clock.Second)
	require.Len(t, frames, 1)
	assert.Equal(t, display.Lights{display.Dark, display.Lit}, frames[0].State.Lights)

	l = NewEmissive(make([]int, 2), full)
	l.Set(0, 0, full, &machine.Place{})
	l.Set(0, 1, full/5, &machine.Place{})
	assert.Equal(t, display.Lights{display.Lit, display.Dim}, l.Finish(clock.Second)[0].State.Lights,
		"under 35 % of the brightest is dim")
}

// What vision keeps grows with what it sees, not with edges.
func TestMemoryOfFlood(t *testing.T) {
	l := NewEmissive(make([]int, 1), full)
	for t := clock.Time(0); t < 50*ms; t += 125 * clock.Nanosecond {
		l.Set(t, 0, full, &machine.Place{})
		l.Set(t+62_500, 0, 0, &machine.Place{})
	}
	assert.LessOrEqual(t, len(l.queue)+len(l.settler.pending)+len(l.frames), 3)
}

func TestScreen(t *testing.T) {
	paint := func(run func(s *LCD)) []display.Frame {
		s := NewLCD(2, LCDResponse, false)
		run(s)
		return s.Finish(2 * clock.Second)
	}
	put := func(s *LCD, t clock.Time, text string) {
		for i, c := range text {
			if c == ' ' {
				c = 0
			}
			s.Paint(t+clock.Time(i)*40*us, i, uint16(c), machine.Place{})
		}
	}
	texts := func(frames []display.Frame) (out []string) {
		for _, f := range frames {
			out = append(out, string([]byte{byte(f.State.Cells[0]), byte(f.State.Cells[1])}))
		}
		return out
	}
	frames := paint(func(s *LCD) {
		put(s, 300*ms, "AB")
		put(s, 600*ms, "CD")
	})
	assert.Equal(t, []string{"  ", "AB", "CD"}, texts(frames), "characters written one after another make one state")
	assert.Equal(t, 300*ms+40*us, frames[1].From, "which begins with its last character")

	frames = paint(func(s *LCD) {
		for at := 100 * ms; at < 2*clock.Second; at += 120 * ms {
			put(s, at, "  ")
			put(s, at+2*ms, "AB")
		}
	})
	assert.Equal(t, []string{"  ", "AB"}, texts(frames), "clearing and rewriting for 2 ms of every 120 is not noticed")

	often := func(on clock.Time) []display.Frame {
		return paint(func(s *LCD) {
			for at := 100 * ms; at < 2*clock.Second; at += 20 * ms {
				put(s, at, "AB")
				put(s, at+on, "  ")
			}
		})
	}
	assert.Equal(t, []string{"  ", "AB"}, texts(often(15*ms)), "present three quarters of the time")
	frames = often(11 * ms)
	assert.Equal(t, display.WashedOut|'A', frames[len(frames)-1].State.Cells[0],
		"present 55 % of the time is washed out")
	assert.Equal(t, []string{"  "}, texts(often(4*ms)), "present a fifth of the time is not there")
}
