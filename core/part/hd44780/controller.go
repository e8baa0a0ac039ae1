package hd44780

import (
	"fmt"

	"hemble/core/clock"
)

// Execution times at an oscillator of 270 kHz (datasheet table 6).
const (
	shortTime   = 37 * clock.Microsecond
	dataTime    = 41 * clock.Microsecond // 37 µs and t_ADD
	longTime    = 1520 * clock.Microsecond
	powerOnTime = 10 * clock.Millisecond // "Initializing by internal reset circuit"

	typicalRate = 270
	slowestRate = 190 // kHz, "Clock characteristics", minimum of the internal oscillator
)

// controller is the HD44780U behind its bus.
type controller struct {
	kept    bool     // clearing leaves the text for a while, and what is written anew for good
	stale   [80]bool // what is not written anew since
	slowest bool
	begins  begins // where rows are taken to begin
	readyAt clock.Time

	ddram   [80]uint8
	cgram   [64]uint8
	address uint8 // of DDRAM, 0 to 79 counted through both lines, or of CGRAM
	toCGRAM bool

	wide      bool // DL: 8-bit bus
	twoLines  bool // N
	increment bool // I/D
	shifts    bool // S: the display shifts with each character
	on        bool // D
	underline bool // C
	blink     bool // B
	shift     int  // how far the display is shifted to the left
}

// newController is one after its internal reset: 8-bit bus, one line, display off, cursor moving on.
func newController(slowest bool) controller {
	return controller{slowest: slowest, wide: true, increment: true}
}

func (c *controller) time(t clock.Time) clock.Time {
	if c.slowest {
		return t * typicalRate / slowestRate
	}
	return t
}

func (c *controller) powerOnTime() clock.Time { return c.time(powerOnTime) }

func (c *controller) clear() {
	for i := range c.ddram {
		c.ddram[i] = ' '
	}
}

// settle clears what was to be cleared and is not written anew.
func (c *controller) settle() {
	for i, stale := range c.stale {
		if stale {
			c.ddram[i], c.stale[i] = ' ', false
		}
	}
}

// Where the second of two lines begins in DDRAM, and how many characters each of them has (datasheet, "Display Data
// RAM").
const (
	secondLine = 0x40
	lineLength = 40
)

// lineLength is how many characters of DDRAM a line has.
func (c *controller) lineLength() int {
	if c.twoLines {
		return lineLength
	}
	return 2 * lineLength
}

// execute carries out an instruction or a data write and gives the time it takes.
func (c *controller) execute(data bool, v uint8) clock.Time {
	if data {
		if c.toCGRAM {
			c.cgram[c.address&63] = v & 0x1f
		} else {
			c.ddram[c.address] = v
			c.stale[c.address] = false
			if c.shifts {
				c.scroll(c.increment)
			}
		}
		c.step()
		return c.time(dataTime)
	}
	switch {
	case v&0x80 != 0: // set DDRAM address
		c.toCGRAM = false
		c.address = c.cell(c.begins.at(v & 0x7f))
	case v&0x40 != 0: // set CGRAM address
		c.toCGRAM, c.address = true, v&0x3f
	case v&0x20 != 0: // function set
		c.wide, c.twoLines = v&0x10 != 0, v&0x08 != 0
	case v&0x10 != 0: // cursor or display shift
		if v&0x08 != 0 {
			c.scroll(v&0x04 == 0)
		} else {
			was := c.increment
			c.increment = v&0x04 != 0
			c.step()
			c.increment = was
		}
	case v&0x08 != 0: // display control
		c.on, c.underline, c.blink = v&4 != 0, v&2 != 0, v&1 != 0
	case v&0x04 != 0: // entry mode
		c.increment, c.shifts = v&2 != 0, v&1 != 0
	case v&0x02 != 0: // return home
		c.home()
		return c.time(longTime)
	case v&0x01 != 0: // clear display
		if !c.kept {
			c.clear()
		} else {
			for i := range c.stale {
				c.stale[i] = true
			}
		}
		c.home()
		c.increment = true
		return c.time(longTime)
	}
	return c.time(shortTime)
}

