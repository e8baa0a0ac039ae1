package pic14

// sspLayout is where the synchronous serial port is (DS33023A, 16 and 17).
type sspLayout struct {
	sck, sdi, sdo, ss pinAt
	master            bool // I2C as a master, with SSPCON2 (17)
}

// Its registers, which all chips that have it have at the same place.
const (
	regSSPBUF  = 0x13
	regSSPCON  = 0x14
	regSSPCON2 = 0x91
	regSSPADD  = 0x93
	regSSPSTAT = 0x94

	bitWCOL  = 1 << 7
	bitSSPOV = 1 << 6
	bitSSPEN = 1 << 5
	bitCKP   = 1 << 4

	bitSMP = 1 << 7
	bitCKE = 1 << 6
	bitP   = 1 << 4
	bitS   = 1 << 3
	bitRW  = 1 << 2
	bitBF  = 1 << 0

	bitACKSTAT = 1 << 6
	bitACKDT   = 1 << 5
	bitACKEN   = 1 << 4
	bitRCEN    = 1 << 3
	bitPEN     = 1 << 2
	bitRSEN    = 1 << 1
	bitSEN     = 1 << 0
)

// ssp is the port as SPI or as the master of an I2C bus.
type ssp struct {
	active  bool
	edges   int   // edges done of what is under way
	shift   uint8 // going out, highest bit first
	coming  uint8
	halves  int64 // half cycles from the beginning of what is under way
	began   int64
	doing   uint8 // of I2C: the bit of SSPCON2, or one of the two below
	sclLow  bool
	sdaLow  bool
	clock   bool // SPI: SCK
	out     bool // SPI: SDO
	byTimer bool
}

// What else an I2C master does.
const (
	i2cIdle = 0
	i2cSend = 1 << 7
)

func (v *Variant) defineSSP() {
	l := &v.ssp
	if l.sck.mask == 0 {
		return
	}
	v.define(regSSPBUF, "SSPBUF", 0, func(m *Machine) uint8 {
		m.ram[regSSPSTAT] &^= bitBF
		return m.ram[regSSPBUF]
	}, func(m *Machine, x uint8) { m.ssp.put(m, x) })
	v.define(regSSPCON, "SSPCON", 0, nil, func(m *Machine, x uint8) {
		was := m.ram[regSSPCON]
		m.ram[regSSPCON] = x
		s := &m.ssp
		if (was^x)&(bitSSPEN|0x0f) != 0 {
			*s = ssp{}
			m.setDue(dueSSP, never)
			s.tellMode(m)
		}
		if !s.active {
			s.clock = x&bitCKP != 0
		}
		s.lines(m, m.cycle)
	})
	v.define(regSSPSTAT, "SSPSTAT", 0, nil, func(m *Machine, x uint8) {
		m.ram[regSSPSTAT] = m.ram[regSSPSTAT]&0x3f | x&0xc0
	})
	v.define(regSSPADD, "SSPADD", 0, nil, nil)
	if !l.master {
		return
	}
	v.define(regSSPCON2, "SSPCON2", 0, nil, func(m *Machine, x uint8) {
		const starts = bitACKEN | bitRCEN | bitPEN | bitRSEN | bitSEN
		busy := m.ram[regSSPCON2] & starts
		m.ram[regSSPCON2] = m.ram[regSSPCON2]&bitACKSTAT | x&(bitACKDT|0x80) | busy
		if x&starts == 0 || !m.ssp.isMaster(m) {
			return
		}
		if busy != 0 || m.ssp.doing != i2cIdle {
			m.note("i2c-busy", "SSPCON2 was written before the I2C master had finished: what it asked for is not done")
			return
		}
		for _, what := range []uint8{bitSEN, bitRSEN, bitPEN, bitRCEN, bitACKEN} {
			if x&what != 0 {
				m.ram[regSSPCON2] |= what
				m.ssp.begin(m, what)
				break
			}
		}
	})
}

func (s *ssp) mode(m *Machine) uint8 { return m.ram[regSSPCON] & 15 }

func (s *ssp) on(m *Machine) bool { return m.v.ssp.sck.mask != 0 && m.ram[regSSPCON]&bitSSPEN != 0 }

func (s *ssp) isSPI(m *Machine) bool { return s.on(m) && s.mode(m) <= 5 }

func (s *ssp) isSlave(m *Machine) bool { return s.isSPI(m) && s.mode(m) >= 4 }

func (s *ssp) isMaster(m *Machine) bool { return s.on(m) && m.v.ssp.master && s.mode(m) == 8 }

// tellMode tells of modes that are not modelled.
func (s *ssp) tellMode(m *Machine) {
	if s.on(m) && !s.isSPI(m) && !s.isMaster(m) {
		m.note("unmodelled SSPCON", "the synchronous serial port's mode %d (I2C as a slave, or by the program's own hand) "+
			"is not modelled", s.mode(m))
	}
}

