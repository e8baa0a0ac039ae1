package part_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/part/parttest"
)

func TestLampEitherWayRound(t *testing.T) {
	w := parttest.New(t, "lamp", "colour: red, resistor: 270", 1)
	w.Set("anode", circuit.DrivenHigh, "cathode", circuit.Ground)
	assert.Equal(t, int64((5_000_000-1_800_000)*1000/(270+25)), w.Lights[0])
	w.Set("anode", circuit.DrivenLow)
	assert.Zero(t, w.Lights[0])
	w.Set("anode", circuit.Supply, "cathode", circuit.DrivenLow)
	assert.NotZero(t, w.Lights[0])
	w.Set("cathode", circuit.DrivenHigh)
	assert.Zero(t, w.Lights[0])
	w.Set("anode", circuit.PulledUp, "cathode", circuit.Ground)
	assert.InDelta(t, 90_000, w.Lights[0], 5000, "a pull-up alone gives about 0.1 mA")
	w.Set("anode", circuit.Ground, "cathode", circuit.Supply)
	assert.Zero(t, w.Lights[0], "the wrong way round")
	w.Set("anode", circuit.Released)
	assert.Zero(t, w.Lights[0])
}

func TestDigitPolarity(t *testing.T) {
	anode := parttest.New(t, "seven-segment", "common: anode", 1)
	anode.Set("common", circuit.Supply, "a", circuit.DrivenLow, "b", circuit.DrivenHigh)
	assert.Equal(t, []bool{true, false, false}, []bool{anode.Lights[0] > 0, anode.Lights[1] > 0, anode.Lights[2] > 0})
	cathode := parttest.New(t, "seven-segment", "common: cathode", 1)
	cathode.Set("common", circuit.Ground, "a", circuit.DrivenLow, "b", circuit.DrivenHigh)
	assert.Equal(t, []bool{false, true}, []bool{cathode.Lights[0] > 0, cathode.Lights[1] > 0})

	pin := parttest.New(t, "seven-segment", "common: cathode", 1)
	pin.Set("common", circuit.DrivenLow, "a", circuit.Supply)
	one := pin.Lights[0]
	pin.Set("b", circuit.Supply, "c", circuit.Supply, "d", circuit.Supply)
	assert.Less(t, pin.Lights[0], one, "a pin that sinks all segments limits them")
	assert.Equal(t, pin.Lights[0], pin.Lights[3])
}

func TestButtonBounces(t *testing.T) {
	press := func(seed uint64, settings string) *parttest.World {
		w := parttest.New(t, "button", settings, seed)
		require.NoError(t, w.Part.Cue(part.Cue{Verb: "press", For: 100 * clock.Millisecond}))
		w.Pass(50 * clock.Millisecond)
		assert.True(t, w.Closed[[2]int{0, 1}], "closed while pressed")
		assert.LessOrEqual(t, w.Flips[len(w.Flips)-1], 4*clock.Millisecond)
		w.Pass(150 * clock.Millisecond)
		assert.False(t, w.Closed[[2]int{0, 1}], "open when released")
		assert.LessOrEqual(t, w.Flips[len(w.Flips)-1], 104*clock.Millisecond)
		return w
	}
	assert.Len(t, press(1, "bounce: 0").Flips, 2)
	a, b := press(7, "bounce: 4ms"), press(7, "bounce: 4ms")
	assert.Greater(t, len(a.Flips), 4)
	assert.Equal(t, a.Flips, b.Flips, "the same seed bounces alike")
	assert.NotEqual(t, a.Flips, press(8, "bounce: 4ms").Flips)

	held := parttest.New(t, "button", "bounce: 0", 1)
	require.NoError(t, held.Part.Cue(part.Cue{Verb: part.Hold}))
	held.Pass(clock.Second)
	assert.True(t, held.Closed[[2]int{0, 1}])
	require.NoError(t, held.Part.Cue(part.Cue{Verb: part.Release}))
	assert.False(t, held.Closed[[2]int{0, 1}])
}

