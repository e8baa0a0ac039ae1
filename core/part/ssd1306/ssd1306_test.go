package ssd1306_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part/parttest"
)

// oled drives the part by SPI.
type oled struct{ *parttest.World }

func open(t *testing.T, settings string) oled {
	o := oled{parttest.New(t, "oled", "bus: spi, mounted: turned, "+settings, 1)}
	o.Set("sck", circuit.DrivenLow, "mosi", circuit.DrivenLow, "dc", circuit.DrivenLow, "cs", circuit.DrivenLow)
	return o
}

func (o oled) send(data bool, bytes ...uint8) {
	o.Set("dc", circuit.Output(data))
	for _, v := range bytes {
		for i := 7; i >= 0; i-- {
			o.Set("mosi", circuit.Output(v>>i&1 == 1))
			o.Pulse("sck")
		}
	}
}

func (o oled) commands(v ...uint8) { o.send(false, v...) }

// begin switches on and clears.
func (o oled) begin() {
	o.commands(0x8d, 0x14, 0xaf, 0x20, 0)
	o.send(true, make([]uint8, 1024)...)
}

// at reports whether a pixel shines.
func (o oled) at(x, y int) bool { return o.Cells[y/8*128+x]>>(y%8)&1 == 1 }

func (o oled) lit() (n int) {
	for y := 0; y < 64; y++ {
		for x := 0; x < 128; x++ {
			if o.at(x, y) {
				n++
			}
		}
	}
	return n
}

func TestSwitchingOn(t *testing.T) {
	o := open(t, "size: 128x64")
	o.commands(0xaf)
	assert.Zero(t, o.lit(), "dark without its charge pump")
	assert.Contains(t, o.Notes[0], "charge-pump")
	o.commands(0x8d, 0x14)
	assert.Greater(t, o.lit(), 2000, "then what its memory holds by chance")
	o.commands(0xa5)
	assert.Equal(t, 128*64, o.lit(), "entire display on")
	o.commands(0xa4, 0x20, 0)
	o.send(true, make([]uint8, 1024)...)
	assert.Zero(t, o.lit())
	o.commands(0xa7)
	assert.Equal(t, 128*64, o.lit(), "inverse")
	o.commands(0xae)
	assert.Zero(t, o.lit(), "off")
	o.commands(0x81, 0x10)
	assert.Equal(t, 0x10, o.Level, "contrast")
	o.commands(0x04 | 0x82)
	assert.Contains(t, o.Notes[len(o.Notes)-1], "0x86 is no command")
}

// The three addressing modes (10.1.3).
func TestAddressing(t *testing.T) {
	o := open(t, "size: 128x64")
	o.begin()
	o.commands(0x21, 10, 11, 0x22, 2, 3)
	o.send(true, 1, 2, 4, 8, 0x10)
	assert.True(t, o.at(10, 16) || o.at(10, 20), "the window wraps to its beginning")
	assert.Equal(t, []bool{true, true, true, true}, []bool{o.at(10, 20), o.at(11, 17), o.at(10, 26), o.at(11, 27)},
		"horizontal: column by column, then the next page")
	o.begin()
	o.commands(0x20, 1, 0x21, 10, 11, 0x22, 2, 3)
	o.send(true, 1, 2, 4)
	assert.Equal(t, []bool{true, true, true}, []bool{o.at(10, 16), o.at(10, 25), o.at(11, 18)},
		"vertical: page by page, then the next column")
	o.commands(0x20, 0, 0x21, 0, 127, 0x22, 0, 7)
	o.begin()
	o.commands(0x20, 2, 0xb5, 0x0e, 0x17)
	o.send(true, 1, 1, 1)
	assert.Equal(t, []bool{true, true, true, false}, []bool{o.at(126, 40), o.at(127, 40), o.at(0, 40), o.at(0, 48)},
		"page: the column wraps, the page stays")
}

func TestOrientation(t *testing.T) {
	o := open(t, "size: 128x64")
	o.begin()
	o.commands(0x21, 3, 127, 0x22, 0, 7)
	o.send(true, 1)
	assert.True(t, o.at(3, 0))
	o.commands(0xc8)
	assert.True(t, o.at(3, 63), "COM scan direction turns what is there")
	o.commands(0xc0, 0x41)
	assert.True(t, o.at(3, 63), "start line 1: row 0 of the memory comes last")
	o.commands(0x40, 0xd3, 1)
	assert.True(t, o.at(3, 63), "offset")
	o.commands(0xd3, 0, 0xa1)
	assert.True(t, o.at(3, 0), "remapping leaves what is in memory")
	o.commands(0x21, 3, 127)
	o.send(true, 0x80)
	assert.True(t, o.at(124, 7), "but what is written then counts from the right")
	o.commands(0xda, 0x02)
	assert.True(t, o.at(124, 14), "the wrong COM pins mix the halves")
	o.commands(0xda, 0x12, 0xa8, 31)
	assert.True(t, o.at(3, 0))
	assert.Equal(t, 2, o.lit())

	o = open(t, "size: 128x32")
	o.commands(0xa8, 31, 0xda, 0x02)
	o.begin()
	o.commands(0x21, 0, 127, 0x22, 3, 7)
	o.send(true, 0x80)
	assert.True(t, o.at(0, 31))
	o.commands(0xda, 0x12)
	assert.False(t, o.at(0, 31), "set up as one of 64 rows it shows every other row")
}

