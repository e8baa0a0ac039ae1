package part

import "hemble/core/circuit"

// Colour is a colour of LED: how it is drawn and its forward voltage in µV.
type Colour struct {
	Name, Hex string
	Vf        int64
}

// Colours are those that LEDs come in.
var Colours = []Colour{
	{"red", "#ff4a2e", circuit.RedVf},
	{"amber", "#ffa31a", circuit.AmberVf},
	{"yellow", "#ffc933", circuit.YellowVf},
	{"green", "#56e06a", circuit.GreenVf},
	{"blue", "#4aa3ff", circuit.BlueVf},
	{"white", "#fff6e0", circuit.WhiteVf},
}

// ColourNames lists them.
func ColourNames() (out []string) {
	for _, c := range Colours {
		out = append(out, c.Name)
	}
	return out
}

// FindColour gives a colour by name; red when there is no such colour.
func FindColour(name string) Colour {
	for _, c := range Colours {
		if c.Name == name {
			return c
		}
	}
	return Colours[0]
}

// Way gives the ends of a light between its own terminal and one that it shares, by which end is shared.
func Way(own, shared int, anodeShared bool) [2]int {
	if anodeShared {
		return [2]int{shared, own}
	}
	return [2]int{own, shared}
}
