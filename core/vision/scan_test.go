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

// scanner plays a program that lights the digits of a display in turn.
type scanner struct {
	*Emissive
	n       int
	t       clock.Time
	current []int64 // of each light now
	tail    float64 // share of a slot for which the neighbour's pattern stays after the digit was selected
	last    uint8   // the pattern at the segment pins
	held    []int64 // how many times longer each digit is held; nil for once
	order   []int   // in which digits light up; nil for from the left
}

func newScanner(n int) *scanner {
	digits := make([]int, 8*n)
	for i := range digits {
		digits[i] = i / 8
	}
	return &scanner{Emissive: NewEmissive(digits, full), n: n, current: make([]int64, 8*n)}
}

func (s *scanner) put(digit int, pattern uint8) {
	for i := range s.current {
		want := int64(0)
		if i/8 == digit && pattern>>(i%8)&1 == 1 {
			want = full
		}
		if s.current[i] != want {
			s.current[i] = want
			s.Set(s.t, i, want, &machine.Place{})
		}
	}
}

// turn shows each digit once, for a slot each.
func (s *scanner) turn(content []uint8, slot clock.Time) {
	for i := 0; i < s.n; i++ {
		k := i
		if s.order != nil {
			k = s.order[i]
		}
		length := slot
		if s.held != nil {
			length *= clock.Time(s.held[k])
		}
		if s.tail > 0 {
			s.put(k, s.last)
			s.t += clock.Time(float64(length) * s.tail)
			s.last = content[k]
			s.put(k, s.last)
			s.t += length - clock.Time(float64(length)*s.tail)
			continue
		}
		s.put(k, content[k])
		s.t += length
	}
}

func (s *scanner) show(content []uint8, period, length clock.Time) {
	for end := s.t + length; s.t < end; {
		s.turn(content, period/clock.Time(s.n))
	}
}

func contents(frames []display.Frame) (out [][]uint8) {
	for _, f := range frames {
		var digits []uint8
		for i := 0; i < len(f.State.Lights); i += 8 {
			digits = append(digits, uint8(f.State.Lights[i:i+8].Bits()))
		}
		out = append(out, digits)
	}
	return out
}

// N digits scanned at 40 to 500 Hz give one steady state; a change of content gives the next one, at
// the moment it was complete.
func TestScanIsSteady(t *testing.T) {
	random := rand.New(rand.NewSource(11))
	for run := 0; run < 60; run++ {
		n := 2 + random.Intn(7)
		period := clock.Time(2000+random.Intn(23000)) * us
		period -= period % clock.Time(n)
		s := newScanner(n)
		s.order = random.Perm(n)
		s.t = clock.Time(random.Intn(30)) * ms
		var want [][]uint8
		for k := 0; k < 4; k++ {
			content := make([]uint8, n)
			for i := range content {
				content[i] = []uint8{0, 0x06, 0x5b, 0x4f, 0x66, 0x7f, 0x3f}[random.Intn(7)]
			}
			content[random.Intn(n)] = uint8(0x71 + k) // no two alike
			want = append(want, content)
			s.show(content, period, 500*ms)
		}
		frames := s.Finish(s.t)
		got := contents(frames)
		if len(got) > 0 && len(got) == len(want)+1 {
			got, frames = got[1:], frames[1:] // dark before it began
		}
		require.Equal(t, want, got, "run %d: %d digits, period %s", run, n, period.Short())
		for i := 1; i < len(frames)-1; i++ {
			assert.InDelta(t, float64(500*ms), float64(frames[i].Length()), float64(2*period))
			assert.False(t, frames[i].State.Flicker)
		}
	}
}

// 16 to 40 Hz is one flickering state, slower ones walk, at any phase, in any order of digits.
func TestSlowScans(t *testing.T) {
	random := rand.New(rand.NewSource(12))
	content := []uint8{0x06, 0x5b, 0x4f, 0x66}
	for run := 0; run < 40; run++ {
		s := newScanner(4)
		s.order = random.Perm(4)
		s.t = clock.Time(random.Intn(30)) * ms
		began := s.t
		period := clock.Time(26_000+random.Intn(34_000)) / 4 * 4 * us
		s.show(content, period, 3*clock.Second)
		frames := s.Finish(s.t)
		if n := len(frames); n == 2 && began > 0 {
			frames = frames[1:] // dark before it began
		}
		require.Len(t, frames, 1, "run %d, period %s: %v", run, period.Short(), contents(frames))
		assert.Equal(t, [][]uint8{content}, contents(frames))
		assert.True(t, frames[0].State.Flicker, "period %s", period.Short())
	}
	for run := 0; run < 20; run++ {
		s := newScanner(4)
		s.order = random.Perm(4)
		period := clock.Time(130_000+random.Intn(500_000)) / 4 * 4 * us
		s.show(content, period, 8*period)
		got := contents(s.Finish(s.t))
		require.GreaterOrEqual(t, len(got), 29, "period %s", period.Short())
		for i, digits := range got[:28] {
			want := make([]uint8, 4)
			want[s.order[i%4]] = content[s.order[i%4]]
			assert.Equal(t, want, digits, "period %s, state %d: digits walk", period.Short(), i)
		}
	}
}

