package fault

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
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
      - {shows: light, frames: [{text: "off", for: any}, {text: "on", for: 3s}, {text: "off", for: any}], marks: 5}
  - name: again
    length: 9s
    expect:
      - {shows: light, frames: [{text: "off", for: any}, {text: "on", for: 5s}, {text: "off", for: any}], marks: 5}
`

// A state that is too short by the same time wherever it comes is told so, though it should last now so long, now so
// long.
func TestByAsMuch(t *testing.T) {
	x, problems := exercise.Read("exercise.yaml", []byte(strings.ReplaceAll(stairs, "marks: 5", "tolerance: 5%, marks: 5")))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("light")
	lit := func(lengths ...clock.Time) *Subject {
		var reels []*reel.Reel
		var verdicts [][]judge.Verdict
		for i, length := range lengths {
			track := display.Track{Display: "light", Geometry: p.Kind.Geometry(*p)}
			for k, to := range []clock.Time{clock.Second, clock.Second + length, x.Trials[i].Length} {
				from := clock.Time(0)
				if k > 0 {
					from = track.Frames[k-1].To
				}
				track.Frames = append(track.Frames,
					display.Frame{From: from, To: to, State: display.Emissive(uint64(k%2), 1)})
			}
			r := &reel.Reel{Trial: x.Trials[i].Name, Length: x.Trials[i].Length, Tracks: []display.Track{track}}
			reels, verdicts = append(reels, r), append(verdicts, []judge.Verdict{x.Trials[i].Expect[0].Judge(r)})
		}
		return NewSubject(x, p, reels, verdicts)
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
