package pic14

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// portLayout is where a port's registers are (DS33023A, 9).
type portLayout struct {
	letter     byte
	port, tris uint16
	exists     uint8
	inputs     uint8 // pins that can only be read
	drain      uint8 // outputs that only pull low
	pulled     bool  // it has pull-ups
}

// onChange are the pins whose change requests an interrupt.
type onChange struct {
	port int
	mask uint8
	iocb uint16 // the register that chooses among them; 0 for none
}

const bitRBPU = 1 << 7 // of OPTION_REG

// port is one I/O port.
type port struct {
	latch, tris uint8
	analog      uint8 // pins that are read as 0
	taken       uint8 // pins that are no ports: of the oscillator, reset, programming
	override    uint8 // pins whose output a peripheral decides ...
	forced      uint8 // ... the level it gives them
	direction   uint8 // pins that it makes outputs, whatever TRIS says
	inputs      uint8 // pins that it makes inputs
	disturbed   uint8 // latches that an operation on other pins changed
	watched     uint8 // pins whose edges the listener wants ...
	followed    uint8 // ... and those of them whose edges nobody answers

	out, pulled, level uint8 // what the pins do: driven, pulled up, and the driven level
	high, float        uint8 // what the nets are at
	floated            uint8 // pins whose floating was told
	told               uint8 // pins that were read as digital ones while they are analog
	seen               uint8 // what a read saw last, for interrupts on change
}

func (v *Variant) definePorts() {
	for i, l := range v.ports {
		name := string(rune(l.letter))
		v.define(l.port, "PORT"+name, 0, func(m *Machine) uint8 { return m.readPort(i) },
			func(m *Machine, x uint8) { m.writePort(i, x) })
		v.define(l.tris, "TRIS"+name, l.exists, nil, func(m *Machine, x uint8) {
			p := &m.ports[i]
			keep := m.v.ports[i].exists
			if opened := p.tris &^ x & p.disturbed &^ l.inputs & keep; opened != 0 {
				m.tellDisturbed(i, opened)
			}
			p.tris = x&keep | l.inputs
			m.ram[l.tris] = p.tris
			if i == 4 && x&0x10 != 0 && v.words > 0 && l.letter == 'E' {
				m.note("unmodelled PSP", "the parallel slave port (TRISE.PSPMODE) is not modelled")
			}
			m.updatePort(i, m.cycle)
		})
	}
	v.define(regOPTION, "OPTION_REG", 0xff, nil, func(m *Machine, x uint8) {
		m.timer0.sync(m)
		m.ram[regOPTION] = x
		m.timer0.configure(m)
		m.dog.configure(m)
		for i := range m.ports {
			m.updatePort(i, m.cycle)
		}
	})
	if v.pullups != 0 {
		v.define(v.pullups, "WPUB", 0xff, nil, func(m *Machine, x uint8) {
			m.ram[v.pullups] = x
			for i := range m.ports {
				m.updatePort(i, m.cycle)
			}
		})
	}
	if a := v.onChange.iocb; a != 0 {
		v.define(a, "IOCB", 0, nil, func(m *Machine, x uint8) {
			m.ram[a] = x
			m.mismatch(m.cycle + 1)
		})
	}
}

// releasePort is a reset: all pins become inputs; latches keep what they had, but for a loss of power, after which that
// is unknown.
func (m *Machine) releasePort(i int) {
	p, l := &m.ports[i], &m.v.ports[i]
	p.tris, p.override, p.direction, p.inputs, p.disturbed = l.exists, 0, 0, 0, 0
	if m.cycle == 0 {
		p.latch = uint8(machine.Mix(m.config.Seed ^ uint64(i+1)<<40))
		p.out, p.pulled, p.level, p.high, p.seen = 0, 0, 0, 0, 0
		p.float = l.exists
		return
	}
	m.updatePort(i, m.cycle)
}

// drive is what a pin does to its net.
func (p *port) drive(bit machine.Pin) circuit.Drive {
	mask := uint8(1) << bit
	switch {
	case p.out&mask != 0:
		return circuit.Output(p.level&mask != 0)
	case p.pulled&mask != 0:
		return circuit.PulledUp
	}
	return circuit.Released
}

// updatePort computes what the pins do at the given cycle, by the instruction at hand, and tells the listener what is
// new.
func (m *Machine) updatePort(i int, cycle int64) {
	m.updatePortAt(i, cycle, m.now.At(cycle), nil)
}

