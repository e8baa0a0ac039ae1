package judge_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/characters"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
)

const glassBench = `hemble: 1
name: x
title: x
chip: {is: atmega328p}
characters:
  "▲": ["..#..", ".###.", "#####"]
  "▼": ["#####", ".###.", "..#.."]
bench: {board: {part: lcd-two-wire, size: 16x2, pins: {sda: PC4, scl: PC5}}}
trials: [{name: x, length: 10s, expect: [%s]}]
`

// shot is what a character display shows for a second: text in which ^ and v are custom characters, and ~ one without a
// letter.
type shot struct {
	text   string
	cursor *display.Cursor
}

func glassReel(t *testing.T, expect string, shots ...shot) (judge.Expectation, *reel.Reel) {
	x, problems := exercise.Read("x", []byte(fmt.Sprintf(glassBench, expect)))
	require.Empty(t, problems, expect)
	p := x.Part("board")
	track := display.Track{Display: "board", Geometry: p.Kind.Geometry(*p),
		Custom: [][8]uint8{{4, 14, 31}, {31, 14, 4}, {1}}}
	for i, s := range shots {
		f := display.Frame{From: clock.Time(i) * clock.Second, To: clock.Time(i+1) * clock.Second,
			State: display.State{Cursor: s.cursor}}
		for _, c := range []byte(fmt.Sprintf("%-32s", s.text)) {
			cell := display.Cell(c)
			switch c {
			case '^':
				cell = display.CustomCell
			case 'v':
				cell = display.CustomCell + 1
			case '~':
				cell = display.CustomCell + 2
			}
			f.State.Cells = append(f.State.Cells, cell)
		}
		track.Frames = append(track.Frames, f)
	}
	return x.Trials[0].Expect[0],
		&reel.Reel{Length: clock.Time(len(shots)) * clock.Second, Tracks: []display.Track{track}}
}

func TestCursor(t *testing.T) {
	line, block, away := &display.Cursor{Cell: 3}, &display.Cursor{Cell: 3, Block: true}, &display.Cursor{Cell: 19}
	for _, c := range []struct {
		expect string
		shots  []shot
		share  string
		seen   string
	}{
		// cursors do not matter
		{`{shows: board, frames: [A, B]}`, []shot{{"A", line}, {"A", away}, {"B", nil}}, "1", ""},
		{`{shows: board, frames: [{text: A, cursor: {row: 1, column: 4}}, {text: A, cursor: {row: 2, column: 4}}]}`,
			[]shot{{"A", line}, {"A", away}}, "1", ""},
		{`{shows: board, frames: [{text: A, cursor: {row: 1, column: 4}}, {text: A, cursor: {shown: no}}]}`,
			[]shot{{"A", line}, {"A", away}}, "1/2", `"A" / "" with a cursor in row 2, column 4`},
		{`{shows: board, frames: [{text: A, cursor: {blinking: yes}}, {text: A, cursor: {blinking: no}}]}`,
			[]shot{{"A", block}, {"A", line}}, "1", ""},
		{`{reads: board, text: {cursor: {row: 1, column: 4}}, at: 500ms}`, []shot{{"A", line}, {"A", away}}, "1", ""},
		{`{reads: board, text: {cursor: {row: 1, column: 4, blinking: yes}}, at: 500ms}`,
			[]shot{{"A", line}, {"A", away}}, "0", `with a cursor in row 1, column 4`},
		{`{never: board, frame: {cursor: {shown: yes}}}`, []shot{{"A", nil}, {"A", away}}, "0", "cursor in row 2"},
		{`{never: board, frame: {cursor: {shown: yes}}}`, []shot{{"A", nil}, {"B", nil}}, "1", ""},
		{`{always: board, row: 2, frame: {cursor: {column: 4}}}`, []shot{{"A", away}, {"B", away}}, "1", ""},
		{`{always: board, row: 1, frame: {cursor: {column: 4}}}`, []shot{{"A", away}, {"B", away}}, "0",
			"without a cursor"},
		{`{shows: board, frames: [{text: A, row: 1}, {text: B, row: 1}], each: 2s}`,
			[]shot{{"A", nil}, {fmt.Sprintf("%-16s%s", "A", "x"), nil}, {"B", nil},
				{fmt.Sprintf("%-16s%s", "B", "y"), nil}}, "1", ""}, // whatever row 2 shows
		{`{shows: board, frames: [{text: A, row: 1}, {text: B, row: 2}]}`,
			[]shot{{"A", nil}, {fmt.Sprintf("%-16s%s", "C", "B"), nil}}, "1", ""},
	} {
		e, r := glassReel(t, c.expect, c.shots...)
		v := e.Judge(r)
		assert.Equal(t, c.share, v.Fraction.RatString(), "%s: %v %v", c.expect, v.Evidence, v.First)
		if c.seen != "" && assert.NotNil(t, v.First, c.expect) {
			assert.Contains(t, v.First.Seen, c.seen, c.expect)
		}
	}
}