func (c *controller) home() { c.address, c.toCGRAM, c.shift = 0, false, 0 }

// cell turns a DDRAM address, where the second line starts at 0x40, into an index of ddram. The
// addresses between the lines do not exist; they wrap.
func (c *controller) cell(address uint8) uint8 {
	if !c.twoLines {
		return address % 80
	}
	if address >= secondLine {
		return lineLength + (address-secondLine)%lineLength
	}
	return address % lineLength
}

// step moves the address on after a data access; it goes round through all of the memory.
func (c *controller) step() {
	size := uint8(len(c.ddram))
	if c.toCGRAM {
		size = uint8(len(c.cgram))
	}
	if c.increment {
		c.address = (c.address + 1) % size
	} else {
		c.address = (c.address + size - 1) % size
	}
}

func (c *controller) scroll(left bool) {
	n := c.lineLength()
	if left {
		c.shift = (c.shift + 1) % n
	} else {
		c.shift = (c.shift + n - 1) % n
	}
}

// peek is what a read cycle gives: busy flag and address, or data.
func (c *controller) peek(data, busy bool) uint8 {
	switch {
	case data && c.toCGRAM:
		return c.cgram[c.address&63]
	case data:
		return c.ddram[c.address]
	}
	v := c.address
	if !c.toCGRAM && c.twoLines && v >= lineLength {
		v += secondLine - lineLength
	}
	if busy {
		v |= 0x80
	}
	return v
}

// at gives the character code that is at a place of a line on the glass. Before the controller is set
// to two lines and switched on, it drives the first line with all dots: the dark boxes of an LCD that nobody
// has initialised.
func (c *controller) at(line, place int) (code uint8, on bool) {
	switch {
	case !c.on && !c.twoLines:
		return 0xff, line == 0
	case !c.on || !c.twoLines && line > 0:
		return 0, false
	}
	return c.ddram[c.index(line, place)], true
}

// index is where in ddram a place of a line stands, as the display is shifted now.
func (c *controller) index(line, place int) int {
	n := c.lineLength()
	return line*n%80 + (place+c.shift)%n
}

// custom gives the dots of one of the eight characters in CGRAM.
func (c *controller) custom(code uint8) (dots [8]uint8) {
	copy(dots[:], c.cgram[code&7*8:])
	return dots
}

// cursorAt reports whether the cursor is shown at a place of a line.
func (c *controller) cursorAt(line, place int) bool {
	return c.on && !c.toCGRAM && (c.underline || c.blink) && (c.twoLines || line == 0) &&
		c.index(line, place) == int(c.address)
}

// target names what a data write goes to.
func (c *controller) target() string {
	if c.toCGRAM {
		return "dots"
	}
	return "write"
}

// describe tells an instruction in words (datasheet table 6).
func describe(v uint8) string {
	pick := func(bit uint8, on, off string) string {
		if v&bit != 0 {
			return on
		}
		return off
	}
	switch {
	case v&0x80 != 0:
		return fmt.Sprintf("set DDRAM address 0x%02X", v&0x7f)
	case v&0x40 != 0:
		return fmt.Sprintf("set CGRAM address 0x%02X", v&0x3f)
	case v&0x20 != 0:
		return "function set: " + pick(0x10, "8 bits", "4 bits") + pick(8, ", two lines", ", one line")
	case v&0x10 != 0:
		return "shift " + pick(8, "display ", "cursor ") + pick(4, "right", "left")
	case v&0x08 != 0:
		return "display " + pick(4, "on", "off") + pick(2, ", cursor", "") + pick(1, ", blinking", "")
	case v&0x04 != 0:
		return "entry mode: " + pick(2, "increment", "decrement") + pick(1, ", shift", "")
	case v&0x02 != 0:
		return "return home"
	case v&0x01 != 0:
		return "clear display"
	}
	return "no instruction (0x00)"
}
