package fault

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/judge"
	"hemble/core/reel"
)

const knob = `
hemble: 1
name: knob
title: Knob
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
  dial: {part: potentiometer, pins: {wiper: PC2}}
trials:
  - name: a day
    length: 7s
    cues:
      - {at: 1s, set: dial, to: 8%, as: c1}
      - {at: 2s, set: dial, to: 15%, as: c2}
      - {at: 3s, set: dial, to: 27%, as: c3}
      - {at: 4s, set: dial, to: 36%, as: c4}
    expect:
      - {answers: count, table: [{after: c1, shows: " 8"}, {after: c2, shows: "15"}, {after: c3, shows: "27"}, {after: c4, shows: "36"}], within: 500ms, marks: 10}
`

// mends reports whether a change of what was seen has every expectation met.
func mends(s *Subject, change func(*reel.Reel) *reel.Reel) bool {
	for _, e := range s.Exercise.Trials[0].Expect {
		if v := e.Judge(change(s.Reels[0])); v.Outcome != judge.Met {
			return false
		}
	}
	return true
}

// A knob is a sensor: what it gives may be shown by another scale, or too small by so much that it ends at 0, or beyond
// what the display can show.
func TestSensors(t *testing.T) {
	s, x := counted(t, knob, 0, 4, 7, 13, 18)
	assert.True(t, x.Senses())
	sizes := shownScaled(s)
	require.Len(t, sizes, 1)
	assert.Contains(t, sizes[0].Text, "0.5 times")
	assert.True(t, mends(s, sizes[0].Reel))

	s, _ = counted(t, knob, 0, 2, 3, 5, 7) // rounded: cut off, no ratio would give them all
	sizes = shownScaled(s)
	require.Len(t, sizes, 1)
	assert.Contains(t, sizes[0].Text, "0.2 times")
	assert.True(t, mends(s, sizes[0].Reel))

	s, _ = counted(t, knob, 20, 24, 45, 81, -1)
	sizes = shownScaled(s)
	require.Len(t, sizes, 1)
	assert.True(t, mends(s, sizes[0].Reel), "three times 36 is more than two digits have")

	s, _ = counted(t, knob, 0, 0, 5, 17, 26)
	before := s.Reels[0].Track("count").Frames[1].State
	mended := false
	for _, size := range countOffset(s) {
		mended = mended || mends(s, size.Reel)
	}
	assert.True(t, mended, "it is too small by 10, and never below 0")
	assert.Equal(t, before, s.Reels[0].Track("count").Frames[1].State, "what was seen stays as it is")
}

// A square wave is a sensor where cues set it; else it is what is counted.
func TestSenses(t *testing.T) {
	wave := strings.Replace(knob, "{part: potentiometer, pins: {wiper: PC2}}", "{part: square-wave, pins: {out: PC2}}", 1)
	for i, percent := range []string{"8%", "15%", "27%", "36%"} {
		wave = strings.Replace(wave, percent, fmt.Sprintf("%dHz", i+1), 1)
	}
	assert.True(t, readExercise(t, wave).Senses())
	assert.False(t, readExercise(t, timed).Senses())
	unset := strings.Replace(timed, "more: {", "boats: {part: square-wave, pins: {out: PC2}}\n  more: {", 1)
	assert.False(t, readExercise(t, unset).Senses())
}

const entry = `
hemble: 1
name: entry
title: Entry
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
  keys: {part: keypad, pins: {row1: PB0, row2: PB1, row3: PB2, row4: PB3, column1: PB4, column2: PB5, column3: PC2, column4: PC3}}
trials:
  - name: a day
    length: 7s
    cues:
      - {at: 1s, press: keys, key: "1", as: c1}
      - {at: 2s, press: keys, key: "2", as: c2}
      - {at: 3s, press: keys, key: "6", as: c3}
      - {at: 4s, press: keys, key: "5", as: c4}
    expect:
      - {answers: count, table: [{after: c1, shows: " 1"}, {after: c2, shows: " 2"}, {after: c3, shows: " 6"}, {after: c4, shows: " 5"}], within: 500ms, marks: 10}
`

// The figures that come up tell how the lines of a keypad are taken; keys that are where they should be speak neither
// for it nor against it.
func TestKeypadLines(t *testing.T) {
	for _, c := range []struct {
		shows  []int
		likely string
	}{
		{[]int{0, 1, 4, 8, 5}, "The rows and the columns of keys are exchanged."},
		{[]int{0, 3, 2, 4, 5}, ""},
		{[]int{0, 1, 4, 6, 5}, ""},
	} {
		s, x := counted(t, entry, c.shows...)
		s.Part = x.Part("keys")
		likely := ""
		for _, size := range s.linesTurned() {
			if size.Likely {
				likely = size.Text
			}
		}
		assert.Equal(t, c.likely, likely, "%v", c.shows)
	}
}
