package fault

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
)

const walk = `
hemble: 1
name: walk
title: Walk
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  row: {part: bar, lights: 5, common: cathode, pins: {light1: PD0, light2: PD1, light3: PD2, light4: PD3, light5: PD4, common: GND}}
  next: {part: button, pins: {1: PB0, 2: GND}}
  home: {part: button, pins: {1: PB1, 2: GND}}
trials:
  - name: around
    length: 9s
    cues:
      - {at: 1s, press: next, as: c1}
      - {at: 2s, press: next, as: c2}
      - {at: 3s, press: next, as: c3}
      - {at: 4s, press: next, as: c4}
      - {at: 5s, press: next, as: c5}
      - {at: 6s, press: home, as: c6}
      - {at: 7s, press: next, as: c7}
    expect:
      - {reads: row, text: "#..#.", at: 500ms, marks: 2}
      - {answers: row, table: [{after: c1, shows: "##..."}, {after: c2, shows: ".#.#."}, {after: c3, shows: "...##"}, {after: c4, shows: "#..#."}, {after: c5, shows: "##..."}, {after: c6, shows: "#..#."}, {after: c7, shows: "##..."}], within: 500ms, marks: 8}
`

// walked is a row of lights that a button leads through four states, and another one back to the first: what it showed
// from each second on.
func walked(t *testing.T, shows string) (*Subject, *exercise.Exercise) {
	x := readExercise(t, walk)
	var states []display.State
	for _, lights := range strings.Fields(shows) {
		bits := uint64(0)
		for k, l := range lights {
			if l == '#' {
				bits |= 1 << k
			}
		}
		states = append(states, display.Emissive(bits, 5))
	}
	return watched(x, "row", eachSecond(states)), x
}

// What is wrong with states that inputs lead through is told by what they should have made of them, and put right.
func TestTransitions(t *testing.T) {
	finds := map[string]func(*Subject) []Size{"leaves out": (*Subject).leavesOut, "twice": (*Subject).passesTwice,
		"begins": (*Subject).beginsElsewhere, "back": (*Subject).goesBackwards, "sets": (*Subject).setsOther,
		"ignores": (*Subject).ignores, "looks": (*Subject).looksLike, "beside": nextLight}
	for _, c := range []struct{ find, shows, text string }{
		{"leaves out", "#..#. ##... .#.#. #..#. ##... .#.#. #..#. ##...",
			"row leaves out ○○○●●: after ○●○●○, next leads to ●○○●○."},
		{"twice", "#..#. ##... ##... .#.#. ...## #..#. #..#. ##...",
			"row takes two uses of next to go on from 2 of 5 to ○●○●○."},
		{"begins", "##... .#.#. ...## #..#. ##... .#.#. #..#. ##...", "row begins with 2 of 5 where ●○○●○ is expected."},
		{"back", "#..#. ...## .#.#. ##... #..#. ...## #..#. ...##", "next leads through the states of row in reverse."},
		{"sets", "#..#. ##... .#.#. ...## #..#. ##... .#.#. ...##", "home sets row to ○●○●○, where ●○○●○ is expected."},
		{"ignores", "#..#. ##... .#.#. ...## #..#. ##... ##... .#.#.",
			"Nothing follows when home is used: the program does not look at it, or not at that time."},
		{"looks", "#..#. ##... .#.#. ##... #..#. ##... #..#. ##...", "One pattern of row is wrong: 2 of 5 for ○○○●●."},
		{"beside", ".#..# .##.. ..#.# ....# .#..# .##.. .#..# .##..",
			"row lights the one behind each that is asked for: the number is off by one."},
	} {
		s, x := walked(t, c.shows)
		for name, find := range finds {
			sizes := find(s)
			if name != c.find {
				assert.Empty(t, sizes, "%s: %s", c.find, name)
				continue
			}
			require.Len(t, sizes, 1, c.find)
			assert.Equal(t, c.text, sizes[0].Text)
			for _, e := range x.Trials[0].Expect {
				assert.Equal(t, judge.Met, e.Judge(sizes[0].Reel(s.Reels[0])).Outcome, c.find)
			}
		}
	}
	for _, shows := range []string{
		"#..#. ##... .#.#. ...## #..#. ##... #..#. ##...", // right
		"#..#. #..#. #..#. #..#. #..#. #..#. #..#. #..#.", // it never changes
		"#..#. ##... #.... ..... #..## .#... #..#. ##...", // nothing that inputs would make
	} {
		s, _ := walked(t, shows)
		for name, find := range finds {
			assert.Empty(t, find(s), "%s: %s", name, shows)
		}
	}
}

// A count that inputs drive may go the wrong way, or not look at one of them.
func TestTurned(t *testing.T) {
	up := strings.NewReplacer(`" 3"`, `"21"`, `" 6"`, `"22"`, `" 9"`, `"23"`).Replace(timed) +
		"      - {reads: count, text: 20, at: 500ms, marks: 1}\n"
	s, x := counted(t, up, 20, 19, 18, 17)
	sizes := drivenTurned.sizes(s)
	require.Len(t, sizes, 1)
	assert.Equal(t, "The number on count goes down with each use of more, where it should go up.", sizes[0].Text)
	assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(sizes[0].Reel(s.Reels[0])).Outcome)
	s, x = dialled(t, 0, 2, 5, 7, 6, 6, 7)
	sizes = drivenIgnored.sizes(s)
	require.Len(t, sizes, 1)
	assert.Equal(t, nothingFollows(input{part: "clear", verb: "press"}), sizes[0].Text)
	assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(sizes[0].Reel(s.Reels[0])).Outcome)
	s, _ = dialled(t, 0, 2, 5, 7, 6, 0, 1)
	assert.Empty(t, drivenTurned.sizes(s))
	assert.Empty(t, drivenIgnored.sizes(s))
}

// A count goes round between its ends, or stays there, and may take its step before it looks.
func TestSpan(t *testing.T) {
	stays := span{low: 0, high: 9, first: 0, last: 9}
	round := stays
	round.over, round.under = true, true
	loose := stays
	loose.loose = true
	for _, c := range []struct {
		span
		n, times, step, to int
	}{
		{stays, 7, 1, 4, 9}, {stays, 7, -4, 2, 0}, {round, 9, 1, 1, 0}, {round, 0, 1, -1, 9}, {round, 8, 3, 1, 1},
		{loose, 7, 1, 4, 11}, {loose, 11, 1, 4, 11}, {loose, 1, 1, -4, -3}, {loose, 3, -2, 4, -1},
		{span{low: 0, high: 9, above: true}, 9, 3, 1, 12}, {span{low: 0, high: 5, over: true, first: 1}, 5, 1, 1, 1},
	} {
		assert.Equal(t, c.to, c.move(c.n, c.times, c.step), "%+v", c)
	}
}
