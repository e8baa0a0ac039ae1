package display_test

import (
	"bytes"
	"fmt"
	"math/bits"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/machine/machinetest"
	"hemble/core/marking"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/schematic"
	"hemble/core/spec"
	"hemble/render"
)

// vane is a made-up display type: which of its lights is lit says how far a vane is open. All that there is of it is
// here, with a part that has it, a cause of its own, and no line in any other file.
type vane struct{ lights.Type }

var stands = []string{"shut", "half", "open"}

func (vane) Name() display.TypeName { return "vane" }

func (vane) Describe(_ *display.Track, s display.State) string {
	if b := s.Lights.Bits(); bits.OnesCount64(b) == 1 {
		return stands[bits.TrailingZeros64(b)]
	}
	return "nowhere"
}

func (vane) Read(w display.Written, ps *spec.Problems) display.Matcher {
	at := slices.Index(stands, w.Text)
	if at < 0 {
		ps.Add(w.Pos, "%q is not where a vane stands; write shut, half or open", w.Text)
		return nil
	}
	return &lights.Matcher{Pattern: 1 << at, N: len(stands), Text: w.Text}
}

func (vane) Mistakes() []*display.Mistake {
	return []*display.Mistake{{
		Entry: finding.Entry{Code: "vane-turned", Doc: "a vane opens where it should close"},
		Sizes: func(c *display.Case) []display.Size {
			return []display.Size{{Text: c.Name + " opens where it should close.",
				State: lights.Relit(func(l display.Lights) { slices.Reverse(l) })}}
		},
	}}
}

const vaneCommon = 3 // terminal behind those of the lights

type vanePart struct {
	part.Passive
	world  part.Host
	sink   display.LightSink
	supply int64
}

func (p *vanePart) Changed(uint64) {
	for i := range stands {
		p.sink.Light(i, circuit.Diode(p.supply, part.FindColour("red").Vf, p.world.Net(i), p.world.Net(vaneCommon), 150,
			0, true, 1))
	}
}

func init() {
	display.Register(vane{})
	part.Register(&part.Kind{
		Name: "vane", Title: "Vane", Doc: "Three LEDs that say how far a vane is open.", Source: "made up",
		Pins:    []spec.Key{{Name: "shut"}, {Name: "half"}, {Name: "open"}, {Name: "common"}},
		Example: "vane: {part: vane, pins: {shut: <1>, half: <2>, open: <3>, common: GND}}",
		Geometry: func(part.Instance) display.Geometry {
			g := display.Geometry{TypeName: "vane", Width: 60, Height: 30}
			for i, name := range stands {
				g.Shapes = append(g.Shapes,
					display.Shape{Light: i, Name: name, Color: "#ff0000",
						Circle: &display.Circle{X: float64(10 + 20*i), Y: 15, R: 6}})
			}
			return g
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &vanePart{world: w, sink: part.Sink[display.LightSink](w), supply: b.Supply}
		},
	})
}

const vanes = `hemble: 1
name: vanes
title: Vanes
chip: {is: test40}
bench:
  vane: {part: vane, pins: {shut: IO10, half: IO11, open: IO12, common: GND}}
trials:
  - name: opening
    length: 2s
    expect:
`

// opens lights one pin after the other, for half a second each, and the last for good.
func opens(pins ...int) []byte {
	code := [][4]byte{machinetest.High(pins[0]), machinetest.Wait(500)}
	for i, pin := range pins[1:] {
		code = append(code, machinetest.Low(pins[i]), machinetest.High(pin), machinetest.Wait(500))
	}
	return machinetest.Program(append(code, machinetest.Wait(500), machinetest.Jump(len(code)))...)
}

// Whoever adds a display type adds a folder: judging, recording, drawing, the faults and the catalogue take it as it
// is.
func TestAddingADisplayType(t *testing.T) {
	text := []byte(vanes +
		"      - {shows: vane, frames: [shut, half, {text: open, for: any}], each: 500ms, start: power, marks: 3}\n")
	x, problems := exercise.Read("x", text)
	require.NotNil(t, x, "%v", problems)

	right, err := marking.Mark(t.Context(), x, "right.hex", opens(10, 11, 12))
	require.NoError(t, err)
	assert.Equal(t, "3", right.Sheet.Marks.String(), "%+v", right.Sheet.Trials[0].Verdicts)

	turned, err := (&marking.Marker{Reels: true}).Mark(t.Context(), x, "turned.hex", opens(12, 11, 10))
	require.NoError(t, err)
	assert.NotEqual(t, "3", turned.Sheet.Marks.String())
	require.NotEmpty(t, turned.Sheet.Findings)
	cause := turned.Sheet.Findings[0]
	assert.EqualValues(t, "vane-turned", cause.Code, cause.Text)
	require.NotNil(t, cause.Repaired)
	assert.Equal(t, "3", cause.Repaired.String())
	assert.Contains(t, finding.Reference(), "a vane opens where it should close")

	faults, err := author.Strength(t.Context(), x, opens(10, 11, 12), func(int, int) {})
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprintf("%+v", faults), "vane-turned", "a variant of the right program is made by it")

	bare := []byte(vanes + "      - {reads: vane, text: open, at: 1.9s, marks: 1}\n")
	y, problems := exercise.Read("y", bare)
	require.NotNil(t, y, "%v", problems)
	recorded, err := author.Record(t.Context(), y, bare, opens(10, 11, 12), false)
	require.NoError(t, err)
	assert.Contains(t, string(recorded.Text), "shut")
	again, problems := exercise.Read("again", recorded.Text)
	require.NotNil(t, again, "%v", problems)
	_, problems = exercise.Read("z", bytes.Replace(text, []byte("shut, half,"), []byte("shut, ajar,"), 1))
	require.NotEmpty(t, problems)
	assert.Contains(t, problems[0].Error(), `"ajar" is not where a vane stands`)

	track := turned.Reels[0].Track("vane")
	assert.Equal(t, "open", track.Frames[0].Text)
	assert.Contains(t, render.SVG(track, track.Frames[0].State), "vane: open")
	var png bytes.Buffer
	require.NoError(t,
		render.Film(&reel.Reel{Trial: "opening", Length: turned.Reels[0].Length, Tracks: turned.Reels[0].Tracks},
			&turned.Sheet.Trials[0]).PNG(&png, 1))
	assert.NotEmpty(t, schematic.Draw(x).Strokes)
}
