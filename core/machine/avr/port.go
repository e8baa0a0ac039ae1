package avr

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

const (
	regMCUCR = 0x55
	bitPUD   = 1 << 4
)

// portLayout is where a port's registers are: PINx, DDRx and PORTx in a row (datasheet 14.4). Pins that do not exist,
// and a reset pin, read 0.
type portLayout struct {
	letter byte
	base   uint16
	exists uint8
}

// inputSwitch is a register that switches digital inputs off (datasheet 24.9.5, 23.3.2): its bits are those of a port's
// pins, shifted to the left.
type inputSwitch struct {
	address uint16
	name    string
	mask    uint8 // of the register's bits
	port    int
	shift   int
}

// port is one 8-bit I/O port.
type port struct {
	ddr, latch uint8
	compare    uint8 // pins whose output a timer decides
	compared   uint8 // the level it gives them
	override   uint8 // pins whose output a serial peripheral decides, before any timer (14.3.1: MOSI is OC2A, too)
	forced     uint8 // the level it gives them
	direction  uint8 // pins that the peripheral makes outputs, whatever DDRx says
	inputs     uint8 // pins that the peripheral makes inputs
	watched    uint8 // pins whose edges the listener wants
	followed   uint8 // those of them whose edges it takes late

	out, pulled, level uint8 // what the pins do: driven, pulled up, and the driven level
	high, float        uint8 // what the nets are at
	before             uint8 // what PINx read before the last change ...
	floatBefore        uint8
	floated            uint8 // pins whose floating was told
	changed            int64 // ... which came at this cycle
}

func (v *Variant) definePorts() {
	for i, l := range v.ports {
		name, base := string(rune(l.letter)), l.base
		v.pinsOf[base] = int8(i)
		v.portOf[base+2] = int8(i)
		v.define(base, "PIN"+name, func(m *Machine, _ uint16) uint8 { return m.readPort(i) },
			func(m *Machine, _ uint16, v uint8) { // a one toggles PORTx (14.2.2)
				m.ports[i].latch ^= v
				m.io[base+2] = m.ports[i].latch
				m.updatePort(i, m.cycle)
			})
		v.define(base+1, "DDR"+name, nil, func(m *Machine, address uint16, v uint8) {
			m.ports[i].ddr, m.io[address] = v, v
			m.updatePort(i, m.cycle)
		})
		v.define(base+2, "PORT"+name, nil, func(m *Machine, address uint16, v uint8) {
			m.ports[i].latch, m.io[address] = v, v
			m.updatePort(i, m.cycle)
		})
	}
	v.define(regMCUCR, "MCUCR", nil, func(m *Machine, address uint16, v uint8) {
		m.io[address] = v
		if v&3 != 0 {
			m.note("unmodelled MCUCR", "MCUCR.IVSEL/IVCE (moving the interrupt vectors) is not modelled")
		}
		for i := range m.ports {
			m.updatePort(i, m.cycle)
		}
	})
	for _, s := range v.inputs {
		v.define(s.address, s.name, nil, func(m *Machine, a uint16, v uint8) {
			m.io[a] = v & s.mask
			m.ext.analog[s.port] = m.ext.analog[s.port]&^(s.mask<<s.shift) | v&s.mask<<s.shift
		})
	}
}

// releasePort is a reset: all pins become inputs without pull-up.
func (m *Machine) releasePort(i int) {
	p := &m.ports[i]
	p.ddr, p.latch, p.compare, p.override, p.direction, p.inputs = 0, 0, 0, 0, 0, 0
	if m.cycle == 0 {
		p.out, p.pulled, p.level, p.high, p.before, p.floated = 0, 0, 0, 0, 0, 0
		p.float, p.floatBefore, p.changed = m.v.ports[i].exists, m.v.ports[i].exists, -1
		return
	}
	m.updatePort(i, m.cycle)
}

// drive is what a pin does to its net.
func (p *port) drive(bit machine.Pin) circuit.Drive {
	mask := uint8(1) << bit
	switch {
	case p.out&mask != 0 && p.level&mask != 0:
		return circuit.DrivenHigh
	case p.out&mask != 0:
		return circuit.DrivenLow
	case p.pulled&mask != 0:
		return circuit.PulledUp
	}
	return circuit.Released
}

