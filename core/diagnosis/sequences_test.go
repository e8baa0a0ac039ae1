package diagnosis

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/reel"
)

const weir = `
hemble: 1
name: weir
title: Weir
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  path: {part: bar, lights: 4, pins: {light1: PB0, light2: PB1, light3: PB2, light4: PB3, common: GND}}
  count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
  lamp: {part: lamp, colour: red, pins: {anode: PB4, cathode: GND}}
  level: {part: voltage, volts: 1V, pins: {out: PC4}}
trials:
  - name: a day
    length: 9s
%s
    expect:
      - {%s, marks: 10}
`

// levels are cues that set the level, one each second, and press nothing.
func levels(volts ...string) (yaml string, fired []reel.Fired) {
	if len(volts) > 0 {
		yaml = "    cues:\n"
	}
	for i, v := range volts {
		yaml += fmt.Sprintf("      - {at: %ds, set: level, to: %s, as: c%d}\n", i+1, v, i+1)
		fired = append(fired, reel.Fired{Name: fmt.Sprintf("c%d", i+1), Verb: "set", Part: "level", To: v,
			Start: clock.Time(i+1) * clock.Second, End: clock.Time(i+1) * clock.Second})
	}
	return yaml, fired
}

// signsOf are the codes of the signs of a run in which a display has a state for every half second: lights as bits, or
// numbers; less than 0 is dark.
func signsOf(t *testing.T, expect, shows string, states []int, volts ...string) (codes []finding.Code) {
	cues, fired := levels(volts...)
	x, problems := exercise.Read("exercise.yaml", fmt.Appendf(nil, weir, cues, expect))
	require.NotNil(t, x, "%v", problems)
	r := &reel.Reel{Trial: "a day", Length: 9 * clock.Second, Cues: fired}
	for _, name := range []string{"path", "count", "lamp"} {
		p := x.Part(name)
		track := display.Track{Display: name, Geometry: p.Kind.Geometry(*p)}
		list := states
		if name != shows {
			list = []int{-1}
		}
		for i, n := range list {
			s := display.Emissive(0, track.Geometry.Lights())
			if c, ok := display.As[display.Counting](track.Geometry); ok && n >= 0 {
				s = c.WriteNumber(&track, s, 0, n)
			} else if n > 0 {
				s = display.Emissive(uint64(n), track.Geometry.Lights())
			}
			at := clock.Time(i)*500*clock.Millisecond + 20*clock.Millisecond // a program answers a little later
			if i == 0 {
				at = 0
			}
			if k := len(track.Frames); k > 0 && track.Alike(track.Frames[k-1].State, s) {
				continue
			}
			if k := len(track.Frames); k > 0 {
				track.Frames[k-1].To = at
			}
			track.Frames = append(track.Frames, display.Frame{From: at, State: s})
		}
		track.Frames[len(track.Frames)-1].To = r.Length
		r.Tracks = append(r.Tracks, track)
	}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	list := symptoms(all(), x, []Seen{seen})
	if len(list) == 0 {
		list = symptoms(readings, x, []Seen{seen})
	}
	for _, f := range list {
		codes = append(codes, f.Code)
	}
	return codes
}

