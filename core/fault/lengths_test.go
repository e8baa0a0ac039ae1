package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
)

const stairs = `
hemble: 1
name: stairs
title: Stairs
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  light: {part: lamp, pins: {anode: PD0, cathode: GND}}
trials:
  - name: once
    length: 9s
    expect:
      - {shows: light, frames: [{text: "off", for: any}, {text: "on", for: 3s}, {text: "off", for: any}], tolerance: 5%, marks: 5}
  - name: again
    length: 9s
    expect:
      - {shows: light, frames: [{text: "off", for: any}, {text: "on", for: 5s}, {text: "off", for: any}], tolerance: 5%, marks: 5}
`

// A state that is too short by the same time wherever it comes is told so, though it should last now so long, now so
// long.
func TestByAsMuch(t *testing.T) {
	x := readExercise(t, stairs)
	lit := func(lengths ...clock.Time) *Subject {
		var trials [][]change
		for _, length := range lengths {
			trials = append(trials, []change{{0, display.Emissive(0, 1)}, {clock.Second, display.Emissive(1, 1)},
				{clock.Second + length, display.Emissive(0, 1)}})
		}
		return watched(x, "light", trials...)
	}
	s := lit(2*clock.Second, 4*clock.Second)
	sizes := byAsMuch(s)
	require.Len(t, sizes, 1)
	assert.Equal(t, "light shows on for a time that is 1 s too short, each time.", sizes[0].Text)
	for i, r := range s.Reels {
		assert.Equal(t, judge.Met, x.Trials[i].Expect[0].Judge(sizes[0].Reel(r)).Outcome)
	}
	assert.Empty(t, byAsMuch(lit(2*clock.Second, 3*clock.Second))) // by another time
	assert.Empty(t, byAsMuch(lit(3*clock.Second, 4*clock.Second))) // not each time
	assert.Empty(t, byAsMuch(lit(3*clock.Second, 5*clock.Second))) // right
}
