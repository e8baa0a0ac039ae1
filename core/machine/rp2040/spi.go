package rp2040

import "hemble/core/machine"

// spi is one of the two (4.4, a PL022), as a master, with frames in the format of Motorola (4.4.3.8 to 4.4.3.13).
type spi struct {
	index          int
	control, mode  uint32 // SSPCR0, SSPCR1
	prescale       uint32 // SSPCPSR
	mask, raw, dma uint32
	send, receive  []uint16
	selected       bool // the frame's select is out
	held           bool // the last bit of the frame before
	halves, half   int  // of the frame under way: half clocks in all, 0 for none, and those that are over
	began          int64
	out, in        uint32
}

// Bits of the interrupt registers (4.4.4): an overrun, a rest, a receive FIFO half full, a transmit FIFO half empty.
const (
	spiOverrun = 1 << 0
	spiRest    = 1 << 1
	spiReceive = 1 << 2
	spiSend    = 1 << 3
)

// spiDepth is how many frames each FIFO holds.
const spiDepth = 8

func (s *spi) restart(m *Machine) {
	*s = spi{index: s.index}
	m.setDue(dueSPI+s.index, never)
	m.core.Request(18+s.index, false)
}

func (s *spi) bits() int { return int(s.control&15) + 1 }

// late reports whether data are taken at the second edge of the clock (SPH).
func (s *spi) late() bool { return s.control>>7&1 == 1 }

// until is the cycle at which so many half clocks of a frame are over; never where the clock stands.
func (s *spi) until(m *Machine, halves int) int64 {
	peri := m.rateOf(clkPeri)
	if peri == 0 || s.prescale < 2 {
		return never
	}
	clocks := int64(s.prescale&^1) * int64(1+s.control>>8&0xff)
	return s.began + int64(halves)*clocks*int64(m.now.Rate)/(2*int64(peri))
}

// clock, line and chip select, as they go out.
func (s *spi) clock() bool {
	leading := s.halves > 0 && s.half < 2*s.bits() && s.half&1 == 1
	return leading != (s.control>>6&1 == 1)
}

func (s *spi) line() bool {
	n := s.half / 2
	if s.late() {
		if s.half == 0 { // until the first edge of the clock
			return s.held
		}
		n = (s.half - 1) / 2
	}
	return s.halves > 0 && n < s.bits() && s.out>>(s.bits()-1-n)&1 == 1
}

// drives gives what one of its four lines does: what comes in, the select, the clock, what goes out.
func (s *spi) drives(line int) (high, driven bool) {
	switch line {
	case 1:
		return !s.selected, true
	case 2:
		return s.clock(), true
	case 3:
		return s.line(), true
	}
	return false, false
}

// next begins a frame, or ends the last one's select where there is none.
func (s *spi) next(m *Machine, at int64) {
	s.held = s.halves > 0 && s.out&1 == 1
	s.halves, s.half = 0, 0
	if len(s.send) == 0 {
		s.selected = false
		m.setDue(dueSPI+s.index, never)
		m.updatePins(m.given[functionSPI])
		return
	}
	s.began, s.halves, s.selected = at, 2*s.bits(), true
	if !s.late() {
		s.halves += 2 // the select goes high for a clock between two frames
	}
	s.out, s.in = uint32(s.send[0]), 0
	s.send = s.send[1:]
	m.setDue(dueSPI+s.index, s.until(m, 1))
	m.updatePins(m.given[functionSPI])
}

// step is a half clock that is over.
func (s *spi) step(m *Machine, at int64) {
	s.half++
	if taken := s.half&1 == 1; s.half <= 2*s.bits() && taken != s.late() {
		s.in = s.in<<1 | s.sees(m)
	}
	if s.half == 2*s.bits() {
		s.over(m, at)
	}
	if s.half == 2*s.bits()+1 {
		s.selected = false
	}
	if s.half == s.halves {
		s.next(m, at)
	} else {
		m.setDue(dueSPI+s.index, s.until(m, s.half+1))
		m.updatePins(m.given[functionSPI])
	}
	s.request(m)
}

