// Package sevensegment is a seven-segment display of one to eight digits with decimal points, of either
// polarity, whose segments and digits are driven by wires.
package sevensegment

import (
	"fmt"
	"slices"

	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/digits"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals, in the order of Pins: the segments a to g and dp are 0 to 7.
const (
	segments  = 8
	common    = 8 // of a single digit
	digit1    = 9 // of the leftmost of several
	maxDigits = 8
	colonPin  = digit1 + maxDigits
)

func init() {
	part.Register(&part.Kind{
		Name:   "seven-segment",
		Also:   []string{"7-segment", "7segment", "7seg", "seven-seg", "sevenseg", "digit", "digits", "display"},
		Title:  "Seven-segment display",
		Doc:    "One to eight digits of seven segments and a decimal point, with a resistor per segment. With a common anode a segment lights when its pin is low, with a common cathode when it is high. Several digits share the segment pins, and each has a select pin, directly or through a transistor.",
		Source: "segment letters and shape: the usual 10-pin LED digit; transistor selects: PNP to the supply for common anodes, NPN to ground for common cathodes",
		Settings: []spec.Field{
			{Name: "common", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Required: true,
				Doc: "the common terminal of a digit's segments"},
			{Name: "digits", Kind: spec.Int, Min: 1, Max: maxDigits, Default: "1", Doc: "how many digits"},
			{Name: "select", Kind: spec.Choice, Choices: []string{"direct", "transistor", "inverter"},
				Default: "direct",
				Doc:     "how a digit is selected: by the pin itself (high for a common anode, low for a common cathode), through a transistor (low for a common anode, high for a common cathode), or by one pin for two digits, the second through an inverter"},
			{Name: "colon", Kind: spec.Bool, Default: "no",
				Doc: "a colon in the middle, which lights with the digit before it, from a pin of its own like a segment's"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the segments"},
			{Name: "resistor", Kind: spec.Ohms, Default: "270", Doc: "resistor of each segment in ohms; 0 for none"},
			{Name: "common-resistor", Kind: spec.Ohms, Default: "0",
				Doc: "resistor in the common line of each digit, shared by its lit segments"},
		},
		Pins:      pins(),
		Example:   "gauge: {part: seven-segment, common: anode, resistor: 270, pins: {a: <1>, b: <2>, c: <3>, d: <4>, e: <5>, f: <6>, g: <7>, dp: <8>, common: VCC}}",
		Geometry:  look,
		Exchanged: [][2]string{{"digit1", "digit2"}, {"digit2", "digit3"}, {"digit3", "digit4"}, {"digit1", "digit4"}},
		Misread:   misread,
		Check:     check,
		Ends:      ends,
		Resistors: func(b part.Instance) []int64 {
			out := slices.Repeat([]int64{b.Settings.Int("resistor")}, colonPin+1) // of segments and the colon
			for i := common; i < colonPin; i++ {
				out[i] = b.Settings.Int("common-resistor")
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &module{world: w, sink: part.Sink[display.LightSink](w), supply: b.Supply,
				vf:   part.FindColour(b.Settings.Text("colour")).Vf,
				ohms: b.Settings.Int("resistor"), shared: b.Settings.Int("common-resistor"),
				anode: b.Settings.Text("common") == "anode", transistor: b.Settings.Text("select") == "transistor",
				inverter: b.Settings.Text("select") == "inverter", colon: b.Settings.Bool("colon"),
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
		spec.Key{Name: "common", Doc: "the common terminal of a single digit's segments", Optional: true})
	for i := 1; i <= maxDigits; i++ {
		keys = append(keys,
			spec.Key{Name: fmt.Sprintf("digit%d", i),
				Doc: fmt.Sprintf("selects digit %d of several, counted from the left", i), Optional: true})
	}
	keys = append(keys, spec.Key{Name: "colon", Doc: "the colon, if the display has one", Optional: true})
	return keys
}

// ends gives the terminals of each light; a digit behind a transistor or an inverter has one end inside.
func ends(b part.Instance) (out [][2]int) {
	n, anode, inside := int(b.Settings.Int("digits")), b.Settings.Text("common") == "anode", b.Settings.Text("select")
	shared := func(d int) int {
		switch {
		case n == 1:
			return common
		case inside == "transistor" || inside == "inverter" && d == 1:
			return -1
		}
		return digit1 + d
	}
	for i := 0; i < n*segments; i++ {
		out = append(out, part.Way(i%segments, shared(i/segments), anode))
	}
	if b.Settings.Bool("colon") {
		out = append(out, part.Way(colonPin, shared(n/2-1), anode))
	}
	return out
}

func check(b part.Instance) (out []spec.Problem) {
	problem := func(format string, args ...any) {
		out = append(out, spec.Problem{Text: fmt.Sprintf(format, args...)})
	}
	n := int(b.Settings.Int("digits"))
	several := n > 1
	if n == 1 && b.Wired[common] == "" {
		problem("pin \"common\" of a single digit is not wired")
	}
	if n > 1 && b.Wired[common] != "" {
		problem("several digits have pins digit1 to digit%d, not one common pin", n)
	}
	if b.Settings.Text("select") == "inverter" {
		if n != 2 {
			problem("an inverter selects two digits with one pin; this display has %d", n)
		}
		n = 1
	}
	if b.Settings.Bool("colon") != (b.Wired[colonPin] != "") ||
		b.Settings.Bool("colon") && b.Settings.Int("digits") < 2 {
		problem("a colon goes with colon: yes, two digits or more, and its pin wired")
	}
	for i := 0; i < maxDigits; i++ {
		switch wired := b.Wired[digit1+i] != ""; {
		case several && i < n && !wired:
			problem("pin \"digit%d\" is not wired", i+1)
		case wired && (!several || i >= n):
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
func look(b part.Instance) display.Geometry {
	out := Digits(int(b.Settings.Int("digits")), part.FindColour(b.Settings.Text("colour")).Hex)
	if b.Settings.Bool("colon") {
		AddColon(&out)
	}
	return out
}

// Digits draws n digits, for parts that have some built in.
func Digits(n int, color string) display.Geometry {
	out := display.Geometry{TypeName: form.Form, Height: 120}
	for d := 0; d < n; d++ {
		out.Shapes = append(out.Shapes, digit(d, out.Width, color)...)
		out.Width += 84
	}
	out.Width += 8
	return out
}

// AddColon puts two dots, which are one light, into the middle of a display of digits.
func AddColon(look *display.Geometry) {
	n := look.Digits()
	look.Colon = n / 2
	const room = 14
	for i := range look.Shapes[:n*segments] {
		if s := &look.Shapes[i]; s.Digit >= look.Colon {
			if s.Circle != nil {
				s.Circle.X += room
			}
			for k := range s.Points {
				s.Points[k][0] += room
			}
		}
	}
	for _, at := range [][2]float64{{18, 46}, {15, 78}} {
		look.Shapes = append(look.Shapes, display.Shape{Light: n * segments, Name: "colon", Digit: look.Colon - 1,
			Color:  look.Shapes[0].Color,
			Circle: &display.Circle{X: float64(look.Colon)*84 + at[0], Y: at[1], R: 5.5}})
	}
	look.Width += room
}

// digit gives the corners of the segments of one digit whose left edge is at x.
func digit(number int, left float64, color string) (out []display.Shape) {
	const thick = 9.0
	slant := func(x, y float64) [2]float64 { return [2]float64{left + x + (100-y)*0.08 + 12, y + 10} }
	bar := func(x1, x2, y float64) [][2]float64 { // horizontal, with pointed ends
		t := thick / 2
		return [][2]float64{slant(x1, y), slant(x1+t, y-t), slant(x2-t, y-t), slant(x2, y), slant(x2-t, y+t),
			slant(x1+t, y+t)}
	}
	post := func(x, y1, y2 float64) [][2]float64 {
		t := thick / 2
		return [][2]float64{slant(x, y1), slant(x+t, y1+t), slant(x+t, y2-t), slant(x, y2), slant(x-t, y2-t),
			slant(x-t, y1+t)}
	}
	const l, r, top, mid, low, gap = 6.0, 50.0, 6.0, 50.0, 94.0, 1.2
	shapes := [][][2]float64{
		bar(l+gap, r-gap, top), post(r, top+gap, mid-gap), post(r, mid+gap, low-gap), bar(l+gap, r-gap, low),
		post(l, mid+gap, low-gap), post(l, top+gap, mid-gap), bar(l+gap, r-gap, mid),
	}
	for i, points := range shapes {
		out = append(out, display.Shape{Light: number*segments + i, Name: string(rune('a' + i)), Digit: number,
			Color: color, Points: points})
	}
	at := slant(63, 94)
	return append(out, display.Shape{Light: number*segments + 7, Name: "dp", Digit: number, Color: color,
		Circle: &display.Circle{X: at[0], Y: at[1], R: 5.5}})
}

// misread are the polarities that a program for a scanned display may have the wrong way round.
var misread = []part.Misread{
	{
		Entry: finding.Entry{Code: "selects-inverted", Price: finding.Wiring,
			Doc: "digits are selected with the other level", Order: 11,
			Subsumes: []finding.Code{"dark", "digits-alike"}},
		Setting: "select", Taken: map[string][]string{"direct": {"transistor"}, "transistor": {"direct"}}, Wiring: true,
		Partly: true, // a number whose digits are alike reads right
		Only:   scanned,
		Text: func(b part.Instance, _ string) string {
			return fmt.Sprintf("The digit selects of %s are inverted: a digit is on when it should be off.", b.Name)
		},
	},
	{
		Entry: finding.Entry{Code: "polarity", Price: finding.Wiring,
			Doc: "a scanned display is driven for the opposite polarity (common anode or cathode)", Order: 10,
			Subsumes: []finding.Code{"dark", "digits-alike"}},
		Setting: "common", Taken: map[string][]string{"anode": {"cathode"}, "cathode": {"anode"}}, Wiring: true,
		Only: scanned,
		Text: func(b part.Instance, taken string) string {
			return fmt.Sprintf("%s is driven as if it had a common %s; it has a common %s. Segments and selects are both inverted.",
				b.Name, taken, b.Settings.Text("common"))
		},
	},
}

func scanned(b part.Instance) bool { return b.Settings.Int("digits") > 1 }

type module struct {
	part.Passive
	world             part.Host
	sink              display.LightSink
	supply, vf        int64
	ohms, shared      int64
	anode, transistor bool
	inverter, colon   bool
	conducting        []int64 // how many segments of each digit carry current: they share its common line
}

// end is what the common line of a digit is at.
func (p *module) end(d int) circuit.Drive {
	if len(p.conducting) == 1 {
		return p.world.Net(common)
	}
	if p.inverter {
		pin := p.world.Net(digit1)
		if d == 1 && pin.Level != circuit.Float {
			pin = circuit.Output(pin.Level == circuit.Low)
		}
		return pin
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

// Changed recomputes the currents of every digit that was or is selected.
func (p *module) Changed(uint64) {
	var drives [segments + 1]circuit.Drive
	for s := 0; s < segments; s++ {
		drives[s] = p.world.Net(s)
	}
	if p.colon {
		drives[segments] = p.world.Net(colonPin)
	}
	for d := range p.conducting {
		end := p.end(d)
		n := int64(0)
		last := segments - 1
		if p.colon && d == len(p.conducting)/2-1 {
			last = segments
		}
		for s := 0; s <= last; s++ {
			if p.conducts(drives[s], end) {
				n++
			}
		}
		if n == 0 && p.conducting[d] == 0 {
			continue
		}
		p.conducting[d] = n
		var of circuit.Drive // the last one that was computed: most are alike
		current := int64(0)
		for s := 0; s <= last; s++ {
			if drives[s] != of {
				of = drives[s]
				current = p.current(of, end, max(n, 1))
			}
			light := d*segments + s
			if s == segments {
				light = len(p.conducting) * segments
			}
			p.sink.Light(light, current)
		}
	}
}

// conducts reports whether a segment whose pin is at a drive has current, its common line being at end.
func (p *module) conducts(segment, end circuit.Drive) bool {
	if p.anode {
		segment, end = end, segment
	}
	return segment.Level == circuit.High && end.Level == circuit.Low && segment.Strength > circuit.None &&
		end.Strength > circuit.None && p.supply > p.vf
}

// current is that of one of n conducting segments of a digit.
func (p *module) current(segment, end circuit.Drive, n int64) int64 {
	if p.anode {
		return circuit.Diode(p.supply, p.vf, end, segment, p.ohms, p.shared, true, n)
	}
	return circuit.Diode(p.supply, p.vf, segment, end, p.ohms, p.shared, false, n)
}