// A custom character that is drawn otherwise is another one.
func TestCustomCharacters(t *testing.T) {
	for _, c := range []struct {
		expect, text, share, seen string
	}{
		{`{reads: board, text: "Tide ▲", at: end}`, "Tide ^", "1", ""},
		{`{reads: board, text: "Tide ▲", at: end}`, "Tide v", "0", `"Tide ▼"`},
		{`{reads: board, text: "Tide ▲", at: end}`, "Tide ~", "0", `"Tide ▢"`},
		{`{reads: board, text: "Tide ▢", at: end}`, "Tide ^", "1", ""},
		{`{reads: board, text: "Tide ▢", at: end}`, "Tide A", "0", `"Tide A"`},
		{`{reads: board, row: 1, text: "▲▼", at: end}`, "^v", "1", ""},
		{`{reads: board, pattern: "Tide [▲▼]", at: end}`, "Tide v", "1", ""},
		{`{shows: board, frames: [{rows: ["▼"]}]}`, "v", "1", ""},
		{`{always: board, frame: "▼"}`, "^", "0", "▲"},
	} {
		e, r := glassReel(t, c.expect, shot{c.text, nil})
		v := e.Judge(r)
		assert.Equal(t, c.share, v.Fraction.RatString(), "%s on %s", c.expect, c.text)
		if c.seen != "" && assert.NotNil(t, v.First, c.expect) {
			assert.Contains(t, v.First.Seen, c.seen, c.expect)
		}
	}
	e, r := glassReel(t, `{shows: board, frames: ["▲", "▼"], each: 1s}`, shot{"^", nil}, shot{"v", nil})
	v := e.Judge(r)
	assert.Equal(t, judge.Met, v.Outcome, "two different ones are two states")
	assert.Equal(t, [8]uint8{31, 14, 4}, characters.Dots(&r.Tracks[0], v.Alignment[1].Expected.State.Cells[0]),
		"an expected one is drawn with its dots")
}

func TestBadCursorsAndCharacters(t *testing.T) {
	for expect, want := range map[string]string{
		`{shows: board, frames: [{text: A, cursor: {row: 3}}]}`:            "the cursor cannot be there",
		`{shows: board, frames: [{text: A, cursor: {column: 17}}]}`:        "the cursor cannot be there",
		`{shows: board, frames: [{text: A, cursor: {shown: no, row: 1}}]}`: "has no position",
		`{shows: board, frames: [{text: A, row: 3}]}`:                      "has no row 3",
		`{shows: board, frames: [{rows: [A], row: 1}]}`:                    "needs the text of that row",
		`{shows: board, frames: [{bitmap: ["#"], cursor: {shown: no}}]}`:   "has no dots",
		`{shows: board, frames: [{cursor: {row: 1}}, {cursor: {row: 1}}]}`: "looks the same as the one before it",
		`{reads: board, text: "◆", at: end}`:                               "draw this one under `characters`",
		`{shows: board, frames: [{row: 1}]}`:                               "a frame has one of",
	} {
		_, problems := exercise.Read("x", []byte(fmt.Sprintf(glassBench, expect)))
		if assert.NotEmpty(t, problems, expect) {
			assert.Contains(t, problems[0].Error(), want, expect)
		}
	}
}
