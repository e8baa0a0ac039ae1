package author_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/demo"
	"hemble/demo/checks"
)

// What any wrong program of the demo course showed can be accepted: the file reads, this program gets more for it, and
// the reference loses nothing.
func TestAccept(t *testing.T) {
	checks.Each(t, func(t *testing.T, e demo.Exercise) {
		x := checks.Read(t, e.Text)
		right, err := marking.Mark(t.Context(), x, "x", e.Reference)
		require.NoError(t, err)
		states, sequences := 0, 0
		for _, f := range e.Files {
			if strings.HasSuffix(f.Name, ".zip") || strings.HasSuffix(f.Name, ".c") {
				continue
			}
			got, err := marking.Mark(t.Context(), x, f.Name, f.Data)
			require.NoError(t, err)
			for trial, tr := range got.Sheet.Trials {
				for verdict, v := range tr.Verdicts {
					if v.Outcome == judge.Met {
						continue
					}
					if a, err := author.Accept(e.Text, x, got.Reels[trial],
						author.Choice{Trial: trial, Verdict: verdict, Pair: author.Sequence}); err == nil {
						sequences++
						now := again(t, a, got.Reels[trial], trial, verdict)
						assert.Equal(t, 1, now.Fraction.Cmp(v.Fraction), "%s: %s\n%s", f.Name, v.Text, a.Now)
						assert.Equal(t, judge.Met, again(t, a, right.Reels[trial], trial, verdict).Outcome)
					}
					for pair, p := range v.Alignment {
						if p.Operation != judge.Wrong {
							continue
						}
						a, err := author.Accept(e.Text, x, got.Reels[trial],
							author.Choice{Trial: trial, Verdict: verdict, Pair: pair})
						if err != nil {
							assert.NotContains(t, err.Error(), "does not read", "%s: %s", f.Name, v.Text)
							continue
						}
						states++
						now := again(t, a, got.Reels[trial], trial, verdict)
						assert.GreaterOrEqual(t, now.Fraction.Cmp(v.Fraction), 0, "%s: %s\n%s", f.Name, v.Text, a.Now)
						assert.Equal(t, judge.Met, again(t, a, right.Reels[trial], trial, verdict).Outcome)
						break // one of each verdict
					}
				}
			}
		}
		t.Logf("%d states, %d sequences", states, sequences)
		assert.Positive(t, states+sequences)
	})
}

func again(t *testing.T, a *author.Acceptance, r *reel.Reel, trial, verdict int) judge.Verdict {
	x, problems := exercise.Read("x", a.Text)
	require.NotNil(t, x, "%v\n%s", problems, a.Text)
	return x.Trials[trial].Expect[verdict].Judge(r)
}

const acceptable = `hemble: 1
name: x
title: x
chip: {is: none}
bench:
  gauge: {part: seven-segment, common: cathode, pins: {a: n, b: n, c: n, d: n, e: n, f: n, g: n, common: GND}}
trials:
  - name: one # the first
    length: 4s
    expect:
`

// However an expectation is written, the alternative is put in its place, and remarks around it stay.
func TestAcceptStyles(t *testing.T) {
	seven := display.State{Lights: display.Lights{1, 1, 1, 0, 0, 0, 0, 0}, Levels: make([]int, 8)}
	two := display.State{Lights: display.Lights{1, 1, 0, 1, 1, 0, 1, 0}, Levels: make([]int, 8)}
	for _, c := range []struct {
		name, expect string
		pair         int
		now          string
	}{
		{"a frame of a sequence", `      - {shows: gauge, frames: [2, 4], each: 1s, marks: 2} # both`, 1,
			`      - {shows: gauge, frames: [2, {one-of: [4, "7"]}], each: 1s, marks: 2} # both`},
		{"quoted", `      - {shows: gauge, frames: [2, '4'], marks: 2}`, 1,
			`      - {shows: gauge, frames: [2, {one-of: ['4', "7"]}], marks: 2}`},
		{"with its length", `      - {shows: gauge, frames: [2, {text: 4, for: any}]}`, 1,
			`      - {shows: gauge, frames: [2, {one-of: [{text: 4}, "7"], for: any}]}`},
		{"one of several", `      - {shows: gauge, frames: [2, {one-of: [4, 5]}]}`, 1,
			`      - {shows: gauge, frames: [2, {one-of: [4, 5, "7"]}]}`},
		{"in lines",
			"      - shows: gauge\n        frames:\n          - 2 # full\n          - 4 # half\n        marks: 3", 1,
			`          - {one-of: [4, "7"]} # half`},
		{"read at a time", `      - {reads: gauge, text: 4, at: end}`, 0,
			`      - {reads: gauge, text: {one-of: [4, "7"]}, at: end}`},
		{"a pattern", `      - {reads: gauge, pattern: "[45]", at: end, marks: 2}`, 0,
			"      - any-of:\n          - {reads: gauge, pattern: \"[45]\", at: end}\n          - {reads: gauge, at: end, text: \"7\"}\n        marks: 2"},
		{"another sequence", `      - {shows: gauge, frames: [2, 4], marks: 2, bonus: yes}`, author.Sequence,
			"      - any-of:\n          - {shows: gauge, frames: [2, 4]}\n          - {shows: gauge, frames: [{text: \"2\", for: 2s}, {text: \"7\", for: any}], start: power}\n        marks: 2\n        bonus: yes"},
		{"another one in lines",
			"      # the gauge\n      - shows: gauge # it\n        frames: # all\n          - 2 # full\n          - 4\n        marks: 3 # many\n        each: 1s\n      - {always: gauge, frame: 2}", author.Sequence,
			"      - any-of:\n          - shows: gauge # it\n            frames: # all\n              - 2 # full\n              - 4\n            each: 1s\n          - {shows: gauge, frames: [{text: \"2\", for: 2s}, {text: \"7\", for: any}], start: power}\n        marks: 3 # many"},
		{"a third one",
			"      - any-of:\n          - {shows: gauge, frames: [2, 4]}\n          - {shows: gauge, frames: [2, 5]}\n        marks: 2", author.Sequence,
			"          - {shows: gauge, frames: [2, 5]}\n          - {shows: gauge, frames: [{text: \"2\", for: 2s}, {text: \"7\", for: any}], start: power}"},
	} {
		t.Run(c.name, func(t *testing.T) {
			text := []byte(acceptable + c.expect +
				"\n  - {name: two, length: 1s, expect: [{always: gauge, frame: 2}]}\n")
			x, problems := exercise.Read("x", text)
			require.NotNil(t, x, "%v", problems)
			p := x.Part("gauge")
			r := &reel.Reel{Length: x.Trials[0].Length,
				Tracks: []display.Track{{Display: "gauge", Geometry: p.Kind.Geometry(*p), Frames: []display.Frame{
					{From: 0, To: x.Trials[0].Length / 2, State: two},
					{From: x.Trials[0].Length / 2, To: x.Trials[0].Length, State: seven}}}}}
			a, err := author.Accept(text, x, r, author.Choice{Trial: 0, Verdict: 0, Pair: c.pair})
			require.NoError(t, err)
			assert.Contains(t, string(a.Text), c.now)
			for _, line := range strings.Split(a.Now, "\n") {
				assert.Contains(t, string(a.Text), line)
			}
			assert.Contains(t, string(a.Text), "# the first")
			changed, problems := exercise.Read("x", a.Text)
			require.NotNil(t, changed, "%v\n%s", problems, a.Text)
			assert.Equal(t, x.Marks().String(), changed.Marks().String())
			if c.name != "with its length" && !strings.Contains(c.expect, "each") || c.pair == author.Sequence {
				assert.Equal(t, judge.Met, changed.Trials[0].Expect[0].Judge(r).Outcome, "%s", a.Text)
			}
		})
	}
}

