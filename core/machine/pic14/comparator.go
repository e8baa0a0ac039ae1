package pic14

// comparatorLayout is that of the two comparators and of their reference (DS39582, 12 and 13; DS41291, 8).
type comparatorLayout struct {
	cmcon    uint16 // one register for both; 0 where each has its own
	initial  uint8
	modes    *[8]comparatorMode
	ladder   uint16 // CVRCON
	name     string // of that register
	inputs   [4]pinAt
	own      [2]uint16 // CM1CON0, CM2CON0
	more     uint16    // CM2CON1
	negative [4]pinAt  // of those: C12IN0- to C12IN3-
	positive [2]pinAt
	outputs  [2]pinAt
}

// comparatorMode is what a mode of CMCON connects: inputs 0 to 3 of the layout, -1 for a comparator that is off.
type comparatorMode struct {
	minus, plus [2]int8
	or          [2]int8 // the other choice of minus, with CIS; -1 for none
	internal    bool    // plus is the reference
	analog      uint8   // of the inputs
	out         [2]bool
}

// fixedReference is the one of 0.6 V.
const fixedReference = 600_000

// comparator is what both gave last.
type comparator struct{ out [2]bool }

func (v *Variant) defineComparator() {
	l := &v.comparator
	if l.ladder != 0 {
		v.define(l.ladder, l.name, 0, nil, func(m *Machine, x uint8) {
			m.ram[l.ladder] = x
			m.comparator.look(m, m.cycle+1)
		})
	}
	if l.cmcon != 0 {
		v.define(l.cmcon, "CMCON", l.initial, func(m *Machine) uint8 {
			c := &m.comparator
			c.look(m, m.cycle)
			x := m.ram[l.cmcon] & 0x3f
			for i := range c.out {
				if c.out[i] != (x>>(4+i)&1 == 1) { // C1INV, C2INV
					x |= 0x40 << i
				}
			}
			return x
		}, func(m *Machine, x uint8) {
			m.ram[l.cmcon] = x & 0x3f
			m.setAnalog()
			m.comparator.look(m, m.cycle+1)
			m.comparator.outputs(m)
		})
	}
	for i, a := range l.own {
		if a == 0 {
			continue
		}
		v.define(a, [2]string{"CM1CON0", "CM2CON0"}[i], 0, func(m *Machine) uint8 {
			m.comparator.look(m, m.cycle)
			x := m.ram[a] &^ 0x40
			if m.comparator.out[i] != (x>>4&1 == 1) && x&0x80 != 0 {
				x |= 0x40
			}
			return x
		}, func(m *Machine, x uint8) {
			m.ram[a] = x &^ 0x40
			m.comparator.look(m, m.cycle+1)
			m.comparator.outputs(m)
		})
	}
	if l.more != 0 {
		v.define(l.more, "CM2CON1", 2, func(m *Machine) uint8 {
			x := m.ram[l.more] & 0x3f
			for i, a := range l.own {
				if m.comparator.out[i] != (m.ram[a]>>4&1 == 1) && m.ram[a]&0x80 != 0 {
					x |= 0x80 >> i
				}
			}
			return x
		}, func(m *Machine, x uint8) { m.ram[l.more] = x & 0x3f })
	}
}

func (c *comparator) mode(m *Machine) *comparatorMode {
	l := &m.v.comparator
	return &l.modes[m.ram[l.cmcon]&7]
}

// analog are the pins that the comparators make analog.
func (c *comparator) analog(m *Machine) (out []pinAt) {
	l := &m.v.comparator
	if l.cmcon == 0 {
		return nil
	}
	for i, p := range l.inputs {
		if c.mode(m).analog>>i&1 == 1 {
			out = append(out, p)
		}
	}
	return out
}

// ladder is CVREF in µV (13.1).
func (c *comparator) ladder(m *Machine) int64 {
	x := m.ram[m.v.comparator.ladder]
	n, supply := int64(x&15), m.config.Supply
	if x&0x20 != 0 {
		return supply * n / 24
	}
	return supply/4 + supply*n/32
}

// inputs are the voltages at a comparator.
func (c *comparator) inputs(m *Machine, i int, cycle int64) (minus, plus int64, on bool) {
	l := &m.v.comparator
	if l.cmcon == 0 {
		a := l.own[i]
		if a == 0 || m.ram[a]&0x80 == 0 {
			return 0, 0, false
		}
		x := m.ram[a]
		minus = m.voltage(l.negative[x&3], cycle)
		switch {
		case x&4 == 0:
			plus = m.voltage(l.positive[i], cycle)
		case m.ram[l.more]>>(5-i)&1 == 1:
			plus = c.ladder(m)
		default:
			plus = fixedReference
		}
		return minus, plus, true
	}
	mode := c.mode(m)
	if mode.minus[i] < 0 {
		return 0, 0, false
	}
	n := mode.minus[i]
	if mode.or[i] >= 0 && m.ram[l.cmcon]&8 != 0 { // CIS
		n = mode.or[i]
	}
	minus = m.voltage(l.inputs[n], cycle)
	if mode.internal {
		return minus, c.ladder(m), true
	}
	return minus, m.voltage(l.inputs[mode.plus[i]], cycle), true
}

// look compares anew; a change requests an interrupt.
func (c *comparator) look(m *Machine, cycle int64) {
	l := &m.v.comparator
	if l.cmcon == 0 && m.ram[l.own[0]]&0x80 == 0 && m.ram[l.own[1]]&0x80 == 0 {
		return
	}
	was := c.out
	for i := range c.out {
		minus, plus, on := c.inputs(m, i, cycle)
		c.out[i] = on && plus > minus
	}
	if c.out == was {
		return
	}
	f := [2]flag{m.v.flags.comparator1, m.v.flags.comparator2}
	for i := range c.out {
		if c.out[i] != was[i] {
			m.raise(f[i], cycle)
		}
	}
	c.outputs(m)
}

// outputs puts what was compared on pins, where the registers say so.
func (c *comparator) outputs(m *Machine) {
	l := &m.v.comparator
	for i, p := range l.outputs {
		if p.mask == 0 {
			continue
		}
		on, inverted := false, false
		if l.cmcon != 0 {
			on, inverted = c.mode(m).out[i], m.ram[l.cmcon]>>(4+i)&1 == 1
		} else {
			x := m.ram[l.own[i]]
			on, inverted = x&0xa0 == 0xa0, x&0x10 != 0
		}
		if m.release(p); on {
			m.force(p, c.out[i] != inverted)
		}
		m.updatePort(p.port, m.cycle)
	}
}