// put is a write of SSPBUF.
func (s *ssp) put(m *Machine, x uint8) {
	if s.active || s.doing != i2cIdle {
		m.ram[regSSPCON] |= bitWCOL
		return
	}
	m.ram[regSSPBUF] = x
	switch {
	case s.isMaster(m):
		s.shift = x
		m.ram[regSSPSTAT] |= bitBF | bitRW
		s.begin(m, i2cSend)
	case s.isSlave(m):
		s.shift = x
		s.out = x&0x80 != 0
		s.lines(m, m.cycle)
	case s.isSPI(m):
		s.active, s.edges, s.shift, s.coming = true, 0, x, 0
		s.began, s.halves = m.cycle+1, 0
		if m.ram[regSSPSTAT]&bitCKE != 0 {
			s.out = x&0x80 != 0
			s.lines(m, m.cycle)
		}
		s.schedule(m)
	}
}

// half is the time of half a bit of SPI in half cycles: a quarter, 16th or 64th of the oscillator (16.3.2).
func (s *ssp) half(m *Machine) int64 {
	switch s.mode(m) {
	case 0:
		return 1
	case 1:
		return 4
	case 2:
		return 16
	case 8:
		return max(1, int64(m.ram[regSSPADD]&0x7f)+1) // of I2C: TBRG (17.4.7)
	}
	return 0 // by Timer2
}

func (s *ssp) schedule(m *Machine) {
	if s.byTimer = s.half(m) == 0; s.byTimer {
		m.setDue(dueSSP, never)
		return
	}
	s.halves += s.half(m)
	m.setDue(dueSSP, max(m.cycle, s.began+s.halves/2))
}

// timer is a match of Timer2, which may be the clock of SPI.
func (s *ssp) timer(m *Machine, cycle int64) {
	if s.active && s.byTimer && s.isSPI(m) {
		s.edge(m, cycle)
	}
}

func (s *ssp) step(m *Machine, cycle int64) {
	m.setDue(dueSSP, never)
	if s.isSPI(m) {
		s.edge(m, cycle)
		return
	}
	s.bus(m, cycle)
}

// edge is one of the sixteen edges of a byte (16.3.1, figure 16-3).
func (s *ssp) edge(m *Machine, cycle int64) {
	s.clock = !s.clock
	n := s.edges // from 0 on
	s.edges++
	early := m.ram[regSSPSTAT]&bitCKE != 0
	switch {
	case early && n&1 == 1 || !early && n&1 == 0: // a bit goes out
		k := n / 2
		if early {
			k++
		}
		if k < 8 {
			s.out = s.shift<<k&0x80 != 0
		}
	}
	s.lines(m, cycle)
	// It is taken in the middle of its time, or with SMP at the end.
	if late := m.ram[regSSPSTAT]&bitSMP != 0; late && n&1 == 1 || !late && (n&1 == 1) != early {
		s.coming <<= 1
		if p := m.v.ssp.sdi; m.ports[p.port].high&p.mask != 0 {
			s.coming |= 1
		}
	}
	if s.edges < 16 {
		if !s.byTimer {
			s.schedule(m)
		}
		return
	}
	s.active = false
	s.received(m, cycle)
}

// received puts a byte into the buffer.
func (s *ssp) received(m *Machine, cycle int64) {
	if m.ram[regSSPSTAT]&bitBF != 0 && s.isSlave(m) {
		m.ram[regSSPCON] |= bitSSPOV
	} else {
		m.ram[regSSPBUF] = s.coming
	}
	m.ram[regSSPSTAT] |= bitBF
	m.raise(m.v.flags.ssp, cycle)
}

// pinsChanged gives a slave the edges of its clock.
func (s *ssp) pinsChanged(m *Machine, port int, changed uint8, cycle int64) {
	l := &m.v.ssp
	if l.sck.mask == 0 || !s.isSlave(m) {
		return
	}
	if s.mode(m) == 4 && l.ss.mask != 0 && m.ports[l.ss.port].high&l.ss.mask != 0 {
		s.edges, s.active = 0, false
		return
	}
	if port != l.sck.port || changed&l.sck.mask == 0 {
		return
	}
	if !s.active {
		s.active, s.edges, s.coming = true, 0, 0
	}
	s.clock = m.ports[port].high&l.sck.mask == 0 // edge turns it
	s.byTimer = true
	s.edge(m, cycle)
}

// lines puts what the port does on its pins.
func (s *ssp) lines(m *Machine, cycle int64) {
	l := &m.v.ssp
	for _, p := range []pinAt{l.sck, l.sdi, l.sdo} {
		m.release(p)
		m.ports[p.port].direction &^= p.mask
		m.ports[p.port].inputs &^= p.mask
	}
	switch {
	case s.isSPI(m):
		m.ports[l.sdi.port].inputs |= l.sdi.mask
		if s.isSlave(m) {
			m.ports[l.sck.port].inputs |= l.sck.mask
		} else {
			m.force(l.sck, s.clock)
		}
		m.force(l.sdo, s.out)
	case s.isMaster(m): // open drain (17.4.5)
		for _, line := range []struct {
			at  pinAt
			low bool
		}{{l.sck, s.sclLow}, {l.sdi, s.sdaLow}} {
			p := &m.ports[line.at.port]
			m.force(line.at, false)
			if line.low {
				p.direction |= line.at.mask
			} else {
				p.inputs |= line.at.mask
			}
		}
	}
	m.updatePort(l.sck.port, cycle)
	if l.sdi.port != l.sck.port {
		m.updatePort(l.sdi.port, cycle)
	}
	if l.sdo.port != l.sck.port && l.sdo.port != l.sdi.port {
		m.updatePort(l.sdo.port, cycle)
	}
}

