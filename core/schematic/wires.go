package schematic

import "hemble/core/exercise"

// Wire is a pin of the chip, or a net without one, with what is wired to it.
type Wire struct {
	Net     string   `json:"net"`
	Package int      `json:"package,omitempty"` // number of the chip's pin; 0 for a net without one
	Also    []string `json:"also,omitempty"`    // what else the pin is called
	Ends    []End    `json:"ends"`
}

// End is a terminal of a part.
type End struct {
	Part string `json:"part"`
	Pin  string `json:"pin"`
	Doc  string `json:"doc"`
	Ohms int64  `json:"ohms,omitempty"` // of the resistor in its lead
}

// Wires lists the nets of a bench: the chip's pins that are used in the order of their package, then the bench's own
// nets, then the supply's ends.
func Wires(x *exercise.Exercise) []Wire {
	out := []Wire{}
	at := map[string]int{}
	add := func(w Wire) {
		at[w.Net] = len(out)
		out = append(out, w)
	}
	used := wired(x)
	if x.Chip != nil {
		for _, l := range legs(x) {
			if pin, ok := x.Chip.Pin(l.name); ok && used[l.name] {
				add(Wire{Net: l.name, Package: l.number, Also: x.Chip.Pins[pin].Also})
			}
		}
	}
	for _, p := range x.Parts {
		for _, w := range p.Wired {
			if _, known := at[w]; !known && w != "" && !rail(w) {
				add(Wire{Net: w})
			}
		}
	}
	for _, rail := range []string{"VCC", "GND"} {
		if used[rail] {
			add(Wire{Net: rail})
		}
	}
	for _, p := range x.Parts {
		for i, w := range p.Wired {
			if w != "" {
				out[at[w]].Ends = append(out[at[w]].Ends,
					End{p.Name, p.Kind.Pins[i].Name, p.Kind.Pins[i].Doc, ohms(p, i)})
			}
		}
	}
	return out
}

// wired is the set of nets that a part is on.
func wired(x *exercise.Exercise) map[string]bool {
	nets := map[string]bool{}
	for _, p := range x.Parts {
		for _, w := range p.Wired {
			nets[w] = true
		}
	}
	return nets
}
