// Package sevensegment is a seven-segment display of one to eight digits with decimal points, of either
// polarity, whose segments and digits are driven by wires.
package sevensegment

import (
	"fmt"

	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Terminals, in the order of Pins: the segments a to g and dp are 0 to 7.
const (
	segments  = 8
	common    = 8 // of a single digit
	digit1    = 9 // of the leftmost of several
	maxDigits = 8
)

func init() {
	part.Register(&part.Kind{
		Name:   "seven-segment",
		Title:  "Seven-segment display",
		Doc:    "One to eight digits of seven segments and a decimal point, with a resistor for each segment. With a common anode a segment lights when its pin is low, with a common cathode when it is high. Several digits share the segment pins and are selected by their own: directly by a pin, or through a transistor that a pin switches.",
		Source: "segment letters and shape: the usual 10-pin LED digit; transistor selects: PNP to the supply for common anodes, NPN to ground for common cathodes",
		Settings: []spec.Field{
			{Name: "common", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Required: true, Doc: "which end the segments of a digit share"},
			{Name: "digits", Kind: spec.Int, Min: 1, Max: maxDigits, Default: "1", Doc: "how many digits"},
			{Name: "select", Kind: spec.Choice, Choices: []string{"direct", "transistor"}, Default: "direct", Doc: "what selects a digit of several: the pin itself (high for a common anode, low for a common cathode), or a transistor behind it (low for a common anode, high for a common cathode)"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red", Doc: "colour of the segments"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "resistor of each segment in ohms; 0 for none"},
			{Name: "common-resistor", Kind: spec.Ohms, Default: "0", Doc: "resistor in the common line of each digit, which its lit segments share"},
		},
		Pins:    pins(),
		Example: "gauge: {part: seven-segment, common: anode, resistor: 270, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, dp: PB1, common: VCC}}",
		Look:    look,
		Check:   check,
		New: func(b part.Built, w part.World) part.Part {
			return &display{world: w, supply: b.Supply, vf: part.FindColour(b.Settings.Text("colour")).Vf,
				ohms: b.Settings.Int("resistor"), shared: b.Settings.Int("common-resistor"),
				anode: b.Settings.Text("common") == "anode", transistor: b.Settings.Text("select") == "transistor",
				conducting: make([]int64, b.Settings.Int("digits"))}
		},
	})
}

func pins() []spec.Key {
	var keys []spec.Key
	for _, s := range []string{"a", "b", "c", "d", "e", "f", "g"} {
		keys = append(keys, spec.Key{Name: s, Doc: "segment " + s})
	}
	keys = append(keys, spec.Key{Name: "dp", Doc: "decimal point", Optional: true},
		spec.Key{Name: "common", Doc: "the end that all segments of a single digit share", Optional: true})
	for i := 1; i <= maxDigits; i++ {
		keys = append(keys, spec.Key{Name: fmt.Sprintf("digit%d", i), Doc: fmt.Sprintf("selects digit %d of several, counted from the left", i), Optional: true})
	}
	return keys
}

func check(b part.Built) (out []spec.Problem) {
	problem := func(format string, args ...any) {
		out = append(out, spec.Problem{Text: fmt.Sprintf(format, args...)})
	}
	n := int(b.Settings.Int("digits"))
	if n == 1 && b.Wired[common] == "" {
		problem("pin \"common\" of a single digit is not wired")
	}
	if n > 1 && b.Wired[common] != "" {
		problem("several digits have pins digit1 to digit%d, not one common pin", n)
	}
	for i := 0; i < maxDigits; i++ {
		switch wired := b.Wired[digit1+i] != ""; {
		case n > 1 && i < n && !wired:
			problem("pin \"digit%d\" is not wired", i+1)
		case wired && (n == 1 || i >= n):
			problem("pin \"digit%d\" is wired on a display of %d", i+1, n)
		}
	}
	end := b.Settings.Text("common")
	if rail := map[string]string{"anode": "GND", "cathode": "VCC"}[end]; b.Wired[common] == rail {
		problem("the common %s is wired to %s: no segment can ever light", end, rail)
	}
	return out
}

// look draws slanted digits 60 wide and 100 high, side by side.
func look(b part.Built) reel.Look {
	out := reel.Look{Form: reel.FormDigits, Height: 120}
	for d := 0; d < int(b.Settings.Int("digits")); d++ {
		out.Shapes = append(out.Shapes, digit(d, out.Width, part.FindColour(b.Settings.Text("colour")).Hex)...)
		out.Width += 84
	}
	out.Width += 8
	return out
}

// digit gives the corners of the segments of one digit whose left edge is at x.
func digit(number int, left float64, color string) (out []reel.Shape) {
	const thick = 9.0
	slant := func(x, y float64) [2]float64 { return [2]float64{left + x + (100-y)*0.08 + 12, y + 10} }
	bar := func(x1, x2, y float64) [][2]float64 { // horizontal, with pointed ends
		t := thick / 2
		return [][2]float64{slant(x1, y), slant(x1+t, y-t), slant(x2-t, y-t), slant(x2, y), slant(x2-t, y+t), slant(x1+t, y+t)}
	}
	post := func(x, y1, y2 float64) [][2]float64 {
		t := thick / 2
		return [][2]float64{slant(x, y1), slant(x+t, y1+t), slant(x+t, y2-t), slant(x, y2), slant(x-t, y2-t), slant(x-t, y1+t)}
	}
	const l, r, top, mid, low, gap = 6.0, 50.0, 6.0, 50.0, 94.0, 1.2
	shapes := [][][2]float64{
		bar(l+gap, r-gap, top), post(r, top+gap, mid-gap), post(r, mid+gap, low-gap), bar(l+gap, r-gap, low),
		post(l, mid+gap, low-gap), post(l, top+gap, mid-gap), bar(l+gap, r-gap, mid),
	}
	for i, points := range shapes {
		out = append(out, reel.Shape{Light: number*segments + i, Name: string(rune('a' + i)), Digit: number, Color: color, Points: points})
	}
	at := slant(63, 94)
	return append(out, reel.Shape{Light: number*segments + 7, Name: "dp", Digit: number, Color: color, Circle: &reel.Circle{X: at[0], Y: at[1], R: 5.5}})
}

type display struct {
	part.Passive
	world             part.World
	supply, vf        int64
	ohms, shared      int64
	anode, transistor bool
	conducting        []int64 // how many segments of each digit carry current: they share its common line
}

// end is what the common line of a digit is at.
func (p *display) end(d int) circuit.Drive {
	if len(p.conducting) == 1 {
		return p.world.Net(common)
	}
	pin := p.world.Net(digit1 + d)
	if !p.transistor {
		return pin
	}
	switch {
	case p.anode && pin.Level == circuit.Low:
		return circuit.Supply
	case !p.anode && pin.Level == circuit.High:
		return circuit.Ground
	}
	return circuit.Released
}

// current is that of one of n conducting segments of a digit.
func (p *display) current(segment int, end circuit.Drive, n int64) int64 {
	if p.anode {
		return circuit.Diode(p.supply, p.vf, end, p.world.Net(segment), p.ohms, p.shared, true, n)
	}
	return circuit.Diode(p.supply, p.vf, p.world.Net(segment), end, p.ohms, p.shared, false, n)
}

// Changed works the currents out anew of every digit that was or is selected.
func (p *display) Changed(uint64) {
	for d := range p.conducting {
		end, n := p.end(d), int64(0)
		for s := 0; s < segments; s++ {
			if p.current(s, end, 1) > 0 {
				n++
			}
		}
		if n == 0 && p.conducting[d] == 0 {
			continue
		}
		p.conducting[d] = n
		for s := 0; s < segments; s++ {
			p.world.Light(d*segments+s, p.current(s, end, max(n, 1)))
		}
	}
}
