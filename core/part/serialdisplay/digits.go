package serialdisplay

import (
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/part/sevensegment"
	"hemble/core/spec"
)

var digitActions = []action{
	{"clear", "darken all digits and go to the first", 'C', false},
	{"go", "go to the digit that the next byte counts from 0, from the left", 'P', true},
	{"points", "light the points whose bits the next byte has, bit 0 at the left", 'D', true},
	{"light", "set the brightness to the next byte, 0 to 255", 'B', true},
}

func init() {
	part.Register(&part.Kind{
		Name:   "serial-digits",
		Title:  "Serial digit display",
		Doc:    "Digits with their own controller on one data line: each character is written to the next place, starting again at the left after the last; an escape byte starts a command. The values 0 to 15 show as hexadecimal digits, other characters as their symbol.",
		Source: "8N1 framing of a UART; commands by settings",
		Settings: settings(digitActions,
			spec.Field{Name: "digits", Kind: spec.Int, Min: 1, Max: 8, Default: "4", Doc: "how many digits"},
			spec.Field{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the segments"}),
		Pins:    []spec.Key{{Name: "rx", Doc: "the data line, from the chip's TXD or any pin that the program drives"}},
		Example: "count: {part: serial-digits, digits: 4, pins: {rx: <TXD>}}",
		Check:   check(digitActions),
		Geometry: func(b part.Instance) display.Geometry {
			return sevensegment.Digits(int(b.Settings.Int("digits")), part.FindColour(b.Settings.Text("colour")).Hex)
		},
		Notes: notes,
		New: func(b part.Instance, w part.Host) part.Part {
			d := &digits{line: newLine(b, w, digitActions), sink: part.Sink[display.LightSink](w),
				patterns: make([]glyph.Pattern, b.Settings.Int("digits")), level: 255}
			d.begin, d.write, d.command = func() {}, d.put, d.do
			return d
		},
	})
}

type digits struct {
	*line
	sink     display.LightSink
	patterns []glyph.Pattern
	at       int
	level    int64
}

// put shows a character; one that no digit can show is blank.
func (d *digits) put(v byte) {
	symbol := rune(v)
	if v < 16 {
		symbol = rune("0123456789AbCdEF"[v])
	}
	p := glyph.Pattern(0)
	if shapes := glyph.Seven(symbol); shapes != nil {
		p = shapes[0]
	}
	d.patterns[d.at] = p | d.patterns[d.at]&glyph.DP
	d.at = (d.at + 1) % len(d.patterns)
	d.show()
}

func (d *digits) show() {
	for i, p := range d.patterns {
		for s := 0; s < 8; s++ {
			current := int64(0)
			if p>>s&1 == 1 {
				current = display.Nominal * d.level / 255
			}
			d.sink.Light(8*i+s, current)
		}
	}
}

func (d *digits) do(name string, argument byte) {
	switch name {
	case "clear":
		d.at = 0
		clear(d.patterns)
	case "go":
		d.at = int(argument) % len(d.patterns)
	case "points":
		for i := range d.patterns {
			d.patterns[i] &^= glyph.DP
			if argument>>i&1 == 1 {
				d.patterns[i] |= glyph.DP
			}
		}
	case "light":
		d.level = int64(argument)
	}
	d.show()
}
