package fault

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
)

const dial = `
hemble: 1
name: dial
title: Dial
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
  knob: {part: encoder, pins: {a: PB0, b: PB1, common: GND}}
  clear: {part: button, pins: {1: PB2, 2: GND}}
trials:
  - name: a day
    length: 9s
    cues:
      - {at: 1s, turn: knob, by: 2, as: c1}
      - {at: 2s, turn: knob, by: 3, as: c2}
      - {at: 3s, turn: knob, by: 4, as: c3}
      - {at: 4s, turn: knob, by: -1, as: c4}
      - {at: 5s, press: clear, as: c5}
      - {at: 6s, turn: knob, by: 1, as: c6}
    expect:
      - {answers: count, table: [{after: c1, shows: " 2"}, {after: c2, shows: " 5"}, {after: c3, shows: " 7"}, {after: c4, shows: " 6"}, {after: c5, shows: " 0"}, {after: c6, shows: " 1"}], within: 500ms, marks: 10}
`

// dialled is a count that a knob drives up to 7, and that a button clears: what it showed behind each input. Less than
// 0 is no number.
func dialled(t *testing.T, shows ...int) (*Subject, *exercise.Exercise) {
	return counted(t, dial, shows...)
}

// counted is the count of an exercise, with what it showed from each second on.
func counted(t *testing.T, text string, shows ...int) (*Subject, *exercise.Exercise) {
	x := readExercise(t, text)
	p := x.Part("count")
	track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
	c, _ := display.As[display.Counting](track.Geometry)
	var states []display.State
	for _, n := range shows {
		s := display.Emissive(1, track.Geometry.Lights())
		if n >= 0 {
			s = c.WriteNumber(&track, display.Emissive(0, track.Geometry.Lights()), 0, n)
		}
		states = append(states, s)
	}
	return watched(x, "count", eachSecond(states)), x
}

const timed = `
hemble: 1
name: timed
title: Timed
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
  more: {part: button, pins: {1: PB2, 2: GND}}
trials:
  - name: a day
    length: 7s
    cues:
      - {at: 1s, press: more, as: c1}
      - {at: 2s, press: more, as: c2}
      - {at: 3s, press: more, as: c3}
    expect:
      - {answers: count, table: [{after: c1, shows: " 3"}, {after: c2, shows: " 6"}, {after: c3, shows: " 9"}], within: 500ms, marks: 10}
`

// What an input adds to a number that counts down by itself is told where it is always the same.
func TestAdds(t *testing.T) {
	s, x := counted(t, timed, 0, 5, 10, 15, 14, 13, 12)
	sizes := addsOther(s)
	require.Len(t, sizes, 1)
	assert.Equal(t, "The number on count changes by 5 with each use of more, where 3 is expected.", sizes[0].Text)
	repaired := sizes[0].Reel(s.Reels[0])
	assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(repaired).Outcome)
	last := repaired.Tracks[0].Frames
	n, _ := s.number(last[len(last)-1].State)
	assert.Equal(t, 6, n)
	for _, shows := range [][]int{{0, 3, 6, 9, 8}, {0, 5, 9, 15, 14}, {0, 0, 0, 0}} {
		s, _ := counted(t, timed, shows...)
		assert.Empty(t, addsOther(s), shows)
	}
}

// What is wrong with a count that inputs drive is told by what they should have made of it, and put right.
func TestDriven(t *testing.T) {
	for _, c := range []struct {
		find  drivenFault
		shows []int
		text  string
	}{
		{drivenLimit, []int{0, 2, 5, 6, 5, 0, 1}, "The number on count ends at 6; 7 is expected to be the last."},
		{drivenLimit, []int{0, 2, 5, 9, 8, 0, 1}, "The number on count ends at 9; 7 is expected to be the last."},
		{drivenLimit, []int{0, 2, 5, 1, 0, 0, 1},
			"After 7 the number on count begins again with 0, where it should stay."},
		{drivenLimit, []int{0, 2, 5, -1, -1, 0, 1}, "The number on count goes beyond its ends, 0 and 7."},
		{drivenSteps, []int{0, 4, 7, 7, 6, 0, 2},
			"The number on count changes by 2 with each use of knob to the right, where 1 is expected."},
		{drivenSets, []int{0, 2, 5, 7, 6, 7, 7}, "clear sets the number on count to 7, where 0 is expected."},
		{drivenStart, []int{1, 3, 6, 7, 6, 0, 1}, "The number on count begins with 1 where 0 is expected."},
		{drivenBehind, []int{0, 1, 4, 7, 7, 6, 0},
			"The number on count is one use behind: it is shown before it is counted."},
	} {
		name := fmt.Sprint(c.shows)
		s, x := dialled(t, c.shows...)
		sizes := c.find.sizes(s)
		require.Len(t, sizes, 1, name)
		assert.Equal(t, c.text, sizes[0].Text, name)
		assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(sizes[0].Reel(s.Reels[0])).Outcome, name)
		assert.NotEqual(t, judge.Met, x.Trials[0].Expect[0].Judge(s.Reels[0]).Outcome, name)
	}
	for _, shows := range [][]int{
		{0, 2, 5, 7, 6, 0, 1}, // right
		{0, 3, 3, 8, 2, 9, 4}, // nothing that inputs would make
		{0, 2, 4, 7, 6, 0, 1}, // one of them missed
	} {
		s, _ := dialled(t, shows...)
		for _, find := range []drivenFault{drivenLimit, drivenSteps, drivenStart, drivenSets} {
			assert.Empty(t, find.sizes(s), shows)
		}
	}
}
