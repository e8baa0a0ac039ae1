package avr

import "hemble/core/machine"

// SPI (datasheet 19).
const (
	regSPCR = 0x4c
	regSPSR = 0x4d
	regSPDR = 0x4e

	bitSPIE = 1 << 7
	bitSPE  = 1 << 6
	bitDORD = 1 << 5
	bitMSTR = 1 << 4
	bitCPOL = 1 << 3
	bitCPHA = 1 << 2

	bitSPIF  = 1 << 7
	bitWCOL  = 1 << 6
	bitSPI2X = 1 << 0
)

// spiLayout is where the SPI's pins are, all on one port.
type spiLayout struct {
	port                int
	ss, mosi, miso, sck uint8
}

// spi is the shift register with its clock.
type spi struct {
	busy     bool
	half     int   // of the transfer under way: clock edges done, 0 to 16
	out, in  uint8 // what is shifted out, and in
	received uint8 // the receive buffer
	read     bool  // SPSR was read while SPIF was set: the next access to SPDR clears it
	short    bool  // the edges of the byte under way were left out: nothing is wired to the bus
}

func (v *Variant) defineSPI() {
	v.acknowledged[v.vectors.spi] = func(m *Machine) {
		m.io[regSPSR] &^= bitSPIF
		m.spi.requests(m)
	}
	v.define(regSPCR, "SPCR", nil, func(m *Machine, a uint16, v uint8) {
		m.io[a] = v
		m.spi.configure(m)
	})
	v.define(regSPSR, "SPSR", func(m *Machine, a uint16) uint8 {
		if m.io[a]&bitSPIF != 0 {
			m.spi.read = true
		}
		return m.io[a]
	}, func(m *Machine, a uint16, v uint8) { m.io[a] = m.io[a]&^bitSPI2X | v&bitSPI2X })
	v.define(regSPDR, "SPDR", func(m *Machine, _ uint16) uint8 {
		m.spi.clear(m)
		return m.spi.received
	}, func(m *Machine, _ uint16, v uint8) { m.spi.put(m, v) })
}

func (s *spi) reset() { *s = spi{} }

func (s *spi) enabled(m *Machine) bool { return m.io[regSPCR]&bitSPE != 0 }
func (s *spi) master(m *Machine) bool  { return m.io[regSPCR]&bitMSTR != 0 }
func (s *spi) slave(m *Machine) bool   { return s.enabled(m) && !s.master(m) }

// clear is an access to SPDR: it clears the flags that were seen (19.5.2).
func (s *spi) clear(m *Machine) {
	if s.read {
		s.read = false
		m.io[regSPSR] &^= bitSPIF | bitWCOL
		s.requests(m)
	}
}

func (s *spi) requests(m *Machine) {
	m.raise(m.v.vectors.spi, m.io[regSPCR]&bitSPIE != 0 && m.io[regSPSR]&bitSPIF != 0)
}

// halfPeriod is half a clock period in CPU cycles (table 19-5).
func (s *spi) halfPeriod(m *Machine) int64 {
	n := [4]int64{2, 8, 32, 64}[m.io[regSPCR]&3]
	if m.io[regSPSR]&bitSPI2X != 0 {
		return max(1, n/2)
	}
	return n
}

// configure applies the pins (table 19-1): the directions that the SPI does not decide stay the port's.
func (s *spi) configure(m *Machine) {
	p := &m.ports[m.v.spi.port]
	p.override &^= m.v.spi.mosi | m.v.spi.miso | m.v.spi.sck
	p.inputs &^= m.v.spi.ss | m.v.spi.mosi | m.v.spi.miso | m.v.spi.sck
	switch {
	case !s.enabled(m):
		s.busy = false
		m.setDue(m.v.slots.spi, never)
	case s.master(m):
		p.inputs |= m.v.spi.miso
		p.override |= m.v.spi.mosi | m.v.spi.sck
		s.selected(m, m.cycle)
	default:
		p.inputs |= m.v.spi.ss | m.v.spi.mosi | m.v.spi.sck
		p.override |= m.v.spi.miso
	}
	if !s.busy {
		s.level(m, m.v.spi.sck, m.io[regSPCR]&bitCPOL != 0)
	}
	m.updatePort(m.v.spi.port, m.cycle)
	m.sense()
	s.requests(m)
}

// level sets what the SPI gives one of its outputs.
func (s *spi) level(m *Machine, pin uint8, high bool) {
	m.ports[m.v.spi.port].forced &^= pin
	if high {
		m.ports[m.v.spi.port].forced |= pin
	}
}

// bit is one bit of a byte in the order of transmission.
func (s *spi) bit(m *Machine, v uint8, n int) uint8 {
	if m.io[regSPCR]&bitDORD != 0 {
		return v >> n & 1
	}
	return v >> (7 - n) & 1
}

// put is a write of SPDR.
func (s *spi) put(m *Machine, v uint8) {
	s.clear(m)
	if s.busy && (s.master(m) || s.half > 0) {
		m.io[regSPSR] |= bitWCOL
		m.note("spi-lost", "SPDR was written before the byte in it was sent, and what was written is lost: SPIF says when it is")
		return
	}
	s.out = v
	if !s.enabled(m) || !s.master(m) {
		s.present(m, m.cycle)
		return
	}
	s.busy, s.half, s.in, s.short = true, 0, 0, false
	s.present(m, m.cycle)
	s.schedule(m, m.cycle)
}