func TestSeveralDigits(t *testing.T) {
	lit := func(w *parttest.World) (out []int) {
		for i := 0; i < 16; i++ {
			if w.Lights[i] > 0 {
				out = append(out, i)
			}
		}
		return out
	}
	w := parttest.New(t, "seven-segment", "common: cathode, digits: 2", 1)
	w.Set("a", circuit.DrivenHigh, "digit1", circuit.DrivenHigh, "digit2", circuit.DrivenLow)
	assert.Equal(t, []int{8}, lit(w), "a low pin selects a common cathode")
	w.Set("digit1", circuit.DrivenLow, "digit2", circuit.DrivenHigh)
	assert.Equal(t, []int{0}, lit(w))
	w = parttest.New(t, "seven-segment", "common: cathode, digits: 2, select: transistor", 1)
	w.Set("a", circuit.DrivenHigh, "digit1", circuit.DrivenHigh, "digit2", circuit.DrivenLow)
	assert.Equal(t, []int{0}, lit(w), "through an NPN transistor a high one does")
	w = parttest.New(t, "seven-segment", "common: anode, digits: 2, select: transistor", 1)
	w.Set("a", circuit.DrivenLow, "digit1", circuit.DrivenHigh, "digit2", circuit.DrivenLow)
	assert.Equal(t, []int{8}, lit(w))
	one := w.Lights[8]
	w = parttest.New(t, "seven-segment", "common: anode, resistor: 0, common-resistor: 270", 1)
	w.Set("common", circuit.Supply, "a", circuit.DrivenLow)
	alone := w.Lights[0]
	w.Set("b", circuit.DrivenLow, "c", circuit.DrivenLow)
	assert.InDelta(t, float64(alone)/3, float64(w.Lights[0]), float64(alone)/10,
		"lit segments share a resistor in the common line")
	assert.InDelta(t, float64(one), float64(alone), 1)
}

func TestInverterAndColon(t *testing.T) {
	w := parttest.New(t, "seven-segment", "common: cathode, digits: 2, select: inverter", 1)
	w.Set("a", circuit.DrivenHigh, "digit1", circuit.DrivenLow)
	assert.Equal(t, []bool{true, false}, []bool{w.Lights[0] > 0, w.Lights[8] > 0}, "a low pin selects the first digit")
	w.Set("digit1", circuit.DrivenHigh)
	assert.Equal(t, []bool{false, true}, []bool{w.Lights[0] > 0, w.Lights[8] > 0}, "a high one, inverted, the second")

	w = parttest.New(t, "seven-segment", "common: cathode, digits: 4, colon: yes", 1)
	w.Set("colon", circuit.DrivenHigh, "digit2", circuit.DrivenLow, "digit1", circuit.DrivenHigh)
	assert.Positive(t, w.Lights[32], "the colon goes with the second digit")
	w.Set("digit2", circuit.DrivenHigh, "digit1", circuit.DrivenLow)
	assert.Zero(t, w.Lights[32])
}

func TestBar(t *testing.T) {
	w := parttest.New(t, "bar", "lights: 3, common: anode", 1)
	w.Set("common", circuit.Supply, "light1", circuit.DrivenLow, "light2", circuit.DrivenHigh, "light3",
		circuit.DrivenLow)
	assert.Equal(t, []bool{true, false, true}, []bool{w.Lights[0] > 0, w.Lights[1] > 0, w.Lights[2] > 0})
	w = parttest.New(t, "bar", "lights: 2", 1)
	w.Set("common", circuit.DrivenLow, "light1", circuit.DrivenHigh)
	one := w.Lights[0]
	w.Set("light2", circuit.DrivenHigh)
	assert.Less(t, w.Lights[0], one, "lit lights share a pin at the common end")
}

func TestColourLamp(t *testing.T) {
	w := parttest.New(t, "colour-lamp", "common: cathode", 1)
	w.Set("common", circuit.Ground, "red", circuit.DrivenHigh, "blue", circuit.DrivenHigh)
	assert.InDelta(t, float64(w.Lights[0]), float64(w.Lights[2]), float64(w.Lights[0])/20,
		"equally bright, whatever the forward voltages")
	assert.Zero(t, w.Lights[1])
	w = parttest.New(t, "colour-lamp", "common: anode", 1)
	w.Set("common", circuit.Supply, "green", circuit.DrivenLow, "red", circuit.DrivenHigh)
	assert.Equal(t, []bool{false, true}, []bool{w.Lights[0] > 0, w.Lights[1] > 0})
}

func TestMatrix(t *testing.T) {
	w := parttest.New(t, "matrix", "", 1)
	w.Set("row3", circuit.DrivenHigh, "column2", circuit.DrivenLow)
	assert.Equal(t, map[int]int64{17: w.Lights[17]}, lit(w), "row 3, column 2")
	w.Set("row5", circuit.DrivenHigh, "column8", circuit.DrivenLow)
	assert.Len(t, lit(w), 4, "two rows and two columns light all four crossings")
	w = parttest.New(t, "matrix", "rows: cathode", 1)
	w.Set("row3", circuit.DrivenLow, "column2", circuit.DrivenHigh)
	assert.Contains(t, lit(w), 17)
}

func lit(w *parttest.World) map[int]int64 {
	out := map[int]int64{}
	for i, nA := range w.Lights {
		if nA > 0 {
			out[i] = nA
		}
	}
	return out
}
