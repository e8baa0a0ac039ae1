package rp2040

import (
	"hemble/core/machine/armm"
	"hemble/core/machine/loops"
)

// Follow walks one instruction; see loops.Core.
func (m *Machine) Follow(w *loops.Walk) bool { return m.core.Follow(w, m) }

// Put changes a place that counts rounds.
func (m *Machine) Put(p loops.Place, v uint64) { m.core.Put(p, v) }

// TimeAt tells which registers are the timer's count.
func (m *Machine) TimeAt(address uint32) (id, bits, from uint8, ok bool) {
	switch {
	case m.resets.held>>21&1 == 1 || m.timer.period == 0:
	case address == 0x4005_4000+timeRawL:
		return 0, 64, 0, true
	case address == 0x4005_4000+timeRawH:
		return 0, 64, 32, true
	}
	return 0, 0, 0, false
}

// Idle tells whether pins of SIO are as a write would make them.
func (m *Machine) Idle(address, v uint32) (register uint32, ok bool) {
	const outputs, enables = 0xd000_0010, 0xd000_0020
	now := m.sio.out
	register = outputs
	if address >= enables {
		register, now = enables, m.sio.oe
	}
	switch address - register {
	case 0:
		return register, v&(1<<gpios-1) == now
	case 4:
		return register, v&^now&(1<<gpios-1) == 0
	case 8:
		return register, v&now == 0
	}
	return 0, false
}

// Count gives the timer, or SysTick.
func (m *Machine) Count(id uint8, cycle int64) (loops.Count, bool) {
	if id == armm.SysTickCount {
		return m.core.Count(cycle)
	}
	t := &m.timer
	return loops.Count{Value: t.at(cycle), Base: t.since, Period: t.period, Until: loops.Never}, true
}

// Look gives what a place holds at the head of a loop: of peripherals, registers that can be read without an effect and
// stay as they are until an event.
func (m *Machine) Look(p loops.Place, _ uint64) (v uint64, until int64, ok bool) {
	if v, ok := m.core.Look(p); ok {
		return v, loops.Never, true
	}
	address := uint32(p)
	if address>>28 == 0xe {
		return m.core.LookAtSystem(address)
	}
	b, offset, alias := at(address)
	if b == nil || alias != 0 || b.reset < 32 && m.resets.held>>b.reset&1 == 1 {
		return 0, 0, false
	}
	until = loops.Never
	switch b.name {
	case "SIO":
		switch {
		case offset == 4 && m.floats() != 0: // the program is told of it at the first look
			return 0, 0, false
		case offset == 4:
			if m.readPins(); m.floating != 0 { // that is noise for a while
				until = (m.core.Cycle/noiseCycles + 1) * noiseCycles
			}
			for w := uint32(m.pwm.waves); w != 0; w &= w - 1 {
				until = min(until, m.pwm.slices[lowest(w)].edge)
			}
		case offset > 0x20 && offset != 0x5c:
			return 0, 0, false
		}
	case "IO_BANK0":
		if offset < 0xf0 {
			return 0, 0, false
		}
	case "UART0", "UART1":
		if offset < 0x18 {
			return 0, 0, false
		}
	case "I2C0", "I2C1":
		if offset == 0x10 || offset >= 0x40 && offset < 0x6c {
			return 0, 0, false
		}
	case "SPI0", "SPI1":
		if offset == 8 {
			return 0, 0, false
		}
	case "DMA": // what moves on is an event
	case "RTC":
		// a look at the time keeps the day, which changes nothing where it is kept already
		if day, _ := m.rtc.now.words(); m.rtc.latched != day {
			return 0, 0, false
		}
	case "ADC":
		if offset == 0xc {
			return 0, 0, false
		}
	case "TIMER":
		if offset < alarm0 {
			return 0, 0, false
		}
	case "PWM":
		if offset < 0xa0 && offset%20 == 8 {
			return 0, 0, false
		}
	case "XOSC":
		if offset == 4 && m.core.Cycle < m.clocks.steady {
			until = m.clocks.steady
		}
	case "RESETS", "CLOCKS", "PLL_SYS", "PLL_USB", "WATCHDOG":
	default:
		return 0, 0, false
	}
	if b.name == "SIO" && offset == 4 {
		return uint64(m.readPins()), until, true
	}
	return uint64(m.register(b, address, offset)), until, true
}
