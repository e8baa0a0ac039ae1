package render_test

import (
	"bytes"
	"encoding/xml"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lines"
	"hemble/core/display/tone"
	"hemble/core/exercise"
	"hemble/core/machine"
	"hemble/core/reel"
	"hemble/render"
)

const ms = clock.Millisecond

func lockBench(t *testing.T) *exercise.Exercise {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: lock
title: x
chip: {is: atmega328p}
bench:
  red: {part: lamp, pins: {anode: PB0, cathode: GND}}
  level: {part: potentiometer, pins: {wiper: PC0}}
  board: {part: lcd, pins: {rs: PB1, rw: GND, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
trials: [{name: x, length: 1s, expect: [{reads: red, text: on, at: end}]}]
`))
	require.Empty(t, problems)
	return x
}

func TestWindow(t *testing.T) {
	x := lockBench(t)
	w := bench.NewWindow(x.Parts, 10*ms, 20*ms)
	w.Place = func(p machine.Place) string { return "lamp.c line 7" }
	at := machine.Place{PC: 4}
	w.Net("PB0", circuit.DrivenLow, false)
	w.Net("PC0", circuit.Voltage(2_500_000, 5_000_000), false)
	w.Settled(0, at)
	w.Net("PB0", circuit.DrivenHigh, false)
	w.Light(0, 0, 10_000_000)
	w.Settled(5*ms, at)
	w.Net("PB0", circuit.DrivenLow, true)
	w.Light(0, 0, 0)
	w.Settled(12*ms+62500, at)
	w.Cell(2, 0, 'W')
	w.Settled(15*ms, at)
	w.Net("PB0", circuit.PulledUp, false)
	w.Settled(30*ms, at)
	require.Len(t, w.Moments, 3)
	assert.Equal(t, 10*ms, w.Moments[0].At)
	assert.Equal(t, map[string]string{"PB0": "high", "PC0": "2.500 V", "GND": "low", "VCC": "high"}, w.Moments[0].Nets,
		"as it stood before the first change")
	assert.Equal(t, map[string]string{"red": "on", "board": "blank"}, w.Moments[0].Displays)
	assert.Equal(t, map[string]string{"PB0": "high and low"}, w.Moments[1].Nets)
	assert.Equal(t, map[string]string{"red": "off"}, w.Moments[1].Displays)
	assert.Equal(t, map[string]string{"board": `"W" / ""`}, w.Moments[2].Displays)
	var out bytes.Buffer
	require.NoError(t, render.Window(&out, render.Style{Width: 100}, w))
	assert.Contains(t, out.String(), "12000.0625     +2000.0625  PB0 high and low   red off   lamp.c line 7")
}

// A window in which nothing happens tells the state.
func TestQuietWindow(t *testing.T) {
	w := bench.NewWindow(lockBench(t).Parts, 10*ms, 20*ms)
	w.Net("PB0", circuit.DrivenLow, false)
	w.Settled(0, machine.Place{})
	var out bytes.Buffer
	require.NoError(t, render.Window(&out, render.Style{Width: 100}, w))
	require.Len(t, w.Moments, 1)
	assert.Equal(t, "low", w.Moments[0].Nets["PB0"])
}

// A VCD of a bench has each net once, and each part's pins as the same signals by their own names.
func TestNetVCD(t *testing.T) {
	var out bytes.Buffer
	v := render.NewNetVCD(&out, "lock", lockBench(t).Parts)
	v.Net("PB0", circuit.DrivenHigh, false)
	v.Net("PC0", circuit.Voltage(1_250_000, 5_000_000), false)
	v.Settled(0, machine.Place{})
	v.Settled(ms, machine.Place{})
	v.Net("PB0", circuit.DrivenLow, true)
	v.Settled(2*ms, machine.Place{})
	require.NoError(t, v.Close(3*ms))
	text := out.String()
	assert.Contains(t, text,
		"$scope module red $end\n$var wire 1 ! anode $end\n$var wire 1 \" cathode $end\n$upscope $end")
	assert.Contains(t, text, "$var wire 1 ! PB0 $end")
	assert.Contains(t, text, "$var real 64 $ PC0_volts $end")
	assert.True(t, strings.HasSuffix(text, "#0\n1!\n0#\nr1.25 $\n#2000000000\nx!\n#3000000000\n"), text)
}

// Every kind of display is drawn in all its states, as well-formed XML; what is lit differs from what is dark.
func TestDrawings(t *testing.T) {
	displays, err := exercise.Examples()
	require.NoError(t, err)
	require.Greater(t, len(displays), 12)
	for _, p := range displays {
		track := &display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
		drawn := map[string]string{}
		for _, s := range render.Samples(track) {
			svg := render.SVG(track, s.State)
			d := xml.NewDecoder(strings.NewReader(svg))
			for {
				_, err := d.Token()
				if err == io.EOF {
					break
				}
				require.NoError(t, err, "%s %s", p.Name, s.Name)
			}
			drawn[s.Name] = svg
			art := render.Art(track, s.State)
			for _, line := range art {
				assert.Len(t, []rune(line), len([]rune(art[0])), "%s: all lines are equally wide", p.Name)
			}
		}
		assert.NotEqual(t, drawn["lit"], drawn["dark"], p.Name)
		if form := track.Geometry.TypeName; form != tone.Form && form != lines.Form {
			assert.NotEqual(t, drawn["ghosted"], drawn["dark"], p.Name)
			assert.NotEqual(t, drawn["ghosted"], drawn["lit"], p.Name)
		}
	}
	assert.Contains(t, render.Gallery(displays), "seven-segment")
}

func TestLog(t *testing.T) {
	text := render.Log(render.Style{}, &reel.Reel{Trial: "x", Unlogged: 3, Log: []reel.Entry{
		{At: ms, Part: "board", What: "clear display"},
		{At: 2 * ms, Part: "USART0", What: "sent", Data: []int{'O', 'k', 10}},
		{Part: "SPI", What: "sent", Data: []int{1, 2}}}})
	assert.Contains(t, text, "0.001000 s  board   clear display\n")
	assert.Contains(t, text, "USART0  sent 4F 6B 0A  Ok·\n")
	assert.Contains(t, text, "SPI     sent 01 02\n")
	assert.Contains(t, text, "… and 3 more that did not fit")
	assert.Contains(t, render.Log(render.Style{}, &reel.Reel{}), "nothing went over a bus")
}
