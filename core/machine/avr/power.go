package avr

import "hemble/core/machine"

// Clock prescaler, sleep and power reduction (datasheet 8.12, 9).
const (
	regSMCR  = 0x53
	regMCUSR = 0x54
	regCLKPR = 0x61
	regSREG  = 0x5f
	regSPL   = 0x5d
	regSPH   = 0x5e
	regRAMPZ = 0x5b
	regEIND  = 0x5c

	// wakeCycles is the start-up of a crystal oscillator after power-down (datasheet table 8-4,
	// SUT 11: 16K CK); standbyCycles what it takes where the oscillator continued (9.7, 9.8).
	wakeCycles    = 16384
	standbyCycles = 6
	// clkpceCycles is how long CLKPS may be written after CLKPCE (8.12.2).
	clkpceCycles = 4
)

// Sleep modes, SM2:0 (table 9-2).
const (
	sleepIdle            = 0
	sleepNoiseReduction  = 1
	sleepPowerDown       = 2
	sleepPowerSave       = 3
	sleepStandby         = 6
	sleepExtendedStandby = 7
)

// power is the state of sleeping and of the clock.
type power struct {
	asleep bool
	mode   uint8
	since  int64 // the cycle at which it fell asleep
	// what was due of peripherals that stand still: how many cycles after since; never for nothing
	held     [maxDue]int64
	halted   int64 // cycles the core still waits for its clock
	clkpceAt int64 // when the change of CLKPR was opened, 0 for never
}

// stopped reports whether the I/O clock is still: that of the timers, the USART, the SPI, the comparator's and the
// capture unit's interrupts, and of edges at INT0 and INT1 (table 9-1). Timer 2 continues with a watch crystal only,
// which is not modelled.
func (p *power) stopped() bool { return p.asleep && p.mode != sleepIdle }

// deep reports whether the ADC's clock is still, too.
func (p *power) deep() bool { return p.asleep && p.mode >= sleepPowerDown }

// reduction is a register that stops the clocks of peripherals, by its bits (9.11.3).
type reduction struct {
	address uint16
	name    string
	what    [8]string
}

// needsIO reports whether what is due of a slot waits while the I/O clock is still. The EEPROM and the watchdog have
// oscillators of their own.
func (s *slots) needsIO(slot int) bool {
	return slot >= s.send && slot < s.watchdog || slot >= s.capture && slot < s.eeprom || slot == s.spi || slot == s.twi
}

// wakes are the interrupts that end a sleep, by its mode (table 9-1).
func (m *Machine) wakes() uint64 {
	switch m.power.mode {
	case sleepIdle:
		return ^uint64(0)
	case sleepNoiseReduction:
		return m.v.deepWakes | 1<<m.v.vectors.adc | 1<<m.v.vectors.eeprom
	}
	return m.v.deepWakes
}

