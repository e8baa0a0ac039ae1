package digits

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/glyph"
)

// shownAs is a display in one trial: the texts that were asked for beside those that were seen.
func shownAs(digits, colon int, texts ...[2]string) *display.Case {
	g := display.Geometry{TypeName: Form, Colon: colon}
	for i := range digits * per {
		g.Shapes = append(g.Shapes, display.Shape{Light: i, Digit: i / per})
	}
	if colon > 0 {
		g.Shapes = append(g.Shapes, display.Shape{Light: digits * per})
	}
	t := &display.Track{Display: "count", Geometry: g}
	c := &display.Case{Named: display.Named{Name: "count", Geometry: g}, Judged: true, Tracks: []*display.Track{t}}
	for i, x := range texts {
		at := clock.Time(i) * clock.Second
		want, seen := spelled(g, x[0]), spelled(g, x[1])
		t.Frames = append(t.Frames, display.Frame{From: at, To: at + clock.Second, State: seen})
		c.Pairs = append(c.Pairs, display.Pair{On: t, At: at, Want: want, Seen: seen, Wrong: x[0] != x[1]})
	}
	return c
}

// spelled is a text with its points, as lights.
func spelled(g display.Geometry, text string) display.State {
	s := display.Emissive(0, g.Lights())
	d := 0
	for _, r := range text {
		if r == '.' {
			put(s.Lights, d-1, pattern(s.Lights, d-1)|glyph.DP)
			continue
		}
		put(s.Lights, d, glyph.Seven(r)[0])
		d++
	}
	return s
}

// A point that is always missing, or elsewhere, is told and put right; one that is right at times is not.
func TestPoint(t *testing.T) {
	for _, c := range []struct {
		seen *display.Case
		text string
	}{
		{shownAs(3, 0, [2]string{" 1.4", " 14"}, [2]string{" 2.0", " 20"}), "The decimal point of count is missing."},
		{shownAs(3, 0, [2]string{" 1.4", " 14."}, [2]string{" 2.0", " 20."}),
			"The decimal point of count is at another digit than expected."},
		{shownAs(2, 0, [2]string{"14", "1.4"}, [2]string{"20", "2.0"}),
			"count shows a decimal point where none is expected."},
		{shownAs(2, 0, [2]string{"00", "0.0."}, [2]string{"02.", "0.2"}),
			"The decimal points of count are the other way round: lit where none is expected, and dark where one is."},
	} {
		sizes := point.Sizes(c.seen)
		require.Len(t, sizes, 1, c.text)
		assert.Equal(t, c.text, sizes[0].Text)
		for _, p := range c.seen.Pairs {
			assert.Equal(t, p.Want.Lights, sizes[0].State(p.On, p.Seen).Lights, c.text)
		}
	}
	assert.Empty(t, point.Sizes(shownAs(3, 0, [2]string{" 1.4", " 14"}, [2]string{" 2.0", " 2.0"})), "right at times")
	dashes := shownAs(3, 0, [2]string{" 1.4", " 14"}, [2]string{"---", "---"})
	p := dashes.Pairs[1]
	assert.Equal(t, p.Want.Lights, point.Sizes(dashes)[0].State(p.On, p.Seen).Lights, "no figures, no point")
	assert.Empty(t, point.Sizes(shownAs(3, 0, [2]string{" 1.4", " 15"})), "more is wrong")
}

// Before a colon there is a figure.
func TestWriteNumber(t *testing.T) {
	c := shownAs(4, 2, [2]string{" 105", " 105"})
	for n, want := range map[int]string{5: " 005", 45: " 045", 130: " 130", 1000: "1000"} {
		got := digits{}.WriteNumber(c.Track(), c.Pairs[0].Seen, 0, n)
		assert.Equal(t, spelled(c.Geometry, want).Lights, got.Lights, n)
	}
}

// What stays from before is told, be there zeros in it or not; a zero that is expected alone, and never comes, only
// where the display goes dark for it.
func TestZeros(t *testing.T) {
	left := shownAs(4, 0, [2]string{"4079", "4079"}, [2]string{"   8", "4078"}, [2]string{"  81", "4081"})
	assert.Len(t, leftovers.Sizes(left), 1)
	padded := shownAs(4, 0, [2]string{"4079", "4079"}, [2]string{"   8", "0008"}, [2]string{"  81", "0081"})
	assert.Empty(t, leftovers.Sizes(padded), "leading zeros")
	single := "count stays dark where a single 0 is expected: all zeros are taken for leading ones."
	texts := func(c *display.Case) (out []string) {
		for _, s := range leadingZeros.Sizes(c) {
			out = append(out, s.Text)
		}
		return out
	}
	assert.Contains(t, texts(shownAs(2, 0, [2]string{" 1", " 1"}, [2]string{" 0", "  "})), single)
	assert.NotContains(t, texts(shownAs(2, 0, [2]string{" 0", "  "}, [2]string{" 1", " 1"})), single, "dark until then")
}

