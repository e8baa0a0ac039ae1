package hd44780_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/circuit"
	"hemble/core/part/parttest"
)

// wires is a master on the two-wire bus.
type wires struct{ *lcd }

func openWires(t *testing.T, settings string) wires {
	w := wires{&lcd{parttest.New(t, "lcd-two-wire", settings, 1), 50 * us}}
	w.Set("sda", circuit.Released, "scl", circuit.Released)
	return w
}

func (w wires) line(pin string, high bool) {
	d := circuit.DrivenLow
	if high {
		d = circuit.Released
	}
	w.Set(pin, d)
	w.Pass(2 * us)
}

// write is START, address, bytes, STOP; it tells how many bytes were acknowledged.
func (w wires) write(address uint8, bytes ...uint8) (acks int) {
	w.line("sda", false)
	w.line("scl", false)
	for _, v := range append([]uint8{address << 1}, bytes...) {
		for i := 7; i >= 0; i-- {
			w.line("sda", v>>i&1 == 1)
			w.line("scl", true)
			w.line("scl", false)
		}
		w.line("sda", true)
		w.line("scl", true)
		if w.Net(0).Level == circuit.Low {
			acks++
		}
		w.line("scl", false)
	}
	w.line("sda", false)
	w.line("scl", true)
	w.line("sda", true)
	return acks
}

// read is START, address, a byte that is not acknowledged, STOP.
func (w wires) read(address uint8) (v uint8) {
	w.line("sda", false)
	w.line("scl", false)
	for i := 7; i >= 0; i-- {
		w.line("sda", (address<<1|1)>>i&1 == 1)
		w.line("scl", true)
		w.line("scl", false)
	}
	w.line("sda", true)
	w.line("scl", true)
	w.line("scl", false)
	for i := 0; i < 8; i++ {
		w.line("scl", true)
		v <<= 1
		if w.Net(0).Level != circuit.Low {
			v |= 1
		}
		w.line("scl", false)
	}
	w.line("sda", true)
	w.line("scl", true)
	w.line("scl", false)
	w.line("sda", false)
	w.line("scl", true)
	w.line("sda", true)
	return v
}

func (w wires) bytes(flags uint8, data bool, v ...uint8) {
	rs := uint8(0)
	if data {
		rs = 1
	}
	for _, b := range v {
		for _, n := range []uint8{b & 0xf0, b << 4} {
			w.write(0x27, n|flags|rs|4, n|flags|rs)
		}
	}
}

func (w wires) start(flags uint8) {
	w.Pass(40 * ms)
	for _, n := range []uint8{0x30, 0x30, 0x30, 0x20} {
		w.write(0x27, n|flags|4, n|flags)
		w.Pass(5 * ms)
	}
	w.bytes(flags, false, 0x28, 0x0c, 0x01)
	w.Pass(2 * ms)
	w.bytes(flags, false, 0x06)
}

func TestTwoWires(t *testing.T) {
	w := openWires(t, "")
	assert.Positive(t, w.Back, "all pins of the expander are high at power-on")
	assert.Equal(t, 3, w.write(0x27, 0x08, 0x08))
	assert.Zero(t, w.write(0x3f, 0x08), "another address is not answered")
	w.start(8)
	w.bytes(8, true, []byte("Wherry")...)
	assert.Equal(t, "Wherry", w.row(0))
	assert.Empty(t, w.Notes)
	w.write(0x27, 0x00)
	assert.Zero(t, w.Back, "backlight off")
	w.bytes(0, false, 0x80)
	w.write(0x27, 0xf3, 0xf7) // read data: RS, RW, then E; pins high
	assert.Equal(t, uint8('W')&0xf0, w.read(0x27)&0xf0, "the high nibble comes back through the expander")
}

func TestAddressesAndOrder(t *testing.T) {
	w := openWires(t, `address: 0x3f, order: "e rw rs d4 d5 d6 d7 backlight"`)
	assert.Equal(t, 2, w.write(0x3f, 0x00))
	assert.Zero(t, w.Back)
	w.write(0x3f, 0x80)
	assert.Positive(t, w.Back)
}
