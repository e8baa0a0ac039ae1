package fault

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"

	_ "hemble/core/catalogue"
)

const mood = `
hemble: 1
name: mood
title: Mood
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  mood: {part: colour-lamp, common: anode, pins: {red: PB1, green: PB2, blue: PB3, common: VCC}}
trials:
  - name: rounds
    length: %s
    expect:
      - {shows: mood, frames: [%s], repeats: yes, tolerance: 6%%, start: power, marks: 10}
`

var colours = map[string]uint64{"off": 0, "red": 1, "green": 2, "yellow": 3, "blue": 4, "magenta": 5, "cyan": 6,
	"white": 7}

// lasts is a colour for some time.
type lasts struct {
	colour string
	ms     clock.Time
}

// subjected is a lamp that shows steps over and over, judged.
func subjected(t *testing.T, length, frames string, steps ...lasts) (*Subject, *exercise.Exercise) {
	x, problems := exercise.Read("exercise.yaml", fmt.Appendf(nil, mood, length, frames))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("mood")
	r := &reel.Reel{Trial: "rounds", Length: x.Trials[0].Length,
		Tracks: []display.Track{{Display: "mood", Geometry: p.Kind.Geometry(*p)}}}
	list := &r.Tracks[0].Frames
	for at, i := clock.Time(0), 0; at < r.Length; i++ {
		s := steps[i%len(steps)]
		f := display.Frame{From: at, To: min(at+s.ms*clock.Millisecond, r.Length),
			State: display.Emissive(colours[s.colour], 3)}
		*list, at = append(*list, f), f.To
	}
	verdicts := [][]judge.Verdict{{x.Trials[0].Expect[0].Judge(r)}}
	return NewSubject(x, p, []*reel.Reel{r}, verdicts), x
}

// Each mistake of a sequence is told by its own name, and by no other; what is repaired on the reel is then right.
func TestSequences(t *testing.T) {
	const even = "{text: red, for: 500ms}, {text: white, for: 500ms}, {text: green, for: 500ms}, {text: blue, for: 500ms}"
	const uneven = "{text: red, for: 300ms}, {text: green, for: 900ms}, {text: blue, for: 500ms}"
	const twice = "{text: green, for: 600ms}, {text: red, for: 500ms}, {text: blue, for: 600ms}, {text: red, for: 500ms}"
	const four = "{text: red, for: 300ms}, {text: white, for: 600ms}, {text: green, for: 900ms}, {text: blue, for: 500ms}"
	const joined = "{text: red, for: 500ms}, {text: green, for: 700ms}, {text: yellow, for: 400ms}"
	for _, c := range []struct {
		code   finding.Code
		text   string
		frames string
		steps  []lasts
	}{
		{"step-missing", "leaves out white between red and green", even,
			[]lasts{{"red", 500}, {"green", 500}, {"blue", 500}}},
		{"extra-step", "shows magenta between red and white", even,
			[]lasts{{"red", 500}, {"magenta", 500}, {"white", 500}, {"green", 500}, {"blue", 500}}},
		{"texts-swapped", "green and white", even,
			[]lasts{{"red", 500}, {"green", 500}, {"white", 500}, {"blue", 500}}},
		{"length", "shows green for 1.4 s each time; expected: 900 ms", uneven,
			[]lasts{{"red", 300}, {"green", 1400}, {"blue", 500}}},
		{"length", "shows red behind blue for 1.2 s each time; expected: 500 ms", twice,
			[]lasts{{"green", 600}, {"red", 500}, {"blue", 600}, {"red", 1200}}},
		{"lengths-swapped", "green lasts 300 ms and red 900 ms", uneven,
			[]lasts{{"red", 900}, {"green", 300}, {"blue", 500}}},
		{"order", "shows green before white", four,
			[]lasts{{"red", 300}, {"green", 900}, {"white", 600}, {"blue", 500}}},
		{"stays-lit", "stays lit when green should come: it shows yellow", joined, []lasts{{"red", 500}, {"yellow", 1100}}},
		{"colours-swapped", "red and blue", uneven, []lasts{{"blue", 300}, {"green", 900}, {"red", 500}}},
	} {
		s, x := subjected(t, "8s", c.frames, c.steps...)
		texts := ""
		for _, f := range All() {
			if f.Code != c.code {
				continue
			}
			for _, size := range f.Sizes(s) {
				texts += size.Text + "\n"
				if size.Reel != nil && c.code != "colours-swapped" {
					assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(size.Reel(s.Reels[0])).Outcome, "%s: %s",
						c.code, size.Text)
				}
			}
		}
		assert.Contains(t, texts, c.text)
	}
}

// Of a right program, and of one that is wrong in another way, nothing of the kind is told.
func TestNoSequence(t *testing.T) {
	const even = "{text: red, for: 500ms}, {text: white, for: 500ms}, {text: green, for: 500ms}, {text: blue, for: 500ms}"
	for _, steps := range [][]lasts{
		{{"red", 500}, {"white", 500}, {"green", 500}, {"blue", 500}},
		{{"red", 1000}, {"white", 1000}, {"green", 1000}, {"blue", 1000}},
		{{"magenta", 500}, {"cyan", 500}},
	} {
		s, _ := subjected(t, "8s", even, steps...)
		for _, f := range All() {
			switch f.Code {
			case "step-missing", "extra-step", "length", "lengths-swapped", "texts-swapped", "order", "stays-lit":
				assert.Empty(t, f.Sizes(s), "%s of %v", f.Code, steps)
			}
		}
	}
}
