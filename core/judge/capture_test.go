package judge_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/core/judge"
	"hemble/core/reel"
)

// A part of a display is looked at, whatever the rest shows.
func TestRegions(t *testing.T) {
	board := screen(0, "Wherry Lock     Level 99 cm")
	for text, want := range map[string]judge.Outcome{
		`{reads: board, region: {row: 2, column: 7, columns: 2}, text: 99, at: 1s}`:                            judge.Met,
		`{reads: board, region: {row: 2, column: 7, columns: 2}, text: 98, at: 1s}`:                            judge.Missed,
		`{reads: board, region: {row: 2, column: 7}, text: 99 cm, at: 1s}`:                                     judge.Met,
		`{reads: board, region: {column: 8, rows: 2, columns: 4}, rows: [Lock, "9 cm"], at: 1s}`:               judge.Met,
		`{reads: board, region: {row: 2, column: 1, columns: 8}, pattern: "Level [0-9]+", at: end}`:            judge.Met,
		`{reads: board, region: {row: 2, column: 1, columns: 5}, pattern: ".*[0-9].*", at: end}`:               judge.Missed,
		`{reads: board, region: {row: 1, column: 1, columns: 6}, text: {one-of: [Cherry, Wherry]}, at: end}`:   judge.Met,
		`{reads: board, region: {row: 1, column: 1, columns: 6}, text: {one-of: [Cherry, Sherry]}, at: "end"}`: judge.Missed,
	} {
		v := judged(t, text, board)
		assert.Equal(t, want, v.Outcome, text)
		for _, p := range v.Alignment {
			if p.Expected.State != nil {
				assert.Len(t, p.Expected.State.Cells, 32, "it is drawn as the whole display")
			}
		}
	}
	x, problems := exercise.Read("x",
		[]byte(fmt.Sprintf(bench, `{reads: count, region: {column: 3, columns: 2}, text: 42, at: end}`)))
	require.NotNil(t, x, "%v", problems)
	assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(reelOf(x, "count 1742@10000")).Outcome)
	assert.Equal(t, judge.Missed, x.Trials[0].Expect[0].Judge(reelOf(x, "count 4217@10000")).Outcome)

	oled, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {sign: {part: oled, pins: {sda: PC4, scl: PC5}}}
trials: [{name: x, length: 1s, expect: [{reads: sign, region: {row: 17, rows: 16, columns: 64}, text: Gate, at: end}]}]
`))
	require.NotNil(t, oled, "%v", problems)
	sign := func(x, y int) *reel.Reel {
		p := oled.Part("sign")
		track := display.Track{Display: "sign", Geometry: p.Kind.Geometry(*p)}
		b := glyph.NewBitmap(128, 64)
		b.Draw("Gate", x, y, 1)
		track.Frames = []display.Frame{{To: clock.Second, State: display.State{Pixels: b.Pages(), Levels: []int{255}}}}
		return &reel.Reel{Length: clock.Second, Tracks: []display.Track{track}}
	}
	assert.Equal(t, judge.Met, oled.Trials[0].Expect[0].Judge(sign(5, 20)).Outcome)
	assert.Equal(t, judge.Missed, oled.Trials[0].Expect[0].Judge(sign(5, 2)).Outcome)
	assert.Equal(t, judge.Missed, oled.Trials[0].Expect[0].Judge(sign(80, 20)).Outcome)

	for text, message := range map[string]string{
		`{reads: board, region: {row: 3}, text: x, at: end}`:                "leads out of it",
		`{reads: board, region: {column: 12, columns: 6}, text: x, at: 1s}`: "leads out of it",
		`{reads: red, region: {column: 1}, text: on, at: 1s}`:               "no regions",
		`{reads: board, region: {columns: 3}, text: four, at: 1s}`:          "4 characters",
	} {
		_, err := expect(text)
		assert.ErrorContains(t, err, message, text)
	}
}

// What a program made up itself, and nobody can write down before, is captured where it is shown first and asked for
// later.
func TestCaptures(t *testing.T) {
	two := func(first, second string) []judge.Verdict {
		x, problems := exercise.Read("x", []byte(fmt.Sprintf(bench, first+", "+second)))
		require.NotNil(t, x, "%v", problems)
		r := reelOf(x, "log code_4711@3000 open_4711@3000 done@4000", "count 12@3000 4711@7000")
		return []judge.Verdict{x.Trials[0].Expect[0].Judge(r), x.Trials[0].Expect[1].Judge(r)}
	}
	for _, c := range []struct {
		first, second string
		want          judge.Outcome
	}{
		{`{reads: log, pattern: "code.([0-9]+)", at: 1s, capture: code}`, `{reads: count, same-as: code, at: 8s}`,
			judge.Met},
		{`{reads: log, pattern: "code.([0-9]+)", at: 1s, capture: code}`, `{reads: count, same-as: code, at: 1s}`,
			judge.Missed},
		{`{reads: log, pattern: "code.([0-9]+)", at: 1s, capture: code}`,
			`{reads: log, pattern: "open.(.*)", same-as: code, at: 4s}`, judge.Met},
		{`{reads: log, pattern: "code.([0-9])[0-9]+", at: 1s, capture: code}`,
			`{reads: log, pattern: "open.(.*)", same-as: code, at: 4s}`, judge.Missed},
		{`{reads: count, at: 8s, capture: code}`, `{reads: log, pattern: "open.([0-9]+)", same-as: code, at: 4s}`,
			judge.Met},
		{`{reads: log, pattern: "ticket ([0-9]+)", at: 1s, capture: code}`, `{reads: count, same-as: code, at: 8s}`,
			judge.NotJudged},
	} {
		v := two(c.first, c.second)
		assert.Equal(t, c.want, v[1].Outcome, "%s, %s: %s %v", c.first, c.second, v[1].Text, v[1].Evidence)
	}
	assert.Contains(t, two(`{reads: log, pattern: "code.([0-9]+)", at: 1s, capture: code}`,
		`{reads: count, same-as: code, at: 1s}`)[1].Text, `count reads "4711"`)
	for text, message := range map[string]string{
		`{reads: count, same-as: code, at: 1s}`:                                                  "no expectation before this one captures",
		`{reads: count, at: 1s, capture: code}, {reads: count, text: 12, same-as: code, at: 1s}`: "goes with a pattern",
		`{reads: count, at: 1s, capture: code}, {reads: count, at: 2s, capture: code}`:           "capture \"code\"",
		`{reads: count, at: 1s}`: "takes one of text",
		`{reads: count, at: 1s, capture: code}, {reads: log, pattern: "(", same-as: code, at: 1s}`: "no regular expression",
	} {
		_, problems := exercise.Read("x", []byte(fmt.Sprintf(bench, text)))
		assert.ErrorContains(t, exercise.Error(problems), message, text)
	}
}
