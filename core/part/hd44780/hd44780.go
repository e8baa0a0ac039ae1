// Package hd44780 is a character LCD with an HD44780U controller (Hitachi ADE-207-272(Z), "HD44780U
// (LCD-II)"), on parallel wires or behind a PCF8574.
package hd44780

import (
	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals of the parallel kind, in the order of Pins: the lines of the bus, then contrast and backlight.
const (
	lines = lineD0 + 8
	pinVO = lines
	pinA  = lines + 1
	pinK  = lines + 2
)

// levels are those of the controller's inputs at 4.5 to 5.5 V (HD44780U, DC characteristics).
var levels = &part.Input{Low: 600_000, High: 2_200_000,
	Of: []string{"rs", "rw", "e", "d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7"}}

// backlightOhms is the resistor that modules have in series with their backlight.
const backlightOhms = 100

func init() {
	pins := []spec.Key{
		{Name: "rs", Doc: "register select: low for instructions, high for data"},
		{Name: "rw", Doc: "low to write, high to read; GND if nothing is read back"},
		{Name: "e", Doc: "enable: the other pins are read when it falls"},
	}
	for i, d := range []string{"d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7"} {
		pins = append(pins, spec.Key{Name: d, Doc: "data line " + d[1:], Optional: i < 4})
	}
	pins = append(pins,
		spec.Key{Name: "vo",
			Doc:      "contrast: at 5 V, 0.1 V to 1.5 V shows characters, less dark boxes, more nothing; right if not wired",
			Optional: true},
		spec.Key{Name: "a",
			Doc: "anode of the backlight; with k wired too, the backlight is a display of its own: this part's name and -backlight", Optional: true},
		spec.Key{Name: "k", Doc: "cathode of the backlight", Optional: true})
	part.Register(&part.Kind{
		Name:   "lcd",
		Turned: []string{"d4", "d5", "d6", "d7"},
		Exchanged: [][2]string{{"rs", "e"}, {"rs", "rw"}, {"rw", "e"}, {"d4", "d7"}, {"d5", "d6"}, {"d4", "d5"},
			{"d6", "d7"}, {"d5", "d7"},
			{"d4", "d6"}},
		Driven: func(b part.Instance) []string {
			if b.Wired[lineRW] != "GND" {
				return []string{"rs", "e"} // what is read back, the display drives
			}
			return []string{"rs", "e", "d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7"}
		},
		Also:     []string{"lcd1602", "1602", "hd44780", "character-lcd", "character-display"},
		Title:    "Character LCD",
		Doc:      "A character LCD with an HD44780U controller and ROM code A00. In 4-bit mode only d4 to d7 are wired. Anything sent while the controller is busy is lost, as on the real one. Before it is initialised, its first line shows dark boxes. It keeps its state over a reset of the chip.",
		Source:   "Hitachi HD44780U datasheet ADE-207-272(Z)",
		Misread:  []part.Misread{cleared, selected, halves, elsewhere},
		Signs:    signs,
		Settings: settings,
		Pins:     pins,
		Input:    levels,
		Example:  "board: {part: lcd, pins: {rs: <1>, rw: GND, e: <2>, d4: <3>, d5: <4>, d6: <5>, d7: <6>}}",
		Geometry: look,
		Backlit:  func(b part.Instance) bool { return b.Wired[pinA] != "" && b.Wired[pinK] != "" },
		Check: func(b part.Instance) (out []spec.Problem) {
			if (b.Wired[pinA] == "") != (b.Wired[pinK] == "") {
				out = append(out, spec.Problem{Text: "the backlight needs both its ends wired, a and k"})
			}
			if b.Wired[pinVO] == "VCC" {
				out = append(out,
					spec.Problem{Text: "with vo at VCC the display stays empty; wire a potentiometer, or leave vo unwired for the right contrast"})
			}
			return out
		},
		Notes: notes,
		New: func(b part.Instance, w part.Host) part.Part {
			l := &lcd{bus: bus{glass: newGlass(b, w)}, vo: b.Wired[pinVO] != "", backlit: b.Lit(), supply: b.Supply}
			l.answer = l.drive
			return l
		},
	})
}

// lcd is the bus on wires.
type lcd struct {
	part.Passive
	bus
	vo, backlit bool
	supply      int64
}

// Wake clears what was not written anew.
func (l *lcd) Wake(int) { l.later() }

// Changed looks at the wires. Unwired and floating ones are high: the chip has pull-ups on all but E.
func (l *lcd) Changed(terminals uint64) {
	levels := uint16(0)
	for i := 0; i < lines; i++ {
		if d := l.world.Net(i); d.Level == circuit.High || d.Level == circuit.Float && i != lineE {
			levels |= 1 << i
		}
	}
	l.look(levels)
	if l.vo && terminals>>pinVO&1 == 1 {
		l.adjust()
	}
	if l.backlit && terminals>>pinA != 0 {
		l.world.Backlight().Light(0, circuit.Diode(l.supply, circuit.WhiteVf, l.world.Net(pinA), l.world.Net(pinK),
			backlightOhms, 0, true, 1))
	}
}

// adjust sets the contrast by the voltage at VO.
func (l *lcd) adjust() {
	c := right
	switch across := l.supply - l.world.Net(pinVO).Voltage(l.supply); {
	case across > boxesOver:
		c = boxes
	case across < nothingBelow:
		c = nothing
	}
	if c != l.contrast {
		l.contrast = c
		l.paint()
	}
}

func (l *lcd) drive(v, mask uint8) {
	for i := 0; i < 8; i++ {
		d := circuit.Released
		if mask>>i&1 == 1 {
			d = circuit.Output(v>>i&1 == 1)
		}
		l.world.Drive(lineD0+i, d)
	}
}