// updatePortAt does so where a peripheral acts, at a moment within the cycle, as it was set at a place.
func (m *Machine) updatePortAt(i int, cycle int64, t clock.Time, by *machine.Place) {
	p, l := &m.ports[i], &m.v.ports[i]
	out := (^p.tris&^l.inputs | p.direction) &^ p.inputs & l.exists &^ p.taken
	level := p.latch&^p.override | p.forced&p.override
	out &^= l.drain & level
	level &= out
	pulled := uint8(0)
	if l.pulled && m.ram[regOPTION]&bitRBPU == 0 {
		pulled = p.tris & l.exists &^ out &^ p.taken
		if m.v.pullups != 0 {
			pulled &= m.ram[m.v.pullups]
		}
	}
	changed := (out ^ p.out) | (level ^ p.level) | (pulled ^ p.pulled)
	if changed == 0 {
		return
	}
	p.out, p.level, p.pulled = out, level, pulled
	wasHigh := p.high
	// As far as the pin alone decides; the bench corrects what the rest of the net decides.
	float := p.float&^changed | ^(out|pulled)&changed
	p.high, p.float = (p.high&^changed|(level|pulled)&changed)&^float, float
	switch told := changed & p.watched; {
	case told == 0 || m.listener == nil:
	case m.inWave:
		m.keep(i, told, t, by)
	default:
		m.tell(i, told, cycle, t, by)
	}
	m.pinsChanged(i, wasHigh, cycle)
}

// tell reports edges to the listener, which may answer by Input and shorten the run.
func (m *Machine) tell(i int, pins uint8, cycle int64, t clock.Time, by *machine.Place) {
	n := 0
	for rest := pins; rest != 0; rest &= rest - 1 {
		b := machine.Pin(bits.TrailingZeros8(rest))
		m.changes[n] = machine.Change{Pin: machine.Pin(i)<<3 | b, Drive: m.ports[i].drive(b)}
		n++
	}
	m.counters.Edges += int64(n)
	m.telling, m.toldAt = true, cycle
	if by == nil {
		here := m.place()
		by = &here
	}
	until := m.listener.Drive(t, m.changes[:n], *by)
	m.telling = false
	if until == clock.Never {
		return
	}
	if c := m.now.CycleAt(until); c < m.until {
		m.until = c
		m.deadline = min(m.deadline, c)
	}
}

// Input is what a pin's net is at, from now on.
func (m *Machine) Input(pin machine.Pin, level circuit.Level) {
	if pin == m.v.reset {
		m.resetLow = level == circuit.Low
	}
	if int(pin>>3) >= len(m.ports) {
		return
	}
	p := &m.ports[pin>>3]
	mask := uint8(1) << (pin & 7)
	wasHigh := p.high
	p.high, p.float = p.high&^mask, p.float&^mask
	switch level {
	case circuit.High:
		p.high |= mask
	case circuit.Float:
		p.float |= mask
	}
	if m.telling { // the answer to an edge: updatePort looks at the outcome once
		return
	}
	if p.high != wasHigh {
		m.pinsChanged(int(pin>>3), wasHigh, m.cycle)
	}
	m.comparator.look(m, m.cycle)
}

// pinsChanged tells peripherals of edges.
func (m *Machine) pinsChanged(i int, wasHigh uint8, cycle int64) {
	p := &m.ports[i]
	changed := p.high ^ wasHigh
	if changed == 0 {
		return
	}
	edge := func(at pinAt) (came, up bool) {
		return at.port == i && at.mask&changed != 0, p.high&at.mask != 0
	}
	if came, up := edge(m.v.external); came && up == (m.ram[regOPTION]&bitINTEDG != 0) &&
		p.analog&m.v.external.mask == 0 {
		m.ram[regINTCON] |= bitINTF
		m.requests(cycle)
	}
	if came, up := edge(m.v.clockPin0); came {
		m.timer0.pinEdge(m, up, cycle)
	}
	if came, up := edge(m.v.clockPin1); came {
		m.timer1.pinEdge(m, up, cycle)
	}
	if came, _ := edge(m.v.gate); came {
		m.timer1.gated(m, cycle)
	}
	for k := range m.ccps {
		if came, up := edge(m.ccpPin(k)); came {
			m.ccps[k].pinEdge(m, up, cycle)
		}
	}
	if came, up := edge(m.v.usart.receive); came {
		m.usart.lineEdge(m, up, cycle)
	}
	m.ssp.pinsChanged(m, i, changed, cycle)
	if i == m.v.onChange.port {
		m.mismatch(cycle)
	}
}

