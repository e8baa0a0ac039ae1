package pic14

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// ccpLayout is where a capture, compare and PWM module has its registers and pins (DS33023A, 14).
type ccpLayout struct {
	name      string
	con       uint16 // CCPxCON
	low, high uint16 // CCPRxL, CCPRxH
	pin, or   pinAt  // or is another place, by the configuration word
	flag      flag
	special   bool // its special event starts a conversion, too
	// Of an enhanced one (DS41291, 11.6): the pins P1A to P1D, and its registers; else zero.
	bridge                   [4]pinAt
	delay, shutdown, steered uint16
}

// ccp is one of those modules.
type ccp struct {
	l       *ccpLayout
	high    bool          // the pulse is on
	width   int64         // of this period's pulse, in clocks of the oscillator
	divided uint8         // edges that a capture's divider has
	level   bool          // of a compare output
	by      machine.Place // where the program set it last: what it does to pins comes from there
}

func (v *Variant) defineCCPs() {
	for i := range v.ccps {
		l := &v.ccps[i]
		v.define(l.con, l.name+"CON", 0, nil, func(m *Machine, x uint8) {
			m.ccps[i].configure(m, x)
		})
		changed := func(a uint16) func(*Machine, uint8) {
			return func(m *Machine, x uint8) {
				m.timer1.sync(m)
				m.ram[a], m.ccps[i].by = x, m.place()
				m.timer1.schedule(m)
			}
		}
		n := l.name[3:]
		v.define(l.low, "CCPR"+n+"L", 0, nil, changed(l.low))
		v.define(l.high, "CCPR"+n+"H", 0, nil, changed(l.high))
		if l.delay == 0 {
			continue
		}
		v.define(l.delay, "PWM1CON", 0, nil, nil)
		v.define(l.shutdown, "ECCPAS", 0, nil, func(m *Machine, x uint8) {
			m.ram[l.shutdown] = x
			if x&0x70 != 0 {
				m.note("unmodelled ECCPAS", "the automatic shutdown of the PWM (ECCPAS) is not modelled")
			}
		})
		v.define(l.steered, "PSTRCON", 1, nil, func(m *Machine, x uint8) {
			m.ram[l.steered] = x & 0x1f
			m.ccps[i].by = m.place()
			m.ccps[i].output(m, m.cycle, m.now.At(m.cycle))
		})
	}
}

func (c *ccp) mode(m *Machine) uint8 { return m.ram[c.l.con] & 15 }

func (c *ccp) comparing(m *Machine) bool { return c.mode(m)&12 == 8 }

func (c *ccp) pulsing(m *Machine) bool { return c.mode(m)&12 == 12 }

// wide is CCPRx.
func (c *ccp) wide(m *Machine) uint16 { return uint16(m.ram[c.l.low]) | uint16(m.ram[c.l.high])<<8 }

// ccpPin is the pin of a module.
func (m *Machine) ccpPin(i int) pinAt {
	l := m.ccps[i].l
	if l.or.mask != 0 && !m.fuse(m.v.fuses.compareElsewhere) {
		return l.or
	}
	return l.pin
}

func (c *ccp) pin(m *Machine) pinAt { return m.ccpPin(c.index(m)) }

func (c *ccp) index(m *Machine) int {
	for i := range m.ccps {
		if &m.ccps[i] == c {
			return i
		}
	}
	return 0
}

// configure takes CCPxCON.
func (c *ccp) configure(m *Machine, x uint8) {
	m.timer1.sync(m)
	was := c.mode(m)
	m.ram[c.l.con], c.by = x, m.place()
	if c.mode(m) != was {
		c.divided = 0
		switch c.mode(m) {
		case 8:
			c.level = false
		case 9:
			c.level = true
		}
		if !c.pulsing(m) {
			c.high = false
		} else {
			c.width = c.duty(m)
			if m.timer2.on(m) && !m.asleep {
				c.high = m.timer2.clocks(m, m.cycle) < c.width
			}
		}
	}
	c.output(m, m.cycle, m.now.At(m.cycle))
	m.timer1.schedule(m)
	m.timer2.schedule(m)
}

// duty is the width of a pulse in clocks of the oscillator: ten bits of CCPRxL and DCxB, each the divider long
// (14.5.2).
func (c *ccp) duty(m *Machine) int64 {
	return int64(uint16(m.ram[c.l.low])<<2|uint16(m.ram[c.l.con]>>4&3)) * m.timer2.divider(m)
}

