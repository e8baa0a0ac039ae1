package avr

// Universal Serial Interface (ATtiny85, DS2586, 15).
const (
	regUSICR = 0x190
	regUSISR = 0x191
	regUSIDR = 0x192
	regUSIBR = 0x193

	bitUSISIE = 1 << 7
	bitUSIOIE = 1 << 6
	bitUSIWM1 = 1 << 5
	bitUSIWM0 = 1 << 4
	bitUSICS1 = 1 << 3
	bitUSICS0 = 1 << 2
	bitUSICLK = 1 << 1
	bitUSITC  = 1 << 0

	bitUSISIF = 1 << 7
	bitUSIOIF = 1 << 6
	bitUSIPF  = 1 << 5
	bitUSIDC  = 1 << 4
)

// usiLayout is where its pins are, all on one port, and its interrupts. The zero value is for chips without it.
type usiLayout struct {
	port            int
	di, do, sck     uint8
	start, overflow uint // vectors
}

// usi is the interface. All that it keeps is in its registers.
type usi struct{}

func (v *Variant) defineUSI() {
	l := &v.usi
	if l.sck == 0 {
		return
	}
	v.acknowledged[l.start] = func(*Machine) {} // flags are cleared by writing ones
	v.acknowledged[l.overflow] = func(*Machine) {}
	v.define(regUSICR, "USICR", func(m *Machine, a uint16) uint8 { return m.io[a] & 0xfc }, func(m *Machine, a uint16,
		x uint8) {
		m.io[a] = x & 0xfe
		p := &m.ports[l.port]
		strobe := x&(bitUSICS1|bitUSICS0) == 0 && x&bitUSICLK != 0
		switch {
		case x&bitUSITC != 0: // the clock pin turns over
			p.latch ^= l.sck
			m.io[m.v.ports[l.port].base+2] = p.latch
			m.usi.lines(m)
			if x&(bitUSICS1|bitUSICLK) == bitUSICS1|bitUSICLK { // and counts
				m.usi.count(m)
			}
		case strobe:
			m.usi.shift(m)
			m.usi.count(m)
		}
		m.usi.lines(m)
		m.sense()
		m.usi.requests(m)
	})
	v.define(regUSISR, "USISR", nil, func(m *Machine, a uint16, x uint8) {
		m.io[a] = m.io[a]&0xe0&^x | m.io[a]&bitUSIDC | x&15
		m.usi.requests(m)
	})
	v.define(regUSIDR, "USIDR", nil, func(m *Machine, a uint16, x uint8) {
		m.io[a] = x
		m.usi.lines(m)
	})
	v.define(regUSIBR, "USIBR", nil, func(*Machine, uint16, uint8) {})
}

// wires is USIWM: three-wire, two-wire, or none.
func (u *usi) wires(m *Machine) uint8 { return m.io[regUSICR] & (bitUSIWM1 | bitUSIWM0) }

func (u *usi) twoWire(m *Machine) bool { return u.wires(m)&bitUSIWM1 != 0 }

// lines puts the highest bit of the data register on its pin. In two-wire mode pins only pull low (15.3.4).
func (u *usi) lines(m *Machine) {
	l := &m.v.usi
	p := &m.ports[l.port]
	p.override &^= l.do | l.di | l.sck
	p.forced &^= l.do | l.di | l.sck
	p.inputs &^= l.di | l.sck
	high := m.io[regUSIDR]&0x80 != 0
	switch {
	case u.wires(m) == bitUSIWM0:
		p.override |= l.do
		if high {
			p.forced |= l.do
		}
	case u.twoWire(m):
		p.override |= l.di | l.sck
		if high && p.latch&l.di != 0 {
			p.inputs |= l.di
		}
		if p.latch&l.sck != 0 {
			p.inputs |= l.sck
		}
	}
	m.updatePort(l.port, m.cycle)
}

// shift takes the data pin in from below.
func (u *usi) shift(m *Machine) {
	l := &m.v.usi
	p := &m.ports[l.port]
	x := m.io[regUSIDR] << 1
	if (p.high|p.float&m.noise(l.port, m.cycle))&l.di != 0 {
		x |= 1
	}
	m.io[regUSIDR] = x
}

// count counts an edge of the clock; with the sixteenth the buffer has the byte.
func (u *usi) count(m *Machine) {
	n := (m.io[regUSISR] + 1) & 15
	m.io[regUSISR] = m.io[regUSISR]&0xf0 | n
	if n == 0 {
		m.io[regUSISR] |= bitUSIOIF
		m.io[regUSIBR] = m.io[regUSIDR]
	}
	u.requests(m)
}

func (u *usi) requests(m *Machine) {
	c, s := m.io[regUSICR], m.io[regUSISR]
	m.raise(m.v.usi.overflow, c&bitUSIOIE != 0 && s&bitUSIOIF != 0)
	m.raise(m.v.usi.start, c&bitUSISIE != 0 && s&bitUSISIF != 0)
}

// senses are the pins whose edges it wants.
func (u *usi) senses(m *Machine) uint8 {
	l := &m.v.usi
	if l.sck == 0 || u.wires(m) == 0 && m.io[regUSICR]&bitUSICS1 == 0 {
		return 0
	}
	return l.sck | l.di
}

// edges handles changes of the pins: an external clock shifts and counts, and the two-wire bus starts and stops.
func (u *usi) edges(m *Machine, changed, now uint8) {
	l := &m.v.usi
	c := m.io[regUSICR]
	if changed&l.sck != 0 {
		high := now&l.sck != 0
		if c&bitUSICS1 != 0 {
			if high != (c&bitUSICS0 != 0) { // CS0: 0 shifts at rising edges, 1 at falling ones
				u.shift(m)
				u.lines(m)
			}
			if c&bitUSICLK == 0 {
				u.count(m)
			}
		}
	}
	if u.twoWire(m) && changed&l.di != 0 && now&l.sck != 0 {
		if now&l.di == 0 {
			m.io[regUSISR] |= bitUSISIF
		} else {
			m.io[regUSISR] |= bitUSIPF
		}
		u.requests(m)
	}
}

// timer is a compare match of timer 0, which may be the clock.
func (u *usi) timer(m *Machine) {
	if u.byTimer(m) {
		u.shift(m)
		u.count(m)
		u.lines(m)
	}
}

func (u *usi) byTimer(m *Machine) bool {
	return m.v.usi.sck != 0 && m.io[regUSICR]&(bitUSICS1|bitUSICS0) == bitUSICS0
}
