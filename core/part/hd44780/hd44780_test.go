package hd44780_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	_ "hemble/core/part/hd44780"
	"hemble/core/part/parttest"
)

const us, ms = clock.Microsecond, clock.Millisecond

// lcd drives the part as a program would.
type lcd struct {
	*parttest.World
	wait clock.Time // after each byte
}

func open(t *testing.T, settings string) *lcd {
	l := &lcd{parttest.New(t, "lcd", settings, 1), 50 * us}
	l.Set("rs", circuit.DrivenLow, "rw", circuit.Ground, "e", circuit.DrivenLow, "d4", circuit.DrivenLow, "d5",
		circuit.DrivenLow, "d6", circuit.DrivenLow, "d7", circuit.DrivenLow)
	return l
}

func (l *lcd) nibble(high uint8) {
	for i, pin := range []string{"d4", "d5", "d6", "d7"} {
		l.Set(pin, circuit.Output(high>>(4+i)&1 == 1))
	}
	l.Set("e", circuit.DrivenHigh)
	l.Pass(us)
	l.Set("e", circuit.DrivenLow)
	l.Pass(us)
}

func (l *lcd) send(data bool, v ...uint8) {
	l.Set("rs", circuit.Output(data))
	for _, b := range v {
		l.nibble(b)
		l.nibble(b << 4)
		l.Pass(l.wait)
	}
}

func (l *lcd) text(s string) { l.send(true, []byte(s)...) }

// begin is the datasheet's initialisation by instruction for 4-bit mode (figure 24).
func (l *lcd) begin() {
	l.Pass(40 * ms)
	for i := 0; i < 3; i++ {
		l.nibble(0x30)
		l.Pass(5 * ms)
	}
	l.nibble(0x20)
	l.Pass(100 * us)
	l.send(false, 0x28, 0x0c, 0x01)
	l.Pass(2 * ms)
	l.send(false, 0x06)
}

func (l *lcd) row(r int) string {
	var b strings.Builder
	for c := 0; c < 16; c++ {
		switch cell := l.Cells[r*16+c]; {
		case cell == 0:
			b.WriteByte(' ')
		case cell >= display.CustomCell:
			b.WriteByte('#')
		default:
			b.WriteByte(byte(cell))
		}
	}
	return strings.TrimRight(b.String(), " ")
}

func TestWriting(t *testing.T) {
	l := open(t, "")
	assert.Equal(t, strings.Repeat("\xff", 16), l.row(0), "dark boxes before initialisation")
	l.begin()
	assert.Equal(t, "", l.row(0))
	l.text("Wherry")
	l.send(false, 0xc3)
	l.text("Lock")
	assert.Equal(t, "Wherry", l.row(0))
	assert.Equal(t, "   Lock", l.row(1))
	assert.Empty(t, l.Notes)
	l.send(false, 0x08)
	assert.Equal(t, "", l.row(0), "display off")
	l.send(false, 0x0c)
	assert.Equal(t, "Wherry", l.row(0), "and on again, with its contents")
}

func TestAddressesWrapAndShift(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.text(strings.Repeat("x", 40) + "second")
	assert.Equal(t, "second", l.row(1), "behind the 40th character of the first line comes the second")
	l.send(false, 0x01)
	l.Pass(2 * ms)
	l.text("ABC")
	l.send(false, 0x18)
	assert.Equal(t, "BC", l.row(0), "shifted to the left")
	l.send(false, 0x1c, 0x1c)
	assert.Equal(t, " ABC", l.row(0), "and to the right")
	l.send(false, 0x02)
	l.Pass(2 * ms)
	assert.Equal(t, "ABC", l.row(0), "home undoes shifts")
	l.send(false, 0x04, 0x85)
	l.text("xy")
	assert.Equal(t, "ABC yx", l.row(0), "decrementing")
	l.send(false, 0x10)
	l.text("z")
	assert.Equal(t, "ABzCyx"[:2]+"z yx", l.row(0), "the cursor was moved one to the left")
}

func TestCursorAndCustomCharacters(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.send(false, 0x0e, 0xc5)
	assert.Equal(t, &display.Cursor{Cell: 21}, l.At)
	l.send(false, 0x0d)
	assert.Equal(t, &display.Cursor{Cell: 21, Block: true}, l.At)
	l.send(false, 0x48)
	l.send(true, 1, 2, 4, 8, 16, 0x1f, 0, 0xff)
	l.send(false, 0x80)
	l.text("\x01\x09")
	assert.Equal(t, "##", l.row(0))
	assert.Equal(t, [8]uint8{1, 2, 4, 8, 16, 0x1f, 0, 0x1f}, l.Dots(l.Cells[0]))
	assert.Equal(t, l.Dots(l.Cells[0]), l.Dots(l.Cells[1]), "codes 8 to 15 are the same characters")
	l.send(false, 0x48)
	l.send(true, 0x15)
	assert.Equal(t, uint8(0x15), l.Dots(l.Cells[0])[0], "a character on the glass changes with its dots")
}