func (v *Variant) definePower() {
	v.define(regSMCR, "SMCR", nil, nil)
	v.define(regMCUSR, "MCUSR", nil, func(m *Machine, address uint16, v uint8) {
		m.io[address] &= v // flags are cleared by writing zero
	})
	v.define(regCLKPR, "CLKPR", nil, func(m *Machine, address uint16, v uint8) {
		if v == 0x80 {
			m.power.clkpceAt = m.cycle
			m.io[address] |= 0x80
			return
		}
		open := m.power.clkpceAt > 0 && m.cycle <= m.power.clkpceAt+clkpceCycles
		m.power.clkpceAt = 0
		m.io[address] &^= 0x80
		if !open || v&0x80 != 0 {
			return
		}
		divide := v & 15
		if divide > 8 {
			m.note("clkpr", "CLKPR was given the reserved divider %d", divide)
			return
		}
		m.io[address] = divide
		at := m.now.at(m.until)
		m.tellWaves(m.cycle)
		m.now.rebase(m.cycle, uint(divide))
		m.until = m.now.cycleAt(at)
		m.dog.clockChanged(m)
		m.deadline = min(m.deadline, m.until)
	})
	for _, r := range v.reduced {
		v.define(r.address, r.name, nil, func(m *Machine, address uint16, v uint8) {
			m.io[address] = v
			for bit, what := range r.what {
				if v>>bit&1 == 1 && what != "" {
					m.note("unmodelled "+r.name+" "+what,
						"%s stops the clock of %s on the chip; here it keeps running", r.name, what)
				}
			}
		})
	}
	v.define(regSREG, "SREG", func(m *Machine, _ uint16) uint8 { return m.sreg }, func(m *Machine, _ uint16, v uint8) {
		rising := v&^m.sreg&flagI != 0
		if m.sreg = v; rising {
			m.interruptsOn()
		}
	})
	if v.wide {
		v.define(regRAMPZ, "RAMPZ", nil,
			func(m *Machine, a uint16, v uint8) { m.io[a] = v & uint8((len(m.flash)-1)>>16) })
		v.define(regEIND, "EIND", nil, func(m *Machine, a uint16, v uint8) { m.io[a] = v & uint8(m.pcMask>>16) })
	}
	v.define(regSPL, "SPL", func(m *Machine, _ uint16) uint8 { return uint8(m.sp) },
		func(m *Machine, _ uint16, v uint8) {
			m.sp = m.sp&0xff00 | uint16(v)
		})
	v.define(regSPH, "SPH", func(m *Machine, _ uint16) uint8 { return uint8(m.sp >> 8) },
		func(m *Machine, _ uint16, v uint8) {
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
	if m.io[regSMCR]&1 == 0 {
		return
	}
	mode := m.io[regSMCR] >> 1 & 7
	m.power.asleep, m.power.since, m.power.mode = true, m.cycle, mode
	if mode == sleepNoiseReduction && m.io[regADCSRA]&bitADEN != 0 && !m.adc.running {
		m.adc.start(m, m.cycle)
	}
	for slot := range m.power.held {
		m.power.held[slot] = never
	}
	if m.power.stopped() {
		for i := range m.timers {
			m.timers[i].freeze(m)
		}
	}
	for slot := range m.due {
		if m.power.stopped() && m.v.slots.needsIO(slot) || m.power.deep() && slot == m.v.slots.adc {
			m.hold(slot)
		}
	}
	m.deadline = 0 // Run continues in doze
}

// hold keeps what is due of a peripheral until its clock continues.
func (m *Machine) hold(slot int) {
	if at := m.due[slot]; at != never {
		m.power.held[slot] = at - m.power.since
		m.setDue(slot, never)
	}
}

// doze passes time until something wakes the core or the run ends.
func (m *Machine) doze() {
	if m.irq&m.wakes() != 0 && m.sreg&flagI != 0 {
		m.wake()
		return
	}
	if m.next == never && m.waves == 0 && !m.wakeable() {
		m.end(machine.Asleep, "asleep since %s with nothing left that could wake it", m.now.at(m.power.since))
		return
	}
	m.cycle = max(m.cycle, min(m.next, m.until))
}

// wakeable reports whether something outside could still wake the core.
func (m *Machine) wakeable() bool {
	if m.sreg&flagI == 0 {
		return false
	}
	edges := m.io[regEIMSK] // external interrupts: without the I/O clock only their low level is seen
	if m.power.stopped() {
		edges = 0
		for n := range m.v.interrupts {
			if m.sensing(n) == 0 {
				edges |= m.io[regEIMSK] & (1 << n)
			}
		}
	}
	if edges != 0 || m.io[regPCICR] != 0 || m.twi.wakes(m) {
		return true
	}
	if m.power.stopped() {
		return false
	}
	for i := range m.usarts {
		if m.usarts[i].wakes(m) {
			return true
		}
	}
	for i := range m.timers {
		if m.timers[i].wide && m.timers[i].captureWakes(m) {
			return true
		}
	}
	return m.io[regSPCR]&bitSPIE != 0 && m.spi.slave(m) || m.io[regACSR]&bitACIE != 0
}

// wake ends a sleep: four cycles on top of the interrupt's own, after the start-up that the mode needs. What stood
// still continues when the clock does.
func (m *Machine) wake() {
	start := int64(0)
	switch m.power.mode {
	case sleepPowerDown, sleepPowerSave:
		start = wakeCycles
	case sleepStandby, sleepExtendedStandby:
		start = standbyCycles
	}
	m.power.halted = 4 + start
	at := m.cycle + start
	stopped, deep := m.power.stopped(), m.power.deep()
	m.power.asleep = false
	if !stopped {
		return
	}
	pause := at - m.power.since
	m.presync.base += pause
	m.preasync.base += pause
	if deep {
		m.adc.base += pause
		m.adc.began += pause
	}
	for i := range m.timers {
		m.timers[i].thaw(m, at)
	}
	for slot, left := range m.power.held {
		if left != never {
			m.setDue(slot, at+left)
		}
	}
}
