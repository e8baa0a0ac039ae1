package matrix

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
)

// grid is a matrix of three rows of three dots.
var grid = func() (g display.Geometry) {
	g.TypeName = Form
	for i := range 9 {
		g.Shapes = append(g.Shapes, display.Shape{Light: i, Digit: i / 3})
	}
	return g
}()

// seen is a matrix in one trial: the pictures that were asked for, and those that were seen, row by row from bit 0.
func seen(pictures ...[2]uint64) *display.Case {
	t := &display.Track{Display: "board", Geometry: grid}
	c := &display.Case{Named: display.Named{Name: "board", Geometry: grid}, Judged: true, Tracks: []*display.Track{t}}
	for i, p := range pictures {
		c.Pairs = append(c.Pairs, display.Pair{On: t, At: clock.Time(i) * clock.Second, Wrong: p[0] != p[1],
			Want: display.Emissive(p[0], 9), Seen: display.Emissive(p[1], 9)})
	}
	return c
}

// A picture that is shifted, and a line that always shows the same, are told by all pictures, and put right.
func TestPictures(t *testing.T) {
	for _, c := range []struct {
		of   *display.Mistake
		seen *display.Case
		text string
	}{
		{shifted, seen([2]uint64{0b111_000_000, 0b000_111_000}, [2]uint64{0b101_010_000, 0b000_101_010}),
			"The picture of board is shifted up by 1 row: what is counted from 1 is counted from 0, or the reverse."},
		{shifted, seen([2]uint64{0b001_001_001, 0b010_010_010}, [2]uint64{0b010_010_111, 0b100_100_110}),
			"The picture of board is shifted to the right by 1 column: what is counted from 1 is counted from 0, or the reverse."},
		{lineStuck, seen([2]uint64{0b111_010_101, 0b000_010_101}, [2]uint64{0b101_001_111, 0b000_001_111}),
			"Row 3 of board always shows the same: it is not written, or not driven."},
		{lineStuck, seen([2]uint64{0b001_011_101, 0b101_111_101}, [2]uint64{0b001_101_011, 0b101_101_111}),
			"Column 3 of board always shows the same: it is not written, or not driven."},
	} {
		sizes := c.of.Sizes(c.seen)
		require.Len(t, sizes, 1, c.text)
		assert.Equal(t, c.text, sizes[0].Text)
		for _, p := range c.seen.Pairs {
			assert.Equal(t, p.Want.Lights.Bits(), sizes[0].State(p.On, p.Seen).Lights.Bits(), c.text)
		}
	}
	for name, c := range map[string]*display.Case{
		"one picture":     seen([2]uint64{0b111_000_000, 0b000_111_000}),
		"by chance":       seen([2]uint64{0b111_000_000, 0b000_111_000}, [2]uint64{0b101_010_000, 0b010_101_000}),
		"right at times":  seen([2]uint64{0b111_010_101, 0b000_010_101}, [2]uint64{0b101_001_111, 0b101_001_111}),
		"nothing is left": seen([2]uint64{0b111_000_000, 0}, [2]uint64{0b101_000_000, 0}),
	} {
		assert.Empty(t, shifted.Sizes(c), name)
	}
}