// What states tell by their order, beside those that were expected; what many things may bring about tells nothing.
func TestSequences(t *testing.T) {
	const (
		walk    = `shows: path, frames: ["#...", ".#..", "..#.", "...#", "..#.", ".#..", "#..."], each: 500ms`
		answers = `answers: count, table: [{after: c1, shows: " 8"}, {after: c2, shows: " 9"}, {after: c3, shows: " 9"}, {after: c4, shows: " 8"}]`
		counts  = `answers: count, table: [{after: c1, shows: " 8"}, {after: c2, shows: " 9"}, {after: c3, shows: 10}, {after: c4, shows: 11}]`
		zeros   = `answers: count, table: [{after: c1, shows: "08"}, {after: c2, shows: "09"}, {after: c3, shows: 10}, {after: c4, shows: 11}]`
		small   = `answers: count, table: [{after: c1, shows: " 4"}, {after: c2, shows: " 6"}, {after: c3, shows: " 9"}, {after: c4, shows: 12}]`
		back    = `answers: count, table: [{after: c1, shows: " 8"}, {after: c2, shows: " 9"}, {after: c3, shows: " 1"}, {after: c4, shows: " 2"}]`
		heater  = `together: lamp, shows: on, while: level, below: 2V`
		round   = `shows: count, frames: [" 7", " 8", " 0", " 1"]`
		waits   = `shows: count, frames: [" 7", " 8", " 9"]`
		lift    = `shows: count, frames: [" 0", " 1", " 2", " 3", " 2", " 1", " 0"]`
		low     = `answers: count, table: [{after: c1, shows: " 2"}, {after: c2, shows: " 1"}, {after: c3, shows: " 0"}, {after: c4, shows: " 0"}]`
		turns   = `answers: count, table: [{after: c1, shows: " 3"}, {after: c2, shows: " 4"}, {after: c3, shows: " 6"}, {after: c4, shows: " 5"}]`
		short   = `shows: path, frames: ["#...", ".#..", "..#.", "...#", "..#.", ".#..", "#...", ".#.."], each: 500ms`
		at4     = `reads: path, text: 2, at: 4s`
		down    = `shows: count, frames: [12, 11, 10, " 9", " 8", " 7"], start: power`
		ends    = `shows: count, frames: [" 3", " 2", " 1", " 0"], start: power`
		fills   = `shows: path, frames: [1, 0, 1, 2, 4]`
		rest    = `reads: count, text: " 0", at: 8s`
		level   = `answers: path, table: [{after: c1, shows: 1}, {after: c2, shows: 1}, {after: c3, shows: 2}, {after: c4, shows: 4}]`
		anew    = `answers: count, table: [{after: c1, shows: " 4"}, {after: c2, shows: " 9"}, {after: c3, shows: " 2"}, {after: c4, shows: " 5"}]`
		windows = `shows: count, frames: [{text: " 0", for: 1s}, {text: " 4", for: 1s}, {text: 11, for: 1s}, {text: " 2", for: 1s}, {text: " 0", for: any}]`
		both    = `reads: lamp, text: "on", at: 3s, marks: 5}` + "\n" + `      - {reads: lamp, text: "off", at: 8s`
		flash   = `shows: lamp, frames: ["off", {text: "on", for: 500ms}, {text: "off", for: 500ms}, {text: "on", for: 500ms}, "off"]`
		shutter = `shows: lamp, frames: [{text: "off", for: any}, {text: "on", for: 1s}, {text: "off", for: any}]`
		read    = `answers: count, table: [{after: c1, shows: " 6"}, {after: c2, shows: 43}, {after: c3, shows: 72}, {after: c4, shows: 98}]`
	)
	four := []string{"1.1V", "1.2V", "1.3V", "1.4V"}
	for _, c := range []struct {
		name, expect, shows string
		states              []int
		volts               []string
		want                []finding.Code
	}{
		{"as it should be", walk, "path", []int{1, 2, 4, 8, 4, 2, 1}, nil, nil},
		{"it begins again", walk, "path", []int{1, 2, 4, 8, 1, 2, 4, 8, 1}, nil, []finding.Code{"order"}},
		{"it fills up", walk, "path", []int{1, 3, 7, 15, 15, 15, 15}, nil, []finding.Code{"stays-lit"}},
		{"a limit is not kept", answers, "count", []int{7, 7, 8, 8, 9, 9, 10, 10, 9, 9}, four, []finding.Code{"limit"}},
		{"it begins again a step late", round, "count", []int{7, 7, 8, 8, 9, 9, 0, 0, 0}, nil, []finding.Code{"limit"}},
		{"nothing is carried", counts, "count", []int{7, 7, 8, 8, 9, 9, 0, 0, 1, 1}, four, []finding.Code{"carry"}},
		{"a place is dark, whatever is in it", zeros, "count", []int{7, 7, 8, 8, 9, 9, 0, 0, 1, 1}, four, []finding.Code{"dark"}},
		{"nothing is borrowed", down, "count", []int{12, 11, 10, 19, 18, 17}, nil, []finding.Code{"carry"}},
		{"a number that never changes carries nothing", counts, "count", []int{0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, four,
			[]finding.Code{"never-changes"}},
		{"it goes on behind its end", ends, "count", []int{3, 2, 1, 0, 15, 14}, nil, []finding.Code{"limit"}},
		{"it begins a step too soon", ends, "count", []int{4, 3, 2, 1, 0}, nil, []finding.Code{"count-start"}},
		{"nothing is switched off", fills, "path", []int{1, 1, 1, 1, 3, 3, 15, 15}, four, []finding.Code{"stays-lit"}},
		{"an offset is none of them", counts, "count", []int{8, 8, 9, 9, 10, 10, 11, 11, 12, 12}, four, nil},
		{"it is set anew each time", counts, "count", []int{7, 7, 8, 8, 8, 8, 8, 8, 8, 8}, four,
			[]finding.Code{"replaced"}},
		{"what does not fit is lost", small, "count", []int{2, 2, 4, 4, 6, 6, 1, 1, 4, 4}, four,
			[]finding.Code{"overflow"}},
		{"other numbers are not that", small, "count", []int{2, 2, 4, 4, 6, 6, 1, 1, 5, 5}, four, nil},
		{"it is never set back", back, "count", []int{7, 7, 8, 8, 9, 9, 10, 10, 11, 11}, four,
			[]finding.Code{"goes-on"}},
		{"the edge is elsewhere", heater, "lamp", []int{1, 1, 1, 1, 1, 1, -1, -1, 1, 1},
			[]string{"1V", "2V", "4V", "1V"}, []finding.Code{"edge"}},
		{"it does not follow", heater, "lamp", []int{1, -1, -1, 1, 1, -1, 1, 1, -1, 1},
			[]string{"1V", "2V", "4V", "1V"},
			nil},
		{"it stops a step short", low, "count", []int{3, 3, 2, 2, 1, 1, 1, 1, 1, 1}, four, []finding.Code{"limit"}},
		{"both ways up", turns, "count", []int{2, 2, 3, 3, 4, 4, 6, 6, 7, 7}, four, []finding.Code{"direction"}},
		{"large numbers are off", read, "count", []int{0, 0, 6, 6, 42, 42, 71, 71, 97, 97}, four,
			[]finding.Code{"scale"}},
		{"two steps are exchanged", walk, "path", []int{1, 4, 2, 8, 4, 2, 1}, nil, []finding.Code{"order"}},
		{"it goes out", walk, "path", []int{1, 2, 4, 8, -1, -1, -1}, nil, []finding.Code{"goes-dark"}},
		{"it comes to rest", walk, "path", []int{1, 2, 4, 8, 8, 8, 8}, nil, []finding.Code{"goes-on"}},
		{"a step lasts too long", walk, "path", []int{1, 2, 2, 2, 2, 4, 8, 4, 2, 1}, nil, []finding.Code{"length"}},
		{"a lamp is lit from a lower value on", level, "path", []int{0, 0, 1, 1, 9, 9, 11, 11, 15, 15},
			[]string{"1V", "2V", "3V", "4V"}, []finding.Code{"edge"}},
		{"it begins with a later step", short, "path", []int{4, 8, 4, 2, 1, 2}, nil, []finding.Code{"order"}},
		{"a limit is several values away", heater, "lamp", []int{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, -1, -1},
			[]string{"1V", "2V", "3V", "4V", "5V"}, []finding.Code{"edge"}},
		{"it goes too soon", at4, "path", []int{0, 0, 3, 0, 0, 0, 0, 0, 0}, []string{"1V"}, []finding.Code{"length"}},
		{"it is the other way round", both, "lamp", []int{-1, -1, -1, -1, -1, -1, -1, -1, -1, 1}, []string{"1V"},
			[]finding.Code{"lamp-inverted"}},
		{"it comes too late", at4, "path", []int{0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 3, 0}, []string{"1V"}, []finding.Code{"lag"}},
		{"something else comes between", at4, "path", []int{3, 3, 3, 3, 3, 3, 3, 0, 0, 0, 3, 3}, []string{"1V"}, nil},
		{"it comes with another input", at4, "path", []int{0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 3, 0}, []string{"1V", "2V", "3V", "4V", "5V"},
			nil},
		{"it counts to the last but one", rest, "count", []int{5, 5, 4, 4, 3, 3, 2, 2, 1}, nil, []finding.Code{"limit"}},
		{"what counts passes by", rest, "count", []int{2, 2, 1, 1, 0, 0, 9, 9, 8, 8, 7, 7, 6, 6, 5, 5, 4, 4}, nil, nil},
		{"what goes both ways has no beginning", lift, "count", []int{0, 0, 1, 1, 0, 0, 1, 1, 0, 0}, nil, nil},
		{"a step is taken over by the one before it", walk, "path", []int{1, 2, 2, 8, 4, 2, 1}, nil,
			[]finding.Code{"goes-on"}},
		{"it is not counted anew", anew, "count", []int{0, 0, 4, 4, 13, 13, 15, 15, 20, 20}, four, []finding.Code{"adds-up"}},
		{"it is counted anew, and wrong", anew, "count", []int{0, 0, 4, 4, 13, 13, 2, 2, 7, 7}, four, nil},
		{"each turn counts twice", windows, "count", []int{0, 0, 8, 8, 22, 22, 4, 4, 0, 0}, nil, []finding.Code{"count-scaled"}},
		{"and once more as it begins", windows, "count", []int{0, 0, 9, 9, 22, 22, 4, 4, 0, 0}, nil, []finding.Code{"count-scaled"}},
		{"some count twice", windows, "count", []int{0, 0, 8, 8, 19, 19, 4, 4, 0, 0}, nil, nil},
		{"lit at another value, too", shutter, "lamp", []int{0, 0, 0, 0, 1, 1, 1, 1, 0, 0}, []string{"1V", "3V", "2V", "1V"},
			[]finding.Code{"edge"}},
		{"a flash too many", flash, "lamp", []int{0, 0, 1, 0, 1, 0, 1, 0, 0}, nil, []finding.Code{"extra-step-times"}},
		{"dark until an input", waits, "count", []int{-1, -1, 8, 8, 9, 9}, []string{"2V"},
			[]finding.Code{"dark-until"}},
	} {
		assert.Equal(t, c.want, signsOf(t, c.expect, c.shows, c.states, c.volts...), c.name)
	}
}
