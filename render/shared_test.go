package render_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/render"
)

// The console draws displays by itself. What it has to draw is in a table, which is made here and held against
// both: HEMBLE_WRITE=1 writes it anew.
const drawings = "testdata/drawings.json"

type drawn struct {
	Name   string           `json:"name"`
	Look   display.Geometry `json:"geometry"`
	Custom [][8]uint8       `json:"custom,omitempty"`
	State  display.State    `json:"state"`
	SVG    string           `json:"svg"`
}

func TestDrawingsOfTheConsole(t *testing.T) {
	displays, err := exercise.Examples()
	require.NoError(t, err)
	var cases []drawn
	add := func(name string, track *display.Track, s display.State) {
		cases = append(cases, drawn{name, track.Geometry, track.Custom, s, render.SVG(track, s)})
	}
	for _, p := range displays {
		track := &display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
		g := track.Geometry.Grid
		for i, s := range render.Samples(track) {
			if g == nil || i == 0 { // the many dots of characters once
				add(p.Name+", "+s.Name, track, s.State)
			}
		}
		if g != nil && g.Rows <= 2 {
			named := *track
			grid := *g
			grid.Characters = []display.Character{{Letter: "▲", Dots: [8]uint8{4, 14, 31}}}
			named.Geometry.Grid, named.Custom = &grid, [][8]uint8{{0, 21, 10, 21}}
			s := display.State{Cells: make([]display.Cell, g.Columns*g.Rows)}
			for i := range s.Cells {
				s.Cells[i] = display.Cell([]rune("Lock 3")[i%6])
			}
			copy(s.Cells, []display.Cell{display.CustomCell, display.CustomCell + 5, display.NamedCell,
				display.AnyCustom, 'A' | display.WashedOut})
			s.Cursor = &display.Cursor{Cell: 6}
			add(p.Name+", custom characters", &named, s)
			s.Cursor = &display.Cursor{Cell: 0, Block: true}
			add(p.Name+", a cursor on one", &named, s)
		}
	}
	text, err := json.Marshal(map[string]any{"rom": glyph.Table(), "cases": cases})
	require.NoError(t, err)
	if os.Getenv("HEMBLE_WRITE") != "" {
		require.NoError(t, os.WriteFile(drawings, text, 0o644))
	}
	want, err := os.ReadFile(drawings)
	require.NoError(t, err)
	assert.True(t, string(want) == string(text),
		"%s is not what is drawn now: look, and write it anew with HEMBLE_WRITE=1", drawings)
}
