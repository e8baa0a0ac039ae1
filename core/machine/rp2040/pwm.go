package rp2040

import "hemble/core/machine"

// pwm are the eight slices (4.5). Each counts at its own rate; what its outputs do follows from its count.
type pwm struct {
	slices         [8]slice
	raw, mask, now uint32 // INTR, INTE, INTF
	waves          uint8  // slices that are no events: see tellWaves
}

// slice is one of them: count is what it had at the cycle since, on its way down where it turns.
type slice struct {
	csr, div, cc, top uint32
	count             uint32
	down              bool
	since             int64
	edge              int64         // of a wave: when something happens next
	place             machine.Place // where it was set: its edges are ascribed to that
}

// pinsOf are the pins that a slice can have.
func pinsOf(slice int) uint32 { return 3<<(2*slice) | 3<<(2*slice+16)&allPins }

func (p *pwm) reset() {
	*p = pwm{}
	for i := range p.slices {
		p.slices[i] = slice{div: 1 << 4, top: 0xffff}
	}
}

func (s *slice) runs() bool { return s.csr&1 == 1 && s.csr>>4&3 == 0 }

// sixteenths is how long a count takes, in sixteenths of a cycle.
func (s *slice) sixteenths() int64 {
	if s.div>>4 == 0 {
		return 256 << 4
	}
	return int64(s.div)
}

// period is how many counts it takes until all repeats: up to TOP and back to 0, or down again.
func (s *slice) period() int64 {
	if s.csr>>1&1 == 1 {
		return max(1, 2*int64(s.top))
	}
	return int64(s.top) + 1
}

// phase is the place in the period at a cycle.
func (s *slice) phase(cycle int64) int64 {
	p := int64(s.count)
	if s.down {
		p = s.period() - p
	}
	if s.runs() {
		p += (cycle - s.since) * 16 / s.sixteenths()
	}
	return p % s.period()
}

// at is the count at a cycle.
func (s *slice) at(cycle int64) (count uint32, down bool) {
	p := s.phase(cycle)
	if s.csr>>1&1 == 1 && p > int64(s.top) {
		return uint32(s.period() - p), true
	}
	return uint32(p), false
}

// sync makes a cycle the one that the count is told of.
func (s *slice) sync(cycle int64) {
	if !s.runs() {
		s.since = cycle
		return
	}
	n := (cycle - s.since) * 16 / s.sixteenths()
	s.count, s.down = s.at(cycle)
	s.since += n * s.sixteenths() / 16
}

// high reports whether the output of a pin is at a cycle.
func (p *pwm) high(pin int, cycle int64) bool {
	s := &p.slices[pin>>1&7]
	count, _ := s.at(cycle)
	level := s.cc & 0xffff
	invert := s.csr>>2&1 == 1
	if pin&1 == 1 {
		level, invert = s.cc>>16, s.csr>>3&1 == 1
	}
	return (count < level) != invert
}

// next is the cycle after a cycle at which an output changes, or the count wraps.
func (s *slice) next(cycle int64) int64 {
	if !s.runs() {
		return never
	}
	at, best := s.phase(cycle), s.period()
	points := []int64{0, int64(s.cc & 0xffff), int64(s.cc >> 16)}
	if s.csr>>1&1 == 1 {
		points = append(points, s.period()-points[1]+1, s.period()-points[2]+1)
	}
	for _, p := range points {
		d := (p - at) % s.period()
		if d <= 0 {
			d += s.period()
		}
		best = min(best, d)
	}
	counts := (cycle-s.since)*16/s.sixteenths() + best
	return s.since + (counts*s.sixteenths()+15)/16
}

// schedule announces the next change of an output that a pin has, or wrap that requests an interrupt.
func (p *pwm) schedule(m *Machine) {
	m.tellWaves()
	used := p.mask
	for i := range p.slices {
		if m.dma.waitsFor(requestPWM + uint32(i)) {
			used |= 1 << i
		}
	}
	for g := m.given[functionPWM]; g != 0; g &= g - 1 {
		used |= 1 << (lowest(g) >> 1 & 7)
	}
	due := never
	p.waves = 0
	for i := range p.slices {
		switch s := &p.slices[i]; {
		case used>>i&1 == 0:
		case m.isWave(i):
			p.waves |= 1 << i
			m.planWave(i, m.core.Cycle)
		default:
			due = min(due, s.next(m.core.Cycle))
		}
	}
	m.setDue(duePWM, due)
}

// edge is where an output may change, or a count wraps.
func (p *pwm) edge(m *Machine, at int64) {
	m.tellWaves()
	for i := range p.slices {
		if p.wrapped(i, at) && m.dma.waitsFor(requestPWM+uint32(i)) && m.dma.wraps[i] < 63 {
			m.dma.wraps[i]++
		}
	}
	m.core.Request(4, p.raw&p.mask|p.now != 0)
	for i := range p.slices {
		m.updatePinsAt(m.given[functionPWM]&pinsOf(i), at, &p.slices[i].place)
	}
	p.schedule(m)
}

// wrapped notes that the count of a slice has come to 0 at a cycle, if it has.
func (p *pwm) wrapped(i int, at int64) bool {
	s := &p.slices[i]
	if !s.runs() || s.phase(at) != 0 {
		return false
	}
	p.raw |= 1 << i
	s.sync(at)
	return true
}

func (m *Machine) readPWM(offset uint32) uint32 {
	m.tellWaves()
	p := &m.pwm
	if i := offset / 20; i < 8 {
		s := &p.slices[i]
		switch offset % 20 {
		case 0:
			return s.csr
		case 4:
			return s.div
		case 8:
			count, _ := s.at(m.core.Cycle)
			return count
		case 12:
			return s.cc
		}
		return s.top
	}
	switch offset {
	case 0xa0: // EN
		v := uint32(0)
		for i := range p.slices {
			v |= p.slices[i].csr & 1 << i
		}
		return v
	case 0xa4:
		return p.raw
	case 0xa8:
		return p.mask
	case 0xac:
		return p.now
	case 0xb0:
		return p.raw&p.mask | p.now
	}
	return 0
}

func (m *Machine) writePWM(offset, v uint32) {
	m.tellWaves()
	p := &m.pwm
	if i := offset / 20; i < 8 {
		s := &p.slices[i]
		s.sync(m.core.Cycle)
		s.place = m.place()
		switch offset % 20 {
		case 0:
			s.csr = v & 0x3f
			if s.csr>>4&3 != 0 {
				m.note("unmodelled PWM input", "a PWM slice counts an input, which is not modelled: it stands")
			}
		case 4:
			s.div = v & 0xfff
		case 8:
			s.count, s.down = v&0xffff, false
		case 12:
			s.cc = v
		case 16:
			s.top = v & 0xffff
			s.count = min(s.count, s.top)
		}
	}
	switch offset {
	case 0xa0:
		for i := range p.slices {
			p.slices[i].sync(m.core.Cycle)
			if s := &p.slices[i]; (s.csr^v>>i)&1 == 1 {
				s.csr, s.place = s.csr&^1|v>>i&1, m.place()
			}
		}
	case 0xa4:
		p.raw &^= v
	case 0xa8:
		p.mask = v & 0xff
	case 0xac:
		p.now = v & 0xff
	}
	m.core.Request(4, p.raw&p.mask|p.now != 0)
	m.updatePins(m.given[functionPWM])
	p.schedule(m)
}
