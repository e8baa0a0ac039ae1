package hd44780_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/part/parttest"
)

// wires is an LCD behind a master on the two-wire bus.
type wires struct {
	*lcd
	parttest.Wires
}

func openWires(t *testing.T, settings string) wires {
	w := parttest.New(t, "lcd-two-wire", settings, 1)
	return wires{&lcd{w, 50 * us}, parttest.NewWires(w)}
}

func (w wires) bytes(flags uint8, data bool, v ...uint8) {
	rs := uint8(0)
	if data {
		rs = 1
	}
	for _, b := range v {
		for _, n := range []uint8{b & 0xf0, b << 4} {
			w.Write(0x27, n|flags|rs|4, n|flags|rs)
		}
	}
}

func (w wires) start(flags uint8) {
	w.Pass(40 * ms)
	for _, n := range []uint8{0x30, 0x30, 0x30, 0x20} {
		w.Write(0x27, n|flags|4, n|flags)
		w.Pass(5 * ms)
	}
	w.bytes(flags, false, 0x28, 0x0c, 0x01)
	w.Pass(2 * ms)
	w.bytes(flags, false, 0x06)
}

func TestTwoWires(t *testing.T) {
	w := openWires(t, "")
	assert.Positive(t, w.Back, "all pins of the expander are high at power-on")
	assert.Equal(t, 3, w.Write(0x27, 0x08, 0x08))
	assert.Zero(t, w.Write(0x3f, 0x08), "another address is not answered")
	w.start(8)
	w.bytes(8, true, []byte("Wherry")...)
	assert.Equal(t, "Wherry", w.row(0))
	assert.Empty(t, w.Notes)
	w.Write(0x27, 0x00)
	assert.Zero(t, w.Back, "backlight off")
	w.bytes(0, false, 0x80)
	w.Write(0x27, 0xf3, 0xf7) // read data: RS, RW, then E; pins high
	got := w.Read(0x27, 2)
	assert.Equal(t, uint8('W')&0xf0, got[0]&0xf0, "the high nibble comes back through the expander")
	assert.Equal(t, got[0], got[1], "and stands there while it is read again")
}

func TestAddressesAndOrder(t *testing.T) {
	w := openWires(t, `address: 0x3f, order: "e rw rs d4 d5 d6 d7 backlight"`)
	assert.Equal(t, 2, w.Write(0x3f, 0x00))
	assert.Zero(t, w.Back)
	w.Write(0x3f, 0x80)
	assert.Positive(t, w.Back)
}
