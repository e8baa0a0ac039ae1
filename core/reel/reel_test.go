package reel

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/glyph"
	"hemble/core/machine"
)

func lights(text string) (l Lights) {
	_ = l.UnmarshalText([]byte(text))
	return l
}

func TestJSONKeepsEverything(t *testing.T) {
	r := Reel{Trial: "x", Seed: 7, Length: 5, Tracks: []Track{
		{Display: "gauge", Kind: "seven-segment", Look: Look{Width: 1, Height: 2, Shapes: []Shape{{Light: 1, Name: "a", Points: [][2]float64{{1, 2}}}}},
			Frames: []Frame{{From: 1, To: 2, Text: "2", Sight: Sight{Lights: lights("10210000"), Levels: []int{1, 2}, Flicker: true}, At: &machine.Place{PC: 4}}}},
		{Display: "board", Look: Look{Form: FormText, Grid: &Grid{Columns: 1, Rows: 1}}, Custom: [][8]uint8{{1, 2}},
			Frames: []Frame{{Sight: Sight{Cells: []Cell{'A', CustomCell, 'b' | WashedOut}, Cursor: &Cursor{Cell: 3, Block: true}}}}},
	}, Cues: []Fired{{Name: "n", Verb: "press", Part: "p", Start: 1, End: 2}}, Stop: &machine.Stop{Reason: machine.Asleep, Text: "t"}, Serial: "hello"}
	text, err := json.Marshal(r)
	require.NoError(t, err)
	assert.Contains(t, string(text), `"lights":"10210000"`)
	var back Reel
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, r, back)
}

func TestDescribe(t *testing.T) {
	lamp := Track{Look: Look{Form: FormLamp, Shapes: make([]Shape, 1)}}
	for state, want := range map[string]string{"0": "off", "1": "on", "2": "dim"} {
		assert.Equal(t, want, lamp.Describe(Sight{Lights: lights(state)}))
		assert.Equal(t, want, lamp.Short(Sight{Lights: lights(state)}))
	}
	digit := Track{Look: Look{Form: FormDigits, Shapes: make([]Shape, 8)}}
	assert.Equal(t, "2", digit.Describe(Sight{Lights: lights("11011010")}))
	assert.Equal(t, "2.", digit.Short(Sight{Lights: lights("11011011")}))
	assert.Equal(t, "segments c f", digit.Describe(Sight{Lights: lights("00100100")}))
	assert.Equal(t, "?", digit.Short(Sight{Lights: lights("00100100")}))
	assert.Equal(t, "blank", digit.Short(Sight{Lights: lights("00000000")}))
	assert.Equal(t, "blank", digit.Describe(Sight{Lights: lights("02020000")}), "dim segments are not lit")
	assert.Equal(t, "1 (flickering)", digit.Describe(Sight{Lights: lights("01100000"), Flicker: true}))
	two := Track{Look: Look{Form: FormDigits, Shapes: make([]Shape, 16)}}
	assert.Equal(t, `" 1"`, two.Describe(Sight{Lights: lights("0000000001100000")}))
	assert.Equal(t, `"?1"`, two.Short(Sight{Lights: lights("0010010001100000")}))
}

func TestDots(t *testing.T) {
	track := Track{Custom: [][8]uint8{{1, 2, 3}}}
	assert.Equal(t, [8]uint8(glyph.ROM('A')), track.Dots('A'))
	assert.Equal(t, [8]uint8{1, 2, 3}, track.Dots(CustomCell))
	assert.Equal(t, [8]uint8(glyph.ROM('A')), track.Dots('A'|WashedOut))
	assert.NotEqual(t, [8]uint8{}, track.Dots(AnyCustom), "an expected custom character is drawn as a box")
	r := Reel{Tracks: []Track{{Display: "a"}, {Display: "b"}}}
	assert.Equal(t, "b", r.Track("b").Display)
	assert.Nil(t, r.Track("c"))
}
