// Package bar is a row of LEDs with one common terminal.
package bar

import (
	"fmt"
	"slices"

	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/bar"
	"hemble/core/part"
	"hemble/core/spec"
)

const (
	maxLights = 10
	common    = maxLights // terminal behind those of the lights
)

func init() {
	var pins []spec.Key
	for i := 1; i <= maxLights; i++ {
		pins = append(pins, spec.Key{Name: fmt.Sprintf("light%d", i), Doc: fmt.Sprintf("LED %d", i), Optional: i > 2})
	}
	part.Register(&part.Kind{
		Name:   "bar",
		Also:   []string{"led-bar", "bargraph", "bar-graph"},
		Title:  "Bar of LEDs",
		Doc:    "Two to ten LEDs in a row, each with its resistor, with one common end. A frame is the number lit, counted from the first, or a # or . for each.",
		Source: "forward voltages: typical bar displays by colour",
		Settings: []spec.Field{
			{Name: "lights", Kind: spec.Int, Min: 2, Max: maxLights, Default: "10", Doc: "how many LEDs"},
			{Name: "common", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Default: "cathode",
				Doc: "the common terminal"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the lights"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "resistor of each LED in ohms; 0 for none"},
		},
		Pins: append(pins,
			spec.Key{Name: "common", Doc: "the common terminal: GND for a common cathode, VCC for a common anode"}),
		Example: "level: {part: bar, lights: 4, pins: {light1: <1>, light2: <2>, light3: <3>, light4: <4>, common: GND}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			n := int(b.Settings.Int("lights"))
			for i := 0; i < maxLights; i++ {
				if wired := b.Wired[i] != ""; wired != (i < n) {
					out = append(out,
						spec.Problem{Text: fmt.Sprintf("a bar of %d has pins light1 to light%d, all wired", n, n)})
					break
				}
			}
			return out
		},
		Follows: true,
		Geometry: func(b part.Instance) display.Geometry {
			out := display.Geometry{TypeName: form.Form, Height: 60, Width: 12}
			for i := 0; i < int(b.Settings.Int("lights")); i++ {
				x := out.Width
				out.Shapes = append(out.Shapes,
					display.Shape{Light: i, Name: fmt.Sprint(i + 1),
						Color:  part.FindColour(b.Settings.Text("colour")).Hex,
						Points: [][2]float64{{x, 10}, {x + 14, 10}, {x + 14, 50}, {x, 50}}})
				out.Width += 22
			}
			return out
		},
		Resistors: func(b part.Instance) []int64 {
			return append(slices.Repeat([]int64{b.Settings.Int("resistor")}, maxLights), 0)
		},
		Ends: func(b part.Instance) (out [][2]int) {
			for i := 0; i < int(b.Settings.Int("lights")); i++ {
				out = append(out, part.Way(i, common, b.Settings.Text("common") == "anode"))
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &bar{world: w, sink: part.Sink[display.LightSink](w), n: int(b.Settings.Int("lights")),
				supply: b.Supply, vf: part.FindColour(b.Settings.Text("colour")).Vf,
				ohms: b.Settings.Int("resistor"), anode: b.Settings.Text("common") == "anode"}
		},
	})
}

type bar struct {
	part.Passive
	world            part.Host
	sink             display.LightSink
	n                int
	supply, vf, ohms int64
	anode            bool
}

func (b *bar) current(i int, n int64) int64 {
	a, k := b.world.Net(i), b.world.Net(common)
	if b.anode {
		a, k = k, a
	}
	return circuit.Diode(b.supply, b.vf, a, k, b.ohms, 0, b.anode, n)
}

// Changed recomputes the currents: those of all lit LEDs pass the common end.
func (b *bar) Changed(uint64) {
	n := int64(0)
	for i := 0; i < b.n; i++ {
		if b.current(i, 1) > 0 {
			n++
		}
	}
	for i := 0; i < b.n; i++ {
		b.sink.Light(i, b.current(i, max(1, n)))
	}
}
