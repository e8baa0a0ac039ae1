package characters

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/display"
	"hemble/core/glyph"
)

// Custom characters read as what the exercise or the ROM has for their dots; those without a letter are told apart.
func TestCustomCharacters(t *testing.T) {
	up := [8]uint8{4, 14, 31}
	a := [8]uint8(glyph.ROM('A'))
	track := display.Track{Geometry: display.Geometry{TypeName: Form,
		Grid: &display.Grid{Columns: 3, Rows: 1, Characters: []display.Character{{Letter: "▲", Dots: up}}}},
		Custom: [][8]uint8{up, a, {1}, {2}, {}}}
	state := func(cells ...display.Cell) display.State { return display.State{Cells: cells} }
	assert.Equal(t, `"▲AB"`, track.Describe(state(display.CustomCell, display.CustomCell+1, 'B')))
	assert.Equal(t, `"▲"`, track.Describe(state(display.NamedCell, display.CustomCell+4, ' ')),
		"blank dots are a space")
	assert.Equal(t, `"▢B▢" (▢ 3 4 of 5)`, track.Describe(state(display.CustomCell+2, 'B', display.CustomCell+3)))
	assert.True(t, track.Alike(state(display.CustomCell+1, ' ', ' '), state('A', ' ', ' ')))
	assert.False(t, track.Alike(state(display.CustomCell+2, ' ', ' '), state(display.CustomCell+3, ' ', ' ')),
		"two different ones are two states")
	assert.Equal(t, up, Dots(&track, display.NamedCell))
	for letter, want := range map[rune]display.Cell{'▲': display.NamedCell, '▢': display.AnyCustom, 'A': 'A'} {
		c, ok := track.Geometry.Grid.Cell(letter)
		assert.True(t, ok)
		assert.Equal(t, want, c)
	}
	_, ok := track.Geometry.Grid.Cell('▼')
	assert.False(t, ok)
}
