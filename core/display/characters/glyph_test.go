package characters

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
)

// A character that is drawn otherwise is told by how, and its cells become those that were meant.
func TestGlyph(t *testing.T) {
	leaf := [8]uint8{0x04, 0x0e, 0x1f, 0x0e, 0x04, 0x08, 0x10}
	for _, c := range []struct {
		how  string
		make func([8]uint8) [8]uint8
	}{
		{"mirrored", turns[0].of}, {"upside down", turns[1].of}, {"inverted", turns[5].of},
		{"shifted down", turns[8].of},
	} {
		g := display.Geometry{TypeName: Form, Grid: &display.Grid{Columns: 4, Rows: 1,
			Characters: []display.Character{{Letter: "♣", Dots: leaf}}}}
		track := display.Track{Display: "label", Geometry: g, Custom: [][8]uint8{c.make(leaf)}}
		sizes := redrawnGlyph.Sizes(&display.Case{Named: display.Named{Name: "label", Geometry: g},
			Tracks: []*display.Track{&track}, Judged: true})
		require.NotEmpty(t, sizes, c.how)
		assert.Contains(t, sizes[0].Text, c.how)
		seen := display.State{Cells: []display.Cell{'a', display.CustomCell, ' ', ' '}}
		assert.Equal(t, "a♣  ", Rows(&track, sizes[0].State(&track, seen))[0])
		assert.NotEqual(t, "a♣  ", Rows(&track, seen)[0])
	}
	g := display.Geometry{TypeName: Form, Grid: &display.Grid{Columns: 4, Rows: 1,
		Characters: []display.Character{{Letter: "♣", Dots: leaf}}}}
	slip := leaf
	slip[1] = 0x0f
	track := display.Track{Display: "label", Geometry: g, Custom: [][8]uint8{slip}}
	sizes := redrawnGlyph.Sizes(&display.Case{Named: display.Named{Name: "label", Geometry: g},
		Tracks: []*display.Track{&track}, Judged: true})
	require.Len(t, sizes, 1)
	assert.Equal(t, "The character ♣ of label is drawn otherwise: 1 dot of it.", sizes[0].Text)
	beside := g
	beside.Grid = &display.Grid{Columns: 4, Rows: 1,
		Characters: []display.Character{{Letter: "♣", Dots: leaf}, {Letter: "♠", Dots: slip}}}
	assert.False(t, slips(beside, leaf, slip), "it is another one that is to be shown")
	right := display.Track{Display: "label", Geometry: g, Custom: [][8]uint8{leaf}}
	assert.Empty(t, redrawnGlyph.Sizes(&display.Case{Named: display.Named{Name: "label", Geometry: g},
		Tracks: []*display.Track{&right}, Judged: true}), "as it was drawn")
}

// A character of another number than was drawn stands where one is meant: it is told where it is always the same.
func TestGlyphInstead(t *testing.T) {
	leaf := [8]uint8{0x04, 0x0e, 0x1f, 0x0e, 0x04, 0x08, 0x10}
	g := display.Geometry{TypeName: Form, Grid: &display.Grid{Columns: 2, Rows: 1,
		Characters: []display.Character{{Letter: "♣", Dots: leaf}}}}
	track := display.Track{Display: "label", Geometry: g, Custom: [][8]uint8{{}, {0x1f, 0x11, 0x1f}}}
	pair := func(cell display.Cell) display.Pair {
		return display.Pair{On: &track, Wrong: true, Want: display.State{Cells: []display.Cell{'a', display.NamedCell}},
			Seen: display.State{Cells: []display.Cell{'a', cell}}}
	}
	c := display.Case{Named: display.Named{Name: "label", Geometry: g}, Tracks: []*display.Track{&track}, Judged: true,
		Pairs: []display.Pair{pair(display.CustomCell), pair(display.CustomCell)}}
	sizes := redrawnGlyph.Sizes(&c)
	require.Len(t, sizes, 1)
	assert.Contains(t, sizes[0].Text, "not there")
	assert.Equal(t, "a♣", Rows(&track, sizes[0].State(&track, c.Pairs[0].Seen))[0])
	for name, other := range map[string]display.Cell{"a letter": 'x', "another one": display.CustomCell + 1} {
		c.Pairs[1] = pair(other)
		assert.Empty(t, redrawnGlyph.Sizes(&c), name)
	}
}
