package bench_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/bench/benchtest"
	"hemble/core/exercise"
	"hemble/core/firmware"
)

// A pin that lights a lamp is followed while it drives, and told of at once where it becomes an input: the reel, with
// its pull-up and its brightness, is that of the reference interpreter.
func TestFollowedPinThatLetsGo(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  red: {part: lamp, resistor: 0, pins: {anode: PB0, cathode: GND}}
  green: {part: lamp, pins: {anode: PB1, cathode: GND}}
trials: [{name: x, length: 300ms, expect: [{reads: red, text: on, at: end}]}]
`))
	require.NotNil(t, x, "%v", problems)
	var flash []byte
	for _, w := range []uint16{
		0x9a21,                         // sbi DDRB, 1
		0x9a20, 0x9a28, 0x9828, 0x9a28, // sbi DDRB, 0; PORTB.0 high, low, high
		0x9a19, 0x9820, 0x9828, // sbi PINB, 1; cbi DDRB, 0: its pull-up; cbi PORTB, 0: nothing
		0xcff8, // from sbi DDRB, 0 on
	} {
		flash = append(flash, byte(w), byte(w>>8))
	}
	im := &firmware.Image{Flash: []firmware.Segment{{Data: flash}}}
	plain := benchtest.Reel(t, x, &x.Trials[0], im, bench.Options{Reference: true})
	assert.Equal(t, plain, benchtest.Reel(t, x, &x.Trials[0], im, bench.Options{}))
	assert.Contains(t, plain, `"lights":"1"`)
}