// The usual modules are upright with segment remap A1 and COM scan C8 (figure 10-5; all common drivers' set-up); A0 and
// C0 show them turned by half a turn.
func TestMounted(t *testing.T) {
	for _, size := range []string{"128x64", "128x32"} {
		rows := 64
		if size == "128x32" {
			rows = 32
		}
		o := oled{parttest.New(t, "oled", "bus: spi, size: "+size, 1)}
		o.Set("sck", circuit.DrivenLow, "mosi", circuit.DrivenLow, "dc", circuit.DrivenLow, "cs", circuit.DrivenLow)
		if rows == 32 {
			o.commands(0xa8, 31, 0xda, 0x02)
		}
		o.commands(0xa1, 0xc8)
		o.begin()
		o.commands(0x21, 3, 127, 0x22, 0, 7)
		o.send(true, 1)
		assert.True(t, o.at(3, 0), "%s: upright", size)
		o.commands(0xa0, 0xc0)
		o.begin()
		o.commands(0x21, 3, 127, 0x22, 0, 7)
		o.send(true, 1)
		assert.True(t, o.at(124, rows-1), "%s: turned", size)
		assert.False(t, o.at(3, 0))
	}
}

func TestScrolling(t *testing.T) {
	o := open(t, "size: 128x64")
	o.begin()
	o.commands(0x21, 0, 127, 0x22, 0, 7)
	o.send(true, 1)
	o.commands(0x27, 0, 0, 7, 0, 0, 0xff, 0x2f)
	o.Pass(25 * clock.Millisecond)
	assert.True(t, o.at(127, 0), "to the left, round the edge, each 2 frames of 9.3 ms")
	assert.False(t, o.at(0, 0))
	o.commands(0x2e)
	o.Pass(clock.Second)
	assert.Equal(t, 1, o.lit())
	o.commands(0x26, 0, 0, 7, 0, 0, 0xff, 0x2f)
	o.Pass(25 * clock.Millisecond)
	assert.True(t, o.at(0, 0), "to the right")
}

// Scrolling that was never set up goes at the first of the intervals, 5 frames: it once took no time at all, and went
// on for ever.
func TestScrollingNeverSetUp(t *testing.T) {
	o := open(t, "size: 128x64")
	o.begin()
	o.commands(0x21, 0, 127, 0x22, 0, 7)
	o.send(true, 1)
	o.commands(0x2f)
	o.Pass(50 * clock.Millisecond)
	assert.True(t, o.at(1, 0))
	assert.Equal(t, 1, o.lit())
}

func TestReset(t *testing.T) {
	o := open(t, "size: 128x64")
	o.begin()
	o.send(true, 0xff)
	o.Set("res", circuit.DrivenLow)
	assert.Zero(t, o.lit())
	o.Set("res", circuit.DrivenHigh)
	o.commands(0x8d, 0x14, 0xaf)
	assert.Equal(t, 8, o.lit(), "the memory stays")
	o.Set("cs", circuit.DrivenHigh)
	o.commands(0xae)
	assert.Equal(t, 8, o.lit(), "not selected, it does not listen")
}

// On the two-wire bus a control byte returns what follows (8.1.5.2).
func TestTwoWires(t *testing.T) {
	o := oled{parttest.New(t, "oled", "size: 128x64, address: 0x3D, mounted: turned", 1)}
	bus := parttest.NewWires(o.World)
	assert.Zero(t, bus.Write(0x3c, 0x00, 0xaf), "another address")
	assert.Equal(t, []uint8{0x40}, bus.Read(0x3d, 1), "the status: off")
	assert.Equal(t, 6, bus.Write(0x3d, 0x00, 0x8d, 0x14, 0x20, 0x00))
	assert.Equal(t, 3, bus.Write(0x3d, 0x80, 0xaf), "Co: one command, then a control byte again")
	for i := 0; i < 64; i++ {
		bus.Write(0x3d, append([]uint8{0x40}, make([]uint8, 16)...)...)
	}
	assert.Zero(t, o.lit())
	bus.Write(0x3d, 0x80, 0x21, 0x80, 5, 0x80, 6, 0x40, 0x03, 0x81)
	assert.Equal(t, []bool{true, true, true, true}, []bool{o.at(5, 0), o.at(5, 1), o.at(6, 0), o.at(6, 7)})
	assert.Equal(t, []uint8{0x00}, bus.Read(0x3d, 1), "on")
	assert.Contains(t, o.Logged, "command 21 05 06")
}
