package rp2040

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// pin is one GPIO: its registers in IO_BANK0 and PADS_BANK0, and what it does to its net.
type pin struct {
	ctrl, pad uint32
	drive     circuit.Drive
	level     circuit.Level // what the net is at
	high      bool          // what the chip makes of it
}

// bank are the interrupts of IO_BANK0 (2.19.3): four bits for each pin, of levels and edges.
type bank struct {
	edges          [4]uint32 // INTR: those that stay
	enabled, force [4]uint32 // of core 0
}

// Functions of pins (2.19.2).
const (
	functionSPI  = 1
	functionUART = 2
	functionI2C  = 3
	functionPWM  = 4
	functionSIO  = 5
)

// Bits of pads (2.19.6.3).
const (
	padDown  = 1 << 2
	padUp    = 1 << 3
	padInput = 1 << 6
	padOff   = 1 << 7
)

// drives gives what a pin does to its net at a cycle.
func (m *Machine) drives(i int, cycle int64) circuit.Drive {
	p := &m.pins[i]
	out, enabled := false, false
	if m.resets.held>>5&1 == 0 {
		switch p.ctrl & 31 {
		case functionSIO:
			out, enabled = m.sio.out>>i&1 == 1, m.sio.oe>>i&1 == 1
		case functionPWM:
			out, enabled = m.pwm.high(i, cycle), true
		case functionI2C: // open drain
			x := &m.i2cs[i>>1&1]
			out, enabled = false, x.sdaLow && i&1 == 0 || x.sclLow && i&1 == 1
		case functionSPI:
			out, enabled = m.spis[i>>3&1].drives(i & 3)
		case functionUART:
			if i&3 == 0 {
				out, enabled = m.uarts[(i+4)>>3&1].line(), true
			}
		}
		out = override(out, p.ctrl>>8&3)
		enabled = override(enabled, p.ctrl>>12&3)
	}
	switch {
	case enabled && p.pad&padOff == 0 && m.resets.held>>8&1 == 0:
		return circuit.Output(out)
	case p.pad&padUp != 0:
		return circuit.PulledUp
	case p.pad&padDown != 0:
		return circuit.PulledDown
	}
	return circuit.Released
}

func override(v bool, how uint32) bool {
	switch how {
	case 1:
		return !v
	case 2:
		return false
	case 3:
		return true
	}
	return v
}

// allPins is the mask of all there are.
const allPins = 1<<gpios - 1

// updatePins computes what some pins do now and tells the listener what is new, all at once.
func (m *Machine) updatePins(which uint32) {
	m.tellWaves()
	m.updatePinsAt(which, m.core.Cycle, nil)
}

// updatePinsAt is updatePins for a cycle that is over, by the instruction at a place; nil for the one at hand.
func (m *Machine) updatePinsAt(which uint32, cycle int64, by *machine.Place) {
	m.changes = m.changes[:0]
	changed := false
	for ; which != 0; which &= which - 1 {
		i := lowest(which)
		p := &m.pins[i]
		d := m.drives(i, cycle)
		if d == p.drive {
			continue
		}
		p.drive, changed = d, true
		// As far as the pin alone decides; the bench corrects what the rest of the net decides.
		m.sees(i, d.Level)
		if m.watched>>i&1 == 1 {
			m.changes = append(m.changes, machine.Change{Pin: machine.Pin(i), Drive: d})
		}
	}
	if !changed || len(m.changes) == 0 || m.listener == nil {
		return
	}
	m.core.Counters.Edges += int64(len(m.changes))
	place := m.place()
	if by != nil {
		place = *by
	}
	until := m.listener.Drive(m.now.At(cycle), m.changes, place)
	if until != clock.Never {
		if c := m.now.CycleAt(until); c < m.until {
			m.until = c
			m.core.Deadline = min(m.core.Deadline, c)
		}
	}
}

// Input is what a pin's net is at, from now on.
func (m *Machine) Input(p machine.Pin, level circuit.Level) {
	if p == run {
		m.resetLow = level == circuit.Low
		return
	}
	m.sees(int(p), level)
}

