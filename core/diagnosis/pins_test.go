package diagnosis

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/reel"
)

const shelf = `hemble: 1
name: shelf
title: Shelf
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  row: {part: bar, lights: 2, common: cathode, colour: red, resistor: 470, pins: {light1: q1, light2: q2, common: GND}}
  shift: {part: 74hc595, pins: {ser: PD3, srclk: PD4, rclk: PD5, qa: q1, qb: q2}}
  other: {part: 74hc595, pins: {ser: PB3, srclk: PB4, rclk: PB5}}
  panel: {part: lcd, pins: {rs: PC0, rw: %RW, e: PC1, d4: PC2, d5: PC3, d6: PC4, d7: PC5}}
trials:
  - name: open
    length: 2s
    expect:
      - {reads: row, text: "##", at: 1s, marks: 5}
      - {reads: panel, text: "Open", at: 1s, marks: 5}
`

// Lines that nothing drives are told of the part that they lead to, unless what is shown is right all the same, and
// unless the part may drive them itself.
func TestUndriven(t *testing.T) {
	for _, c := range []struct {
		rw, display string
		lit         uint64
		silent      []string
		want        string
	}{
		{"GND", "row", 0, []string{"PD5"}, "PD5 is not an output: nothing drives the line rclk of shift."},
		{"GND", "row", 1, []string{"PD3", "PD4"}, "PD3, PD4 are not outputs: nothing drives the lines ser, srclk of shift."},
		{"GND", "row", 3, []string{"PD5"}, ""},
		{"GND", "row", 0, []string{"PB5", "PC2"}, ""},
		{"GND", "panel", 0, []string{"PD5", "PC5"}, "PC5 is not an output: nothing drives the line d7 of panel."},
		{"PB0", "panel", 0, []string{"PC5"}, ""},
		{"PB0", "panel", 0, []string{"PC0", "PC5"}, "PC0 is not an output: nothing drives the line rs of panel."},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(strings.ReplaceAll(shelf, "%RW", c.rw)))
		require.NotNil(t, x, "%v", problems)
		r := &reel.Reel{Trial: "open", Length: 2 * clock.Second, Pins: reel.Pins{Silent: c.silent}}
		for name, state := range map[string]display.State{
			"row": display.Emissive(c.lit, 2), "panel": {Cells: make([]display.Cell, 32)},
		} {
			p := x.Part(name)
			r.Tracks = append(r.Tracks, display.Track{Display: name, Geometry: p.Kind.Geometry(*p),
				Frames: []display.Frame{{To: 2 * clock.Second, State: state}}})
		}
		v := &view{x: x, reel: r, track: r.Track(c.display)}
		for _, e := range x.Trials[0].Expect {
			if x := e.Judge(r); x.Display == c.display {
				v.all = append(v.all, x)
			}
		}
		assert.Equal(t, c.want, v.undriven(), "%v", c)
	}
}
