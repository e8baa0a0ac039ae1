package bench_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine/machinetest"
)

// A display at 5 V on a board of 3.3 V: an HD44780 takes 2.2 V and more for high, a MAX7219 3.5 V, and so is never
// sure.
func TestPartsAtAnotherSupply(t *testing.T) {
	for _, c := range []struct{ part, note string }{
		{"{part: lcd, supply: 5V, pins: {rs: IO0, rw: GND, e: IO1, d4: IO2, d5: IO3, d6: IO4, d7: IO5}}", ""},
		{"{part: max7219, pins: {din: IO0, clk: IO1, load: IO2}}", ""},
		{"{part: max7219, supply: 5V, pins: {din: IO0, clk: IO1, load: IO2}}",
			"dial at 5.0 V is given 3.3 V at its din: low is at most 0.8 V there, high at least 3.5 V"},
		{"{part: tm1637, supply: 5V, pins: {clk: IO0, dio: IO1}}", "dial puts 5.0 V on IO0; a pin of the"},
	} {
		x, problems := exercise.Reader{File: "x", Draft: true}.Read([]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: " +
			machinetest.Chip.Name + "}\nbench:\n  dial: " + c.part + "\ntrials: [{name: one, length: 1s}]\n"))
		require.NotNil(t, x, "%v", problems)
		im, err := firmware.Read(machinetest.Program(machinetest.Wait(10), machinetest.High(0), machinetest.High(1),
			machinetest.Wait(10), machinetest.Low(1), machinetest.Jump(0)), machinetest.Chip.Firmware)
		require.NoError(t, err)
		r, err := bench.Run(t.Context(), x, &x.Trials[0], im)
		require.NoError(t, err)
		var texts string
		for _, n := range r.Notes {
			texts += n.Text + "\n"
		}
		if c.note == "" {
			assert.Empty(t, texts, c.part)
			assert.Empty(t, problems, c.part)
		} else {
			assert.Contains(t, texts, c.note)
		}
	}
}
