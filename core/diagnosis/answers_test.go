package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

// pressed are the codes of the signs of the counter (see leftout_test.go) that shows one number after another: before
// all inputs, and after each of them.
func pressed(t *testing.T, signs []symptom, numbers ...int) (codes []finding.Code) {
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("count")
	track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
	c, ok := display.As[display.Counting](track.Geometry)
	require.True(t, ok)
	r := &reel.Reel{Trial: "up and down", Length: x.Trials[0].Length}
	for _, part := range []string{"more", "more", "less", "anew", "more"} {
		at := clock.Time(len(r.Cues)+1) * clock.Second
		r.Cues = append(r.Cues, reel.Fired{Name: x.Trials[0].Cues[len(r.Cues)].Name, Verb: "press", Part: part,
			Text: "press " + part, Start: at, End: at + 100*clock.Millisecond})
	}
	for i, n := range numbers {
		from := clock.Time(i) * clock.Second
		blank := display.Emissive(0, track.Geometry.Lights())
		track.Frames = append(track.Frames, display.Frame{From: from + 20*clock.Millisecond*clock.Time(min(i, 1)),
			To: from + 1020*clock.Millisecond, State: c.WriteNumber(&track, blank, 0, n)})
	}
	track.Frames[len(numbers)-1].To = r.Length
	r.Tracks = []display.Track{track}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	for _, f := range symptoms(signs, x, []Seen{seen}) {
		codes = append(codes, f.Code)
	}
	return codes
}

// A number that is drawn before it is counted on catches up with another input; one that does not may be off.
func TestDrawnFirst(t *testing.T) {
	assert.Empty(t, pressed(t, answers, 0, 1, 2, 1, 0, 1))
	assert.Equal(t, []finding.Code{"lag-input"}, pressed(t, answers, 0, 0, 1, 1, 0, 0))
	assert.NotContains(t, pressed(t, answers, 0, 0, 1, 0, 0, 0), finding.Code("lag-input"), "one too few throughout")
	assert.NotContains(t, pressed(t, answers, 0, 0, 0, 0, 0, 0), finding.Code("lag-input"), "nothing is counted")
}

// One input of several that counts by another step is told with both.
func TestOtherStep(t *testing.T) {
	scaled := finding.Code("count-scaled")
	assert.NotContains(t, pressed(t, fields, 0, 1, 2, 1, 0, 1), scaled)
	assert.Contains(t, pressed(t, fields, 0, 1, 3, 1, 0, 2), scaled)
	assert.NotContains(t, pressed(t, fields, 0, 1, 3, 1, 0, 1), scaled, "right at another time")
	assert.NotContains(t, pressed(t, fields, 0, 2, 4, 3, 0, 2), scaled, "wrong before the second")
	assert.NotContains(t, pressed(t, fields, 0, 1, 0, 1, 0, 1), scaled, "the other way")
}

const run = `
hemble: 1
name: run
title: Run
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 1, common: cathode, pins: {a: PB0, b: PB1, c: PB2, d: PB3, e: PB4, f: PB5, g: PD0, common: GND}}
  halt: {part: button, pins: {1: PD2, 2: GND}}
trials:
  - name: halted
    length: 12s
    cues: [{at: 3100ms, press: halt, for: 100ms, as: h1}, {at: 7s, press: halt, for: 100ms, as: h2}]
    expect: [{reads: count, text: "5", at: 8100ms, marks: 10}]
`

// A count that goes on while it is halted jumps when it is seen again; one that was set to another number does not.
func TestCatchesUp(t *testing.T) {
	for _, c := range []struct {
		name   string
		shows  string
		starts []int // in ms, of each number
		want   []finding.Code
	}{
		{"it catches up", "98762", []int{0, 1000, 2000, 3000, 7020}, []finding.Code{"goes-on-halted"}},
		{"it jumps by less", "98765", []int{0, 1000, 2000, 3000, 7020}, nil},
		{"it was never halted", "987654", []int{0, 1000, 2000, 3000, 5000, 7020}, nil},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(run))
		require.NotNil(t, x, "%v", problems)
		p := x.Part("count")
		track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
		counting, _ := display.As[display.Counting](track.Geometry)
		r := &reel.Reel{Trial: "halted", Length: 12 * clock.Second}
		for i, at := range []int{3100, 7000} {
			start := clock.Time(at) * clock.Millisecond
			r.Cues = append(r.Cues, reel.Fired{Name: x.Trials[0].Cues[i].Name, Verb: "press", Part: "halt",
				Text: "press halt", Start: start, End: start + 100*clock.Millisecond})
		}
		for i, at := range c.starts {
			blank := display.Emissive(0, track.Geometry.Lights())
			f := display.Frame{From: clock.Time(at) * clock.Millisecond, To: r.Length,
				State: counting.WriteNumber(&track, blank, 0, int(c.shows[i]-'0'))}
			if i > 0 {
				track.Frames[i-1].To = f.From
			}
			track.Frames = append(track.Frames, f)
		}
		r.Tracks = []display.Track{track}
		seen := Seen{Reel: r, Verdicts: []judge.Verdict{x.Trials[0].Expect[0].Judge(r)}}
		var codes []finding.Code
		for _, f := range symptoms(fields, x, []Seen{seen}) {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, c.want, codes, c.name)
	}
}

const bowls = `
hemble: 1
name: bowls
title: Bowls
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  home: {part: seven-segment, common: cathode, pins: {a: PB0, b: PB1, c: PB2, d: PB3, e: PB4, f: PB5, g: PC0, common: GND}}
  away: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
trials:
  - name: a match
    length: 4s
    expect:
      - {shows: home, frames: [0, 1, 2, 3], marks: 5}
      - {shows: away, frames: [0, 4, 5, 6], marks: 5}
`

// A display that shows what another one shows is told; one that does so but once, or beside one that is wrong, is not.
func TestSameAsAnother(t *testing.T) {
	for _, c := range []struct {
		name       string
		home, away string
		told       bool
	}{
		{"as it should be", "0123", "0456", false},
		{"it shows the other one's", "0123", "0123", true},
		{"of its own at the end", "0123", "0126", false},
		{"both show what the second one should", "0456", "0456", false},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(bowls))
		require.NotNil(t, x, "%v", problems)
		r := &reel.Reel{Trial: "a match", Length: 4 * clock.Second}
		for name, shows := range map[string]string{"home": c.home, "away": c.away} {
			p := x.Part(name)
			track := display.Track{Display: name, Geometry: p.Kind.Geometry(*p)}
			counting, _ := display.As[display.Counting](track.Geometry)
			for i, n := range shows {
				blank := display.Emissive(0, track.Geometry.Lights())
				track.Frames = append(track.Frames, display.Frame{From: clock.Time(i) * clock.Second,
					To: clock.Time(i+1) * clock.Second, State: counting.WriteNumber(&track, blank, 0, int(n-'0'))})
			}
			r.Tracks = append(r.Tracks, track)
		}
		seen := Seen{Reel: r}
		for _, e := range x.Trials[0].Expect {
			seen.Verdicts = append(seen.Verdicts, e.Judge(r))
		}
		told := false
		for _, f := range symptoms(answers, x, []Seen{seen}) {
			told = told || f.Code == "replaced-display" && f.Text == "away shows throughout what home shows."
		}
		assert.Equal(t, c.told, told, c.name)
	}
}
