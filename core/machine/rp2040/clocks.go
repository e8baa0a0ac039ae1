package rp2040

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// rosc is the ring oscillator as it is after reset: about this (2.17).
const rosc = clock.Rate(6_500_000)

// resets is the block of that name (2.14): a bit for each peripheral that is held in reset.
type resets struct{ held uint32 }

const allBlocks = 0x1ff_ffff

func (m *Machine) readResets(offset uint32) uint32 {
	switch offset {
	case 0:
		return m.resets.held
	case 8: // RESET_DONE
		return ^m.resets.held & allBlocks
	}
	return m.plain[0x4000_c000+offset]
}

func (m *Machine) writeResets(offset, v uint32) {
	if offset != 0 {
		m.plain[0x4000_c000+offset] = v
		return
	}
	m.tellWaves()
	v &= allBlocks
	fresh := v &^ m.resets.held
	m.resets.held = v
	for i, bit := range []uint{22, 23} {
		if fresh>>bit&1 == 1 {
			m.uarts[i].restart(m)
		}
	}
	for i, bit := range []uint{16, 17} {
		if fresh>>bit&1 == 1 {
			m.spis[i].restart(m)
		}
	}
	if fresh>>15&1 == 1 {
		m.rtc = rtc{}
		m.setDue(dueRTC, never)
		m.core.Request(25, false)
	}
	if fresh>>2&1 == 1 {
		m.dma = newDMA()
		m.setDue(dueDMA, never)
		m.requestDMA()
	}
	for i, bit := range []uint{3, 4} {
		if fresh>>bit&1 == 1 {
			m.i2cs[i].reset(m)
		}
	}
	if fresh>>14&1 == 1 {
		m.pwm.reset()
		m.setDue(duePWM, never)
	}
	if fresh>>21&1 == 1 {
		m.timer.restart(m)
	}
	if fresh>>0&1 == 1 {
		m.adc = adc{}
		m.setDue(dueADC, never)
	}
	if fresh>>5&1 == 1 {
		m.bank = bank{}
		for i := range m.pins {
			m.give(i, 0x1f)
		}
	}
	if fresh>>8&1 == 1 {
		for i := range m.pins {
			m.pins[i].pad, m.stale = 0x56, true
		}
	}
	m.updatePins(allPins)
	m.pwm.schedule(m)
}

// Clock generators (2.15.3), by the order of their registers.
const (
	clkRef    = 4
	clkSys    = 5
	clkPeri   = 6
	clkADC    = 8
	clkRTC    = 9
	clockSets = 10
)

// clocks are the generators, the crystal oscillator and the PLLs.
type clocks struct {
	ctrl, div [clockSets]uint32
	crystal   uint32 // XOSC CTRL
	startup   uint32
	steady    int64 // the cycle from which on the crystal swings
	plls      [2]pll
}

func (c *clocks) reset(m *Machine) {
	*c = clocks{startup: 0xc4}
	for i := range c.div {
		c.div[i] = 0x100
	}
	for i := range c.plls {
		c.plls[i] = pll{cs: 1, power: 0x2d, primary: 0x7_7000}
	}
	m.rebase()
}

func (m *Machine) crystalRuns() bool { return m.clocks.crystal>>12&0xfff == 0xfab }

func (m *Machine) readCrystal(offset uint32) uint32 {
	c := &m.clocks
	switch offset {
	case 0:
		return c.crystal
	case 4: // STATUS
		v := uint32(0)
		if m.crystalRuns() {
			v = 1 << 12
			if m.core.Cycle >= c.steady {
				v |= 1 << 31
			}
		}
		return v
	case 0xc:
		return c.startup
	}
	return m.plain[0x4002_4000+offset]
}

func (m *Machine) writeCrystal(offset, v uint32) {
	c := &m.clocks
	switch offset {
	case 0:
		was := m.crystalRuns()
		if c.crystal = v & 0xff_ffff; m.crystalRuns() && !was {
			ticks := int64(c.startup&0x3fff) * 256 // of the crystal (2.16.3)
			c.steady = m.core.Cycle + ticks*int64(m.now.Rate)/int64(m.config.Clock)
		}
		m.rebase()
	case 0xc:
		c.startup = v
	default:
		m.plain[0x4002_4000+offset] = v
	}
}

// pll is one of the two (2.18). It locks at once: the datasheet gives no time.
type pll struct{ cs, power, feedback, primary uint32 }

func (p *pll) read(offset uint32) uint32 {
	switch offset {
	case 0:
		v := p.cs &^ (1 << 31)
		if p.power&0x21 == 0 && p.feedback >= 16 {
			v |= 1 << 31
		}
		return v
	case 4:
		return p.power
	case 8:
		return p.feedback
	}
	return p.primary
}

func (p *pll) write(m *Machine, offset, v uint32) {
	switch offset {
	case 0:
		p.cs = v & 0x13f
	case 4:
		p.power = v & 0x2d
	case 8:
		p.feedback = v & 0xfff
	case 12:
		p.primary = v & 0x7_7000
	}
	m.rebase()
}

