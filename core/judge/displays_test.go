package judge_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/characters"
	"hemble/core/display/digits"
	"hemble/core/display/lamp"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/core/judge"
	"hemble/core/reel"
)

// expect reads an expectation about a character display, a lamp or four digits.
func expect(text string) (judge.Expectation, error) {
	x, problems := exercise.Read("x", []byte(fmt.Sprintf(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  board: {part: lcd, pins: {rs: PB0, rw: GND, e: PB1, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  red: {part: lamp, pins: {anode: PB2, cathode: GND}}
  count: {part: seven-segment, digits: 4, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PD0, digit1: PD1, digit2: PD2, digit3: PD3, digit4: PB3}}
trials: [{name: x, length: 10s, expect: [%s]}]
`, text)))
	if x == nil {
		return nil, exercise.Error(problems)
	}
	return x.Trials[0].Expect[0], nil
}

func judged(t *testing.T, text string, track display.Track) judge.Verdict {
	t.Helper()
	e, err := expect(text)
	require.NoError(t, err)
	return e.Judge(&reel.Reel{Length: 10 * clock.Second, Tracks: []display.Track{track}})
}

// screen is a character display that shows rows from a time to the next.
func screen(shots ...any) display.Track {
	t := display.Track{Display: "board",
		Geometry: display.Geometry{TypeName: characters.Form, Grid: &display.Grid{Columns: 16, Rows: 2}}}
	for i := 0; i < len(shots); i += 2 {
		from := clock.Time(shots[i].(int)) * clock.Millisecond
		cells := make([]display.Cell, 32)
		for k := range cells {
			cells[k] = ' '
		}
		for k, r := range []rune(shots[i+1].(string)) {
			if code, ok := glyph.Code(r); ok {
				cells[k] = display.Cell(code)
			} else {
				cells[k] = display.CustomCell
			}
		}
		if n := len(t.Frames); n > 0 {
			t.Frames[n-1].To = from
		}
		t.Frames = append(t.Frames,
			display.Frame{From: from, To: 10 * clock.Second, State: display.State{Cells: cells}})
	}
	return t
}

func TestRowsOfText(t *testing.T) {
	good := screen(0, "Wherry Lock    ▢Level 99 cm", 5000, "Wherry Lock    ▢Level 98 cm")
	for text, want := range map[string]judge.Outcome{
		`{shows: board, frames: [{rows: ["Wherry Lock    ▢", "Level 99 cm"]}, {rows: ["Wherry Lock    ▢", "Level 98 cm"]}], each: 5s}`: judge.Met,
		`{shows: board, frames: [{rows: ["Wherry Lock    ▢", "Level 99 cm"]}, {rows: ["Wherry Lock    ▢", "Level 97 cm"]}], each: 5s}`: judge.Partly,
		`{reads: board, rows: ["Wherry Lock    ▢", "Level 98 cm"], at: end}`:                                                           judge.Met,
		`{reads: board, rows: ["Wherry Lock", "Level 98 cm"], at: end}`:                                                                judge.Missed,
		`{reads: board, row: 2, text: "Level 99 cm", at: 3s}`:                                                                          judge.Met,
		`{reads: board, row: 1, text: "Level 99 cm", at: 3s}`:                                                                          judge.Missed,
		`{reads: board, row: 2, text: "Level 98 cm", at: 4900ms, within: 200ms}`:                                                       judge.Met,
	} {
		assert.Equal(t, want, judged(t, text, good).Outcome, text)
	}
	leftover := judged(t, `{reads: board, row: 2, text: "Level 99 cm", at: end}`,
		screen(0, "                Level 99 cmm"))
	assert.Equal(t, judge.Missed, leftover.Outcome, "what a longer text left behind counts")
	assert.Contains(t, leftover.First.Seen, "Level 99 cmm")
	assert.Equal(t, judge.Met, judged(t, `{reads: board, text: "21.5 °C", at: end}`, screen(0, "21.5 °C")).Outcome,
		"a degree sign is the ROM's own")
}

func TestWrongTexts(t *testing.T) {
	for text, want := range map[string]string{
		`{reads: board, text: "a text that is too long", at: end}`: "has 23 characters; a row of this display has 16",
		`{reads: board, rows: [a, b, c], at: end}`:                 "3 rows for a display of 2",
		`{reads: board, text: "back\\slash", at: end}`:             `cannot show '\\'`,
		`{reads: board, row: 3, text: a, at: end}`:                 "row 3 goes with the text of one row",
		`{reads: red, row: 1, text: on, at: end}`:                  "row 1 goes with the text of one row",
		`{reads: red, rows: [a], at: end}`:                         `"red" has no rows of text`,
		`{shows: red, frames: [{rows: [a]}]}`:                      `"red" has no rows of text`,
		`{shows: red, frames: [on, glowing]}`:                      `"glowing" is not what a lamp can show`,
		`{shows: red, frames: [{segments: [a]}]}`:                  `"red" is not a single seven-segment digit`,
		`{shows: count, frames: ["12345"]}`:                        `"12345" has 5 symbols; the display has 4 digits`,
		`{shows: count, frames: [12, "  12"]}`:                     "frame 2 looks the same as the one before it",
		`{shows: red, frames: [on, off, on], repeat: 2}`:           "the last frame of the sequence looks like the first",
		`{shows: red, frames: [{text: on, for: ever}]}`:            `"ever" is not a time`,
		`{reads: red, text: on, at: soon}`:                         `"soon" is neither a time nor end`,
		`{reads: red, text: on, at: end, after: {cue: x}}`:         "reads takes one of at or after",
		`{shows: red, frames: [{text: on, segments: [a]}]}`:        "a frame has one of text, segments, bitmap, rows and one-of",
	} {
		_, err := expect(text)
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), want, text)
		}
	}
}

// fourDigits is the four-digit display showing a text.
func fourDigits(text string) display.Track {
	lights := make(display.Lights, 32)
	for i, r := range text {
		w, _ := glyph.ParseSeven(string(r))
		for s := 0; s < 8; s++ {
			if w.Usual>>s&1 == 1 {
				lights[8*i+s] = display.Lit
			}
		}
	}
	return display.Track{Display: "count",
		Geometry: display.Geometry{TypeName: digits.Form, Shapes: make([]display.Shape, 32)},
		Frames:   []display.Frame{{To: 10 * clock.Second, State: display.State{Lights: lights}}}}
}

func TestNumbersOnDigits(t *testing.T) {
	for text, want := range map[string]judge.Outcome{"  12": judge.Met, "0012": judge.Partly, "12  ": judge.Partly,
		" 12 ": judge.Partly, "  21": judge.Missed} {
		v := judged(t, `{reads: count, text: 12, at: end}`, fourDigits(text))
		assert.Equal(t, want, v.Outcome, "%q", text)
		if want != judge.Met {
			assert.Equal(t, `"  12" at the end`, v.First.Expected)
		}
	}
	assert.Equal(t, judge.Met, judged(t, `{reads: count, text: "0012", at: end}`, fourDigits("0012")).Outcome)
}

func TestLampsOnAndOff(t *testing.T) {
	lamp := display.Track{Display: "red",
		Geometry: display.Geometry{TypeName: lamp.Form, Shapes: make([]display.Shape, 1)}}
	for i, s := range []display.Light{display.Lit, display.Dark, display.Dim} {
		lamp.Frames = append(lamp.Frames,
			display.Frame{From: clock.Time(i) * clock.Second, To: clock.Time(i+1) * clock.Second,
				State: display.State{Lights: display.Lights{s}}})
	}
	assert.Equal(t, judge.Met, judged(t, `{shows: red, frames: [on, off], each: 1s, extra: ignore}`, lamp).Outcome)
	assert.Equal(t, judge.Partly, judged(t, `{shows: red, frames: [on, off, on], each: 1s}`, lamp).Outcome,
		"dim is not on")
	assert.Equal(t, judge.Met, judged(t, `{reads: red, text: "yes", at: 500ms}`, lamp).Outcome)
}