// over keeps a frame that has come in, and tells of the one that has gone out.
func (s *spi) over(m *Machine, at int64) {
	if len(s.receive) < spiDepth {
		s.receive = append(s.receive, uint16(s.in))
	} else {
		s.raw |= spiOverrun
	}
	if m.config.Bytes == nil {
		return
	}
	for shift := (s.bits() - 1) &^ 7; shift >= 0; shift -= 8 {
		m.tellWaves()
		m.config.Bytes(machine.Byte{At: m.now.At(at), Port: []string{"SPI0", "SPI1"}[s.index], Value: byte(s.out >> shift)})
	}
}

// sees is the bit that comes in: of its own, where the two are looped, or of a pin that is given to it.
func (s *spi) sees(m *Machine) uint32 {
	high := false
	if s.mode&1 == 1 {
		high = s.line()
	} else {
		for g := m.given[functionSPI] & 0x1111_1111; g != 0; g &= g - 1 {
			if i := lowest(g); i>>3&1 == s.index {
				high = m.readPins()>>i&1 == 1
			}
		}
	}
	if high {
		return 1
	}
	return 0
}

func (s *spi) read(m *Machine, offset uint32) uint32 {
	switch offset {
	case 0x00:
		return s.control
	case 0x04:
		return s.mode
	case 0x08:
		if len(s.receive) == 0 {
			return 0
		}
		v := s.receive[0]
		s.receive = s.receive[1:]
		s.request(m)
		return uint32(v)
	case 0x0c: // SSPSR
		v := uint32(0)
		for i, is := range []bool{len(s.send) == 0, len(s.send) < spiDepth, len(s.receive) > 0,
			len(s.receive) == spiDepth, s.halves > 0 || len(s.send) > 0} {
			if is {
				v |= 1 << i
			}
		}
		return v
	case 0x10:
		return s.prescale
	case 0x14:
		return s.mask
	case 0x18:
		return s.interrupts()
	case 0x1c:
		return s.interrupts() & s.mask
	case 0x24:
		return s.dma
	case 0xfe0, 0xfe4, 0xfe8, 0xfec, 0xff0, 0xff4, 0xff8, 0xffc: // SSPPERIPHID, SSPPCELLID
		return []uint32{0x22, 0x10, 0x34, 0x00, 0x0d, 0xf0, 0x05, 0xb1}[offset>>2&7]
	}
	return 0
}

func (s *spi) write(m *Machine, offset, v uint32) {
	switch offset {
	case 0x00:
		s.control = v & 0xffff
		if v>>4&3 != 0 {
			m.note("unmodelled format of SPI", "SPI%d is set to a frame format other than Motorola's, which is not modelled",
				s.index)
		}
		m.updatePins(m.given[functionSPI])
	case 0x04:
		s.mode = v & 0xf
		if v>>2&1 == 1 {
			m.note("unmodelled SPI as a device", "SPI%d is set to be a device of another master, which is not modelled",
				s.index)
		}
		m.updatePins(m.given[functionSPI])
	case 0x08:
		if len(s.send) < spiDepth {
			s.send = append(s.send, uint16(v)&uint16(1<<s.bits()-1))
		}
	case 0x10:
		s.prescale = v & 0xff
	case 0x14:
		s.mask = v & 0xf
	case 0x20:
		s.raw &^= v & (spiOverrun | spiRest)
	case 0x24:
		s.dma = v & 3
	}
	if s.mode>>1&3 == 1 && s.halves == 0 && len(s.send) > 0 && s.prescale >= 2 {
		s.next(m, m.core.Cycle)
	}
	s.request(m)
}

func (s *spi) interrupts() uint32 {
	v := s.raw
	if len(s.receive) > 0 && s.halves == 0 {
		v |= spiRest
	}
	if len(s.receive) >= spiDepth/2 {
		v |= spiReceive
	}
	if len(s.send) <= spiDepth/2 {
		v |= spiSend
	}
	return v
}

func (s *spi) request(m *Machine) { m.core.Request(18+s.index, s.interrupts()&s.mask != 0) }