// Numbers move to the other end as they are, with their blanks and points.
func TestOtherEnd(t *testing.T) {
	c := shownAs(4, 0, [2]string{"  12", "12  "})
	right, left := otherEnd.Sizes(c)[0].State, otherEnd.Sizes(c)[1].State
	for at, end := range map[string]string{"12  ": "  12", "0   ": "   0", "1 2 ": " 1 2", "1234": "1234", "    ": "    "} {
		assert.Equal(t, spelled(c.Geometry, end).Lights, right(c.Track(), spelled(c.Geometry, at)).Lights, at)
	}
	assert.Equal(t, spelled(c.Geometry, "12  ").Lights, left(c.Track(), spelled(c.Geometry, "  12")).Lights)
	assert.Empty(t, otherEnd.Sizes(shownAs(1, 0, [2]string{"1", "1"})))
}

// A figure in the place of another one is a wrong pattern where the other is never right.
func TestWrongPattern(t *testing.T) {
	assert.Len(t, wrongPattern.Sizes(shownAs(2, 0, [2]string{"10", "18"}, [2]string{"12", "12"})), 1)
	assert.Empty(t, wrongPattern.Sizes(shownAs(2, 0, [2]string{"10", "18"}, [2]string{"02", "02"})))
	assert.Empty(t, wrongPattern.Sizes(shownAs(2, 0, [2]string{"01", "01"}, [2]string{"60", "00"})), "it was counted on")
	assert.Empty(t, wrongPattern.Sizes(shownAs(1, 0, [2]string{"0", "0"}, [2]string{"1", "1"}, [2]string{"2", "2"},
		[2]string{"3", "0"})), "it began again")
	assert.Len(t, wrongPattern.Sizes(shownAs(1, 0, [2]string{"0", "0"}, [2]string{"1", "1"}, [2]string{"2", "2"},
		[2]string{"3", "8"})), 1)
	assert.Empty(t, wrongPattern.Sizes(shownAs(1, 0, [2]string{"2", "2"}, [2]string{"2.", "2"})), "a point is no pattern")
}

// Where more figures stand for others than any order of segments makes of them, it is the number that is wrong; and one
// symbol alone tells of two segments at most.
func TestSegmentsSwapped(t *testing.T) {
	judged := func(pairs ...[2]string) *display.Case {
		c := shownAs(1, 0, pairs...)
		c.Judged = true
		for i := range c.Pairs {
			c.Pairs[i].Wrong = pairs[i][0] != pairs[i][1]
		}
		return c
	}
	assert.Len(t, swapped.Sizes(judged([2]string{"5", "3"})), 1)
	assert.Empty(t, swapped.Sizes(judged([2]string{"5", "3"}, [2]string{"4", "2"})))
	assert.Empty(t, swapped.Sizes(judged([2]string{"2", "5"}, [2]string{"1", "1"}, [2]string{"3", "3"})))
}

// Minutes and seconds are told where all times beyond a minute have the same form.
func TestSeconds(t *testing.T) {
	parted := func(x *display.Case) *display.Case {
		for i := range x.Pairs {
			x.Pairs[i].Want.Lights[4*per] = display.Lit
		}
		return x
	}
	for _, c := range []struct{ first, second, text, now, repaired string }{
		{" 065", " 125", "count shows a plain number where minutes and seconds are expected: 65 for 1:05.", " 070", " 110"},
		{" 165", " 225", "count shows all seconds behind the colon, where those of the minute are expected: 1:65 for 1:05.",
			" 170", " 110"},
	} {
		x := shownAs(4, 2, [2]string{" 105", c.first}, [2]string{" 205", c.second})
		assert.Empty(t, plainSeconds.Sizes(x), "without its colon it is a number")
		parted(x)
		sizes := plainSeconds.Sizes(x)
		require.Len(t, sizes, 1)
		assert.Equal(t, c.text, sizes[0].Text)
		n, ok := digits{}.ReadNumber(x.Track(), sizes[0].State(x.Track(), spelled(x.Geometry, c.now)), 0)
		want, _ := digits{}.ReadNumber(x.Track(), spelled(x.Geometry, c.repaired), 0)
		assert.True(t, ok)
		assert.Equal(t, want, n)
	}
	assert.Empty(t, plainSeconds.Sizes(parted(shownAs(4, 2, [2]string{" 105", " 065"}, [2]string{" 205", " 225"}))))
}

