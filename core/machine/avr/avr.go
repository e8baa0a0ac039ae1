// Package avr simulates 8-bit AVR microcontrollers, cycle by cycle: the core from the AVR Instruction Set Manual
// (DS40002198), peripherals from the ATmega328P datasheet (DS40002061).
//
// The interpreter (run.go) executes instructions until a deadline: the next peripheral event, an interrupt, or the end
// of the run. Peripherals are lazy: they compute their state when it is read, and announce the cycle of their next
// effect as a due time. reference.go is a second, slow, independent interpreter over the same peripherals; tests hold
// the two equal.
package avr

import (
	"fmt"
	"math"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/loops"
)

const never = int64(math.MaxInt64)

// Machine is a chip of some variant.
type Machine struct {
	v      *Variant
	config machine.Config
	image  *firmware.Image

	rom
	cover *machine.Cover[instruction] // nil where nobody asks
	data  *[0x10000]byte              // registers and SRAM, up to ramEnd; between them nothing is kept
	io    *[maxIO]byte                // I/O registers, where the larger chips have them

	sramStart, ramEnd uint16

	pc    int32 // word address
	sreg  uint8
	sp    uint16
	cycle int64 // of the instruction under way, moved on before an I/O access

	until, deadline int64
	noIRQBefore     int64   // one instruction runs after SEI, RETI or a write that sets I
	irq             uint64  // raised and enabled interrupts by vector number
	due             []int64 // by slots of the variant
	next            int64   // the earliest of due

	resetLow bool // the reset pin is held low ...
	inReset  bool // ... and the chip has noticed

	listener   machine.Listener
	telling    bool  // the listener is being told of an edge ...
	toldAt     int64 // ... of this cycle
	changes    [8]machine.Change
	kept       []machine.Edge // of followed pins, to be handed over
	waves      uint8          // timers that are no events: see tellWaves
	inWaves    bool           // they are told of
	taping     bool           // what they do is noted in wave
	wave       []machine.Edge
	by         *machine.Place // what an edge comes from, where that is not what the program does now
	now        timebase
	ports      []port
	timers     []timer
	presync    prescaler // of the timers that share one
	preasync   prescaler // of timer 2
	usarts     []usart
	eeprom     eeprom
	spi        spi
	twi        twi
	adc        adc
	comparator comparator
	ext        external
	dog        watchdog
	usi        usi
	pll        pll
	power      power

	polls  loops.Polls
	heat   heat
	rounds rounds
	unlike int64 // counts what a round may not have: see rounds.go

	stackFloor uint16 // where data ends: a stack below has run into it
	starts     machine.Starts
	first      instruction // what is at the reset vector
	stop       machine.Stop
	notes      machine.Notes
	counters   machine.Counters
}

// New makes a machine of a variant with erased flash, just powered on.
func New(v *Variant, config machine.Config) machine.Machine {
	m := &Machine{v: v, config: config, rom: blank,
		data: new([0x10000]byte), io: new([maxIO]byte),
		sramStart: v.sramStart, ramEnd: v.ramEnd, due: make([]int64, v.slots.count),
		ports: make([]port, len(v.ports)), timers: make([]timer, len(v.timers)), usarts: make([]usart, len(v.usarts))}
	m.ext = external{make([]uint8, len(v.ports)), make([]uint8, len(v.ports))}
	m.eeprom.memory = make([]byte, v.eeprom)
	if m.config.Clock == 0 {
		m.config.Clock = 16_000_000
	}
	if m.config.Supply == 0 {
		m.config.Supply = 5_000_000
	}
	_ = m.eeprom.load(v.title, nil)
	m.now = newTimebase(m.config.Clock)
	for i := range m.ports {
		m.ports[i].watched = 0xff
		if config.Watched != nil {
			m.ports[i].watched = 0
		}
	}
	for _, p := range config.Watched {
		if int(p>>3) < len(m.ports) { // a reset pin of its own is no port's
			m.ports[p>>3].watched |= 1 << (p & 7)
		}
	}
	for _, p := range config.Followed {
		if int(p>>3) < len(m.ports) {
			m.ports[p>>3].followed |= 1 << (p & 7)
		}
	}
	if len(config.Followed) > 0 {
		m.kept = make([]machine.Edge, 0, machine.MostKept)
	}
	m.powerOn()
	return m
}

