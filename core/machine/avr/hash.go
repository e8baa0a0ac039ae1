package avr

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"slices"
)

// Hash is over the whole state: equal hashes mean that two machines go on alike.
func (m *Machine) Hash() [32]byte {
	h := sha256.New()
	due := slices.Clone(m.due[:])
	for i := range m.timers { // they follow from the timers
		due[m.v.slots.timer+i] = 0
	}
	for i := range m.timers {
		t := &m.timers[i]
		t.sync(m, m.cycle)
		fmt.Fprint(h, t.mode, t.count, t.down, t.ocr, t.ocrNext, t.icr, t.temp, t.shift, t.masked, t.frozen, t.level)
	}
	h.Write(m.data[:int(m.ramEnd)+1])
	h.Write(m.io[:])
	for i := range m.usarts {
		u := m.usarts[i]
		u.l = nil
		fmt.Fprint(h, u)
	}
	for i := range m.ports {
		p := m.ports[i]
		p.watched, p.followed = 0, 0
		fmt.Fprint(h, p)
	}
	fmt.Fprint(h, m.pc, m.sreg, m.sp, m.irq, m.noIRQBefore, due, m.eeprom, m.spi, m.twi, m.adc, m.comparator, m.ext,
		m.dog, m.usi, m.pll, m.power, m.inReset, m.presync, m.preasync, m.now, m.starts, m.stop)
	binary.Write(h, binary.LittleEndian, m.cycle)
	return [32]byte(h.Sum(nil))
}
