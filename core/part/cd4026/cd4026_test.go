package cd4026_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/glyph"
	"hemble/core/part/parttest"
)

func bench(t *testing.T, seed uint64) *parttest.World {
	w := parttest.New(t, "cd4026", "", seed)
	w.Set("clk", circuit.DrivenLow, "rst", circuit.DrivenLow, "inh", circuit.DrivenLow, "dei", circuit.DrivenHigh)
	return w
}

func shown(w *parttest.World) string {
	p := glyph.Pattern(0)
	for i := 0; i < 7; i++ {
		if w.Driven[w.Terminal("a")+i].Level == circuit.High {
			p |= 1 << i
		}
	}
	return p.Symbol()
}

// The timing diagram of SCHS031: it counts rising edges; carry is high for 0 to 4; UCS is low for 2.
func TestCounts(t *testing.T) {
	w := bench(t, 1)
	w.Pulse("rst")
	for n := 0; n < 25; n++ {
		assert.Equal(t, string(rune('0'+n%10)), shown(w))
		assert.Equal(t, n%10 < 5, w.Driven[w.Terminal("co")].Level == circuit.High, "carry at %d", n%10)
		assert.Equal(t, n%10 != 2, w.Driven[w.Terminal("ucs")].Level == circuit.High)
		w.Set("clk", circuit.DrivenHigh)
		w.Set("clk", circuit.DrivenLow)
	}
	assert.Equal(t, circuit.Weak, w.Driven[w.Terminal("a")].Strength, "about a milliampere")
}

func TestControls(t *testing.T) {
	w := bench(t, 1)
	w.Pulse("rst")
	w.Set("inh", circuit.DrivenHigh)
	w.Pulse("clk")
	assert.Equal(t, "0", shown(w), "inhibited")
	w.Set("clk", circuit.DrivenHigh)
	w.Set("inh", circuit.DrivenLow)
	assert.Equal(t, "1", shown(w), "letting go of inhibit while the clock is high counts")
	w.Set("dei", circuit.DrivenLow)
	assert.Equal(t, " ", shown(w), "dark")
	assert.Equal(t, circuit.Low, w.Driven[w.Terminal("deo")].Level)
	w.Set("clk", circuit.DrivenLow)
	w.Pulse("clk")
	w.Set("dei", circuit.DrivenHigh)
	assert.Equal(t, "2", shown(w), "it counts in the dark")
	w.Set("rst", circuit.DrivenHigh)
	w.Pulse("clk")
	assert.Equal(t, "0", shown(w), "reset holds it")
	assert.Empty(t, w.Notes, "a reset may well be clocked")
	w.Pass(clock.Second)
	w.Pulse("clk")
	assert.Len(t, w.Notes, 1, "a line that stays high is no reset")
}

func TestWakesAtChance(t *testing.T) {
	seen := map[string]bool{}
	for seed := uint64(1); seed < 40; seed++ {
		seen[shown(bench(t, seed))] = true
	}
	assert.Greater(t, len(seen), 6)
	assert.Equal(t, shown(bench(t, 5)), shown(bench(t, 5)), "the same seed, the same count")
}
