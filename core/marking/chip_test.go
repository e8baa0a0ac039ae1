package marking_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
	"hemble/core/marking"
	"hemble/core/part"
	"hemble/core/schematic"
)

const otherChip = `hemble: 1
name: sluice
title: Sluice lamps
chip: {is: test40, board: test-board}
bench:
  far: {part: lamp, resistor: 150, pins: {anode: N33, cathode: GND}}
  near: {part: lamp, resistor: 100, pins: {anode: IO39, cathode: GND}}
  count: {part: seven-segment, common: cathode, digits: 2, pins: {a: IO10, b: IO11, c: IO12, d: IO13, e: IO14, f: IO15, g: IO16, digit1: IO17, digit2: IO18}}
  raise: {part: button, bounce: 0, pins: {1: IO2, 2: GND}}
trials:
  - name: lamps
    length: 4s
    cues: [{at: 2s, press: raise, for: 1s}]
    expect:
      - {shows: far, frames: [on, off, on], each: 500ms, start: power, extra: ignore, marks: 2}
      - {together: near, shows: on, while: raise, within: 100ms, marks: 3}
`

// far blinks, near follows the button.
var lamps = machinetest.Program(
	machinetest.Pull(2),
	machinetest.High(33), machinetest.Wait(500), machinetest.Low(33), machinetest.Wait(500), machinetest.High(33),
	machinetest.Wait(500), machinetest.Low(33), machinetest.Send('!'),
	machinetest.SkipLow(2), machinetest.Jump(13), // 9, 10
	machinetest.High(39), machinetest.Jump(14), // 11, 12
	machinetest.Low(39), machinetest.Wait(5), machinetest.Jump(9), // 13 …
)

// Everything behind the chips takes one that is nothing like an AVR: 40 pins without ports, 32-bit addresses, 3.3 V.
func TestAnotherKindOfChip(t *testing.T) {
	x, problems := exercise.Read("x", []byte(otherChip))
	require.NotNil(t, x, "%v", problems)
	assert.Equal(t, clock.Rate(12_000_000), x.Clock, "its usual clock")
	assert.Equal(t, int64(3_300_000), x.Supply)
	r, err := marking.Mark(t.Context(), x, "lamps.hex", lamps)
	require.NoError(t, err)
	assert.Empty(t, r.Sheet.Failed)
	assert.Equal(t, "5", r.Sheet.Marks.String(), "%+v", r.Sheet.Trials)
	assert.Equal(t, "!", r.Reels[0].Serial)
	assert.Equal(t, uint32(machinetest.FlashAt+4), r.Reels[0].Track("far").Frames[0].At.PC)

	far := r.Reels[0].Track("far")
	nA := circuit.Diode(x.Supply, part.FindColour("red").Vf, circuit.DrivenHigh.Within(40, 50_000), circuit.Ground, 150,
		0, true, 1)
	assert.InDelta(t, nA*255/display.Nominal, far.Frames[len(far.Frames)-2].State.Levels[0], 1,
		"through 40 Ω of its output")

	never, err := marking.Mark(t.Context(), x, "dark.hex", machinetest.Program(machinetest.Note(), machinetest.Jump(1)))
	require.NoError(t, err)
	texts := ""
	for _, f := range never.Sheet.Findings {
		texts += string(f.Code) + " "
	}
	assert.Contains(t, texts, "no-output")
	assert.Contains(t, texts, "remark")

	off, err := marking.Mark(t.Context(), x, "off.hex", machinetest.Program(machinetest.High(33)))
	require.NoError(t, err)
	assert.Equal(t, machine.OffFlash, off.Sheet.Trials[0].Stop.Reason)
	wrong, err := marking.Mark(t.Context(), x, "avr.hex", []byte(":020000000CC032\n:00000001FF\n"))
	require.NoError(t, err)
	assert.Contains(t, wrong.Sheet.Failed, "in no memory of the chip")

	rec, err := author.Record(t.Context(), x, []byte(otherChip), lamps, true)
	require.NoError(t, err)
	assert.NotEmpty(t, rec.Text)
	warnings := author.Check("x", x)
	require.NotEmpty(t, warnings)
	assert.Contains(t, warnings[0].Error(), "the Test40 bears 12 mA at a pin")
	drawing := schematic.Draw(x)
	assert.NotEmpty(t, drawing.Strokes)

	_, problems = exercise.Read("x",
		[]byte(strings.Replace(otherChip, "board: test-board", "board: test-board, supply: 5V", 1)))
	require.NotEmpty(t, problems)
	assert.Contains(t, problems[0].Error(), "it runs at 1.8 V to 3.6 V")
	_, problems = exercise.Read("x", []byte(strings.Replace(otherChip, "anode: IO39", "anode: RUN", 1)))
	require.NotEmpty(t, problems)
	assert.Contains(t, problems[0].Error(), "RUN is the reset pin")
}