// sees takes what a pin's net is at, with what that means to interrupts and peripherals.
func (m *Machine) sees(i int, level circuit.Level) {
	p := &m.pins[i]
	if p.level == level {
		return
	}
	was := p.high
	p.level, m.stale = level, true
	if p.high = level == circuit.High; p.high == was {
		return
	}
	if p.pad&padInput != 0 {
		bit := uint32(2) // an edge down
		if p.high {
			bit = 3
		}
		m.bank.edges[i>>3] |= 1 << (4*(uint32(i)&7) + bit)
		m.requestBank()
	}
	for k := range m.uarts {
		m.uarts[k].received(m, i, p.high)
	}
}

// Drives gives what a pin does to its net now.
func (m *Machine) Drives(p machine.Pin) circuit.Drive {
	if p == run {
		return circuit.PulledUp
	}
	return m.pins[p].drive
}

// noiseCycles is how long a floating input keeps the level it happens to have.
const noiseCycles = 1 << 14

// readPins is what the inputs show; those whose input is off show 0.
func (m *Machine) readPins() uint32 {
	m.tellWaves()
	if m.stale {
		m.refresh()
	}
	v := m.levels
	if m.floating != 0 {
		noise := uint32(m.noise())
		for f := m.floating; f != 0; f &= f - 1 {
			if i := lowest(f); override(noise>>i&1 == 1, m.pins[i].ctrl>>16&3) {
				v |= 1 << i
			}
		}
	}
	return v
}

// refresh finds out anew what the pins are at, and which of those whose input is on float.
func (m *Machine) refresh() {
	m.stale, m.levels, m.floating = false, 0, 0
	for i := range m.pins {
		switch p := &m.pins[i]; {
		case p.pad&padInput == 0:
		case p.level == circuit.Float:
			m.floating |= 1 << i
		case override(p.high, p.ctrl>>16&3):
			m.levels |= 1 << i
		}
	}
}

// floats are the pins that a person should know of when the program looks at them: wired, and driven by nothing.
func (m *Machine) floats() uint32 {
	if m.config.Watched == nil {
		return 0
	}
	if m.stale {
		m.refresh()
	}
	return m.floating & m.watched &^ m.floated
}

// tellFloating tells of such a pin, once of each.
func (m *Machine) tellFloating() {
	pins := m.floats()
	if pins == 0 {
		return
	}
	if pins &= m.looked(); pins == 0 {
		return
	}
	i := lowest(pins)
	m.floated |= 1 << i
	name := Chip.Pins[i].Name
	m.note("floating-"+name, "%s was read while nothing drove it; what it reads is chance (is a pull-up missing?)", name)
}

// looked gives the bits of the word that the instruction at hand loads which the next few look at; all bits where that
// cannot be told.
func (m *Machine) looked() uint32 {
	c := m.core
	code := func(k uint32) uint32 {
		if i := c.R[15] + 2*k - flashAt; uint64(i)+2 <= uint64(len(m.flash)) {
			return uint32(m.flash[i]) | uint32(m.flash[i+1])<<8
		}
		return 0
	}
	in := code(0) & 7
	for k := uint32(1); k < 4; k++ {
		switch n := code(k); {
		case n>>11 == 0 && n>>3&7 == in && n>>6&31 > 0: // LSL: to the sign
			return 1 << (31 - n>>6&31)
		case n>>11 == 1 && n>>3&7 == in && n>>6&31 > 0: // LSR: down to bit 0
			return 1 << (n >> 6 & 31)
		case n>>6 == 0b0100001000 && n&7 == in, n>>6 == 0b0100000000 && n&7 == in: // TST, AND
			return c.R[n>>3&7]
		case n>>6 == 0b0100001000 && n>>3&7 == in, n>>6 == 0b0100000000 && n>>3&7 == in:
			return c.R[n&7]
		case n>>11 == 0b00100 && n>>8&7 != in: // MOV of something else
		default:
			return ^uint32(0)
		}
	}
	return ^uint32(0)
}