// Execution times: what comes too early is lost.
func TestBusy(t *testing.T) {
	for _, c := range []struct {
		settings string
		wait     clock.Time
		want     string
	}{{"", 41 * us, "AB"}, {"", 40 * us, "A"}, {"speed: slowest", 41 * us, "A"}, {"speed: slowest", 59 * us, "AB"}} {
		l := open(t, c.settings)
		l.wait = 100 * us
		l.begin()
		l.Pass(ms)
		l.Notes = nil
		l.wait = c.wait - 2*us
		l.send(true, 'A', 'B')
		assert.True(t, strings.HasPrefix(l.row(0), c.want), "%s after %s: %q", c.settings, c.wait.Short(), l.row(0))
		assert.Equal(t, c.want == "A", len(l.Notes) > 0)
	}
	l := open(t, "")
	l.begin()
	l.text("AB")
	l.send(false, 0x01)
	l.send(true, 'C') // 1.52 ms would be needed
	l.Pass(3 * ms)
	assert.Equal(t, "", l.row(0))
	assert.Contains(t, l.Notes[0], "lcd-busy: a character was sent")
}

// One nibble too many and every byte is read across two.
func TestNibbleSlip(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.Set("rs", circuit.DrivenHigh)
	for _, n := range []uint8{0x40, 0x40, 0x10, 0x40, 0x20} { // one too many, then A and B
		l.nibble(n)
		l.Pass(50 * us)
	}
	assert.Equal(t, "D\x14", l.row(0))
}

// What changes in the same instant as E falls comes too late.
func TestDataStandBeforeTheEdge(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.Set("rs", circuit.DrivenHigh, "e", circuit.DrivenHigh, "d4", circuit.DrivenLow, "d5", circuit.DrivenLow, "d6",
		circuit.DrivenHigh, "d7", circuit.DrivenLow)
	l.Pass(us)
	l.Set("e", circuit.DrivenLow, "d4", circuit.DrivenHigh, "d6", circuit.DrivenLow)
	l.Pass(us)
	l.nibble(0x10)
	assert.Equal(t, "A", l.row(0))
}

func TestReadingBack(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.text("K")
	l.send(false, 0x80)
	read := func(rs circuit.Drive) (v uint8) {
		l.Set("rs", rs, "rw", circuit.DrivenHigh, "d4", circuit.Released, "d5", circuit.Released, "d6",
			circuit.Released, "d7", circuit.Released)
		for half := 0; half < 2; half++ {
			l.Set("e", circuit.DrivenHigh)
			l.Pass(us)
			for i := 3; i >= 0; i-- {
				v = v<<1 | uint8(l.Driven[7+i].Level)
			}
			l.Set("e", circuit.DrivenLow)
			l.Pass(us)
		}
		l.Set("rw", circuit.Ground)
		return v
	}
	l.Pass(100 * us)
	assert.Equal(t, uint8('K'), read(circuit.DrivenHigh))
	l.Pass(100 * us)
	assert.Equal(t, uint8(0x01), read(circuit.DrivenLow), "the address went on")
	assert.Equal(t, circuit.Released, l.Driven[7], "after reading the lines are free")
	l.wait = 0
	l.send(false, 0x01)
	assert.Equal(t, uint8(0x80), read(circuit.DrivenLow)&0x80, "busy while clearing")
	l.Pass(2 * ms)
	assert.Equal(t, uint8(0), read(circuit.DrivenLow))
}

func TestShortEnable(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.Set("e", circuit.DrivenHigh)
	l.Pass(125 * clock.Nanosecond)
	l.Set("e", circuit.DrivenLow)
	assert.Contains(t, l.Notes[0], "E was high for only 125 ns")
}

// Each size of glass shows its part of the memory.
func TestSizes(t *testing.T) {
	cell := func(l *lcd, i int) string {
		if l.Cells[i] == 0 {
			return " "
		}
		return string(rune(l.Cells[i]))
	}
	l := open(t, "size: 20x4")
	assert.Equal(t, display.Cell(0xff), l.Cells[0])
	assert.Zero(t, l.Cells[20])
	assert.Equal(t, display.Cell(0xff), l.Cells[40], "the first line makes rows 1 and 3")
	l.begin()
	l.text(strings.Repeat("a", 20) + "3" + strings.Repeat(" ", 19) + strings.Repeat("b", 20) + "4")
	assert.Equal(t, "ab34", cell(l, 0)+cell(l, 20)+cell(l, 40)+cell(l, 60))
	l = open(t, "size: 16x1")
	l.begin()
	l.text("12345678x")
	assert.Equal(t, " ", cell(l, 8), "the right half of a 16×1 is the second line")
	l.send(false, 0xc0)
	l.text("9")
	assert.Equal(t, "9", cell(l, 8))
	l = open(t, "size: 8x2")
	l.begin()
	l.send(false, 0x0e, 0xc7)
	assert.Equal(t, 15, l.At.Cell)
	l.send(false, 0xc8)
	assert.Nil(t, l.At, "beyond the glass")
}