// rate is what a PLL gives: the crystal divided, multiplied, and divided twice (2.18.2).
func (p *pll) rate(crystal clock.Rate) clock.Rate {
	ref, first, second := p.cs&0x3f, p.primary>>16&7, p.primary>>12&7
	if p.power&0x29 != 0 || ref == 0 || first == 0 || second == 0 {
		return 0
	}
	return crystal / clock.Rate(ref) * clock.Rate(p.feedback) / clock.Rate(first*second)
}

func (m *Machine) readClocks(offset uint32) uint32 {
	c := &m.clocks
	if i := offset / 12; i < clockSets {
		switch offset % 12 {
		case 0:
			return c.ctrl[i]
		case 4:
			return c.div[i]
		default: // SELECTED
			if i == clkRef || i == clkSys {
				return 1 << (c.ctrl[i] & 3)
			}
			return 1
		}
	}
	switch offset {
	case 0x98: // FC0_STATUS: what was asked for is counted at once
		if m.plain[0x4000_8094] != 0 {
			return 1 << 4
		}
	case 0x9c: // FC0_RESULT, in thirty-seconds of a kHz
		return uint32(m.counted(m.plain[0x4000_8094]&0xff) * 32 / 1000)
	}
	return m.plain[0x4000_8000+offset]
}

// counted is the rate of a source of the frequency counter, by its number in FC0_SRC (2.15.6.2).
func (m *Machine) counted(source uint32) clock.Rate {
	crystal := clock.Rate(0)
	if m.crystalRuns() {
		crystal = m.config.Clock
	}
	switch {
	case source == 1 || source == 2:
		return m.clocks.plls[source-1].rate(crystal)
	case source == 3 || source == 4:
		return rosc
	case source == 5:
		return crystal
	case source >= 8 && source < 14:
		return m.rateOf(clkRef + int(source-8))
	}
	return 0
}

func (m *Machine) writeClocks(offset, v uint32) {
	c := &m.clocks
	i := offset / 12
	switch {
	case i >= clockSets:
		m.plain[0x4000_8000+offset] = v
		return
	case offset%12 == 0:
		c.ctrl[i] = v
	case offset%12 == 4:
		c.div[i] = v
	}
	m.rebase()
}

// rateOf is the rate of a clock generator, 0 for one that stands.
func (m *Machine) rateOf(i int) clock.Rate {
	c := &m.clocks
	crystal := clock.Rate(0)
	if m.crystalRuns() {
		crystal = m.config.Clock
	}
	sys, usb := c.plls[0].rate(crystal), c.plls[1].rate(crystal)
	aux := c.ctrl[i] >> 5 & 7
	var from clock.Rate
	switch i {
	case clkRef:
		from = []clock.Rate{rosc, usb, crystal, 0}[c.ctrl[i]&3]
	case clkSys:
		from = m.rateOf(clkRef)
		if c.ctrl[i]&1 == 1 {
			from = []clock.Rate{sys, usb, rosc, crystal, 0, 0, 0, 0}[aux]
		}
	case clkPeri:
		if c.ctrl[i]>>11&1 == 0 {
			return 0
		}
		from = []clock.Rate{m.rateOf(clkSys), sys, usb, rosc, crystal, 0, 0, 0}[aux]
		return from
	default:
		if c.ctrl[i]>>11&1 == 0 {
			return 0
		}
		from = []clock.Rate{usb, sys, rosc, crystal, 0, 0, 0, 0}[aux]
	}
	div := int64(c.div[i])
	if div>>8 == 0 {
		div |= 0x1_0000 << 8
	}
	if i == clkRef {
		div = div >> 8 & 3 << 8
		if div == 0 {
			div = 4 << 8
		}
	}
	return clock.Rate(int64(from) * 256 / div)
}

// rebase takes a new base of time where the system clock changes. A clock that stands stops the chip: there is nothing
// that could start it again.
func (m *Machine) rebase() {
	rate := m.rateOf(clkSys)
	if rate == 0 {
		rate = rosc
		if m.core.Cycle > 0 {
			m.note("unmodelled clock", "the system clock was switched to a source that stands; it goes on at %s", rosc)
		}
	}
	m.tellWaves()
	m.timer.sync(m)
	if cycle := m.core.Cycle; rate != m.now.Rate {
		until := m.now.At(m.until)
		m.now = machine.Timebase{Rate: rate, Clocks: 1, Cycle: cycle, Time: m.now.At(cycle)}
		if m.until != never {
			m.until = m.now.CycleAt(until)
		}
		m.core.Deadline = min(m.core.Deadline, cycle)
	}
	m.timer.retime(m)
	if m.rtc.running {
		m.setDue(dueRTC, m.now.CycleAt(m.rtc.next))
	} else if m.rtc.ctrl&rtcEnable != 0 {
		m.rtc.retime(m, m.Now()) // its clock may have come
	}
}
