package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/reel"
)

const gate = `
hemble: 1
name: gate
title: Gate
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  lamp: {part: lamp, colour: red, pins: {anode: PB0, cathode: GND}}
  bell: {part: lamp, colour: green, pins: {anode: PB1, cathode: GND}}
  ring: {part: button, pins: {1: PD2, 2: GND}}
  hush: {part: button, pins: {1: PD3, 2: GND}}
trials:
  - name: a visit
    length: 6s
    cues:
      - {at: 1s, press: ring, for: 200ms, as: rings}
      - {at: 4s, press: hush, for: 200ms, as: hushed}
    expect:
      - {shows: lamp, frames: [{text: off, for: any}, {text: on, for: 3s}, {text: off, for: any}], marks: 5}
      - {reads: lamp, text: on, after: {cue: rings}, within: 300ms, marks: 2}
      - {reads: lamp, text: off, after: {cue: hushed}, within: 300ms, marks: 2}
      - {reads: bell, text: on, after: {cue: rings}, within: 300ms, marks: 1}
`

// told are the codes of the signs of a run in which two lamps change at some times in ms, dark at first; a time of 0
// has it lit from the start. Silent and loose are pins.
func told(t *testing.T, lamp, bell []int, pins reel.Pins) (codes []finding.Code) {
	x, problems := exercise.Read("exercise.yaml", []byte(gate))
	require.NotNil(t, x, "%v", problems)
	r := &reel.Reel{Trial: "a visit", Length: 6 * clock.Second, Pins: pins, Cues: []reel.Fired{
		{Name: "rings", Verb: "press", Part: "ring", Start: clock.Second, End: 1200 * clock.Millisecond},
		{Name: "hushed", Verb: "press", Part: "hush", Start: 4 * clock.Second, End: 4200 * clock.Millisecond}}}
	for _, changes := range []struct {
		name string
		at   []int
	}{{"lamp", lamp}, {"bell", bell}} {
		p := x.Part(changes.name)
		track := display.Track{Display: changes.name, Geometry: p.Kind.Geometry(*p)}
		from, lit := clock.Time(0), uint64(0)
		for _, ms := range changes.at {
			if at := clock.Time(ms) * clock.Millisecond; at > 0 {
				track.Frames = append(track.Frames, display.Frame{From: from, To: at, State: display.Emissive(lit, 1)})
				from = at
			}
			lit ^= 1
		}
		track.Frames = append(track.Frames, display.Frame{From: from, To: r.Length, State: display.Emissive(lit, 1)})
		r.Tracks = append(r.Tracks, track)
	}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	for _, f := range symptoms(all(), x, []Seen{seen}) {
		codes = append(codes, f.Code)
	}
	return codes
}

// Each sign is told of what has it, and not of what follows from something else.
func TestSigns(t *testing.T) {
	right := []int{1000, 4000}
	for _, c := range []struct {
		name       string
		lamp, bell []int
		pins       reel.Pins
		want       []finding.Code
	}{
		{"right", right, []int{1000}, reel.Pins{}, nil},
		{"a key is ignored", []int{1000}, []int{1000}, reel.Pins{}, []finding.Code{"ignored-key"}},
		{"a key is answered late", []int{1050, 5200}, []int{1050}, reel.Pins{}, nil},
		{"another one is not", []int{1050}, []int{1050}, reel.Pins{}, []finding.Code{"ignored-key"}},
		{"released in time", []int{1200, 4200}, []int{5000}, reel.Pins{}, nil},
		{"it does not wait", []int{0, 3000}, []int{1000}, reel.Pins{}, []finding.Code{"too-early"}},
		{"a pin is no output", nil, []int{1000}, reel.Pins{Silent: []string{"PB0"}},
			[]finding.Code{"no-output"}},
		{"another pin is driven", nil, []int{1000}, reel.Pins{Silent: []string{"PB0"}, Loose: []string{"PB4"}},
			[]finding.Code{"wrong-pin"}},
		{"inputs are no outputs either", right, []int{1000}, reel.Pins{Silent: []string{"PD2", "PD3"}}, nil},
		{"dark, and an output", nil, []int{1000}, reel.Pins{}, []finding.Code{"dark"}},
	} {
		assert.Equal(t, c.want, told(t, c.lamp, c.bell, c.pins), c.name)
	}
}