// A segment that never lights is told where it is so in all that was seen, not in some states alone.
func TestStuck(t *testing.T) {
	for _, c := range []struct {
		seen *display.Case
		text string
	}{
		{shownAs(1, 0, [2]string{"8", "9"}, [2]string{"6", "5"}, [2]string{"1", "1"}), "Segment e of count never lights."},
		{shownAs(1, 0, [2]string{"8", "9"}, [2]string{"6", "5"}, [2]string{"2", "2"}), ""},
		{shownAs(1, 0, [2]string{"1", "1"}, [2]string{"9", "8"}, [2]string{"5", "6"}), "Segment e of count lights all the time."},
	} {
		var texts []string
		for _, size := range stuck.Sizes(c.seen) {
			texts = append(texts, size.Text)
		}
		if c.text == "" {
			assert.Empty(t, texts)
			continue
		}
		assert.Equal(t, []string{c.text}, texts)
	}
}

// Hexadecimal places are told by a letter, or nothing, in a place above nine, with the place before it right; without
// that place the last one is merely not carried.
func TestPlacesAboveNine(t *testing.T) {
	repaired := func(m *display.Mistake, c *display.Case) bool {
		sizes := m.Sizes(c)
		if len(sizes) == 0 {
			return false
		}
		right := 0
		for i, f := range sizes[0].Frames("", c.Tracks[0]) {
			if i < len(c.Pairs) && assert.ObjectsAreEqual(c.Pairs[i].Want, f.State) {
				right++
			}
		}
		return right == len(c.Pairs)
	}
	for name, c := range map[string]struct {
		pairs [][2]string
		is    *display.Mistake
	}{
		"letters":      {[][2]string{{"09", "09"}, {"10", "0A"}, {"27", "1b"}}, hexadecimal},
		"nothing":      {[][2]string{{" 9", " 9"}, {"12", " "}, {"20", "14"}, {"31", "1 "}}, hexadecimal},
		"not carried":  {[][2]string{{"09", "09"}, {"10", "0 "}, {"12", "0 "}}, uncarried},
		"too large":    {[][2]string{{"09", "09"}, {"10", "11"}, {"20", "21"}}, nil},
		"one is right": {[][2]string{{"10", "0A"}, {"11", "11"}, {"20", "14"}}, nil},
	} {
		for _, m := range []*display.Mistake{hexadecimal, uncarried} {
			assert.Equal(t, m == c.is, repaired(m, shownAs(2, 0, c.pairs...)), "%s: %s", name, m.Code)
		}
	}
	six := shownAs(2, 0, [2]string{"", "08"}, [2]string{"", "09"}, [2]string{"", "0 "}, [2]string{"", "10"}, [2]string{"", "11"})
	six.Pairs = nil
	six.Tracks[0].Frames[2].To = six.Tracks[0].Frames[2].From + 6*clock.Second
	var got []int
	for _, f := range hexadecimal.Sizes(six)[0].Frames("", six.Tracks[0]) {
		n, ok := digits{}.ReadNumber(six.Tracks[0], f.State, 0)
		require.True(t, ok)
		got = append(got, n)
	}
	assert.Equal(t, []int{8, 9, 10, 11, 12, 13, 14, 15, 16, 17}, got, "a place that shows nothing lasts six times as long")
}

// Only what the program itself scans has gaps in its scan: a module that shows part of its content was told to.
func TestScanGaps(t *testing.T) {
	c := shownAs(4, 0, [2]string{"  12", "  12"}, [2]string{"  12", "   2"}, [2]string{"  12", "  12"})
	c.Tracks[0].Frames[1].To -= clock.Second / 2
	assert.Empty(t, scanGaps.Sizes(c))
	c.Tracks[0].Quality = &display.Quality{Refresh: 100}
	sizes := scanGaps.Sizes(c)
	require.Len(t, sizes, 1)
	assert.Equal(t, []display.State{spelled(c.Geometry, "  12"), spelled(c.Geometry, "  12")},
		states(sizes[0].Frames("", c.Tracks[0])))
}

// states are what frames show.
func states(frames []display.Frame) (out []display.State) {
	for _, f := range frames {
		out = append(out, f.State)
	}
	return out
}