// Blank leading digits that show the tail of their neighbour stay blank, whatever its share.
func TestGhosts(t *testing.T) {
	for _, tail := range []float64{0.05, 0.1, 0.3} {
		s := newScanner(4)
		s.tail = tail
		content := []uint8{0, 0, 0x06, 0x6f}
		s.show(content, 8*ms, clock.Second)
		s.show([]uint8{0, 0, 0x5b, 0x3f}, 8*ms, clock.Second)
		got := contents(s.Finish(s.t))
		assert.Equal(t, [][]uint8{content, {0, 0, 0x5b, 0x3f}}, got, "tail %v", tail)
		require.NotNil(t, s.Quality())
		assert.InDelta(t, tail/(1-tail)*100, float64(s.Quality().Ghost), 1+tail*20,
			"the ghost is measured, in parts of its pattern")
		for _, f := range s.frames { // and drawn, faint, where a person sees it, and where not, not
			assert.Zero(t, f.State.Lights[:16].Bits(), "never lit")
			ghosts := 0
			for i, l := range f.State.Lights[:16] {
				if l == display.Dim {
					ghosts++
					assert.InDelta(t, tail/4*255, f.State.Levels[i], 6)
				}
			}
			assert.Equal(t, tail >= 0.1, ghosts > 0, "tail %v", tail)
		}
	}
	s := newScanner(4)
	s.tail = 0.6
	s.show([]uint8{0, 0, 0x06, 0x6f}, 8*ms, clock.Second)
	assert.NotEqual(t, [][]uint8{{0, 0, 0x06, 0x6f}}, contents(s.Finish(s.t)), "most of a slot is no ghost")
}

// A digit held four times longer leaves the others readable.
func TestUneven(t *testing.T) {
	s := newScanner(4)
	s.held = []int64{1, 4, 1, 1}
	content := []uint8{0x06, 0x5b, 0x4f, 0x66}
	s.show(content, 4*ms, clock.Second)
	frames := s.Finish(s.t)
	require.Equal(t, [][]uint8{content}, contents(frames))
	assert.InDelta(t, 4, float64(frames[0].State.Levels[8])/float64(frames[0].State.Levels[1]), 0.3,
		"and is that much brighter")
	assert.True(t, frames[0].State.Uneven)
	require.NotNil(t, s.Quality())
	assert.InDelta(t, 25, s.Quality().Evenness, 3)
	even := newScanner(4)
	even.show(content, 4*ms, clock.Second)
	assert.False(t, even.Finish(even.t)[0].State.Uneven)
}

// A whole scanned display that flashes reads as its content, and as nothing between.
func TestFlashingScan(t *testing.T) {
	s := newScanner(4)
	content := []uint8{0x06, 0x5b, 0x4f, 0x66}
	for i := 0; i < 4; i++ {
		s.show(content, 8*ms, 250*ms)
		s.put(-1, 0)
		s.t += 250 * ms
	}
	dark := []uint8{0, 0, 0, 0}
	assert.Equal(t, [][]uint8{content, dark, content, dark, content, dark, content, dark}, contents(s.Finish(s.t)))
}

// What vision keeps grows with what it sees, not with edges: a minute of scanning is as small as a second.
func TestMemoryOfScan(t *testing.T) {
	kept := func(length clock.Time) int {
		s := newScanner(4)
		s.show([]uint8{0x06, 0x5b, 0x4f, 0x66}, 4*ms, length)
		past := 0
		for _, l := range s.lights {
			past += len(l.past)
		}
		n := len(s.queue) + len(s.settler.pending) + past
		return n + len(s.Finish(s.t))
	}
	assert.Equal(t, kept(clock.Second), kept(60*clock.Second))
}

// Digits that come on at one and the same moment are no scan, and a rate is told after any number of turns.
func TestRefreshOfExtremes(t *testing.T) {
	s := newScanner(2)
	for range 20 {
		for _, light := range []int{0, 8} {
			s.Set(clock.Millisecond, light, full, &machine.Place{})
			s.Set(clock.Millisecond, light, 0, &machine.Place{})
		}
	}
	require.Greater(t, s.scan.turns, int64(minTurns))
	assert.Nil(t, s.Quality())
	s.scan.turns, s.scan.turning = 4_000_000, int64(4000*clock.Second)
	require.NotNil(t, s.Quality())
	assert.Equal(t, 1000.0, s.Quality().Refresh)
}