// mismatch compares the pins of port B with what a read saw last (9.3).
func (m *Machine) mismatch(cycle int64) {
	c := &m.v.onChange
	p := &m.ports[c.port]
	mask := c.mask & p.tris &^ p.analog
	if c.iocb != 0 {
		mask &= m.ram[c.iocb]
	}
	if (p.high^p.seen)&mask != 0 && m.ram[regINTCON]&bitRBIF == 0 {
		m.ram[regINTCON] |= bitRBIF
		m.requests(cycle)
	}
}

// noiseCycles is how long a floating input keeps the level it happens to have.
const noiseCycles = 1024

// readPort is what the pins are at; analog ones are read as 0.
func (m *Machine) readPort(i int) uint8 {
	m.tellWave(m.cycle)
	p, l := &m.ports[i], &m.v.ports[i]
	high := p.high
	dead := p.analog | p.taken
	if float := p.float &^ dead & l.exists; float != 0 {
		high |= float & m.noise(i, m.cycle)
		wired := float & p.watched &^ p.floated & m.looked()
		if wired != 0 && m.config.Watched != nil {
			p.floated |= wired & -wired
			name := m.v.name(i, bits.TrailingZeros8(wired))
			m.note("floating-"+name,
				"%s was read while nothing drove it; what it reads is chance (is a pull-up missing?)", name)
		}
	}
	if told := p.analog & p.watched &^ p.told & m.looked(); told != 0 && m.config.Watched != nil {
		p.told |= told & -told
		name := m.v.name(i, bits.TrailingZeros8(told))
		m.note("analog-"+name, "%s was read as a digital input while it is an analog one, as it is after a reset: it reads 0 "+
			"whatever is at it (%s)", name, m.v.analogBy())
	}
	high &= l.exists &^ dead
	if i == m.v.onChange.port { // reading ends the mismatch
		p.seen = high
	}
	return high
}

// noise is what floating pins of a port read: random, but the same in every run with this seed.
func (m *Machine) noise(i int, cycle int64) uint8 {
	v := uint8(machine.Mix(m.config.Seed ^ uint64(i+1)<<56 ^ uint64(cycle/noiseCycles)))
	if u := &m.v.usart; u.receive.mask != 0 && u.receive.port == i && m.usart.receiving(m) {
		v |= u.receive.mask
	}
	return v
}

// looked gives the bits of a port that the instruction at hand is about.
func (m *Machine) looked() uint8 {
	switch in := m.plain[m.pc]; in.op {
	case opBTFSC, opBTFSS:
		return in.mask
	case opBCF, opBSF: // it reads the others only to write them back
		return 0
	case opANDWF:
		return m.w
	case opMOVF: // and what the next one keeps of it
		if next := m.plain[(m.pc+1)&m.mask]; next.op == opANDLW && !in.toF {
			return uint8(next.k)
		}
	}
	return 0xff
}

// meant are the bits that the instruction at hand is meant to change.
func (m *Machine) meant() uint8 {
	switch in := m.plain[m.pc]; in.op {
	case opBCF, opBSF:
		return in.mask
	case opIORWF, opXORWF:
		return m.w
	case opANDWF:
		return ^m.w
	}
	return 0xff
}

// writePort writes the latches. Operations on single bits read the pins, change their bit, and write all of them back:
// latches of pins that read otherwise change, too (9.1.1). That is told where it shows.
func (m *Machine) writePort(i int, x uint8) {
	p, l := &m.ports[i], &m.v.ports[i]
	meant := m.meant()
	upset := (p.latch ^ x) &^ meant & l.exists &^ l.inputs &^ p.taken
	p.disturbed = (p.disturbed | upset) &^ meant
	if meant == 0xff {
		p.disturbed = 0
	}
	p.latch = x & l.exists
	if seen := upset & p.out &^ p.override; seen != 0 {
		m.tellDisturbed(i, seen)
	}
	m.updatePort(i, m.cycle)
	if i == m.v.onChange.port {
		p.seen = p.high
	}
}

// tellDisturbed tells that a pin's latch was changed by an operation on another one.
func (m *Machine) tellDisturbed(i int, pins uint8) {
	p := &m.ports[i]
	p.disturbed &^= pins
	n := bits.TrailingZeros8(pins)
	why := "it was an input then, and the pin read otherwise than its latch"
	if p.analog&(1<<n) != 0 {
		why = "the pin is analog, and reads as 0"
	} else if p.out&(1<<n) != 0 {
		why = "the pin was held at another level than its output gives"
	}
	m.note("read-modify-write-"+m.v.name(i, n), "the output latch of %s was changed by an instruction that meant another "+
		"pin: instructions on single bits read the whole port and write it back; %s", m.v.name(i, n), why)
}
