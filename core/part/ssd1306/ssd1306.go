// Package ssd1306 is a graphic OLED display with an SSD1306 (Solomon Systech, "SSD1306 128 × 64 Dot Matrix
// OLED/PLED Segment/Common Driver with Controller", Rev 1.1).
package ssd1306

import (
	"fmt"
	"slices"
	"strconv"

	"hemble/core/display"
	form "hemble/core/display/graphic"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/twowire"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	sda = iota
	scl
	sck
	mosi
	dc
	cs
	res
	terminals
)

func init() {
	optional := func(name, doc string) spec.Key { return spec.Key{Name: name, Doc: doc, Optional: true} }
	part.Register(&part.Kind{
		Name:      "oled",
		Exchanged: [][2]string{{"sda", "scl"}},
		Also:      []string{"ssd1306", "graphic-display"},
		Title:     "Graphic OLED",
		Doc:       "A graphic display of 128×64 or 128×32 pixels with an SSD1306, on a two-wire bus or by SPI. It stays dark until its charge pump and its display are switched on. A frame is the text shown in a 5×7 font, or a picture. Its memory is random at power-on and keeps its contents over a reset.",
		Source:    "Solomon Systech SSD1306, Rev 1.1; charge pump: application note in the same",
		Settings: []spec.Field{
			{Name: "size", Kind: spec.Choice, Choices: []string{"128x64", "128x32"}, Default: "128x64",
				Doc: "columns and rows"},
			{Name: "bus", Kind: spec.Choice, Choices: []string{"two-wire", "spi"}, Default: "two-wire",
				Doc: "how it is wired"},
			{Name: "address", Kind: spec.Choice, Choices: []string{"0x3C", "0x3D"}, Default: "0x3C",
				Doc: "on a two-wire bus"},
			{Name: "mounted", Kind: spec.Choice, Choices: []string{"upright", "turned"}, Default: "upright",
				Doc: "how the glass is mounted: `upright` shows text upright with segment remap 0xA1 and COM scan 0xC8, as nearly all modules do; `turned` with 0xA0 and 0xC0"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "white",
				Doc: "colour of the pixels"},
			twowire.PullUps,
		},
		Pins: []spec.Key{optional("sda", "data of a two-wire bus"), optional("scl", "clock of a two-wire bus"),
			optional("sck", "clock of SPI"), optional("mosi", "data of SPI"),
			optional("dc", "of SPI: low for commands, high for data"),
			optional("cs", "chip select of SPI, active low; GND where it is not wired"),
			optional("res", "reset, active low; VCC where it is not wired")},
		Bus:     [2]string{"sda", "scl"},
		Example: "notice: {part: oled, size: 128x64, pins: {sda: <SDA>, scl: <SCL>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			need, other := []int{sda, scl}, []int{sck, mosi, dc, cs}
			if b.Settings.Text("bus") == "spi" {
				need, other = []int{sck, mosi, dc}, []int{sda, scl}
			}
			for _, i := range need {
				if b.Wired[i] == "" {
					out = append(out,
						spec.Problem{Text: "pin " + strconv.Quote(b.Kind.Pins[i].Name) + " is not wired: " +
							b.Kind.Pins[i].Doc})
				}
			}
			for _, i := range other {
				if b.Wired[i] != "" {
					out = append(out,
						spec.Problem{Text: "pin " + strconv.Quote(b.Kind.Pins[i].Name) + " is wired, but the bus is " +
							b.Settings.Text("bus")})
				}
			}
			return out
		},
		Geometry: func(b part.Instance) display.Geometry {
			rows := rowsOf(b)
			return display.Geometry{TypeName: form.Form, Width: columns*4 + 40, Height: float64(rows)*4 + 40,
				Pixels: &display.Pixels{Columns: columns, Rows: rows,
					Ink: part.FindColour(b.Settings.Text("colour")).Hex}}
		},
		Notes: []finding.Entry{
			{Code: "charge-pump", Doc: "the display was switched on while its charge pump was off"},
			{Code: "command", Doc: "a byte was sent as a command that the controller does not have"},
		},
		Misread: append([]part.Misread{addressing}, twowire.Misread...),
		New: func(b part.Instance, w part.Host) part.Part {
			d := &module{panel: newPanel(w, rowsOf(b), b.Settings.Text("mounted") == "turned",
				slices.Index(modes, b.Settings.Text("addressing"))), spi: b.Settings.Text("bus") == "spi", own: 0x3c}
			if b.Settings.Text("address") == "0x3D" {
				d.own = 0x3d
			}
			if !d.spi {
				d.slave = twowire.New(w, b, sda, scl, d)
			}
			return d
		},
	})
}

// modes are the words for the addressing modes.
var modes = []string{horizontal: "horizontal", vertical: "vertical", pageMode: "page"}

// addressing is a program that sends its picture in another order of columns and pages than it sets.
var addressing = part.Misread{
	Entry: finding.Entry{Code: "addressing", Price: finding.Wiring, Order: 6,
		Doc: "a picture is sent in another order of columns and pages than the display was set to"},
	Setting: "addressing", Assumed: true, Taken: map[string][]string{"": modes}, Wiring: true,
	Text: func(b part.Instance, taken string) string {
		return fmt.Sprintf("The program sends the picture of %s as for %s addressing, and sets another mode.", b.Name,
			taken)
	},
}

func rowsOf(b part.Instance) int {
	if b.Settings.Text("size") == "128x32" {
		return 32
	}
	return 64
}

// display is the panel on its bus.
type module struct {
	part.Levels
	*panel
	spi   bool
	own   uint8
	slave *twowire.Slave
	begun bool

	control bool // two-wire: the next byte is a control byte
	data    bool // D/C of the control byte
	single  bool // Co: one byte, then a control byte again
	bits    int  // SPI
	shift   uint8
}

// Cue refuses.
func (d *module) Cue(c part.Cue) error { return part.Passive{}.Cue(c) }

// Changed follows the bus.
func (d *module) Changed(uint64) {
	d.Read(d.world, terminals, 1<<res)
	if !d.begun {
		d.begun = true
		d.paint()
		if !d.spi {
			d.slave.Begin()
		}
	}
	switch {
	case !d.High(res):
		d.reset()
		d.paint()
	case !d.spi:
		d.slave.Changed()
	case d.High(cs):
		d.bits = 0
	case d.Rose(sck):
		d.shift <<= 1
		if d.High(mosi) {
			d.shift |= 1
		}
		if d.bits++; d.bits == 8 { // D/C is sampled with the last bit (8.1.3)
			d.bits = 0
			d.receive(d.High(dc), d.shift)
		}
	}
}

func (d *module) receive(data bool, v uint8) {
	if data {
		d.write(v)
	} else {
		d.command(v)
	}
}

// Addressed begins a transfer, with a control byte when the master writes (8.1.5.2).
func (d *module) Addressed(address uint8, _ bool) bool {
	d.control = true
	return address == d.own
}

// Take is a control byte, or what it announced.
func (d *module) Take(v uint8) bool {
	if d.control {
		d.single, d.data, d.control = v&0x80 != 0, v&0x40 != 0, false
		return true
	}
	d.control = d.single
	d.receive(d.data, v)
	return true
}

// Give is the status: bit 6 is set while the display is off (table 8-2).
func (d *module) Give() uint8 {
	if d.on {
		return 0
	}
	return 0x40
}