// begin begins a period with the duty that is written by then.
func (c *ccp) begin(m *Machine, cycle int64) {
	if !c.pulsing(m) {
		return
	}
	c.width = c.duty(m)
	m.ram[c.l.high] = m.ram[c.l.low] // CCPRxH is what the pulse is compared with
	c.high = c.width > 0
	c.output(m, cycle, m.now.At(cycle))
}

// edgeAt is the end of the pulse, in clocks from the period's beginning; never where none is to come.
func (c *ccp) edgeAt(m *Machine) int64 {
	if !c.pulsing(m) || !c.high || c.width >= m.timer2.counts(m)*4*m.timer2.divider(m) {
		return never
	}
	return c.width
}

// fall ends the pulse, at a clock of the oscillator.
func (c *ccp) fall(m *Machine, cycle, clocks int64) {
	c.high = false
	c.output(m, cycle, m.now.Clock(clocks))
}

// output puts the module's level on its pins.
func (c *ccp) output(m *Machine, cycle int64, t clock.Time) {
	if c.l.bridge[0].mask != 0 && c.pulsing(m) {
		c.outputBridge(m, cycle, t)
		return
	}
	for _, p := range c.l.bridge {
		m.release(p)
	}
	p := c.pin(m)
	level := c.level
	switch mode := c.mode(m); {
	case c.pulsing(m):
		level = c.high
	case mode != 8 && mode != 9:
		m.release(p)
		m.updatePortAt(p.port, cycle, t, &c.by)
		return
	}
	m.force(p, level)
	m.updatePortAt(p.port, cycle, t, &c.by)
}

// outputBridge is PWM of an enhanced module: one pin or several steered ones, two that never are on together, or a full
// bridge (DS41291, 11.6). The pause between the two of a half bridge is left out.
func (c *ccp) outputBridge(m *Machine, cycle int64, t clock.Time) {
	on := [4]bool{}
	used := [4]bool{}
	switch m.ram[c.l.con] >> 6 {
	case 0:
		for i := range on {
			used[i] = m.ram[c.l.steered]>>i&1 == 1
			on[i] = c.high
		}
	case 2:
		used = [4]bool{true, true}
		on = [4]bool{c.high, !c.high}
		if m.ram[c.l.delay]&0x7f != 0 {
			m.note("unmodelled PWM1CON", "the pause between the pins of a half bridge (PWM1CON.PDC) is not modelled")
		}
	case 1:
		used = [4]bool{true, true, true, true}
		on = [4]bool{0: true, 3: c.high}
	default:
		used = [4]bool{true, true, true, true}
		on = [4]bool{2: true, 1: c.high}
	}
	low := [4]bool{} // active low
	if mode := c.mode(m); mode >= 14 {
		low[0], low[2] = true, true
	}
	if mode := c.mode(m); mode == 13 || mode == 15 {
		low[1], low[3] = true, true
	}
	ports := map[int]bool{}
	for i, p := range c.l.bridge {
		if used[i] {
			m.force(p, on[i] != low[i])
		} else {
			m.release(p)
		}
		ports[p.port] = true
	}
	for i := range m.ports {
		if ports[i] {
			m.updatePortAt(i, cycle, t, &c.by)
		}
	}
}

// force has a peripheral decide a pin's level where the pin is an output.
func (m *Machine) force(p pinAt, high bool) {
	x := &m.ports[p.port]
	x.override |= p.mask
	if x.forced &^= p.mask; high {
		x.forced |= p.mask
	}
}

func (m *Machine) release(p pinAt) { m.ports[p.port].override &^= p.mask }

// matched is a compare match (14.4).
func (c *ccp) matched(m *Machine, cycle int64) {
	switch c.mode(m) {
	case 8:
		c.level = true
	case 9:
		c.level = false
	case 11:
		m.timer1.returns = true
		if c.l.special {
			m.adc.trigger(m, cycle)
		}
	}
	m.raise(c.l.flag, cycle)
	c.output(m, cycle, m.now.At(cycle))
}

// pinEdge is an edge at the pin: a capture, of every falling or rising one, every fourth or sixteenth (14.3).
func (c *ccp) pinEdge(m *Machine, up bool, cycle int64) {
	mode := c.mode(m)
	if mode < 4 || mode > 7 || up != (mode != 4) {
		return
	}
	if need := [4]uint8{1, 1, 4, 16}[mode-4]; need > 1 {
		if c.divided++; c.divided < need {
			return
		}
		c.divided = 0
	}
	m.timer1.sync(m)
	m.ram[c.l.low], m.ram[c.l.high] = uint8(m.timer1.count), uint8(m.timer1.count>>8)
	m.raise(c.l.flag, cycle)
}
