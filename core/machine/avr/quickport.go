package avr

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/machine"
)

// portOf gives the port of a PORTx register by its data address, or -1.
var portOf = func() (of [256]int8) {
	for i := range of {
		of[i] = -1
	}
	for i := range 3 {
		of[regPINB+3*i+2] = int8(i)
	}
	return of
}()

// quickPort carries out an OUT, SBI or CBI of PORTx that changes the levels of outputs and nothing else, as programs do
// that drive displays by hand: a shorter way to what execute does. It tells whether it did. Taking it away changes
// no result.
func (m *Machine) quickPort(in *instruction) bool {
	i := portOf[in.d]
	if i < 0 {
		return false
	}
	p := &m.ports[i]
	v, cycle := p.latch, m.cycle+2
	switch in.op {
	case opOUT:
		v, cycle = m.data[in.r], m.cycle+1
	case opSBI:
		v |= in.r
	default:
		v &^= in.r
	}
	if m.next <= cycle || p.compare|p.override|p.direction|p.inputs|(v^p.latch)&^p.out != 0 {
		return false
	}
	m.cycle = cycle
	p.latch, m.data[in.d] = v, v
	if changed := (v ^ p.level) & p.out; changed != 0 {
		wasHigh, wasFloat := p.high, p.float
		p.level ^= changed
		p.set(p.high&^changed|v&changed, p.float&^changed, cycle)
		if told := changed & p.watched; told != 0 && m.listener != nil {
			if told&(told-1) != 0 {
				m.tell(int(i), told, cycle)
			} else {
				m.tellOne(int(i), told, v&told != 0, cycle)
			}
		}
		m.pinsChanged(int(i), wasHigh, wasFloat, cycle)
	}
	m.pc++
	return true
}

// tellOne is tell for the one output that changed.
func (m *Machine) tellOne(i int, pin uint8, high bool, cycle int64) {
	d := circuit.DrivenLow
	if high {
		d = circuit.DrivenHigh
	}
	m.changes[0] = machine.Change{Pin: machine.Pin(i<<3 | bits.TrailingZeros8(pin)), Drive: d}
	m.announce(1, cycle)
}
