package avr

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/machine"
)

// quickPort carries out an OUT, SBI or CBI of PORTx or DDRx, as programs do that drive displays by hand: a shorter way
// to what execute does, and a yet shorter one where it changes the levels of outputs and nothing else. It reports
// whether it did. Taking it away changes no result.
func (m *Machine) quickPort(in *instruction) bool {
	i, direction, ok := m.v.portAt(uint16(in.d))
	if !ok {
		return false
	}
	p := &m.ports[i]
	register := &p.latch
	if direction {
		register = &p.ddr
	}
	v, cycle := in.puts(m.data, *register), m.cycle+2
	if in.op == opOUT {
		cycle--
	}
	if m.next <= cycle {
		return false
	}
	if direction || p.compare|p.override|p.direction|p.inputs|(v^p.latch)&^p.out != 0 {
		m.cycle = cycle
		*register, m.io[m.v.registers[in.d].at] = v, v
		m.updatePort(int(i), cycle)
		m.pc++
		return true
	}
	m.cycle = cycle
	p.latch, m.io[m.v.registers[in.d].at] = v, v
	if changed := (v ^ p.level) & p.out; changed != 0 {
		wasHigh, wasFloat := p.high, p.float
		p.level ^= changed
		p.set(p.high&^changed|v&changed, p.float&^changed, cycle)
		if told := changed & p.watched; told != 0 && told&^p.followed == 0 {
			m.keep(int(i), told, cycle)
		} else if told != 0 && m.listener != nil {
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

// portAt is the port whose PORTx is at an address, or whose DDRx, which comes before it (14.4).
func (v *Variant) portAt(address uint16) (port int8, direction, ok bool) {
	if int(address) >= len(v.portOf)-1 {
		return 0, false, false
	}
	if port = v.portOf[address]; port >= 0 {
		return port, false, true
	}
	port = v.portOf[address+1]
	return port, true, port >= 0
}

// puts is what an instruction makes of a port's register.
func (in *instruction) puts(data *[0x10000]byte, register uint8) uint8 {
	switch in.op {
	case opOUT:
		return data[in.r]
	case opSBI:
		return register | in.r
	case opCBI:
		return register &^ in.r
	}
	return data[in.d]
}

// keep notes edges of followed pins for handOver.
func (m *Machine) keep(i int, pins uint8, cycle int64) {
	if m.config.Repeat == nil {
		m.unlike++
	}
	m.tellWaves(cycle)
	if len(m.kept) == cap(m.kept) {
		m.handOver()
	}
	m.kept = m.kept[:len(m.kept)+1]
	e := &m.kept[len(m.kept)-1]
	e.At, e.From, e.Pins, e.Levels = m.now.at(cycle), machine.Pin(i)<<3, uint32(pins), uint32(m.ports[i].level)
	e.Place.Core, e.Place.PC = 0, uint32(m.pc)*2
	switch {
	case m.by != nil:
		e.Place = *m.by
	case m.sp <= m.ramEnd:
		e.Place.Stack = [24]uint8(m.data[m.sp+1:])
	default:
		clear(e.Place.Stack[:])
	}
}

// handOver gives the kept edges to who follows them.
func (m *Machine) handOver() {
	if len(m.kept) == 0 {
		return
	}
	m.counters.Edges += machine.CountPins(m.kept)
	m.waved()
	m.config.Follow(m.kept)
	m.kept = m.kept[:0]
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
