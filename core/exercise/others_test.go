package exercise_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

const twoChips = `hemble: 1
name: two
title: Two
chip: {is: atmega328p, board: numbered-20, or: [{is: rp2040, supply: 3.3V, pins: {D2: GP4, PB0: "7"}, board: numbered-29}]}
bench:
  lamp: {part: lamp, pins: {anode: D2, cathode: GND}}
  key: {part: button, pins: {1: PB0, 2: GND}}
trials:
  - {name: one, length: 1s, expect: [{steady: lamp, marks: 1}]}
`

// Work may be done on one of several chips: each has the same bench at pins of its own, and the file says which it is.
func TestOtherChips(t *testing.T) {
	x, problems := exercise.Read("x", []byte(twoChips))
	require.NotNil(t, x, "%v", problems)
	require.Empty(t, problems)
	require.Len(t, x.Others, 1)
	other := x.Others[0]
	assert.Equal(t, []string{"atmega328p", "PD2", "PB0"}, []string{x.Chip.Name, x.Part("lamp").Wired[0], x.Part("key").Wired[0]})
	assert.Equal(t, []string{"rp2040", "GP4", "GP7"},
		[]string{other.Chip.Name, other.Part("lamp").Wired[0], other.Part("key").Wired[0]})
	assert.Equal(t, "GND", other.Part("key").Wired[1])
	assert.NotEqual(t, x.Hash, other.Hash)
	assert.Equal(t, "the work is for the RP2040", other.OnChip())

	assert.Same(t, x, x.For([]byte(":0400000012345678E8\n:00000001FF\n")), "from 0 on there is flash of an AVR alone")
	assert.Same(t, other, x.For([]byte(":020000041000EA\n:0400000012345678E8\n:00000001FF\n")))
	assert.Same(t, x, x.For([]byte("nonsense")))
	assert.Same(t, x, x.ForSource([]byte("#include <avr/io.h>\n#include <stdio.h>\n")))
	assert.Same(t, other, x.ForSource([]byte("#include <stdio.h>\n"), []byte("  # include \"board.h\"\n")))
	assert.Same(t, x, x.ForSource([]byte("void setup() {}")))

	one, _ := exercise.Read("x", []byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n"+
		"  lamp: {part: lamp, pins: {anode: PD2, cathode: GND}}\ntrials:\n"+
		"  - {name: one, length: 1s, expect: [{steady: lamp, marks: 1}]}\n"))
	require.NotNil(t, one)
	assert.Empty(t, one.OnChip())
	assert.Same(t, one, one.For([]byte("anything")))
}

func TestOtherChipsAreChecked(t *testing.T) {
	for pins, want := range map[string]string{
		"{D2: GP4}":                     "x:4:82: PB0 of the bench has no pin on the RP2040: pins names one for each",
		"{D2: GP4, PB0: GP7, PB1: GP8}": "x:4:82: warning: nothing on the bench is wired to PB1",
		"{D2: GP4, PB0: GP77}":          "x:7:33: the RP2040 has no pin \"GP77\"",
	} {
		text := []byte("hemble: 1\nname: two\ntitle: Two\nchip: {is: atmega328p, board: numbered-20, or: [{is: rp2040, supply: 3.3V, pins: " +
			pins + "}]}\nbench:\n  lamp: {part: lamp, pins: {anode: D2, cathode: GND}}\n  key: {part: button, pins: {1: PB0, 2: GND}}\n" +
			"trials:\n  - {name: one, length: 1s, expect: [{steady: lamp, marks: 1}]}\n")
		_, problems := exercise.Read("x", text)
		require.Len(t, problems, 1, "%s: %v", pins, problems)
		assert.Contains(t, problems[0].Error(), want)
	}
}
