// Package sevensegment is a single seven-segment digit with decimal point, of either polarity.
package sevensegment

import (
	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

const common = 8 // terminal; the segments a to g and dp are 0 to 7

func init() {
	part.Register(&part.Kind{
		Name:   "seven-segment",
		Title:  "Seven-segment digit",
		Doc:    "One digit of seven segments and a decimal point, with a resistor for each segment. With a common anode a segment lights when its pin is low, with a common cathode when it is high.",
		Source: "segment letters and shape: the usual 10-pin LED digit",
		Settings: []spec.Field{
			{Name: "common", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Required: true, Doc: "which end all segments share"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red", Doc: "colour of the segments"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "resistor of each segment in ohms; 0 for none"},
		},
		Pins:    pins(),
		Example: "gauge: {part: seven-segment, common: anode, resistor: 270, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, dp: PB1, common: VCC}}",
		Look:    look,
		Check:   check,
		New: func(b part.Built, w part.World) part.Part {
			return &digit{world: w, supply: b.Supply, vf: part.FindColour(b.Settings.Text("colour")).Vf,
				ohms: b.Settings.Int("resistor"), anode: b.Settings.Text("common") == "anode"}
		},
	})
}

func pins() []spec.Key {
	var keys []spec.Key
	for _, s := range []string{"a", "b", "c", "d", "e", "f", "g"} {
		keys = append(keys, spec.Key{Name: s, Doc: "segment " + s})
	}
	return append(keys, spec.Key{Name: "dp", Doc: "decimal point", Optional: true}, spec.Key{Name: "common", Doc: "the end that all segments share"})
}

func check(b part.Built) (out []spec.Problem) {
	rail := map[string]string{"anode": "GND", "cathode": "VCC"}[b.Settings.Text("common")]
	if b.Wired[common] == rail {
		out = append(out, spec.Problem{Text: "the common " + b.Settings.Text("common") + " is wired to " + rail + ": no segment can ever light"})
	}
	return out
}

// Corners of the six segments around the digit: a slanted digit 60 wide and 100 high.
func look(b part.Built) reel.Look {
	const thick = 9.0
	color := part.FindColour(b.Settings.Text("colour")).Hex
	slant := func(x, y float64) [2]float64 { return [2]float64{x + (100-y)*0.08 + 12, y + 10} }
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
	out := reel.Look{Width: 92, Height: 120}
	for i, points := range shapes {
		out.Shapes = append(out.Shapes, reel.Shape{Light: i, Name: string(rune('a' + i)), Color: color, Points: points})
	}
	at := slant(63, 94)
	out.Shapes = append(out.Shapes, reel.Shape{Light: 7, Name: "dp", Color: color, Circle: &reel.Circle{X: at[0], Y: at[1], R: 5.5}})
	return out
}

type digit struct {
	part.Passive
	world            part.World
	supply, vf, ohms int64
	anode            bool
	lit              int64 // how many segments conduct: they share the common line
}

// Changed works the currents of all segments out anew where one of them, or their number, changed.
func (d *digit) Changed(terminals uint64) {
	end := d.world.Net(common)
	conducts := func(i int, n int64) int64 {
		if d.anode {
			return circuit.Diode(d.supply, d.vf, end, d.world.Net(i), d.ohms, 0, true, n)
		}
		return circuit.Diode(d.supply, d.vf, d.world.Net(i), end, d.ohms, 0, false, n)
	}
	lit := int64(0)
	for i := 0; i < common; i++ {
		if conducts(i, 1) > 0 {
			lit++
		}
	}
	all := lit != d.lit && end.Strength != circuit.Rail || terminals>>common&1 == 1
	d.lit = lit
	for i := 0; i < common; i++ {
		if all || terminals>>i&1 == 1 {
			d.world.Light(i, conducts(i, max(lit, 1)))
		}
	}
}
