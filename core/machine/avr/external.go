package avr

import "fmt"

// External and pin-change interrupts (datasheet 13).
const (
	regPCIFR  = 0x3b
	regEIFR   = 0x3c
	regEIMSK  = 0x3d
	regPCICR  = 0x68
	regEICRA  = 0x69
	regPCMSK0 = 0x6b
)

// pinChange is a group of eight pins whose changes share an interrupt: which bits of PCMSKn stand for pins of which
// ports.
type pinChange struct {
	of []pinChangePart
}

// pinChangePart is some pins of one port, whose bits in the group are as many places further to the left.
type pinChangePart struct {
	port  int
	mask  uint8
	shift int
}

// bits gives those of the group that stand for some pins of the port.
func (p pinChangePart) bits(pins uint8) uint8 { return pins & p.mask << p.shift }

// pins gives the pins of the port that some bits of the group stand for.
func (p pinChangePart) pins(bits uint8) uint8 { return bits >> p.shift & p.mask }

// external is what senses edges at pins.
type external struct {
	sensing []uint8 // pins whose edges somebody senses, by port
	analog  []uint8 // pins whose digital input is switched off (DIDRn): they read 0
}

func (v *Variant) defineExternal() {
	refresh := func(m *Machine, address uint16, v uint8) {
		m.io[address] = v
		m.sense()
		m.externalRequests()
	}
	clearFlags := func(m *Machine, address uint16, v uint8) {
		m.io[address] &^= v
		m.externalRequests()
	}
	v.define(regPCIFR, "PCIFR", nil, clearFlags)
	v.define(regEIFR, "EIFR", nil, clearFlags)
	v.isFlags[regPCIFR], v.isFlags[regEIFR] = true, true
	v.define(regEIMSK, "EIMSK", nil, refresh)
	v.define(regPCICR, "PCICR", nil, refresh)
	v.define(regEICRA, "EICRA", nil, refresh)
	if len(v.interrupts) > 4 {
		v.define(regEICRA+1, "EICRB", nil, refresh)
	}
	for i := range v.changes {
		v.define(uint16(regPCMSK0+i), fmt.Sprintf("PCMSK%d", i), nil, refresh)
		v.acknowledged[v.vectors.pcint0+uint(i)] = func(m *Machine) {
			m.io[regPCIFR] &^= 1 << i
			m.externalRequests()
		}
		v.deepWakes |= 1 << (v.vectors.pcint0 + uint(i))
	}
	for n := range v.interrupts {
		v.acknowledged[v.vectors.int0+uint(n)] = func(m *Machine) {
			m.io[regEIFR] &^= 1 << n
			m.externalRequests()
		}
		v.deepWakes |= 1 << (v.vectors.int0 + uint(n))
	}
}

// sensing is how an external interrupt is set: 0 while its pin is low, 1 by any edge, 2 by a falling and 3 by a rising
// one.
func (m *Machine) sensing(n int) uint8 { return m.io[regEICRA+n/4] >> (2 * (n & 3)) & 3 }

// sense computes which pins anybody listens to.
func (m *Machine) sense() {
	m.tellWaves(m.cycle)
	s := m.ext.sensing
	clear(s)
	for g, group := range m.v.changes {
		if m.io[regPCICR]>>g&1 == 1 {
			for _, p := range group.of {
				s[p.port] |= p.pins(m.io[regPCMSK0+g])
			}
		}
	}
	for n, pin := range m.v.interrupts {
		if m.io[regEIMSK]>>n&1 == 1 {
			s[pin.port] |= pin.mask
		}
	}
	for i := range m.timers {
		t := &m.timers[i]
		if t.externalClock() {
			s[t.clockPin.port] |= t.clockPin.mask
		}
		if t.captures() {
			s[t.capturePin.port] |= t.capturePin.mask
		}
	}
	for i := range m.usarts {
		if u := &m.usarts[i]; u.receiving() {
			s[u.l.receive.port] |= u.l.receive.mask
		}
	}
	if l := &m.v.spi; m.spi.enabled(m) {
		s[l.port] |= l.ss
		if m.spi.slave(m) {
			s[l.port] |= l.sck
		}
	}
	if l := &m.v.twi; m.twi.enabled(m) {
		s[l.port] |= l.sda | l.scl
	}
	s[m.v.usi.port] |= m.usi.senses(m)
	m.lookForWaves()
	m.scheduleNoise()
}

// pinsChanged is told what a port's nets were at before.
func (m *Machine) pinsChanged(i int, wasHigh, wasFloat uint8, cycle int64) {
	if m.ext.sensing[i] == 0 {
		return
	}
	m.unlike++
	p, noise := &m.ports[i], uint8(0)
	if (wasFloat | p.float) != 0 {
		noise = m.noise(i, cycle)
	}
	m.edges(i, wasHigh|wasFloat&noise, p.high|p.float&noise, cycle)
	if p.float != wasFloat {
		m.scheduleNoise()
	}
}

