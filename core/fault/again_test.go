package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
)

const chime = `
hemble: 1
name: chime
title: Chime
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  lamp: {part: lamp, colour: red, pins: {anode: PB0, cathode: GND}}
  door: {part: switch, pins: {common: PD2, on: GND}}
trials:
  - name: a visit
    length: 12s
    cues:
      - {at: 1s, set: door, to: "off", as: opens}
      - {at: 7s, set: door, to: "on", as: shuts}
    expect:
      - {shows: lamp, frames: [{text: "off", for: any}, {text: "on", for: 1s}, {text: "off", for: 1s}, {text: "on", for: 1s}, {text: "off", for: any}], marks: 10}
`

// A sequence that comes again is told by what begins it, and ended where it should end; one step more is none, and what
// differs otherwise neither.
func TestOnceMore(t *testing.T) {
	x := readExercise(t, chime)
	lit := func(at ...clock.Time) *Subject {
		changes := []change{{0, display.Emissive(0, 1)}}
		for i, ms := range at {
			changes = append(changes, change{ms * clock.Millisecond, display.Emissive(uint64(i+1)%2, 1)})
		}
		return watched(x, "lamp", changes)
	}
	for _, c := range []struct {
		name string
		s    *Subject
		code finding.Code
		text string
	}{
		{"as the door shuts", lit(1010, 2010, 3010, 4010, 7010, 8010, 9010, 10010), "both-edges-again",
			"lamp begins its sequence again when door is set to on at 7.000 s: both changes of the input begin it."},
		{"by itself", lit(1010, 2010, 3010, 4010, 5010, 6010, 7700, 8700), "goes-on-again",
			"lamp begins its sequence again at 5.010 s, where it should have come to its end."},
		{"once", lit(1010, 2010, 3010, 4010), "", ""},
		{"a flash more", lit(1010, 2010, 3010, 4010, 5010, 6010), "", ""},
		{"never in time", lit(1010, 2010), "", ""},
	} {
		var codes []finding.Code
		for _, f := range All() {
			if f.Code != "both-edges-again" && f.Code != "goes-on-again" {
				continue
			}
			for _, size := range f.Sizes(c.s) {
				codes = append(codes, f.Code)
				assert.Equal(t, c.text, size.Text, c.name)
				repaired := size.Reel(c.s.Reels[0])
				assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(repaired).Outcome, c.name)
				assert.Len(t, c.s.Reels[0].Tracks[0].Frames, 9, "the reel that is given stays as it is")
			}
		}
		if c.code == "" {
			assert.Empty(t, codes, c.name)
		} else {
			assert.Equal(t, []finding.Code{c.code}, codes, c.name)
		}
	}
}
