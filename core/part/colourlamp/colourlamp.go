// Package colourlamp is an LED with three colours that mix.
package colourlamp

import (
	"slices"

	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/colour"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const common = 3

var channels = [3]string{"red", "green", "blue"}

func init() {
	part.Register(&part.Kind{
		Name:   "colour-lamp",
		Also:   []string{"rgb", "rgb-led", "rgb-lamp", "color-lamp"},
		Title:  "Three-colour lamp",
		Doc:    "A red, a green and a blue LED in one case, each with its resistor, with one common end. A frame is the name of the mixed colour: red, orange, yellow, green, cyan, blue, violet, magenta, white or off; pulse-width modulation mixes them.",
		Source: "forward voltages: typical 5 mm LEDs by colour",
		Settings: []spec.Field{
			{Name: "common", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Default: "cathode",
				Doc: "the common terminal"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "resistor of each LED in ohms; 0 for none"},
		},
		Pins: []spec.Key{{Name: "red", Doc: "the red LED", Optional: true},
			{Name: "green", Doc: "the green LED", Optional: true}, {Name: "blue", Doc: "the blue LED", Optional: true},
			{Name: "common", Doc: "the common terminal: GND for a common cathode, VCC for a common anode"}},
		Example: "signal: {part: colour-lamp, common: cathode, pins: {red: <1>, green: <2>, blue: <3>, common: GND}}",
		Follows: true,
		Geometry: func(part.Instance) display.Geometry {
			out := display.Geometry{TypeName: form.Form, Width: 60, Height: 60}
			for i, c := range channels { // three overlapping circles
				out.Shapes = append(out.Shapes, display.Shape{Light: i, Name: c, Color: part.FindColour(c).Hex,
					Circle: &display.Circle{X: []float64{30, 22, 38}[i], Y: []float64{20, 36, 36}[i], R: 14}})
			}
			return out
		},
		Resistors: func(b part.Instance) []int64 {
			return append(slices.Repeat([]int64{b.Settings.Int("resistor")}, len(channels)), 0)
		},
		Ends: func(b part.Instance) (out [][2]int) {
			for i := range channels {
				out = append(out, part.Way(i, common, b.Settings.Text("common") == "anode"))
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &lamp{world: w, sink: part.Sink[display.LightSink](w), supply: b.Supply,
				ohms: b.Settings.Int("resistor"), anode: b.Settings.Text("common") == "anode"}
		},
	})
}

type lamp struct {
	part.Passive
	world        part.Host
	sink         display.LightSink
	supply, ohms int64
	anode        bool
}

// fullScale is the current in nA of the red LED behind 270 Ω: the others, of a higher forward voltage,
// are as bright at less current, and vision's level of a colour counts from their own full current.
const fullScale = display.Nominal

// Changed recomputes the currents.
func (l *lamp) Changed(uint64) {
	for i, name := range channels {
		vf := part.FindColour(name).Vf
		a, k := l.world.Net(i), l.world.Net(common)
		if l.anode {
			a, k = k, a
		}
		current := circuit.Diode(l.supply, vf, a, k, l.ohms, 0, l.anode, 1)
		if full := circuit.Diode(l.supply, vf, circuit.DrivenHigh, circuit.Ground, l.ohms, 0, l.anode, 1); full > 0 &&
			current > fullScale/20 {
			current = current * fullScale / full
		}
		l.sink.Light(i, current)
	}
}