// begin begins something on the bus.
func (s *ssp) begin(m *Machine, what uint8) {
	s.doing, s.edges, s.coming = what, 0, 0
	s.began, s.halves = m.cycle+1, 0
	if !s.high(m, m.v.ssp.sdi) && !s.sdaLow && s.doing == bitSEN {
		m.note("i2c-lines", "the I2C master began while SDA was low: the bus has no pull-ups, or another one holds it")
		m.raise(m.v.flags.collision, m.cycle+1)
		s.end(m, m.cycle)
		return
	}
	s.schedule(m)
}

func (s *ssp) high(m *Machine, p pinAt) bool {
	x := &m.ports[p.port]
	return x.high&p.mask != 0 && x.float&p.mask == 0
}

// end ends what was begun.
func (s *ssp) end(m *Machine, cycle int64) {
	m.ram[regSSPCON2] &^= s.doing & 0x1f
	s.doing = i2cIdle
	m.setDue(dueSSP, never)
	m.raise(m.v.flags.ssp, cycle)
}

// bus is a step of the bus, a TBRG after the one before (17.4.8 to 17.4.15).
func (s *ssp) bus(m *Machine, cycle int64) {
	n := s.edges
	s.edges++
	switch s.doing {
	case bitSEN, bitRSEN:
		s.start(m, cycle, n)
	case bitPEN:
		s.stop(m, cycle, n)
	case bitACKEN:
		switch n {
		case 0:
			s.sclLow, s.sdaLow = true, m.ram[regSSPCON2]&bitACKDT == 0
		case 1:
			s.sclLow = false
		case 2:
			s.sclLow = true
		default:
			s.sdaLow = false
			s.lines(m, cycle)
			s.end(m, cycle)
			return
		}
		s.goOn(m, cycle)
	case i2cSend, bitRCEN:
		s.bits(m, cycle, n)
	}
}

// goOn shows the lines and comes again. Where another holds the clock low, this waits.
func (s *ssp) goOn(m *Machine, cycle int64) {
	s.lines(m, cycle)
	s.schedule(m)
}

// start is a start, or a repeated one.
func (s *ssp) start(m *Machine, cycle int64, n int) {
	if s.doing == bitSEN {
		n += 2
	}
	switch n {
	case 0:
		s.sclLow, s.sdaLow = true, false
	case 1:
		s.sclLow = false
	case 2:
		s.sclLow, s.sdaLow = false, true
	default:
		s.sclLow = true
		m.ram[regSSPSTAT] = m.ram[regSSPSTAT]&^bitP | bitS
		s.lines(m, cycle)
		s.end(m, cycle)
		return
	}
	s.goOn(m, cycle)
}

func (s *ssp) stop(m *Machine, cycle int64, n int) {
	switch n {
	case 0:
		s.sclLow, s.sdaLow = true, true
	case 1:
		s.sclLow = false
	case 2:
		s.sdaLow = false
	default:
		m.ram[regSSPSTAT] = m.ram[regSSPSTAT]&^bitS | bitP
		s.end(m, cycle)
		return
	}
	s.goOn(m, cycle)
}

// bits are eight of a byte, and of one that is sent the acknowledge behind them: clock low with the bit, clock high.
func (s *ssp) bits(m *Machine, cycle int64, n int) {
	k, high := n/2, n&1 == 1
	sending := s.doing == i2cSend
	switch {
	case !high && k == 8 && !sending, !high && k == 9:
		s.sclLow = true
		s.lines(m, cycle)
		if sending {
			m.ram[regSSPSTAT] &^= bitBF | bitRW
		} else {
			m.ram[regSSPBUF] = s.coming
			m.ram[regSSPSTAT] |= bitBF
		}
		s.end(m, cycle)
		return
	case !high:
		s.sclLow = true
		s.sdaLow = sending && k < 8 && s.shift<<k&0x80 == 0
	default:
		s.sclLow = false
		s.lines(m, cycle)
		bit := s.high(m, m.v.ssp.sdi)
		switch {
		case sending && k == 8:
			m.ram[regSSPCON2] &^= bitACKSTAT
			if bit {
				m.ram[regSSPCON2] |= bitACKSTAT
			}
		case !sending && k < 8:
			s.coming <<= 1
			if bit {
				s.coming |= 1
			}
		}
	}
	s.goOn(m, cycle)
}