func (m *Machine) noise() uint64 {
	return machine.Mix(m.config.Seed ^ uint64(m.core.Cycle/noiseCycles))
}

// raw is INTR of some pins: edges that stay, and levels as they are.
func (m *Machine) raw(n int) uint32 {
	m.tellWaves()
	v := m.bank.edges[n] & 0xcccc_cccc
	for k := range 8 {
		i := 8*n + k
		if i >= gpios || m.pins[i].pad&padInput == 0 {
			continue
		}
		if m.pins[i].high {
			v |= 2 << (4 * k)
		} else {
			v |= 1 << (4 * k)
		}
	}
	return v
}

func (m *Machine) requestBank() {
	on := false
	for n := range 4 {
		on = on || m.raw(n)&m.bank.enabled[n]|m.bank.force[n] != 0
	}
	m.core.Request(13, on)
}

func (m *Machine) readBank(offset uint32) uint32 {
	if i := offset / 8; i < gpios {
		if offset&4 != 0 {
			return m.pins[i].ctrl
		}
		return m.status(int(i))
	}
	n := int(offset>>2) & 3
	switch {
	case offset >= 0xf0 && offset < 0x100:
		return m.raw(n)
	case offset >= 0x100 && offset < 0x110:
		return m.bank.enabled[n]
	case offset >= 0x110 && offset < 0x120:
		return m.bank.force[n]
	case offset >= 0x120 && offset < 0x130:
		return m.raw(n)&m.bank.enabled[n] | m.bank.force[n]
	}
	return m.plain[0x4001_4000+offset]
}

// status is GPIOx_STATUS (2.19.6.1): what goes out, whether it does, and what comes in.
func (m *Machine) status(i int) uint32 {
	v := uint32(0)
	if d := m.pins[i].drive; d.Strength == circuit.PushPull {
		v |= 1 << 13
		if d.Level == circuit.High {
			v |= 1 << 9
		}
	}
	if m.readPins()>>i&1 == 1 {
		v |= 1<<17 | 1<<19
	}
	return v
}

func (m *Machine) writeBank(offset, v uint32) {
	m.tellWaves()
	if i := offset / 8; i < gpios {
		if offset&4 != 0 {
			m.give(int(i), v)
			m.tellFunction(int(i), v&31)
			m.updatePins(1 << i)
			m.pwm.schedule(m)
		}
		return
	}
	n := offset >> 2 & 3
	switch {
	case offset >= 0xf0 && offset < 0x100:
		m.bank.edges[n] &^= v
	case offset >= 0x100 && offset < 0x110:
		m.bank.enabled[n] = v
		m.pwm.schedule(m)
	case offset >= 0x110 && offset < 0x120:
		m.bank.force[n] = v
	default:
		m.plain[0x4001_4000+offset] = v
	}
	m.requestBank()
}

// give gives a pin to a function.
func (m *Machine) give(i int, ctrl uint32) {
	m.given[m.pins[i].ctrl&31] &^= 1 << i
	m.given[ctrl&31] |= 1 << i
	m.pins[i].ctrl, m.stale = ctrl, true
}

// tellFunction tells where a pin is given to a peripheral that is not modelled.
func (m *Machine) tellFunction(i int, function uint32) {
	if name := map[uint32]string{6: "PIO0", 7: "PIO1"}[function]; name != "" {
		m.note("unmodelled "+name+" pin", "GP%d is given to %s, which is not modelled: the pin does nothing", i, name)
	}
}

func (m *Machine) readPads(offset uint32) uint32 {
	if i := offset/4 - 1; offset >= 4 && i < gpios {
		return m.pins[i].pad
	}
	return m.plain[0x4001_c000+offset]
}

func (m *Machine) writePads(offset, v uint32) {
	m.tellWaves()
	if i := offset/4 - 1; offset >= 4 && i < gpios {
		m.pins[i].pad, m.stale = v&0xff, true
		m.updatePins(1 << i)
		m.pwm.schedule(m)
		m.requestBank()
		return
	}
	m.plain[0x4001_c000+offset] = v
}