// present puts the first bit on the wire before the first clock edge, where CPHA asks for it.
func (s *spi) present(m *Machine, cycle int64) {
	if m.io[regSPCR]&bitCPHA == 0 {
		s.shiftOut(m, 0, cycle)
	}
}

func (s *spi) shiftOut(m *Machine, n int, cycle int64) {
	pin := m.v.spi.mosi
	if !s.master(m) {
		pin = m.v.spi.miso
	}
	s.level(m, pin, s.bit(m, s.out, n) == 1)
	m.updatePort(m.v.spi.port, cycle)
}

func (s *spi) shiftIn(m *Machine, n int) {
	pin := m.v.spi.miso
	if !s.master(m) {
		pin = m.v.spi.mosi
	}
	p := &m.ports[m.v.spi.port]
	high := p.high
	if p.float&pin != 0 { // nothing decides: chance
		high |= p.float & m.noise(m.v.spi.port, m.cycle)
	}
	if high&pin == 0 {
		return
	}
	if m.io[regSPCR]&bitDORD != 0 {
		s.in |= 1 << n
	} else {
		s.in |= 0x80 >> n
	}
}

// schedule announces the next clock edge; where nobody is wired to the bus only the end of the byte.
func (s *spi) schedule(m *Machine, cycle int64) {
	if s.half == 0 && m.ports[m.v.spi.port].watched&(m.v.spi.mosi|m.v.spi.miso|m.v.spi.sck) == 0 {
		s.half, s.short = 15, true
		m.setDue(m.v.slots.spi, cycle+16*s.halfPeriod(m))
		return
	}
	m.setDue(m.v.slots.spi, cycle+s.halfPeriod(m))
}

// edge is one clock edge of a master's transfer: the first of each pair leads (figures 19-3, 19-4).
func (s *spi) edge(m *Machine, cycle int64) {
	m.setDue(m.v.slots.spi, never)
	if !s.busy {
		return
	}
	if s.short { // nothing was wired: each bit reads what the pin is at now
		s.short = false
		for n := range 7 {
			s.shiftIn(m, n)
		}
	}
	leading := s.half%2 == 0
	s.level(m, m.v.spi.sck, (m.io[regSPCR]&bitCPOL != 0) != leading)
	m.updatePort(m.v.spi.port, cycle)
	s.clocked(m, leading, cycle)
	if s.busy {
		m.setDue(m.v.slots.spi, cycle+s.halfPeriod(m))
	}
}

// clocked shifts: data are taken at one edge and changed at the other.
func (s *spi) clocked(m *Machine, leading bool, cycle int64) {
	n := s.half / 2
	s.half++
	late := m.io[regSPCR]&bitCPHA != 0
	switch {
	case leading == late && late: // CPHA 1: the leading edge changes
		s.shiftOut(m, n, cycle)
	case leading != late: // the edge that samples
		s.shiftIn(m, n)
	case n+1 < 8: // CPHA 0: the trailing edge brings the next bit
		s.shiftOut(m, n+1, cycle)
	}
	if s.half < 16 {
		return
	}
	if m.config.Bytes != nil && s.master(m) {
		m.config.Bytes(machine.Byte{At: m.now.at(cycle), Port: "SPI", Value: s.out})
	}
	s.busy, s.half = false, 0
	s.received, s.in = s.in, 0
	m.io[regSPSR] |= bitSPIF
	s.read = false
	s.requests(m)
}

// lineEdge is told of edges at SCK and SS. A slave is clocked by the one and framed by the other; a
// master that finds SS pulled low gives up the bus (19.3.2).
func (s *spi) lineEdge(m *Machine, changed uint8, cycle int64) {
	if changed&m.v.spi.ss != 0 {
		s.selected(m, cycle)
	}
	if changed&m.v.spi.sck == 0 || !s.slave(m) || m.ports[m.v.spi.port].high&m.v.spi.ss != 0 {
		return
	}
	high := m.ports[m.v.spi.port].high&m.v.spi.sck != 0
	s.busy = true
	s.clocked(m, high != (m.io[regSPCR]&bitCPOL != 0), cycle)
	if !s.busy {
		s.present(m, cycle)
	}
}

func (s *spi) selected(m *Machine, cycle int64) {
	p := &m.ports[m.v.spi.port]
	low := (p.high|p.float)&m.v.spi.ss == 0
	switch {
	case s.slave(m):
		s.busy, s.half, s.in = false, 0, 0
		if low {
			s.present(m, cycle)
		}
	case s.enabled(m) && low && p.ddr&m.v.spi.ss == 0:
		m.io[regSPCR] &^= bitMSTR
		m.io[regSPSR] |= bitSPIF
		m.note("spi-ss", "SS (%s) is an input and low, which takes the SPI out of master mode",
			m.v.name(m.v.spi.port, int(log2(m.v.spi.ss))))
		s.configure(m)
	}
}
