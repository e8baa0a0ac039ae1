package hc595_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/part/parttest"
)

// bench is a register with its inputs at rest and cleared.
func bench(t *testing.T) *parttest.World {
	w := parttest.New(t, "74hc595", "", 3)
	w.Set("ser", circuit.DrivenLow, "srclk", circuit.DrivenLow, "rclk", circuit.DrivenLow, "oe", circuit.Ground,
		"srclr", circuit.DrivenLow)
	w.Set("srclr", circuit.DrivenHigh)
	return w
}

func shift(w *parttest.World, bits string) {
	for _, b := range bits {
		w.Set("ser", circuit.Output(b == '1'))
		w.Pulse("srclk")
	}
}

// The rows of the function table (SCLS041, table 8-1).
func TestFunctionTable(t *testing.T) {
	w := bench(t)
	w.Pulse("rclk")
	assert.Equal(t, "00000000", w.Outputs("qa", 8), "SRCLR low clears the shift register; RCLK brings it out")
	shift(w, "10110000")
	assert.Equal(t, "00000000", w.Outputs("qa", 8), "shifting does not reach the outputs")
	w.Pulse("rclk")
	assert.Equal(t, "00001101", w.Outputs("qa", 8), "the first bit sent is at QH, the last at QA")
	assert.Equal(t, circuit.DrivenHigh, w.Driven[w.Terminal("out")], "QH' is the end of the shift register")
	w.Set("oe", circuit.DrivenHigh)
	assert.Equal(t, "zzzzzzzz", w.Outputs("qa", 8))
	w.Set("oe", circuit.DrivenLow)
	assert.Equal(t, "00001101", w.Outputs("qa", 8), "disabling the outputs forgets nothing")
	w.Set("srclr", circuit.DrivenLow)
	w.Set("srclr", circuit.DrivenHigh)
	assert.Equal(t, "00001101", w.Outputs("qa", 8))
	shift(w, "1")
	w.Set("ser", circuit.DrivenLow, "srclk", circuit.DrivenHigh, "rclk", circuit.DrivenHigh)
	assert.Equal(t, "10000000", w.Outputs("qa", 8), "with both clocks tied the outputs are one pulse behind")
}

func TestChance(t *testing.T) {
	seen := map[string]bool{}
	for seed := uint64(1); seed < 20; seed++ {
		w := parttest.New(t, "74hc595", "", seed)
		w.Set("ser", circuit.DrivenLow, "srclk", circuit.DrivenLow, "rclk", circuit.DrivenLow, "oe", circuit.Ground)
		seen[w.Outputs("qa", 8)] = true
	}
	assert.Greater(t, len(seen), 10, "what it holds at power-on is chance")
}
