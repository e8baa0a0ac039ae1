package judge_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/digits"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/core/judge"
	"hemble/core/reel"
)

const ms = clock.Millisecond

// expectation reads one expectation about a digit called gauge, in a trial of ten seconds with a
// press at 2 s.
func expectation(t *testing.T, text string) judge.Expectation {
	x, problems := exercise.Read("x", []byte(fmt.Sprintf(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  gauge: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  raise: {part: button, pins: {1: PD7, 2: GND}}
trials: [{name: x, length: 10s, cues: [{at: 2s, press: raise, as: first}], expect: [%s]}]
`, text)))
	require.Empty(t, problems)
	return x.Trials[0].Expect[0]
}

// run makes a reel from "2:700 4:700": symbols and milliseconds; "." is blank. It ends with the last.
func run(text string) *reel.Reel {
	look := display.Geometry{TypeName: digits.Form}
	for i := 0; i < 8; i++ {
		look.Shapes = append(look.Shapes, display.Shape{Light: i})
	}
	r := &reel.Reel{Tracks: []display.Track{{Display: "gauge", Geometry: look}},
		Cues: []reel.Fired{{Name: "first", Start: 2 * clock.Second, End: 2100 * ms}}}
	at := clock.Time(0)
	for _, f := range strings.Fields(text) {
		symbol, length, _ := strings.Cut(f, ":")
		var n int
		fmt.Sscan(length, &n)
		w, _ := glyph.ParseSeven(strings.ReplaceAll(symbol, ".", " "))
		lights := make(display.Lights, 8)
		for i := range lights {
			if w.Usual>>i&1 == 1 {
				lights[i] = display.Lit
			}
		}
		r.Tracks[0].Frames = append(r.Tracks[0].Frames,
			display.Frame{From: at, To: at + clock.Time(n)*ms, State: display.State{Lights: lights}})
		at += clock.Time(n) * ms
	}
	r.Length = at
	return r
}

func steps(v judge.Verdict) (out string) {
	for _, p := range v.Alignment {
		out += map[judge.Operation]string{judge.Right: "✓", judge.Mistimed: "≈", judge.Wrong: "✗", judge.Missing: "-",
			judge.Near: "~", judge.Extra: "+", judge.Ignored: "·"}[p.Operation]
	}
	return out
}

// The worked cases of docs/marking.md.
func TestShows(t *testing.T) {
	for _, c := range []struct {
		name, expect, seen, steps, share, first string
	}{
		{"all right", "{shows: gauge, frames: [1, 2, 3], each: 1s}", "1:1000 2:1000 3:1000", "✓✓✓", "1", ""},
		{"before the sequence begins", "{shows: gauge, frames: [1, 2, 3], each: 1s}", "-:3000 1:1000 2:1000 3:1000",
			"·✓✓✓", "1", ""},
		{"within tolerance", "{shows: gauge, frames: [1, 2, 3], each: 1s}", "1:1049 2:951 3:1000", "✓✓✓", "1", ""},
		{"one too long", "{shows: gauge, frames: [1, 2, 3], each: 1s}", "1:1000 2:1100 3:1000", "✓≈✓", "19/20",
			"1.000 s: 2 for 1 s → 2 for 1.1 s"},
		{"all twice as long", "{shows: gauge, frames: [1, 2, 3], each: 1s, extra: ignore}",
			"1:2000 2:2000 3:2000 4:2000", "≈≈≈·", "7/10", "0.000 s: 1 for 1 s → 1 for 2 s"},
		{"one wrong", "{shows: gauge, frames: [1, 2, 3], each: 1s}", "1:1000 5:1000 3:1000", "✓✗✓", "23/30",
			"1.000 s: 2 → 5"},
		{"one missing", "{shows: gauge, frames: [1, 2, 3, 4], each: 1s}", "1:1000 3:1000 4:1000", "✓-✓✓", "3/4",
			"1.000 s: 2 → nothing of the kind"},
		{"one extra", "{shows: gauge, frames: [1, 2, 3, 4], each: 1s}", "1:1000 2:1000 8:1000 3:1000 4:1000", "✓✓+✓✓",
			"3/4", "2.000 s: nothing more here → 8"},
		{"one extra, ignored", "{shows: gauge, frames: [1, 2, 3, 4], each: 1s, extra: ignore}",
			"1:1000 2:1000 8:1000 3:1000 4:1000", "✓✓·✓✓", "1", ""},
		{"nothing right", "{shows: gauge, frames: [1, 2], each: 1s}", "8:10000", "-✗", "0",
			"0.000 s: 1 → nothing of the kind"},
		{"the end cuts the last", "{shows: gauge, frames: [1, 2], each: 8s}", "1:8000 2:2000", "✓✓", "1", ""},
		{"a last one of any length", "{shows: gauge, frames: [1, {text: 2, for: any}], each: 1s}", "1:1000 2:9000",
			"✓✓", "1", ""},
		{"only the order counts", "{shows: gauge, frames: [1, 2, 3]}", "1:10 2:3000 3:70", "✓✓✓", "1", ""},
		{"repeated", "{shows: gauge, frames: [1, 2], each: 1s, repeat: 3}", "1:1000 2:1000 1:1000 2:1000 1:1000 2:1000",
			"✓✓✓✓✓✓", "1", ""},
		{"and so on", "{shows: gauge, frames: [1, 2], each: 1s, repeats: yes}",
			"-:500 1:1000 2:1000 1:1000 2:1000 1:700", "·✓✓✓✓✓", "1", ""},
		{"and so on, wrong in the third turn", "{shows: gauge, frames: [1, 2], each: 1s, repeats: yes}",
			"1:1000 2:1000 1:1000 2:1000 1:1000 3:1000", "✓✓✓✓✓✗", "53/60", "5.000 s: 2 → 3"},
		{"and so on, stopped too early", "{shows: gauge, frames: [1, 2], each: 1s, repeats: yes}",
			"1:1000 2:1000 1:1000 -:3000", "✓✓✓-✗-", "1/2", "3.000 s: 2 → nothing of the kind"},
		{"and so on, a little fast", "{shows: gauge, frames: [1, 2], each: 1s, repeats: yes}",
			"1:960 2:960 1:960 2:960 1:960 2:960 1:40", "✓✓✓✓✓✓✓", "1", ""},
		{"and so on, in no time", "{shows: gauge, frames: [1, 2], repeats: yes}", "1:100 2:4000 1:70 2:900", "✓✓✓✓",
			"1", ""},
		{"and so on, in no time, wrong", "{shows: gauge, frames: [1, 2], repeats: yes}", "1:100 2:4000 1:70 3:900",
			"✓✓✓✗", "3/4", "4.170 s: 2 → 3"},
		{"once more than asked", "{shows: gauge, frames: [{text: 1, for: any}, 2, {text: 1, for: any}], each: 1s}",
			"1:3000 2:1000 1:1000 2:1000 1:3000", "✓✓✓++", "7/30", "5.000 s: nothing more here → 2"},
		{"dark while it starts, which is accepted, too", "{shows: gauge, frames: [{one-of: [\" \", 1]}, 2]}",
			".:60 1:1000 2:1000", "·✓✓", "1", ""},
		{"before a beginning of any length", "{shows: gauge, frames: [{text: 1, for: any}, 2, {text: 1, for: any}], each: 1s}",
			"8:500 2:1000 1:1000 2:1000 1:3000", "··✓✓✓", "1", ""},
		{"from power-on", "{shows: gauge, frames: [1, 2], each: 1s, start: power}", ".:60 1:1000 2:1000", "✓✓", "1",
			""},
		{"too late from power-on", "{shows: gauge, frames: [1, 2], each: 1s, start: power}", ".:600 1:1000 2:1000",
			"+✓✓", "1/2", "0.000 s: nothing more here → blank"},
		{"content alone", "{shows: gauge, frames: [1, 2], each: 1s, content: 100%, extra: ignore}",
			"1:3000 2:3000 3:1000", "≈≈·", "1", "0.000 s: 1 for 1 s → 1 for 3 s"},
		{"a variant of 6", "{shows: gauge, frames: [6]}", "b:1000", "✓", "1", ""},
		{"but not beside b", "{shows: gauge, frames: [6, b]}", "b:1000", "-✓", "1/2",
			"0.000 s: 6 → nothing of the kind"},
		{"nor strictly", "{shows: gauge, frames: [6], strict: yes}", "b:1000", "✗", "0", "0.000 s: 6 → b"},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := expectation(t, c.expect).Judge(run(c.seen))
			assert.Equal(t, c.steps, steps(v))
			assert.Equal(t, c.share, v.Fraction.RatString())
			first := ""
			if v.First != nil {
				first = fmt.Sprintf("%s: %s → %s", v.First.At, v.First.Expected, v.First.Seen)
			}
			if c.first != "" || first != "" {
				assert.Equal(t, c.first, first)
			}
		})
	}
}

func TestReads(t *testing.T) {
	for _, c := range []struct {
		name, expect, seen, share string
	}{
		{"at a time", "{reads: gauge, text: 4, at: 3s}", "2:2000 4:8000", "1"},
		{"near a time", "{reads: gauge, text: 4, at: 3s, within: 200ms}", "2:3100 4:6900", "1"},
		{"not near enough", "{reads: gauge, text: 4, at: 3s, within: 50ms}", "2:3100 4:6900", "0"},
		{"at the end", "{reads: gauge, text: 4, at: end}", "2:2000 4:8000", "1"},
		{"gone by the end", "{reads: gauge, text: 2, at: end}", "2:2000 4:8000", "0"},
		{"in time after a cue", "{reads: gauge, text: 4, after: {cue: first}, within: 250ms}", "2:2200 4:7800", "1"},
		{"late after a cue", "{reads: gauge, text: 4, after: {cue: first}, within: 250ms}", "2:2400 4:7600", "7/10"},
		{"too late after a cue", "{reads: gauge, text: 4, after: {cue: first}, within: 250ms}", "2:2600 4:7400", "0"},
		{"from the cue's end", "{reads: gauge, text: 4, after: {cue: first, from: end}, within: 250ms}",
			"2:2340 4:7660", "1"},
		{"too briefly to be read", "{reads: gauge, text: 4, after: {cue: first}, within: 250ms}", "2:2100 4:50 6:7000",
			"0"},
		{"a tenth of a second, a little short", "{reads: gauge, text: 4, after: {cue: first}, within: 250ms}",
			"2:2100 4:99 6:7000", "1"},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := expectation(t, c.expect).Judge(run(c.seen))
			assert.Equal(t, c.share, v.Fraction.RatString())
			assert.Equal(t, v.Fraction.RatString() != "1", v.First != nil)
		})
	}
	r := run("4:10000")
	r.Cues = nil
	assert.Equal(t, judge.NotJudged, expectation(t, "{reads: gauge, text: 4, after: {cue: first}}").Judge(r).Outcome)
}
