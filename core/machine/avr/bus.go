package avr

import "hemble/core/machine"

// register is one I/O register: its name, and what reading or writing does beyond memory.
type register struct {
	name  string
	read  func(m *Machine, address uint16) uint8
	write func(m *Machine, address uint16, value uint8)
}

// registers by data address. An address without a name is reserved.
var registers [sramStart]register

// isPlain tells the registers that can be read like memory, by a quick look.
var isPlain [sramStart]bool

func define(address uint16, name string, read func(*Machine, uint16) uint8, write func(*Machine, uint16, uint8)) {
	registers[address] = register{name, read, write}
	isPlain[address] = read == nil
}

// load reads the data space at m.cycle. An access to I/O first sees to what is due by then; SREG has
// nothing to do with that. The interpreter takes SRAM and plain registers by itself.
func (m *Machine) load(address uint16) uint8 {
	switch {
	case address >= sramStart:
		if address > ramEnd {
			m.note("outside-sram", "the program read address 0x%04X, beyond the SRAM, which ends at 0x%04X", address, ramEnd)
			return 0
		}
	case address >= 0x20:
		if hook := registers[address].read; hook != nil {
			if m.next <= m.cycle && address != regSREG {
				m.fire()
			}
			return hook(m, address)
		}
		if registers[address].name == "" {
			m.note("reserved", "the program read the reserved I/O address 0x%02X", address)
		}
	}
	return m.data[address]
}

// store writes the data space at m.cycle.
func (m *Machine) store(address uint16, value uint8) {
	switch {
	case address >= sramStart:
		if address > ramEnd {
			m.note("outside-sram", "the program wrote address 0x%04X, beyond the SRAM, which ends at 0x%04X", address, ramEnd)
			return
		}
	case address >= 0x20:
		if hook := registers[address].write; hook != nil {
			if m.next <= m.cycle && address != regSREG {
				m.fire()
			}
			hook(m, address, value)
			return
		}
		if registers[address].name == "" {
			m.note("reserved", "the program wrote the reserved I/O address 0x%02X", address)
			return
		}
	}
	m.data[address] = value
}

// storeBit is SBI and CBI. Only the one bit is written: flags cleared by writing a one keep the
// others, and a one in PINx toggles one pin (datasheet 14.2.2).
func (m *Machine) storeBit(address uint16, mask uint8, on bool) {
	switch {
	case isFlags(address), isPIN(address):
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
	if m.sp <= ramEnd {
		return machine.Place{PC: uint32(m.pc) * 2, Stack: [24]uint8(m.data[m.sp+1:])}
	}
	return machine.Place{PC: uint32(m.pc) * 2}
}