// Load puts an image into flash and restarts from power-on.
func (m *Machine) Load(im *firmware.Image) error {
	if im.Machine != 0 && im.Machine != firmware.MachineAVR {
		return fmt.Errorf("the file is built for another kind of chip (ELF machine %d), not for an AVR", im.Machine)
	}
	m.exit()
	program := m.rom
	if program.of == nil {
		program = m.v.room()
	}
	if err := program.load(im); err != nil { // nothing runs of what another machine has left there
		return err
	}
	m.rom = program
	if err := m.eeprom.load(m.v.title, im.EEPROM); err != nil {
		return err
	}
	m.image = im
	m.stackFloor = m.sramStart
	if end, ok := im.DataEnd(); ok && end <= uint32(m.ramEnd) {
		m.stackFloor = max(m.stackFloor, uint16(end))
	}
	m.polls.Reset()
	m.heat = heat{}
	m.markStart()
	if !m.config.Reference && !m.config.NoSkip {
		markLoops(m.code)
	}
	if m.config.Cover {
		m.cover = newCover(m.code)
	}
	m.powerOn()
	return nil
}

// powerOn sets what only a loss of power sets: memory, the cause of reset, the time.
func (m *Machine) powerOn() {
	random := m.config.Seed ^ 0x5eed
	for i := int(m.sramStart); i <= int(m.ramEnd); i++ {
		m.data[i] = byte(machine.Mix(random + uint64(i)))
	}
	m.cycle, m.now.cycles, m.now.ticks = 0, 0, 0
	m.noIRQBefore = 0
	m.stop = machine.Stop{}
	m.notes.Reset()
	m.counters = machine.Counters{}
	m.rounds = rounds{at: roundsFrom(&m.config)}
	m.starts = machine.Starts{}
	m.polls.Rewind()
	m.reset(resetPowerOn)
}

// Causes of reset as MCUSR has them (datasheet 11.9.1).
const (
	resetPowerOn  = 1 << 0
	resetExternal = 1 << 1
	resetWatchdog = 1 << 3
)

// reset puts every I/O register at its initial value (datasheet, register summary) and starts at
// the reset vector. SRAM keeps what it has.
func (m *Machine) reset(cause uint8) {
	m.tellWaves(m.cycle)
	m.waves = 0
	causes := m.io[regMCUSR] | cause
	if cause == resetPowerOn {
		causes = cause
	}
	clear(m.data[:0x20])
	clear(m.io[:])
	m.io[regMCUSR] = causes
	m.pc, m.sreg, m.sp = 0, 0, m.ramEnd
	m.irq, m.noIRQBefore = 0, 0
	for i := range m.due {
		m.due[i] = never
	}
	m.next = never
	divide := uint8(0)
	if !m.v.undivided && m.image != nil && len(m.image.Fuses) > 0 && m.image.Fuses[0]&0x80 == 0 {
		divide = 3 // fuse CKDIV8 programmed
	}
	m.io[regCLKPR] = divide
	m.now.rebase(m.cycle, uint(divide))
	m.power = power{}
	for i := range m.ports {
		m.releasePort(i)
	}
	m.presync, m.preasync = prescaler{base: m.cycle}, prescaler{base: m.cycle}
	for i := range m.timers {
		m.timers[i].reset(m, i)
	}
	for i := range m.usarts {
		m.usarts[i].reset(m, i)
	}
	m.eeprom.openAt = 0
	m.spi.reset()
	m.usi, m.pll = usi{}, pll{}
	m.twi.reset(m)
	m.adc, m.comparator = adc{}, comparator{}
	clear(m.ext.sensing)
	clear(m.ext.analog)
	m.dog.reset(m, causes)
}

// Reset is a pulse on the reset pin.
func (m *Machine) Reset() {
	m.stop = machine.Stop{}
	m.reset(resetExternal)
}

// Now is the present simulated time.
func (m *Machine) Now() clock.Time { return m.now.at(m.cycle) }

// Notes lists what the firmware did that a person should know of.
func (m *Machine) Notes() []machine.Note { return m.notes.List }

