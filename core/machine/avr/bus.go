package avr

import "hemble/core/machine"

// register is one I/O register: its name, what reading or writing does beyond memory, and where it is kept.
type register struct {
	name  string
	read  func(m *Machine, at uint16) uint8
	write func(m *Machine, at uint16, value uint8)
	at    uint16
}

// load reads the data space at m.cycle. An access to I/O first sees to what is due by then; SREG has
// nothing to do with that. The interpreter takes SRAM and plain registers by itself.
func (m *Machine) load(address uint16) uint8 {
	switch {
	case address >= m.sramStart:
		if address > m.ramEnd {
			m.note("outside-sram", "the program read address 0x%04X, beyond the SRAM, which ends at 0x%04X", address,
				m.ramEnd)
			return 0
		}
	case address >= 0x20:
		r := &m.v.registers[address]
		if r.read != nil {
			if !m.v.isState[address] {
				m.unlike++
			}
			if m.next <= m.cycle && address != regSREG {
				m.fire()
			}
			return r.read(m, r.at)
		}
		if r.name == "" {
			m.note("reserved", "the program read the reserved I/O address 0x%02X", address)
			return 0
		}
		return m.io[r.at]
	}
	return m.data[address]
}

// store writes the data space at m.cycle.
func (m *Machine) store(address uint16, value uint8) {
	switch {
	case address >= m.sramStart:
		if address > m.ramEnd {
			m.note("outside-sram", "the program wrote address 0x%04X, beyond the SRAM, which ends at 0x%04X", address,
				m.ramEnd)
			return
		}
	case address >= 0x20:
		r := &m.v.registers[address]
		if r.write != nil {
			if !m.v.isState[address] {
				m.unlike++
			}
			if m.next <= m.cycle && address != regSREG {
				m.fire()
			}
			r.write(m, r.at, value)
			return
		}
		if r.name == "" {
			m.note("reserved", "the program wrote the reserved I/O address 0x%02X", address)
			return
		}
		m.io[r.at] = value
		return
	}
	m.data[address] = value
}

// storeBit is SBI and CBI. Only the one bit is written: flags cleared by writing a one keep the
// others, and a one in PINx toggles one pin (datasheet 14.2.2).
func (m *Machine) storeBit(address uint16, mask uint8, on bool) {
	switch {
	case m.v.isFlags[address], m.v.pinsOf[address] >= 0:
		if on {
			m.store(address, mask)
		}
	case on:
		m.store(address, m.load(address)|mask)
	default:
		m.store(address, m.load(address)&^mask)
	}
}

// place is the program point to which an effect is ascribed.
func (m *Machine) place() machine.Place {
	if m.by != nil {
		return *m.by
	}
	if m.sp <= m.ramEnd {
		return machine.Place{PC: uint32(m.pc) * 2, Stack: [24]uint8(m.data[m.sp+1:])}
	}
	return machine.Place{PC: uint32(m.pc) * 2}
}
