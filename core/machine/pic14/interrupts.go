package pic14

import "hemble/core/machine"

// Bits of INTCON (DS33023A, 8.2).
const (
	bitGIE  = 1 << 7
	bitPEIE = 1 << 6
	bitT0IE = 1 << 5
	bitINTE = 1 << 4
	bitRBIE = 1 << 3
	bitT0IF = 1 << 2
	bitINTF = 1 << 1
	bitRBIF = 1 << 0
)

const bitINTEDG = 1 << 6 // of OPTION_REG

func (v *Variant) defineInterrupts() {
	keeps := func(a uint16, name string, fixed uint8) {
		v.define(a, name, 0, nil, func(m *Machine, x uint8) {
			m.ram[a] = m.ram[a]&fixed | x&^fixed
			m.requests(m.cycle + 1)
		})
	}
	keeps(regINTCON, "INTCON", 0)
	keeps(regPIR1, "PIR1", v.flags.receive.mask|v.flags.transmit.mask) // those two follow the buffers
	keeps(regPIE1, "PIE1", 0)
	if v.flags.eeprom.register == regPIR2 {
		keeps(regPIR2, "PIR2", 0)
		keeps(regPIE2, "PIE2", 0)
	}
}

// requests looks whether an enabled interrupt is requested, by something that happened at a cycle (8.1).
func (m *Machine) requests(cycle int64) {
	c := m.ram[regINTCON]
	wanted := c>>3&c&7 != 0
	if c&bitPEIE != 0 {
		wanted = wanted || m.ram[regPIR1]&m.ram[regPIE1] != 0
		if m.v.flags.eeprom.register == regPIR2 {
			wanted = wanted || m.ram[regPIR2]&m.ram[regPIE2] != 0
		}
	}
	m.wanted = wanted
	irq := wanted && c&bitGIE != 0
	if irq && !m.irq {
		m.ready = cycle + 1
	}
	if m.irq = irq; irq {
		m.deadline = min(m.deadline, max(m.cycle, m.ready))
	}
}

// enterInterrupt goes to address 4. From the request on that takes three cycles, of which the first still carries out
// an instruction (8.3).
func (m *Machine) enterInterrupt() {
	m.push(m.pc)
	m.ram[regINTCON] &^= bitGIE
	m.irq = false
	m.cycle = max(m.cycle+1, m.ready+2)
	m.pc = 4 & m.mask
	m.counters.Instructions++
}

// fallAsleep is SLEEP: the clock stops (26.2). Where an interrupt is requested already it does nothing.
func (m *Machine) fallAsleep() {
	if m.wanted {
		m.status |= statusPD // it counts as not carried out (26.3.2)
		return
	}
	m.endWave(m.cycle)
	m.timer0.sync(m)
	m.timer1.sync(m)
	m.timer2.sync(m)
	m.asleep, m.slept, m.deadline = true, m.cycle, 0
	for slot := range m.due {
		m.held[slot] = never
		if m.stands(slot) && m.due[slot] != never {
			m.held[slot] = m.due[slot] - m.cycle
			m.setDue(slot, never)
		}
	}
}

// stands tells whether what is due stands still in sleep: all that has no clock of its own.
func (m *Machine) stands(slot int) bool {
	switch slot {
	case dueWatchdog, dueEEPROM:
		return false
	case dueTimer1:
		return !m.timer1.own(m)
	case dueADC:
		return !m.adc.ownClock(m)
	}
	return true
}

// doze passes time until something wakes the core or the run ends.
func (m *Machine) doze() {
	if m.wanted {
		m.wake()
		return
	}
	if m.next == never && !m.wakeable() {
		m.end(machine.Asleep, "asleep since %s with nothing left that could wake it", m.now.At(m.slept))
		return
	}
	m.cycle = max(m.cycle, min(m.next, m.until))
}

// wakeable reports whether something outside could still wake the core (26.3).
func (m *Machine) wakeable() bool {
	c := m.ram[regINTCON]
	if c&(bitINTE|bitRBIE) != 0 {
		return true
	}
	return c&bitPEIE != 0 && (m.ram[regPIE1] != 0 || m.v.flags.eeprom.register == regPIR2 && m.ram[regPIE2] != 0)
}

// wake ends a sleep: the oscillator starts again, the instruction behind SLEEP is carried out, and then the interrupt
// is taken where they are on (26.3.1).
func (m *Machine) wake() {
	m.asleep = false
	pause := m.cycle - m.slept
	m.timer0.since += pause
	if !m.timer1.own(m) {
		m.timer1.since += pause
	}
	m.timer2.since += pause
	for slot, left := range m.held {
		if left != never {
			m.setDue(slot, m.cycle+left)
		}
	}
	m.begins = m.cycle + m.oscillatorStart()
	if m.irq {
		m.ready = max(m.cycle, m.begins) + 1
	}
}
