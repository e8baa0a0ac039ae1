package digits

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
)

// Numbers are read one by one where they stand apart, and written where they were, as far as there is room.
func TestSeveralNumbers(t *testing.T) {
	for _, c := range []struct {
		text  string
		reads []int
		nth   int
		put   int
		then  string
	}{
		{"1    2.50", []int{1, 250}, 0, 4, "4    2.50"},
		{"1    2.50", []int{1, 250}, 1, 85, "1    0.85"},
		{"1    2.50", []int{1, 250}, 1, 1240, "1   12.40"},
		{"1    2.50", []int{1, 250}, 0, 12, "12   2.50"},
		{"1 2", []int{1, 2}, 1, 10, "1 2"}, // no room
		{" 9 12", []int{9, 12}, 0, 10, "10 12"},
		{" 9 02", []int{9, 2}, 1, 7, " 9 07"},
		{"5 ", nil, 0, 0, ""},
		{"  42", []int{42}, 0, 7, "   7"},
		{" 1.4", []int{14}, 0, 4, " 0.4"},
		{"0042", []int{42}, 0, 7, "0007"},
		{"1 L", nil, 0, 0, ""},
	} {
		d := 0
		for _, r := range c.text {
			if r != '.' {
				d++
			}
		}
		g := shownAs(d, 0).Geometry
		track := shownAs(d, 0, [2]string{c.text, c.text}).Tracks[0]
		s := spelled(g, c.text)
		var reads []int
		for n := 0; ; n++ {
			v, ok := digits{}.ReadNumber(track, s, n)
			if !ok {
				break
			}
			reads = append(reads, v)
		}
		assert.Equal(t, c.reads, reads, c.text)
		if c.then != "" {
			then := digits{}.WriteNumber(track, s, c.nth, c.put)
			assert.Equal(t, spelled(g, c.then).Lights, then.Lights, "%s with %d", c.text, c.put)
		}
	}
}

// Zeros in places that should be dark are the same value in another form, and are put right.
func TestZerosInside(t *testing.T) {
	c := shownAs(8, 0, [2]string{"1    2.50", "100002.50"}, [2]string{"2    0.85", "200000.85"})
	var repaired bool
	for _, size := range leadingZeros.Sizes(c) {
		right := true
		for _, p := range c.Pairs {
			assert.True(t, digits{}.Near(p.On, p.Want, p.Seen, nil))
			right = right && digits{}.Alike(p.On, size.State(p.On, p.Seen), p.Want)
		}
		if right {
			assert.Regexp(t, "zeros (in places that should be dark|where blanks are expected)", size.Text)
			repaired = true
		}
	}
	assert.True(t, repaired)
	other := shownAs(8, 0, [2]string{"1    2.50", "100003.50"})
	assert.False(t, digits{}.Near(other.Pairs[0].On, other.Pairs[0].Want, other.Pairs[0].Seen, nil))
	assert.Empty(t, darkInside(shownAs(3, 0, [2]string{"  1", "001"})), "before what is lit they are leading ones")
}

// Digits that are lit one after another for most of a second each are scanned slowly; a number that blinks is not.
func TestSlowScan(t *testing.T) {
	sighted := func(texts ...string) (string, bool) {
		var shown [][2]string
		for range 4 {
			for _, s := range texts {
				shown = append(shown, [2]string{s, s})
			}
		}
		track := shownAs(2, 0, shown...).Tracks[0]
		for i := range track.Frames {
			track.Frames[i].From = clock.Time(i) * 700 * clock.Millisecond
			track.Frames[i].To = track.Frames[i].From + 700*clock.Millisecond
		}
		text, _, ok := scanSlow.Find(&display.Sighting{Track: track})
		return text, ok
	}
	text, ok := sighted("1 ", " 2")
	assert.True(t, ok)
	assert.Equal(t, "count is scanned too slowly: its digits are seen one after another.", text)
	_, ok = sighted(" 2", "  ")
	assert.False(t, ok)
	_, ok = sighted(" 2", " 3")
	assert.False(t, ok)
}

// Zeros of numbers side by side: each of them may have too many, or lack its only one.
func TestZerosOfSeveral(t *testing.T) {
	for text, c := range map[string]*display.Case{
		"The numbers on count show leading zeros where blanks are expected.": shownAs(8, 0,
			[2]string{"   0   0", "00000000"}, [2]string{"   1  12", "00010012"}),
		"The numbers on count leave out leading zeros where they are expected.": shownAs(5, 0,
			[2]string{"01 00", " 1  0"}, [2]string{"02 11", " 2 11"}),
		"A single 0 stays dark on count, beside another number: all zeros are taken for leading ones.": shownAs(8, 0,
			[2]string{"   0   1", "       1"}, [2]string{"   1   0", "   1    "}, [2]string{"  10   1", "  10   1"}),
	} {
		var told []string
		for _, size := range besides(c) {
			if !slices.ContainsFunc(c.Pairs, func(p display.Pair) bool {
				return !digits{}.Alike(p.On, size.State(p.On, p.Seen), p.Want)
			}) {
				told = append(told, size.Text)
			}
		}
		assert.Equal(t, []string{text}, told)
	}
}
