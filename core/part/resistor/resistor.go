// Package resistor is a resistor between two nets.
package resistor

import (
	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/spec"
)

// most is the greatest resistance, in ohms.
const most = 100_000_000

func init() {
	part.Register(&part.Kind{
		Name:     "resistor",
		Title:    "Resistor",
		Doc:      "Joins two nets, so that each pulls the other: a pull-up to VCC, a pull-down to GND, a divider of two, or one in series with a switch or a light. It passes on outputs, rails and voltages, but not what is itself behind a resistor or a pull-up: write two in series with nothing between them as one.",
		Source:   "Ohm's law and Kirchhoff's first law",
		Settings: []spec.Field{{Name: "ohms", Kind: spec.Ohms, Required: true, Doc: "its resistance"}},
		Symbol:   part.SymbolResistor,
		Pins:     []spec.Key{{Name: "1", Doc: "one end"}, {Name: "2", Doc: "the other end"}},
		Example:  "pull: {part: resistor, ohms: 10k, pins: {1: <1>, 2: GND}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			switch ohms := b.Settings.Int("ohms"); {
			case ohms == 0:
				out = append(out, spec.Problem{Text: "a resistor of 0 Ω is a wire: give both ends' nets the same name"})
			case ohms > most:
				out = append(out, spec.Problem{Text: "a resistor has up to 100 MΩ; more is an open end"})
			}
			if b.Wired[0] == b.Wired[1] {
				out = append(out, spec.Problem{Text: "both ends are at " + b.Wired[0] + ": it does nothing"})
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &resistor{world: w, ohms: b.Settings.Int("ohms"), supply: b.Supply}
		},
	})
}

type resistor struct {
	part.Passive
	world        part.Host
	ohms, supply int64
}

// State is always the same: nothing is kept.
func (*resistor) State() any { return struct{}{} }

// Changed passes on to each end what is at the other.
func (r *resistor) Changed(uint64) {
	for end := range 2 {
		r.world.Drive(end, circuit.Behind(r.world.Net(1-end), r.ohms, r.supply))
	}
}
