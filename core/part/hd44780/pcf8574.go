package hd44780

import (
	"fmt"
	"strconv"
	"strings"

	"hemble/core/part"
	"hemble/core/part/twowire"
	"hemble/core/spec"
)

// backlightCurrent is what the module's transistor gives the backlight, in nA.
const backlightCurrent = 15_000_000

// usualOrder is what the pins P0 to P7 of the expander go to on the modules that are sold.
const usualOrder = "rs rw e backlight d4 d5 d6 d7"

// Terminals of the two-wire kind, in the order of Pins.
const (
	pinSDA = iota
	pinSCL
)

func init() {
	part.Register(&part.Kind{
		Name:      "lcd-two-wire",
		Exchanged: [][2]string{{"sda", "scl"}},
		Title:     "Character LCD on two wires",
		Doc:       "The character LCD of `lcd` in 4-bit mode behind a PCF8574 port expander on a two-wire bus. Its backlight is on a pin of the expander and is a display of its own: this part's name and -backlight.",
		Source:    "NXP PCF8574; PCF8574A data sheet, Rev. 5 (quasi-bidirectional I/Os; slave addresses 0x20 to 0x27 and 0x38 to 0x3F); Hitachi ADE-207-272(Z)",
		Misread:   append([]part.Misread{cleared, selected, halves, elsewhere}, twowire.Misread...),
		Signs:     signs,
		Settings: append([]spec.Field{
			{Name: "address", Kind: spec.Text, Default: "0x27",
				Doc: "address of the expander: 0x20 to 0x27 for a PCF8574, 0x38 to 0x3F for a PCF8574A"},
			{Name: "order", Kind: spec.Text, Default: usualOrder,
				Doc: "what its pins P0 to P7 are connected to, in this order"},
			twowire.PullUps,
		}, settings...),
		Pins:     []spec.Key{{Name: "sda", Doc: "data of the bus"}, {Name: "scl", Doc: "clock of the bus"}},
		Bus:      [2]string{"sda", "scl"},
		Input:    part.CMOS,
		Example:  "notice: {part: lcd-two-wire, address: 0x27, size: 20x4, pins: {sda: <SDA>, scl: <SCL>}}",
		Geometry: look,
		Backlit:  func(part.Instance) bool { return true },
		Check: func(b part.Instance) (out []spec.Problem) {
			if _, err := addressOf(b); err != nil {
				out = append(out, spec.Problem{Text: err.Error()})
			}
			if _, err := orderOf(b); err != nil {
				out = append(out, spec.Problem{Text: err.Error()})
			}
			return out
		},
		Notes: notes,
		New: func(b part.Instance, w part.Host) part.Part {
			x := &expander{bus: bus{glass: newGlass(b, w)}, latch: 0xff, pulled: 0xff}
			x.own, _ = addressOf(b)
			x.order, _ = orderOf(b)
			x.answer = x.drive
			x.slave = twowire.New(w, b, pinSDA, pinSCL, x)
			return x
		},
	})
}

func addressOf(b part.Instance) (uint8, error) {
	v, err := strconv.ParseUint(b.Settings.Text("address"), 0, 8)
	if err != nil || (v < 0x20 || v > 0x27) && (v < 0x38 || v > 0x3f) {
		return 0, fmt.Errorf("%q is no address of such a display; it is 0x20 to 0x27, or 0x38 to 0x3F",
			b.Settings.Text("address"))
	}
	return uint8(v), nil
}

// backlightLine is the expander's pin that switches the backlight, beside the lines of the bus.
const backlightLine = 15

func orderOf(b part.Instance) (order [8]int, err error) {
	words := strings.Fields(b.Settings.Text("order"))
	known := map[string]int{"rs": lineRS, "rw": lineRW, "e": lineE, "backlight": backlightLine, "d4": lineD0 + 4,
		"d5": lineD0 + 5, "d6": lineD0 + 6, "d7": lineD0 + 7}
	if len(words) != len(order) {
		return order, fmt.Errorf("the order names what each of the eight pins P0 to P7 goes to: %s", usualOrder)
	}
	for i, word := range words {
		line, ok := known[word]
		if !ok {
			return order, fmt.Errorf("%q in the order is none of, or is twice of, %s", word, usualOrder)
		}
		delete(known, word)
		order[i] = line
	}
	return order, nil
}

// expander is the PCF8574 between two wires and the bus.
type expander struct {
	part.Passive
	bus
	slave  *twowire.Slave
	own    uint8
	order  [8]int // of each pin, the line it goes to
	latch  uint8  // what was last written
	pulled uint8  // what the LCD pulls low, as zeros
	begun  bool
}

// Changed follows the two wires.
func (x *expander) Wake(int) { x.later() }

func (x *expander) Changed(uint64) {
	if !x.begun {
		x.begun = true
		x.slave.Begin()
		x.port()
	}
	x.slave.Changed()
}

// Addressed answers to the expander's own address.
func (x *expander) Addressed(address uint8, _ bool) bool { return address == x.own }

// Take puts a byte out at the pins.
func (x *expander) Take(v uint8) bool {
	x.latch = v
	x.port()
	return true
}

// Give reads the pins: those written high can be pulled low from outside.
func (x *expander) Give() uint8 { return x.latch & x.pulled }

func (x *expander) port() {
	levels := uint16(0xf << lineD0) // d0 to d3 are open: high
	for pin, line := range x.order {
		if x.latch>>pin&1 == 1 {
			levels |= 1 << line
		}
	}
	x.look(levels &^ (1 << backlightLine))
	current := int64(0)
	if levels>>backlightLine&1 == 1 {
		current = backlightCurrent
	}
	x.world.Backlight().Light(0, current)
}

// drive is the LCD's answer on the data lines.
func (x *expander) drive(v, mask uint8) {
	x.pulled = 0xff
	for pin, line := range x.order {
		if bit := line - lineD0; bit >= 0 && bit < 8 && mask>>bit&1 == 1 && v>>bit&1 == 0 {
			x.pulled &^= 1 << pin
		}
	}
}