// Counters tell the effort so far.
func (m *Machine) Counters() machine.Counters {
	c := m.counters
	c.Cycles = m.cycle
	c.Followed, c.Walks = m.polls.Effort()
	return c
}

// Run interprets until the given moment; see machine.Source.
func (m *Machine) Run(until clock.Time, l machine.Listener) machine.Stop {
	defer func() {
		m.tellWaves(m.cycle)
		m.handOver()
	}()
	m.listener = l
	m.until = m.now.cycleAt(until)
	if m.resetLow != m.inReset {
		if m.inReset = m.resetLow; m.resetLow {
			m.stop = machine.Stop{}
			m.reset(resetExternal)
		}
	}
	if m.inReset { // nothing runs until the pin is let go
		m.cycle = max(m.cycle, m.until)
		return machine.Stop{At: m.Now()}
	}
	if m.of == nil {
		m.end(machine.OffFlash, "there is no program in the chip")
	}
	for m.stop.Reason == "" {
		if m.next <= m.cycle {
			m.fire()
		}
		if m.dog.bitten {
			m.reset(resetWatchdog)
		}
		if m.cycle >= m.until {
			return machine.Stop{At: m.Now(), PC: uint32(m.pc) * 2}
		}
		interrupts := m.irq != 0 && m.sreg&flagI != 0
		switch {
		case m.power.asleep:
			m.doze()
			continue
		case m.power.halted > 0: // the core waits for the clock to come back
			wait := min(m.power.halted, m.until-m.cycle)
			m.power.halted -= wait
			m.cycle += wait
			continue
		case interrupts && m.cycle >= m.noIRQBefore:
			m.enterInterrupt()
			continue
		}
		m.setDeadline()
		if m.config.Reference {
			m.step()
		} else {
			m.interpret()
		}
	}
	return m.stop
}

// setDeadline computes when the interpreter must look up next.
func (m *Machine) setDeadline() {
	m.deadline = min(m.until, m.next)
	if m.irq != 0 && m.sreg&flagI != 0 {
		m.deadline = min(m.deadline, m.noIRQBefore)
	}
}

// setDue announces the cycle of a peripheral's next effect.
func (m *Machine) setDue(slot int, cycle int64) {
	m.unlike++
	m.due[slot] = cycle
	m.next = m.due[0]
	for _, d := range m.due[1:] {
		m.next = min(m.next, d)
	}
	m.deadline = min(m.deadline, m.next)
}

// fire handles, in order, everything due by now.
func (m *Machine) fire() {
	for m.next <= m.cycle {
		for slot, at := range m.due {
			if at != m.next {
				continue
			}
			switch s := &m.v.slots; {
			case slot < s.send:
				m.timers[slot].run(m, at)
			case slot < s.receive:
				m.usarts[slot-s.send].sendNext(m, at)
			case slot < s.watchdog:
				m.usarts[slot-s.receive].sample(m, at)
			case slot == s.watchdog:
				m.dog.timedOut(m)
			case slot == s.noise:
				m.noiseEdge(at)
			case slot < s.eeprom:
				m.setDue(slot, never)
				for i := range m.timers {
					if t := &m.timers[i]; t.wide && t.captureSlot == slot-s.capture {
						t.capture(m, at)
					}
				}
			case slot == s.eeprom:
				m.eeprom.programmed(m)
			case slot == s.spi:
				m.spi.edge(m, at)
			case slot == s.twi:
				m.twi.run(m, at)
			case slot == s.adc:
				m.adc.next(m, at)
			}
			break
		}
	}
}

// raise sets or clears the request of one interrupt vector.
func (m *Machine) raise(vector uint, on bool) {
	if !on {
		m.irq &^= 1 << vector
		return
	}
	m.irq |= 1 << vector
	if m.sreg&flagI != 0 {
		m.deadline = min(m.deadline, max(m.cycle, m.noIRQBefore))
	}
}

// interruptsOn is called when I went from 0 to 1 and by RETI: one more instruction runs before a
// pending interrupt (instruction set manual, SEI; datasheet 7.7).
func (m *Machine) interruptsOn() {
	m.noIRQBefore = m.cycle + 1
	if m.irq != 0 {
		m.deadline = min(m.deadline, m.noIRQBefore)
	}
}

