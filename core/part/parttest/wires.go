package parttest

import (
	"hemble/core/circuit"
	"hemble/core/clock"
)

// Wires is a master on the two-wire bus of a part whose terminals are sda and scl (NXP UM10204).
type Wires struct{ World *World }

// NewWires leaves both lines to their pull-ups.
func NewWires(w *World) Wires {
	w.Set("sda", circuit.Released, "scl", circuit.Released)
	return Wires{w}
}

func (w Wires) line(pin string, high bool) {
	d := circuit.DrivenLow
	if high {
		d = circuit.Released
	}
	w.World.Set(pin, d)
	w.World.Pass(2 * clock.Microsecond)
}

// clock is a pulse of SCL; it returns what SDA was.
func (w Wires) clock() bool {
	w.line("scl", true)
	high := w.World.Net(w.World.Terminal("sda")).Level != circuit.Low
	w.line("scl", false)
	return high
}

func (w Wires) start() {
	w.line("sda", false)
	w.line("scl", false)
}

func (w Wires) stop() {
	w.line("sda", false)
	w.line("scl", true)
	w.line("sda", true)
}

// put sends a byte and reports whether it was acknowledged.
func (w Wires) put(v uint8) bool {
	for i := 7; i >= 0; i-- {
		w.line("sda", v>>i&1 == 1)
		w.clock()
	}
	w.line("sda", true)
	return !w.clock()
}

// Write is START, address, bytes, STOP; it returns how many bytes, the address among them, were acknowledged.
func (w Wires) Write(address uint8, bytes ...uint8) (acks int) {
	w.start()
	for _, v := range append([]uint8{address << 1}, bytes...) {
		if w.put(v) {
			acks++
		}
	}
	w.stop()
	return acks
}

// Read is START, address, n bytes of which the last is not acknowledged, STOP.
func (w Wires) Read(address uint8, n int) (bytes []uint8) {
	w.start()
	w.put(address<<1 | 1)
	for len(bytes) < n {
		v := uint8(0)
		for i := 0; i < 8; i++ {
			v <<= 1
			if w.clock() {
				v |= 1
			}
		}
		bytes = append(bytes, v)
		w.line("sda", len(bytes) == n)
		w.clock()
		w.line("sda", true)
	}
	w.stop()
	return bytes
}
