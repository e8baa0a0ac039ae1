package avr

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/firmware"
)

// EEPROM (datasheet 8.4, 8.6).
const (
	regEECR  = 0x3f
	regEEDR  = 0x40
	regEEARL = 0x41
	regEEARH = 0x42

	bitEERIE = 1 << 3
	bitEEMPE = 1 << 2
	bitEEPE  = 1 << 1
	bitEERE  = 1 << 0

	// eempeCycles is how long EEPE may be set after EEMPE (8.6.3).
	eempeCycles = 4
)

// Programming times by EEPM1:0 (table 8-1): erase and write, erase only, write only.
var eepromTimes = [4]clock.Time{3400 * clock.Microsecond, 1800 * clock.Microsecond, 1800 * clock.Microsecond,
	3400 * clock.Microsecond}

// eeprom keeps its memory over resets and over losses of power.
type eeprom struct {
	memory []byte
	openAt int64 // cycle at which EEMPE was set; 0 for never
}

func (v *Variant) defineEEPROM() {
	v.define(regEEDR, "EEDR", nil, nil)
	v.define(regEEARL, "EEARL", nil, nil)
	v.define(regEEARH, "EEARH", nil, func(m *Machine, a uint16, v uint8) {
		m.io[a] = v & uint8((len(m.eeprom.memory)-1)>>8)
	})
	v.define(regEECR, "EECR", nil, func(m *Machine, a uint16, v uint8) {
		e := &m.eeprom
		busy := m.io[a] & bitEEPE
		mode := v >> 4 & 3
		if busy != 0 {
			mode = m.io[a] >> 4 & 3 // it cannot change while programming
		}
		open := e.openAt > 0 && m.cycle <= e.openAt+eempeCycles
		m.io[a] = mode<<4 | v&bitEERIE | busy
		address := (uint16(m.io[regEEARH])<<8 | uint16(m.io[regEEARL])) & uint16(len(e.memory)-1)
		switch {
		case v&bitEEPE != 0 && open && busy == 0:
			e.openAt = 0
			e.program(address, m.io[regEEDR], mode)
			m.counters.Writes++
			m.io[a] |= bitEEPE
			m.setDue(m.v.slots.eeprom, m.now.cycleAt(m.Now()+eepromTimes[mode]))
			m.halt(2)
		case v&bitEEMPE != 0:
			e.openAt = m.cycle
			m.io[a] |= bitEEMPE
		default:
			e.openAt = 0
		}
		if v&bitEERE != 0 && busy == 0 {
			m.io[regEEDR] = e.memory[address]
			m.halt(4)
		}
		e.requests(m)
	})
}

// program changes one byte: erasing sets all bits, writing clears those that are 0 in the data.
func (e *eeprom) program(address uint16, v, mode uint8) {
	switch mode {
	case 0:
		e.memory[address] = v
	case 1:
		e.memory[address] = 0xff
	case 2:
		e.memory[address] &= v
	}
}

// programmed ends a programming cycle.
func (e *eeprom) programmed(m *Machine) {
	m.setDue(m.v.slots.eeprom, never)
	m.io[regEECR] &^= bitEEPE
	e.requests(m)
}

func (e *eeprom) requests(m *Machine) {
	m.raise(m.v.vectors.eeprom, m.io[regEECR]&(bitEERIE|bitEEPE) == bitEERIE)
}

// load fills the memory with what an image brings; the rest is erased.
func (e *eeprom) load(chip string, segments []firmware.Segment) error {
	for i := range e.memory {
		e.memory[i] = 0xff
	}
	for _, s := range segments {
		if s.End() > uint32(len(e.memory)) {
			return fmt.Errorf("the file programs EEPROM up to 0x%03X; the %s ends at 0x%03X", s.End()-1, chip,
				len(e.memory)-1)
		}
		copy(e.memory[s.Address:], s.Data)
	}
	return nil
}
