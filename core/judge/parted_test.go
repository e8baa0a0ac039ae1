package judge_test

import (
	"fmt"
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

// A part of digits: what the others show does not count, and lanes draw the whole display.
func TestPartOfDigits(t *testing.T) {
	for _, c := range []struct{ expect, seen, share, first string }{
		{"{shows: count, region: {column: 3, columns: 2}, frames: [10, 11, 12], each: 1s, extra: ignore}",
			"count 1_10@500 2_10@500 3_11@1000 3_12@8000", "9/10", `"12" for 8 s`},
		{"{shows: count, region: {column: 3, columns: 2}, frames: [10, 11, 12]}",
			"count 1_10@500 2_10@500 3_11@1000 4_12@8000", "1", ""},
		{"{shows: count, frames: [10, 11, 12]}", "count 1_10@500 2_10@500 3_11@1000 4_12@8000", "0", ""},
		{"{counts: count, region: {columns: 1}, from: 1, to: 4, limit: stays}",
			"count 1_10@500 2_10@500 3_11@1000 4_12@8000", "1", ""},
		{"{counts: count, region: {columns: 1}, from: 1, to: 4, limit: stays}",
			"count 1_10@500 2_10@500 5_11@1000 4_12@8000", "3/4", "5"},
		{"{always: count, region: {column: 4}, frame: 7}", "count 1__7@5000 2__7@5000", "1", ""},
		{"{never: count, region: {column: 1, columns: 1}, frame: 2}", "count 1__7@5000 2__7@5000", "0", "2"},
		{"{blinks: count, region: {column: 4}, period: 1s, times: 4}",
			"count" + strings.Repeat(" 1__7@500 1___@500", 10), "1", ""},
		{"{blinks: count, period: 1s, times: 4}", "count" + strings.Repeat(" 1__7@500 1___@500", 10), "0", ""},
		{"{steady: count, region: {columns: 2}}", "count __12@10000", "0", "it never lights"},
		{"{steady: count, region: {column: 3}}", "count __12@10000", "1", ""},
		{"{steady: count, region: {column: 3}}", "count ~__12@10000", "0", "it flickers"},
	} {
		x := readBench(t, c.expect)
		r := reelOf(x, c.seen)
		before := fmt.Sprint(r.Tracks)
		v := x.Trials[0].Expect[0].Judge(r)
		assert.Equal(t, c.share, v.Fraction.RatString(), "%s on %s: %v", c.expect, c.seen, v.Evidence)
		assert.Equal(t, before, fmt.Sprint(r.Tracks), "the run stays as it is")
		if c.first != "" {
			assert.Contains(t, v.First.Seen, c.first, c.expect)
		}
		for _, p := range v.Alignment {
			for _, s := range []*judge.Span{p.Expected, p.Seen} {
				if s != nil && s.State != nil {
					assert.Len(t, s.State.Lights, 32, "a state of all four digits")
				}
			}
		}
		if strings.Contains(c.expect, "region") {
			assert.Contains(t, v.Text, ", in column")
		}
	}
}

// A row of a character display, beside a title.
func TestRow(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {board: {part: lcd-two-wire, size: 16x2, pins: {sda: PC4, scl: PC5}}}
trials: [{name: x, length: 3s, expect: [
  {counts: board, row: 2, from: 99, to: 101, before: "Level ", behind: " cm", each: 1s, marks: 3}, {shows: board, row: 2, frames: ["Level 98 cm", "Level 99 cm"]}]}]
`))
	require.Empty(t, problems)
	p := x.Part("board")
	r := &reel.Reel{Length: 3000 * ms, Tracks: []display.Track{{Display: "board", Geometry: p.Kind.Geometry(*p)}}}
	for i := range 3 {
		cells := fmt.Sprintf("%-16s%-16s", "Wherry "+strings.Repeat(".", i), fmt.Sprintf("Level %d cm", 99+i))
		f := display.Frame{From: ms * 1000 * clock.Time(i), To: ms * 1000 * clock.Time(i+1)}
		for _, c := range []byte(cells) {
			f.State.Cells = append(f.State.Cells, display.Cell(c))
		}
		r.Tracks[0].Frames = append(r.Tracks[0].Frames, f)
	}
	v := x.Trials[0].Expect[0].Judge(r)
	assert.Equal(t, judge.Met, v.Outcome, "%v", v.First)
	assert.Contains(t, v.Text, "board counts from Level 99 cm to Level 101 cm, in row 2")
	assert.Len(t, v.Alignment[0].Seen.State.Cells, 32)
	v = x.Trials[0].Expect[1].Judge(r)
	assert.Equal(t, judge.Missed, v.Outcome)

	for expect, want := range map[string]string{
		"{shows: board, row: 3, frames: [x]}":                               "has no row 3",
		"{shows: board, row: 1, region: {row: 1}, frames: [x]}":             "row and region both say",
		"{shows: board, region: {column: 17}, frames: [x]}":                 "leads out of it",
		"{counts: board, region: {columns: 2}, from: 1, to: 100, marks: 1}": "100",
	} {
		_, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {board: {part: lcd-two-wire, size: 16x2, pins: {sda: PC4, scl: PC5}}}
trials: [{name: x, length: 3s, expect: [`+expect+`]}]
`))
		if assert.NotEmpty(t, problems, expect) {
			assert.Contains(t, problems[0].Error(), want)
		}
	}
}
