package avr

import "hemble/core/machine"

// Clock prescaler, sleep and power reduction (datasheet 8.12, 9).
const (
	regSMCR  = 0x53
	regMCUSR = 0x54
	regCLKPR = 0x61
	regPRR   = 0x64
	regSREG  = 0x5f
	regSPL   = 0x5d
	regSPH   = 0x5e

	// wakeCycles is the start-up of a crystal oscillator after power-down (datasheet table 8-4,
	// SUT 11: 16K CK).
	wakeCycles = 16384
	// sleepNoiseReduction is SM2:0 of the mode that keeps only what a conversion needs.
	sleepNoiseReduction = 1
	// clkpceCycles is how long CLKPS may be written after CLKPCE (8.12.2).
	clkpceCycles = 4
)

// power is the state of sleeping and of the clock.
type power struct {
	asleep   bool
	deep     bool  // power-down, power-save, standby: the I/O clock stands still
	since    int64 // the cycle at which it fell asleep
	halted   int64 // cycles the core still waits for its clock
	clkpceAt int64 // when the change of CLKPR was opened, 0 for never
}

func init() {
	define(regSMCR, "SMCR", nil, nil)
	define(regMCUSR, "MCUSR", nil, func(m *Machine, address uint16, v uint8) {
		m.data[address] &= v // flags are cleared by writing zero
	})
	define(regCLKPR, "CLKPR", nil, func(m *Machine, address uint16, v uint8) {
		if v == 0x80 {
			m.power.clkpceAt = m.cycle
			m.data[address] |= 0x80
			return
		}
		open := m.power.clkpceAt > 0 && m.cycle <= m.power.clkpceAt+clkpceCycles
		m.power.clkpceAt = 0
		m.data[address] &^= 0x80
		if !open || v&0x80 != 0 {
			return
		}
		divide := v & 15
		if divide > 8 {
			m.note("clkpr", "CLKPR was given the reserved divider %d", divide)
			return
		}
		m.data[address] = divide
		at := m.now.at(m.until)
		m.now.rebase(m.cycle, uint(divide))
		m.until = m.now.cycleAt(at)
		m.dog.clockChanged(m)
		m.deadline = min(m.deadline, m.until)
	})
	define(regPRR, "PRR", nil, func(m *Machine, address uint16, v uint8) {
		m.data[address] = v
		if v&0x6a != 0 { // timers 0-2 and the USART
			m.note("unmodelled PRR", "PRR (stopping the clock of single peripherals) is not modelled; they go on running")
		}
	})
	define(regSREG, "SREG", func(m *Machine, _ uint16) uint8 { return m.sreg }, func(m *Machine, _ uint16, v uint8) {
		rising := v&^m.sreg&flagI != 0
		if m.sreg = v; rising {
			m.interruptsOn()
		}
	})
	define(regSPL, "SPL", func(m *Machine, _ uint16) uint8 { return uint8(m.sp) }, func(m *Machine, _ uint16, v uint8) {
		m.sp = m.sp&0xff00 | uint16(v)
	})
	define(regSPH, "SPH", func(m *Machine, _ uint16) uint8 { return uint8(m.sp >> 8) }, func(m *Machine, _ uint16, v uint8) {
		m.sp = m.sp&0x00ff | uint16(v)<<8
	})
}

// halt stops the core for some cycles, behind the instruction under way.
func (m *Machine) halt(cycles int64) {
	m.power.halted += cycles
	m.deadline = 0
}

// fallAsleep is SLEEP with SE set.
func (m *Machine) fallAsleep() {
	if m.data[regSMCR]&1 == 0 {
		return
	}
	mode := m.data[regSMCR] >> 1 & 7
	m.power.asleep, m.power.since = true, m.cycle
	m.power.deep = mode >= 2
	for i := range m.timers { // timer 2 has a clock of its own, which ADC noise reduction keeps (table 9-1)
		if m.power.deep || mode == sleepNoiseReduction && i < 2 {
			m.timers[i].freeze(m)
		}
	}
	if mode == sleepNoiseReduction && m.data[regADCSRA]&bitADEN != 0 && !m.adc.running {
		m.adc.start(m, m.cycle)
	}
	m.deadline = 0 // Run goes on in doze
}

// doze passes time until something wakes the core or the run ends.
func (m *Machine) doze(interrupts bool) {
	if interrupts {
		m.wake()
		return
	}
	if m.next == never && !m.wakeable() {
		m.end(machine.Asleep, "asleep since %s with nothing left that could wake it", m.now.at(m.power.since))
		return
	}
	m.cycle = max(m.cycle, min(m.next, m.until))
}

// wakeable tells whether something outside could still wake the core.
func (m *Machine) wakeable() bool {
	if m.sreg&flagI == 0 {
		return false
	}
	return m.data[regEIMSK] != 0 || m.data[regPCICR] != 0 || m.usart.wakes(m) || m.timers[1].captureWakes(m) || m.twi.wakes(m) ||
		m.data[regSPCR]&bitSPIE != 0 && m.spi.slave(m) || m.data[regACSR]&bitACIE != 0
}

// wake ends a sleep: four cycles on top of the interrupt's own, and the oscillator's start-up after
// a deep one.
func (m *Machine) wake() {
	m.power.asleep = false
	m.power.halted = 4
	if m.power.deep {
		m.power.deep = false
		m.power.halted += wakeCycles
	}
	for i := range m.timers {
		if m.timers[i].frozen {
			m.timers[i].thaw(m)
		}
	}
}
