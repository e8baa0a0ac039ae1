package rp2040

// sio is the single-cycle I/O block of core 0 (2.3.1).
type sio struct {
	out, oe           uint32
	qspi, qspiOE      uint32
	dividend, divisor uint32
	quotient, rest    uint32
	dirty             bool
	spinlocks         uint32
	fifo              uint32 // sticky bits of FIFO_ST
	interpolators     [32]uint32
}

func (m *Machine) readSIO(offset uint32) uint32 {
	s := &m.sio
	switch offset {
	case 0x000: // CPUID
		return 0
	case 0x004:
		m.tellFloating()
		return m.readPins()
	case 0x010:
		return s.out
	case 0x020:
		return s.oe
	case 0x030:
		return s.qspi
	case 0x040:
		return s.qspiOE
	case 0x050: // FIFO_ST: room to write, nothing to read
		return 2 | s.fifo
	case 0x058: // nothing is in it
		s.fifo |= 8
		return 0
	case 0x05c:
		return s.spinlocks
	case 0x060, 0x068:
		return s.dividend
	case 0x064, 0x06c:
		return s.divisor
	case 0x070:
		s.dirty = false
		return s.quotient
	case 0x074:
		return s.rest
	case 0x078: // ready, and whether the results are of operands of late
		if s.dirty {
			return 3
		}
		return 1
	}
	switch {
	case offset >= 0x100 && offset < 0x180: // a spinlock is taken by reading it
		bit := uint32(1) << (offset >> 2 & 31)
		if s.spinlocks&bit != 0 {
			return 0
		}
		s.spinlocks |= bit
		return bit
	case offset >= 0x080 && offset < 0x100:
		m.note("unmodelled interpolators", "the program uses the interpolators of SIO, which are not modelled")
		return s.interpolators[offset>>2&31]
	}
	return 0
}

func (m *Machine) writeSIO(offset, v uint32) {
	s := &m.sio
	change := func(of *uint32, how uint32) {
		switch how {
		case 0:
			*of = v
		case 4:
			*of |= v
		case 8:
			*of &^= v
		case 12:
			*of ^= v
		}
	}
	switch {
	case offset >= 0x010 && offset < 0x020:
		was := s.out
		change(&s.out, offset-0x010)
		s.out &= allPins
		m.updatePins((s.out ^ was) & m.given[functionSIO])
	case offset >= 0x020 && offset < 0x030:
		was := s.oe
		change(&s.oe, offset-0x020)
		s.oe &= allPins
		m.updatePins((s.oe ^ was) & m.given[functionSIO])
	case offset >= 0x030 && offset < 0x040:
		change(&s.qspi, offset-0x030)
	case offset >= 0x040 && offset < 0x050:
		change(&s.qspiOE, offset-0x040)
	case offset == 0x050:
		s.fifo &^= v & 0xc
	case offset == 0x054:
		m.note("unmodelled core 1", "the program starts core 1, which is not modelled: what it should do is not done")
	case offset >= 0x060 && offset < 0x070:
		signed := offset >= 0x068
		if offset&4 == 0 {
			s.dividend = v
		} else {
			s.divisor = v
		}
		s.divide(signed)
	case offset == 0x070:
		s.quotient, s.dirty = v, true
	case offset == 0x074:
		s.rest, s.dirty = v, true
	case offset >= 0x100 && offset < 0x180:
		s.spinlocks &^= 1 << (offset >> 2 & 31)
	case offset >= 0x080 && offset < 0x100:
		s.interpolators[offset>>2&31] = v
	}
}

// divide is done at once; the program waits eight cycles for it, or looks (2.3.1.5). A division by zero gives what the
// datasheet says.
func (s *sio) divide(signed bool) {
	s.dirty = true
	a, b := s.dividend, s.divisor
	switch {
	case b == 0 && signed && int32(a) < 0:
		s.quotient, s.rest = 1, a
	case b == 0:
		s.quotient, s.rest = 0xffff_ffff, a
	case signed && a == 0x8000_0000 && b == 0xffff_ffff:
		s.quotient, s.rest = a, 0
	case signed:
		s.quotient, s.rest = uint32(int32(a)/int32(b)), uint32(int32(a)%int32(b))
	default:
		s.quotient, s.rest = a/b, a%b
	}
}