// edges handles a change of the levels that a port's pins read as.
func (m *Machine) edges(i int, old, now uint8, cycle int64) {
	changed := (old ^ now) & m.ext.sensing[i] &^ m.ext.analog[i]
	if changed == 0 {
		return
	}
	for g, group := range m.v.changes {
		if m.io[regPCICR]>>g&1 == 0 {
			continue
		}
		for _, p := range group.of {
			if p.port == i && p.bits(changed)&m.io[regPCMSK0+g] != 0 {
				m.io[regPCIFR] |= 1 << g
			}
		}
	}
	// Without the I/O clock nothing else sees the edge; the TWI sees its address all the same.
	if stopped := m.power.stopped(); !stopped {
		m.interruptEdges(i, changed, now, cycle)
		m.timerEdges(i, changed, now, cycle)
		for k := range m.usarts {
			if l := m.usarts[k].l.receive; l.port == i && changed&l.mask != 0 {
				m.usarts[k].lineEdge(m, now&l.mask != 0, cycle)
			}
		}
		if l := &m.v.spi; l.port == i && changed&(l.ss|l.sck) != 0 && m.spi.enabled(m) {
			m.spi.lineEdge(m, changed, cycle)
		}
	}
	if l := &m.v.twi; l.port == i && changed&(l.sda|l.scl) != 0 && m.twi.enabled(m) {
		m.twi.lineEdge(m, changed, cycle)
	}
	if i == m.v.usi.port && changed&m.usi.senses(m) != 0 {
		m.usi.edges(m, changed, now)
	}
	m.externalRequests()
}

// interruptEdges raises the flags of external interrupts.
func (m *Machine) interruptEdges(i int, changed, now uint8, cycle int64) {
	for n, pin := range m.v.interrupts {
		if pin.port != i || changed&pin.mask == 0 {
			continue
		}
		rising := now&pin.mask != 0
		if mode := m.sensing(n); mode == 1 || mode == 2 && !rising || mode == 3 && rising {
			m.io[regEIFR] |= 1 << n
			if n == 0 {
				m.adc.trigger(m, triggerINT0, cycle)
			}
		}
	}
}

// timerEdges tells the timers of edges at their clock and capture pins.
func (m *Machine) timerEdges(i int, changed, now uint8, cycle int64) {
	for k := range m.timers {
		t := &m.timers[k]
		if p := t.capturePin; t.wide && p.port == i && changed&p.mask != 0 {
			t.captureEdge(m, now&p.mask != 0, cycle)
		}
		if p := t.clockPin; p.port == i && changed&p.mask != 0 {
			t.clockEdge(m, now&p.mask != 0, cycle)
		}
	}
}

// externalRequests brings the interrupt requests in line with flags, masks and low levels.
func (m *Machine) externalRequests() {
	for n, pin := range m.v.interrupts {
		request := m.io[regEIFR]>>n&1 == 1
		if m.sensing(n) == 0 { // while the pin is low
			p := &m.ports[pin.port]
			request = (p.high|p.float)&pin.mask == 0
		}
		m.raise(m.v.vectors.int0+uint(n), request && m.io[regEIMSK]>>n&1 == 1)
	}
	for g := range m.v.changes {
		m.raise(m.v.vectors.pcint0+uint(g), (m.io[regPCIFR]&m.io[regPCICR])>>g&1 == 1)
	}
}

// quiet returns which floating pins of a port do not toggle although somebody listens: buses without a partner, and a
// capture pin whose interrupt is off.
func (m *Machine) quiet(i int) (quiet uint8) {
	if l := &m.v.spi; l.port == i {
		quiet |= l.ss | l.sck
	}
	if l := &m.v.twi; l.port == i {
		quiet |= l.sda | l.scl
	}
	for k := range m.v.usarts {
		if l := m.v.usarts[k].receive; l.port == i {
			quiet |= l.mask
		}
	}
	for k := range m.timers {
		if t := &m.timers[k]; t.wide && t.capturePin.port == i && m.io[t.timsk]&bitICF == 0 {
			quiet |= t.capturePin.mask
		}
	}
	return quiet
}

// scheduleNoise makes floating pins toggle at random where an interrupt or a counter listens.
func (m *Machine) scheduleNoise() {
	for i := range m.ports {
		if listening := m.ports[i].float & m.ext.sensing[i]; listening != 0 && listening&^m.quiet(i) != 0 {
			m.setDue(m.v.slots.noise, (m.cycle/noiseCycles+1)*noiseCycles)
			return
		}
	}
	m.setDue(m.v.slots.noise, never)
}

func (m *Machine) noiseEdge(cycle int64) {
	for i := range m.ports {
		p := &m.ports[i]
		m.edges(i, p.high|p.float&m.noise(i, cycle-1), p.high|p.float&m.noise(i, cycle), cycle)
	}
	m.setDue(m.v.slots.noise, cycle+noiseCycles)
	m.scheduleNoise()
}

// acknowledge clears the flag behind an interrupt that is being taken.
func (m *Machine) acknowledge(vector uint) {
	if cleared := m.v.acknowledged[vector]; cleared != nil {
		cleared(m)
	}
}
