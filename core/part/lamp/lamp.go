// Package lamp is a single LED with its resistor, in either direction.
package lamp

import (
	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/lamp"
	"hemble/core/part"
	"hemble/core/spec"
)

const (
	anode = iota
	cathode
)

func init() {
	part.Register(&part.Kind{
		Name:   "lamp",
		Also:   []string{"led", "light", "bulb"},
		Title:  "Lamp",
		Doc:    "An LED and its resistor between two nets. Wire the anode to a pin and the cathode to GND for a lamp that a high pin lights, or the anode to VCC and the cathode to a pin for one that a low pin lights.",
		Source: "forward voltages: typical 5 mm LEDs by colour",
		Settings: []spec.Field{
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the light"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "series resistor in ohms; 0 for none"},
		},
		Pins:    []spec.Key{{Name: "anode", Doc: "the LED's anode"}, {Name: "cathode", Doc: "the LED's cathode"}},
		Example: "red: {part: lamp, colour: red, resistor: 270, pins: {anode: <1>, cathode: GND}}",
		Follows: true,
		Geometry: func(b part.Instance) display.Geometry {
			c := part.FindColour(b.Settings.Text("colour"))
			return form.Geometry(c.Name, c.Hex)
		},
		Symbol:    part.SymbolLamp,
		Resistors: func(b part.Instance) []int64 { return []int64{anode: b.Settings.Int("resistor"), cathode: 0} },
		Ends:      func(part.Instance) [][2]int { return [][2]int{{anode, cathode}} },
		New: func(b part.Instance, w part.Host) part.Part {
			return &lamp{world: w, sink: part.Sink[display.LightSink](w), supply: b.Supply,
				vf: part.FindColour(b.Settings.Text("colour")).Vf, ohms: b.Settings.Int("resistor")}
		},
	})
}

type lamp struct {
	part.Passive
	world            part.Host
	sink             display.LightSink
	supply, vf, ohms int64
	memo             [2]memo // a lamp is mostly at one of two currents
}

// memo is a current that was computed before.
type memo struct {
	anode, cathode circuit.Drive
	nA             int64
	known          bool
}

// Changed recomputes the current.
func (l *lamp) Changed(uint64) {
	a, k := l.world.Net(anode), l.world.Net(cathode)
	for i := range l.memo {
		if m := &l.memo[i]; m.known && m.anode == a && m.cathode == k {
			l.sink.Light(0, m.nA)
			return
		}
	}
	nA := circuit.Diode(l.supply, l.vf, a, k, l.ohms, 0, true, 1)
	l.memo[0], l.memo[1] = memo{a, k, nA, true}, l.memo[0]
	l.sink.Light(0, nA)
}
