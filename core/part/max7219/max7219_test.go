package max7219_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/glyph"
	"hemble/core/part/parttest"
)

type driver struct{ *parttest.World }

func open(t *testing.T, settings string) driver {
	d := driver{parttest.New(t, "max7219", settings, 1)}
	d.Set("din", circuit.DrivenLow, "clk", circuit.DrivenLow, "load", circuit.DrivenLow)
	return d
}

// send shifts sixteen bits in and loads them.
func (d driver) send(address, value uint8) {
	d.clock(uint16(address)<<8 | uint16(value))
	d.Pulse("load")
}

func (d driver) clock(word uint16) {
	for i := 15; i >= 0; i-- {
		d.Set("din", circuit.Output(word>>i&1 == 1))
		d.Pulse("clk")
	}
}

func (d driver) shown() string {
	out := glyph.Display{}
	for i := 0; i < 8; i++ {
		p := glyph.Pattern(0)
		for k := 0; k < 8; k++ {
			if d.Lights[8*i+k] > 0 {
				p |= 1 << k
			}
		}
		out = append(out, p)
	}
	return out.Symbols()
}

func TestDigits(t *testing.T) {
	d := open(t, "")
	for i := uint8(1); i <= 8; i++ {
		d.send(i, i)
	}
	assert.Equal(t, "        ", d.shown(), "shut down at power-on")
	d.send(12, 1)
	assert.Equal(t, byte(' '), d.shown()[0])
	d.send(9, 0xff)
	assert.Equal(t, "       1", d.shown(), "the scan limit is one digit at power-on")
	d.send(11, 7)
	assert.Equal(t, "87654321", d.shown(), "code B; register 1 stands at the right")
	d.send(1, 0x8a)
	d.send(2, 11)
	d.send(3, 15)
	assert.Equal(t, "87654 E-.", d.shown())
	d.send(9, 0)
	d.send(1, 0x30)
	assert.Equal(t, byte('1'), d.shown()[7], "undecoded: bits 6 to 0 are A to G")
	d.send(12, 0)
	assert.Equal(t, "        ", d.shown())
	d.send(15, 1)
	assert.Equal(t, "8.8.8.8.8.8.8.8.", d.shown(), "display test overrides shutdown")
	d.send(15, 0)
	d.send(12, 1)
	assert.Equal(t, byte('1'), d.shown()[7], "shutdown keeps all registers")
}

// Where load rises before sixteen bits have come the log says after how many; what is executed are the last sixteen.
func TestShortWord(t *testing.T) {
	d := open(t, "")
	d.send(12, 1)
	assert.Len(t, d.Logged, 1)
	for _, b := range []uint8{9, 0xff} {
		for i := 7; i >= 0; i-- {
			d.Set("din", circuit.Output(b>>i&1 == 1))
			d.Pulse("clk")
		}
		d.Pulse("load")
	}
	assert.Equal(t, []string{"register shutdown 01", "short word 08", "register digit 0 09", "short word 08",
		"register decode mode ff"},
		d.Logged)
	d.Pulse("load")
	assert.Len(t, d.Logged, 6, "without a clock nothing came")
}

// Table 7: odd 32nds of the peak current, shared by the digits of the scan.
func TestIntensity(t *testing.T) {
	d := open(t, "first: left")
	d.send(12, 1)
	d.send(1, 0x40)
	assert.Equal(t, int64(40_000_000/32), d.Lights[0])
	d.send(10, 15)
	assert.Equal(t, int64(40_000_000)*31/32, d.Lights[0])
	d.send(11, 3)
	assert.Equal(t, int64(40_000_000)*31/32/4, d.Lights[0])
	d.send(10, 0)
	d.send(11, 7)
	assert.GreaterOrEqual(t, d.Lights[0], int64(200_000), "the lowest intensity is seen")
}

func TestMatrixAndChain(t *testing.T) {
	first, second := open(t, "shows: matrix"), open(t, "shows: matrix")
	both := func(words ...uint16) {
		for _, word := range words {
			for i := 15; i >= 0; i-- {
				bit := circuit.Output(word>>i&1 == 1)
				first.Set("din", bit)
				second.Set("din", first.Driven[first.Terminal("dout")])
				first.Set("clk", circuit.DrivenHigh)
				second.Set("clk", circuit.DrivenHigh)
				first.Set("clk", circuit.DrivenLow)
				second.Set("clk", circuit.DrivenLow)
			}
		}
		first.Pulse("load")
		second.Pulse("load")
	}
	both(0x0c01, 0x0c01)
	both(0x0b07, 0x0b07)
	both(0x0381, 0x0000)
	assert.Positive(t, second.Lights[16],
		"the word sent first reaches the end of the chain; bit 7 is the leftmost column")
	assert.Positive(t, second.Lights[23])
	assert.Zero(t, second.Lights[17])
	assert.Zero(t, first.Lights[16], "no-op")
}

// A matrix has no decoder of its own: with decode mode on its rows are the segments of figures, DP and A to G from the
// left.
func TestMatrixDecodes(t *testing.T) {
	d := open(t, "shows: matrix")
	row := func() (out string) {
		for column := range 8 {
			out += map[bool]string{true: "#", false: "."}[d.Lights[column] > 0]
		}
		return out
	}
	d.send(12, 1)
	d.send(11, 7)
	d.send(1, 0x83)
	assert.Equal(t, "#.....##", row(), "as it was sent")
	d.send(9, 1)
	assert.Equal(t, "#####..#", row(), "a 3 with its point")
	d.send(9, 0xfe)
	assert.Equal(t, "#.....##", row(), "other digits are decoded")
}
