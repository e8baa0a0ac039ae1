package pic14

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/firmware"
)

// eepromLayout is where the registers of the data EEPROM are (DS39582, 3). Those of its higher half, and of reading
// flash, are 0 where a chip has none.
type eepromLayout struct{ con1, con2, data, address, dataHigh, addressHigh uint16 }

const (
	bitEEPGD = 1 << 7
	bitWRERR = 1 << 3
	bitWREN  = 1 << 2
	bitWR    = 1 << 1
	bitRD    = 1 << 0

	// writeTime is that of a byte (DS39582, parameter D122).
	writeTime = 4 * clock.Millisecond
)

// eeprom keeps its memory over resets and over losses of power.
type eeprom struct {
	memory  []byte
	key     uint8 // how far the sequence is that allows a write
	address uint8 // of the write under way
	data    uint8
}

func (v *Variant) defineEEPROM() {
	l := &v.eedata
	for a, name := range map[uint16]string{l.data: "EEDATA", l.address: "EEADR", l.dataHigh: "EEDATH", l.addressHigh: "EEADRH"} {
		if a != 0 {
			v.define(a, name, 0, nil, nil)
		}
	}
	v.define(l.con2, "EECON2", 0, func(*Machine) uint8 { return 0 }, func(m *Machine, x uint8) {
		e := &m.eeprom
		switch {
		case x == 0x55:
			e.key = 1
		case x == 0xaa && e.key == 1:
			e.key = 2
		default:
			e.key = 0
		}
	})
	v.define(l.con1, "EECON1", 0, nil, func(m *Machine, x uint8) {
		e := &m.eeprom
		busy := m.ram[l.con1] & bitWR
		allowed := m.ram[l.con1] & bitWREN
		m.ram[l.con1] = x&(bitEEPGD|bitWRERR|bitWREN) | busy
		flash := x&bitEEPGD != 0 && l.dataHigh != 0
		if x&bitRD != 0 {
			e.read(m, flash)
		}
		if x&bitWR == 0 || busy != 0 {
			return
		}
		switch {
		case flash:
			m.note("unmodelled flash-write", "writing flash by EECON1 is not modelled")
		case e.key != 2 || allowed == 0:
			m.note("eeprom-key", "EECON1.WR was set without WREN and 55h, AAh written to EECON2 just before: nothing is "+
				"written")
		default:
			m.ram[l.con1] |= bitWR
			e.address, e.data = m.ram[l.address]&uint8(len(e.memory)-1), m.ram[l.data]
			m.counters.Writes++
			m.setDue(dueEEPROM, m.cycle+m.span(writeTime))
		}
		e.key = 0
	})
}

// read is RD: a byte of the memory, or a word of flash.
func (e *eeprom) read(m *Machine, flash bool) {
	l := &m.v.eedata
	if !flash {
		m.ram[l.data] = e.memory[int(m.ram[l.address])&(len(e.memory)-1)]
		return
	}
	w := m.flash[(uint16(m.ram[l.addressHigh])<<8|uint16(m.ram[l.address]))&m.mask]
	m.ram[l.data], m.ram[l.dataHigh] = uint8(w), uint8(w>>8)
}

// programmed ends a write.
func (e *eeprom) programmed(m *Machine) {
	at := m.due[dueEEPROM]
	m.setDue(dueEEPROM, never)
	e.memory[e.address] = e.data
	m.ram[m.v.eedata.con1] &^= bitWR
	m.raise(m.v.flags.eeprom, at)
}

// reset gives up a write under way.
func (e *eeprom) reset() { e.key = 0 }

// load fills the memory with what an image brings; the rest is erased.
func (e *eeprom) load(chip string, segments []firmware.Segment) error {
	for i := range e.memory {
		e.memory[i] = 0xff
	}
	for _, s := range segments {
		if s.End() > uint32(len(e.memory)) {
			return fmt.Errorf("the file programs EEPROM up to 0x%02X; the %s ends at 0x%02X", s.End()-1, chip,
				len(e.memory)-1)
		}
		copy(e.memory[s.Address:], s.Data)
	}
	return nil
}