// enterInterrupt takes the pending interrupt of highest priority: four cycles, the PC on the
// stack, I cleared (datasheet 7.7.1, "Interrupt Response Time"); five where the PC has three bytes.
func (m *Machine) enterInterrupt() {
	vector := uint(0)
	for m.irq>>vector&1 == 0 {
		vector++
	}
	m.acknowledge(vector)
	m.pushPC(m.pc)
	m.sreg &^= flagI
	if m.pc = int32(vector) * 2; m.v.short {
		m.pc = int32(vector)
	}
	m.cycle += 4
	if m.v.wide {
		m.cycle++
	}
	m.counters.Instructions++
}

// pushPC puts a return address on the stack, the high byte last.
func (m *Machine) pushPC(pc int32) {
	m.push(uint8(pc))
	m.push(uint8(pc >> 8))
	if m.v.wide {
		m.push(uint8(pc >> 16))
	}
}

// popPC takes one off; ok is false where the stack has none.
func (m *Machine) popPC() (pc int32, ok bool) {
	n := uint16(2)
	if m.v.wide {
		n = 3
	}
	if m.sp > m.ramEnd-n {
		m.emptyStop()
		return 0, false
	}
	for range n {
		m.sp++
		pc = pc<<8 | int32(m.data[m.sp])
	}
	return pc & m.pcMask, true
}

// push is for interrupt entry and the plain interpreter.
func (m *Machine) push(v uint8) {
	m.store(m.sp, v)
	m.sp--
	if m.sp < m.stackFloor-1 {
		m.stackStop()
	}
}

// end stops the machine for good.
func (m *Machine) end(reason machine.Reason, format string, args ...any) {
	if m.stop.Reason != "" {
		return
	}
	m.stop = machine.Stop{Reason: reason, Text: fmt.Sprintf(format, args...), At: m.Now(), PC: uint32(m.pc) * 2}
	m.deadline = 0
}

func (m *Machine) stackStop() {
	if m.stackFloor > m.sramStart {
		m.end(machine.StackOverrun,
			"the stack grew down to 0x%04X and ran into the program's variables, which end at 0x%04X", m.sp+1,
			m.stackFloor-1)
		return
	}
	m.end(machine.StackOverrun, "the stack grew down to 0x%04X and left the SRAM, which starts at 0x%04X", m.sp+1,
		m.sramStart)
}

func (m *Machine) emptyStop() {
	m.end(machine.StackEmpty, "a return or POP at 0x%04X took from an empty stack (stack pointer 0x%04X)", m.pc*2, m.sp)
}

// note reports a thing once by its code.
func (m *Machine) note(code, format string, args ...any) {
	m.notes.Add(code, m.Now(), uint32(m.pc)*2, format, args...)
}

// Drives returns what a pin does to its net now.
func (m *Machine) Drives(p machine.Pin) circuit.Drive {
	if p == m.v.reset {
		return circuit.PulledUp
	}
	return m.ports[p>>3].drive(p & 7)
}

// notes are what the chip may report of a program.
var notes = []finding.Entry{
	{Code: "adc-channel", Doc: "the converter was asked for a channel that has no pin"},
	{Code: "aref", Doc: "the converter measures against AREF, which is not wired"},
	{Code: "refs", Doc: "the converter's reference is set to a reserved value"},
	{Code: "clkpr", Doc: "the clock prescaler was written without unlocking it"},
	{Code: "floating", Doc: "a pin was read while nothing drove it"},
	{Code: "inert", Doc: "a register was written whose peripheral is not modelled"},
	{Code: "outside-sram", Fact: true, Doc: "the program used memory that the chip does not have"},
	{Code: "reserved", Doc: "the program used a reserved address"},
	{Code: "serial-lost", Doc: "a byte was given to the serial port, which did not take it: the transmitter was off, or its buffer full"},
	{Code: "spi-lost", Doc: "a byte was given to the SPI before it had sent the one before"},
	{Code: "spi-ss", Fact: true, Doc: "SS went low as an input, and took the SPI out of master mode"},
	{Code: "twi-lines", Doc: "the two-wire lines have no pull-ups"},
	{Code: "unmodelled", Doc: "the program used something of the chip that is not modelled"},
}
