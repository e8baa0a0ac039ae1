package vision

import (
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
)

// pulse is a change of a light.
type pulse struct {
	at    clock.Time
	light int
	nA    int64
}

// drawnWave is a period of some lights that come and go, by a scan of digits or each by itself, and ends as it begins.
func drawnWave(r *rand.Rand, of []int, currents []int64) (wave []pulse, period clock.Time) {
	period = []clock.Time{16 * us, 100 * us, 510 * us, 1020 * us, 2 * ms, 7 * ms, 30 * ms}[r.IntN(7)]
	digits := slices.Max(of) + 1
	for i, d := range of {
		if r.IntN(3) == 0 {
			continue // as it is
		}
		slot, begin := period, clock.Time(0)
		if digits > 0 && r.IntN(3) > 0 {
			slot /= clock.Time(digits)
			begin = slot * clock.Time(d)
		}
		for range 1 + r.IntN(2) {
			from := begin + clock.Time(r.Int64N(int64(slot)/2))
			to := from + clock.Time(r.Int64N(int64(begin+slot-from)))
			if r.IntN(2) == 0 {
				from, to = begin, begin+slot*9/10
			}
			wave = append(wave, pulse{from, i, full}, pulse{to, i, 0})
		}
		currents[i] = 0
	}
	slices.SortStableFunc(wave, func(a, b pulse) int { return int(a.at - b.at) })
	return wave, period
}

// Waves that are left out, as far as vision allows, change nothing of what is seen.
func TestWavesAtRandom(t *testing.T) {
	n := 300
	if os.Getenv("HEMBLE_EXACT") != "" {
		n = 30_000
	}
	left, all := int64(0), int64(0)
	for seed := range n {
		r := rand.New(rand.NewPCG(uint64(seed), 31))
		of := [][]int{{-1}, {-1, -1, -1}, {0, 0, 0, 1, 1, 1}, {0, 0, 1, 1, 2, 2, 3, 3}, {0, 1, -1}}[r.IntN(5)]
		plain, quick := NewEmissive(of, full), NewEmissive(of, full)
		currents := make([]int64, len(of))
		set := func(l *Emissive, at clock.Time, p pulse, shown []int64) {
			if shown[p.light] != p.nA {
				shown[p.light] = p.nA
				l.Set(at, p.light, p.nA, &machine.Place{PC: uint32(p.light)})
			}
		}
		now := clock.Time(r.IntN(30)) * ms
		onPlain, onQuick := slices.Clone(currents), slices.Clone(currents)
		for range 1 + r.IntN(5) {
			for i := range of { // something else for a while
				if r.IntN(4) == 0 {
					p := pulse{0, i, []int64{0, full}[r.IntN(2)]}
					set(plain, now, p, onPlain)
					set(quick, now, p, onQuick)
				}
			}
			now += clock.Time(r.IntN(200)) * 100 * us
			wave, period := drawnWave(r, of, currents)
			times := int64(clock.Time(r.IntN(900)+1) * ms / period)
			if len(wave) == 0 {
				continue
			}
			play := func(l *Emissive, k int64, shown []int64) {
				for _, p := range wave {
					set(l, now+clock.Time(k)*period+p.at, p, shown)
				}
			}
			for k := range times {
				play(plain, k, onPlain)
			}
			for k := int64(0); k < times; k++ {
				quick.Remember()
				play(quick, k, onQuick)
				last := now + clock.Time(k)*period + wave[len(wave)-1].at
				more := quick.Repeats(last, period, times-1-k)
				quick.Repeat(more, period)
				k += more
				left += more
			}
			all += times
			now += clock.Time(times) * period
			require.Equal(t, onPlain, onQuick, seed)
		}
		end := now + clock.Time(r.IntN(300))*ms
		require.Equal(t, plain.Finish(end), quick.Finish(end), "seed %d", seed)
		require.Equal(t, plain.Quality(), quick.Quality(), "seed %d", seed)
	}
	assert.Greater(t, float64(left), 0.6*float64(all), "periods left out")
	t.Logf("%d of %d periods left out", left, all)
}