// What cannot be accepted says why.
func TestAcceptNot(t *testing.T) {
	two := display.State{Lights: display.Lights{1, 1, 0, 1, 1, 0, 1, 0}, Levels: make([]int, 8)}
	for _, c := range []struct {
		expect string
		state  author.Choice
		want   string
	}{
		{`{shows: gauge, frames: [2], marks: 2}`, author.Choice{Trial: 0, Verdict: 0, Pair: 0}, "met as it is"},
		{`{shows: gauge, frames: [4]}`, author.Choice{Trial: 0, Verdict: 1, Pair: 0}, "no such expectation"},
		{`{shows: gauge, frames: [4]}`, author.Choice{Trial: 1, Verdict: 0, Pair: 0}, "no such expectation"},
		{`{shows: gauge, frames: [4]}`, author.Choice{Trial: 0, Verdict: 0, Pair: 7}, "nothing was seen there"},
		{`{shows: gauge, frames: [{text: 2, for: 1s}, 5]}`, author.Choice{Trial: 0, Verdict: 0, Pair: 0},
			"widen the tolerance"},
		{`{counts: gauge, from: 4, to: 5, each: 1s, start: power}`, author.Choice{Trial: 0, Verdict: 0, Pair: 1},
			"accept the whole sequence"},
		{`{never: gauge, frame: 2}`, author.Choice{Trial: 0, Verdict: 0, Pair: 0}, "accept the whole sequence"},
		{`{never: gauge, frame: 2}`, author.Choice{Trial: 0, Verdict: 0, Pair: author.Sequence},
			"accept one of its states"},
		{`{fits: flash, at-most: 1}`, author.Choice{Trial: 0, Verdict: 0, Pair: author.Sequence}, "about no display"},
		{`{shows: gauge, frames: [&five 5, 4, *five]}`, author.Choice{Trial: 0, Verdict: 0, Pair: 0}, "by reference"},
	} {
		text := []byte(acceptable + "      - " + c.expect + "\n")
		x, problems := exercise.Read("x", text)
		require.NotNil(t, x, "%v", problems)
		p := x.Part("gauge")
		r := &reel.Reel{Length: x.Trials[0].Length,
			Tracks: []display.Track{{Display: "gauge", Geometry: p.Kind.Geometry(*p),
				Frames: []display.Frame{{From: 0, To: x.Trials[0].Length, State: two}}}}}
		_, err := author.Accept(text, x, r, c.state)
		assert.ErrorContains(t, err, c.want, c.expect)
	}
}

// Where the expected state differs from student to student, that is told.
func TestAcceptVaried(t *testing.T) {
	text := []byte(strings.Replace(acceptable, "bench:\n", "vary: {level: [4, 6]}\nbench:\n",
		1) + "      - {reads: gauge, text: \"${level}\", at: end}\n")
	x, problems := exercise.Read("x", text)
	require.NotNil(t, x, "%v", problems)
	p := x.Part("gauge")
	two := display.State{Lights: display.Lights{1, 1, 0, 1, 1, 0, 1, 0}, Levels: make([]int, 8)}
	r := &reel.Reel{Length: x.Trials[0].Length,
		Tracks: []display.Track{{Display: "gauge", Geometry: p.Kind.Geometry(*p),
			Frames: []display.Frame{{From: 0, To: x.Trials[0].Length, State: two}}}}}
	a, err := author.Accept(text, x, r, author.Choice{Trial: 0, Verdict: 0, Pair: 0})
	require.NoError(t, err)
	assert.Contains(t, a.Now, `text: {one-of: ["${level}", "2"]}`)
	assert.Contains(t, a.What, "differs from student to student")
}