func TestContrastAndBacklight(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.text("W")
	for _, c := range []struct {
		vo   circuit.Drive
		want display.Cell
	}{{circuit.Ground, 0xff}, {circuit.Voltage(600_000, 5_000_000), 'W'}, {circuit.Voltage(2_500_000, 5_000_000), 0}} {
		w := parttest.New(t, "lcd", "", 1)
		k := &lcd{w, 50 * us}
		k.Wire("vo", "a", "k")
		k.Set("rs", circuit.DrivenLow, "rw", circuit.Ground, "e", circuit.DrivenLow, "d4", circuit.DrivenLow, "d5",
			circuit.DrivenLow, "d6", circuit.DrivenLow, "d7", circuit.DrivenLow, "vo", c.vo)
		k.begin()
		k.text("W")
		assert.Equal(t, c.want, k.Cells[0])
		k.Set("a", circuit.DrivenHigh, "k", circuit.Ground)
		assert.Equal(t, int64(16_000_000), k.Back)
		k.Set("a", circuit.DrivenLow)
		assert.Zero(t, k.Back)
	}
}

// On eight wires each falling edge of E is a byte.
func TestEightBits(t *testing.T) {
	l := open(t, "")
	pins := []string{"d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7"}
	send := func(data bool, v ...uint8) {
		l.Set("rs", circuit.Output(data))
		for _, b := range v {
			for i, pin := range pins {
				l.Set(pin, circuit.Output(b>>i&1 == 1))
			}
			l.Pulse("e")
			l.Pass(50 * us)
		}
	}
	l.Pass(40 * ms)
	send(false, 0x38, 0x0c, 0x01)
	l.Pass(2 * ms)
	send(false, 0x06, 0x40)
	send(true, 0x1f, 0x11)
	send(false, 0x80)
	send(true, []byte("Lock\x00")...)
	assert.Equal(t, "Lock#", l.row(0))
	assert.Equal(t, uint8(0x11), l.Dots(l.Cells[4])[1])
	send(false, 0x30)
	assert.Equal(t, "", l.row(1), "set to one line, the second is dark")
}

// Entry mode with shift: the text moves past a cursor that stays (datasheet, "Entry Mode Set").
func TestEntryModeShift(t *testing.T) {
	l := open(t, "")
	l.begin()
	l.send(false, 0x07, 0x8f)
	l.text("ABC")
	assert.Equal(t, strings.Repeat(" ", 12)+"ABC", l.row(0))
	l.send(false, 0x0e)
	assert.Equal(t, 15, l.At.Cell)
	l.send(false, 0x14)
	assert.Nil(t, l.At, "moved out of state")
	l.send(false, 0x10, 0x05)
	l.text("D")
	assert.Contains(t, l.row(0), "ABCD"[:3], "decrementing, it shifts the other way")
	assert.Contains(t, strings.Join(l.Logged, ";"),
		"entry mode: increment, shift;set DDRAM address 0x0F;write 41;write 42;write 43;display on, cursor;shift cursor right;shift cursor left;entry mode: decrement, shift")
}

// A program that sends the low half of each byte first is understood by a display that takes it so, and by no other.
func TestHalves(t *testing.T) {
	for settings, shows := range map[string]bool{"": false, "halves: low first": true} {
		l := open(t, settings)
		turned := func(data bool, v ...uint8) {
			for _, b := range v {
				l.send(data, b<<4|b>>4)
			}
		}
		l.Pass(40 * ms)
		for range 3 {
			l.nibble(0x30)
			l.Pass(5 * ms)
		}
		l.nibble(0x20)
		l.Pass(100 * us)
		turned(false, 0x28, 0x0c, 0x01)
		l.Pass(2 * ms)
		turned(false, 0x06)
		turned(true, []byte("Ferns")...)
		assert.Equal(t, shows, strings.HasPrefix(l.row(0), "Ferns"), settings)
	}
}

// A row's text that is sent to an address off the glass, on a display that takes that for where the row begins: at any
// column of it, and again; other addresses are as they are.
func TestRowElsewhere(t *testing.T) {
	for settings, rows := range map[string][2]string{
		"": {"Wherry", ""}, `row-begins: "2"`: {"Wherry", "Level  9"}, `row-begins: "1"`: {"Level  9", ""},
		`row-begins: "3"`: {"Wherry", ""}, // this glass has none
	} {
		l := open(t, settings)
		l.begin()
		l.text("Wherry")
		l.send(false, 0x80|0x14)
		l.text("Level 10")
		l.send(false, 0x80|0x14+6)
		l.text(" 9")
		assert.Equal(t, rows, [2]string{l.row(0), l.row(1)}, settings)
	}
}
