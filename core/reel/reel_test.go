package reel

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/display/characters"
	"hemble/core/display/digits"
	"hemble/core/display/lamp"
	"hemble/core/glyph"
	"hemble/core/machine"
)

func lights(text string) (l display.Lights) {
	_ = l.UnmarshalText([]byte(text))
	return l
}

func TestJSONKeepsEverything(t *testing.T) {
	r := Reel{Trial: "x", Seed: 7, Length: 5, Tracks: []display.Track{
		{Display: "gauge", Kind: "seven-segment",
			Geometry: display.Geometry{Width: 1, Height: 2,
				Shapes: []display.Shape{{Light: 1, Name: "a", Points: [][2]float64{{1, 2}}}}},
			Frames: []display.Frame{{From: 1, To: 2, Text: "2",
				State: display.State{Lights: lights("10210000"), Levels: []int{1, 2}, Flicker: true},
				At:    &machine.Place{PC: 4}}}},
		{Display: "board",
			Geometry: display.Geometry{TypeName: characters.Form, Grid: &display.Grid{Columns: 1, Rows: 1}},
			Custom:   [][8]uint8{{1, 2}},
			Frames: []display.Frame{{State: display.State{Cells: []display.Cell{'A', display.CustomCell,
				'b' | display.WashedOut}, Cursor: &display.Cursor{Cell: 3, Block: true}}}}},
	}, Cues: []Fired{{Name: "n", Verb: "press", Part: "p", Start: 1, End: 2}},
		Stop: &machine.Stop{Reason: machine.Asleep, Text: "t"}, Serial: "hello"}
	text, err := json.Marshal(r)
	require.NoError(t, err)
	assert.Contains(t, string(text), `"lights":"10210000"`)
	var back Reel
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, r, back)
}

func TestDescribe(t *testing.T) {
	lamp := display.Track{Geometry: display.Geometry{TypeName: lamp.Form, Shapes: make([]display.Shape, 1)}}
	for state, want := range map[string]string{"0": "off", "1": "on", "2": "dim"} {
		assert.Equal(t, want, lamp.Describe(display.State{Lights: lights(state)}))
		assert.Equal(t, want, lamp.Short(display.State{Lights: lights(state)}))
	}
	digit := display.Track{Geometry: display.Geometry{TypeName: digits.Form, Shapes: make([]display.Shape, 8)}}
	assert.Equal(t, "2", digit.Describe(display.State{Lights: lights("11011010")}))
	assert.Equal(t, "2.", digit.Short(display.State{Lights: lights("11011011")}))
	assert.Equal(t, "segments c f", digit.Describe(display.State{Lights: lights("00100100")}))
	assert.Equal(t, "?", digit.Short(display.State{Lights: lights("00100100")}))
	assert.Equal(t, "blank", digit.Short(display.State{Lights: lights("00000000")}))
	assert.Equal(t, "blank", digit.Describe(display.State{Lights: lights("02020000")}), "dim segments are not lit")
	assert.Equal(t, "1 (flickering)", digit.Describe(display.State{Lights: lights("01100000"), Flicker: true}))
	two := display.Track{Geometry: display.Geometry{TypeName: digits.Form, Shapes: make([]display.Shape, 16)}}
	assert.Equal(t, `" 1"`, two.Describe(display.State{Lights: lights("0000000001100000")}))
	assert.Equal(t, `"?1"`, two.Short(display.State{Lights: lights("0010010001100000")}))
}

func TestDots(t *testing.T) {
	track := display.Track{Custom: [][8]uint8{{1, 2, 3}}}
	assert.Equal(t, [8]uint8(glyph.ROM('A')), characters.Dots(&track, 'A'))
	assert.Equal(t, [8]uint8{1, 2, 3}, characters.Dots(&track, display.CustomCell))
	assert.Equal(t, [8]uint8(glyph.ROM('A')), characters.Dots(&track, 'A'|display.WashedOut))
	assert.NotEqual(t, [8]uint8{}, characters.Dots(&track, display.AnyCustom),
		"an expected custom character is drawn as a box")
	r := Reel{Tracks: []display.Track{{Display: "a"}, {Display: "b"}}}
	assert.Equal(t, "b", r.Track("b").Display)
	assert.Nil(t, r.Track("c"))
}