// updatePort computes what the pins do at the given cycle and tells the listener what is new.
func (m *Machine) updatePort(i int, cycle int64) {
	m.tellWaves(cycle)
	p := &m.ports[i]
	out := (p.ddr | p.direction) &^ p.inputs & m.v.ports[i].exists
	level := p.latch&^p.compare | p.compared&p.compare
	level = (level&^p.override | p.forced&p.override) & out
	pulled := p.latch &^ out & m.v.ports[i].exists
	if m.io[regMCUCR]&bitPUD != 0 {
		pulled = 0
	}
	changed := (out ^ p.out) | (level ^ p.level) | (pulled ^ p.pulled)
	if changed == 0 {
		return
	}
	levels := out == p.out && pulled == p.pulled // nothing but levels of outputs
	p.out, p.level, p.pulled = out, level, pulled
	wasHigh, wasFloat := p.high, p.float
	// As far as the pin alone decides; the bench corrects what the rest of the net decides.
	high := p.high&^changed | (level|pulled)&changed
	float := p.float&^changed | ^(out|pulled)&changed
	p.set(high, float, cycle)
	if told := changed & p.watched; told != 0 && levels && told&^p.followed == 0 {
		m.keep(i, told, cycle)
	} else if told != 0 && m.listener != nil {
		m.tell(i, told, cycle)
	}
	m.pinsChanged(i, wasHigh, wasFloat, cycle)
}

// tell reports edges to the listener, which may answer by Input and shorten the run.
func (m *Machine) tell(i int, pins uint8, cycle int64) {
	n := 0
	for rest := pins; rest != 0; rest &= rest - 1 {
		bit := machine.Pin(bits.TrailingZeros8(rest))
		m.changes[n] = machine.Change{Pin: machine.Pin(i)<<3 | bit, Drive: m.ports[i].drive(bit)}
		n++
	}
	m.announce(n, cycle)
}

// announce hands the first n of m.changes to the listener.
func (m *Machine) announce(n int, cycle int64) {
	m.tellWaves(cycle)
	m.handOver()
	m.counters.Edges += int64(n)
	if m.config.Around == nil {
		m.unlike++
	}
	m.telling, m.toldAt = true, cycle
	until := m.listener.Drive(m.now.at(cycle), m.changes[:n], m.place())
	m.telling = false
	if until == clock.Never {
		return
	}
	if c := m.now.cycleAt(until); c < m.until {
		m.until = c
		m.deadline = min(m.deadline, c)
	}
}

// set changes what PINx sees, keeping for the synchroniser what it saw before (14.2.4).
func (p *port) set(high, float uint8, cycle int64) {
	if cycle > p.changed {
		p.before, p.floatBefore, p.changed = p.high, p.float, cycle
	}
	p.high, p.float = high&^float, float
}

// Input returns what a pin's net is at, from now on.
func (m *Machine) Input(pin machine.Pin, level circuit.Level) {
	if pin == m.v.reset {
		m.resetLow = level == circuit.Low
		return
	}
	p := &m.ports[pin>>3]
	mask := uint8(1) << (pin & 7)
	high, float := p.high&^mask, p.float&^mask
	switch level {
	case circuit.High:
		high |= mask
	case circuit.Float:
		float |= mask
	}
	if m.comparator.used {
		m.unlike++
	}
	if m.comparator.used && !m.telling {
		m.comparator.update(m, m.cycle)
	}
	if high == p.high && float == p.float {
		return
	}
	wasHigh, wasFloat := p.high, p.float
	if m.telling { // the answer to an edge: updatePort looks at the outcome once
		p.set(high, float, m.toldAt)
		return
	}
	p.set(high, float, m.cycle)
	m.pinsChanged(int(pin>>3), wasHigh, wasFloat, m.cycle)
}

// readPort is a read of PINx: the synchroniser shows what was there a cycle ago.
func (m *Machine) readPort(i int) uint8 {
	m.tellWaves(m.cycle)
	p := &m.ports[i]
	high, float := p.high, p.float
	if m.cycle <= p.changed {
		high, float = p.before, p.floatBefore
	}
	if float &^= m.ext.analog[i]; float != 0 {
		if m.rounds.kept && float&m.looked() != 0 {
			m.unlike++
		}
		high |= float & m.noise(i, m.cycle)
		wired := float & p.float & p.watched &^ p.floated
		if wired != 0 && m.config.Watched != nil {
			wired &= m.looked()
		}
		if wired != 0 && m.config.Watched != nil {
			p.floated |= wired & -wired
			name := m.v.name(i, bits.TrailingZeros8(wired))
			m.note("floating-"+name,
				"%s was read while nothing drove it; what it reads is chance (is a pull-up missing?)", name)
		}
	}
	return high &^ m.ext.analog[i]
}

// noiseCycles is how long a floating input keeps the level it happens to have.
const noiseCycles = 2048

// noise is what floating pins of a port read: random, but the same in every run with this seed. A
// receiver's line to which nothing is wired counts as idle.
func (m *Machine) noise(i int, cycle int64) uint8 {
	v := uint8(machine.Mix(m.config.Seed ^ uint64(i+1)<<56 ^ uint64(cycle/noiseCycles)))
	for k := range m.usarts {
		if u := &m.usarts[k]; u.receiving() && u.l.receive.port == i {
			v |= u.l.receive.mask
		}
	}
	return v
}
