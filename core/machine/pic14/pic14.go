// Package pic14 simulates microcontrollers of the mid-range PIC family, those with instructions of 14 bits, to the
// instruction cycle of four clocks: the core by the PICmicro Mid-Range MCU Family Reference Manual (DS33023A),
// peripherals by it and by the chips' datasheets.
//
// run.go carries out instructions on memory until a deadline: the next event of a peripheral, an interrupt, or the end
// of the run; plain.go is the interpreter for all of them, and alone it is the reference. Peripherals are lazy: they
// compute their state when it is looked at, and announce the cycle of their next effect. Registers stand with their
// peripheral, a file for each; a chip is one Variant in a file of its own.
package pic14

import (
	"crypto/sha256"
	"fmt"
	"math"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/loops"
)

const never = int64(math.MaxInt64)

// Registers that all chips have at the same place (DS33023A, 6.4).
const (
	regINDF   = 0x00
	regTMR0   = 0x01
	regPCL    = 0x02
	regSTATUS = 0x03
	regFSR    = 0x04
	regPCLATH = 0x0a
	regINTCON = 0x0b
	regOPTION = 0x81
	regPCON   = 0x8e
)

// Bits of STATUS (5.3).
const (
	statusC   = 1 << 0
	statusDC  = 1 << 1
	statusZ   = 1 << 2
	statusPD  = 1 << 3
	statusTO  = 1 << 4
	statusRP0 = 1 << 5
	statusRP1 = 1 << 6
	statusIRP = 1 << 7
)

// Machine is a chip of some variant.
type Machine struct {
	v      *Variant
	config machine.Config

	flash []uint16                    // words, a power of two of them
	code  []instruction               // what run carries out
	plain []instruction               // the same without the forms of run
	cover *machine.Cover[instruction] // nil where nobody asks
	mask  uint16                      // of addresses
	fuses [2]uint16                   // the configuration words

	ram       [0x200]uint8 // by address, where the registers of several are in the first of them
	w, status uint8
	pc        uint16
	stack     [8]uint16
	sp        int
	depth     int   // how many addresses are on the stack
	cycle     int64 // at which the instruction at hand starts
	skipped   uint16
	jumped    bool // the instruction at hand wrote PCL

	until, deadline int64
	wanted          bool  // an enabled interrupt is requested ...
	irq             bool  // ... and interrupts are on
	ready           int64 // not taken before this cycle
	due             [dues]int64
	next            int64
	wave            bool // Timer2 is one ...
	inWave          bool // ... that is just told
	kept            []machine.Edge
	begins          int64 // nothing runs before this cycle
	asleep          bool
	slept           int64       // since when
	held            [dues]int64 // how long after that what stands still was due
	resetLow        bool
	inReset         bool
	runsErased      bool

	listener machine.Listener
	telling  bool
	toldAt   int64
	changes  [8]machine.Change
	now      machine.Timebase

	ports      []port
	timer0     timer0
	timer1     timer1
	timer2     timer2
	ccps       []ccp
	adc        adc
	ssp        ssp
	usart      usart
	eeprom     eeprom
	comparator comparator
	dog        watchdog

	polls    loops.Polls
	starts   machine.Starts
	stop     machine.Stop
	notes    machine.Notes
	counters machine.Counters
}

// Events, by their place among what is due; of equal times the first one comes first.
const (
	dueTimer0 = iota
	dueTimer1
	dueTimer2
	duePWM
	dueSend
	dueReceive
	dueSSP
	dueADC
	dueEEPROM
	dueWatchdog
	dues
)

// newMachine makes a machine of a variant with erased flash, just powered on.
func newMachine(v *Variant, config machine.Config) *Machine {
	m := &Machine{v: v, config: config, flash: make([]uint16, v.words), code: make([]instruction, v.words),
		plain: make([]instruction, v.words), mask: uint16(v.words - 1), ports: make([]port, len(v.ports)),
		ccps: make([]ccp, len(v.ccps))}
	if m.config.Clock == 0 {
		m.config.Clock = usualClock
	}
	if m.config.Supply == 0 {
		m.config.Supply = 5_000_000
	}
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
	m.eeprom.memory = make([]byte, v.eeprom)
	_ = m.Load(&firmware.Image{})
	return m
}

// Load puts an image into flash and restarts from power-on.
func (m *Machine) Load(im *firmware.Image) error {
	if im.Machine != 0 && im.Machine != firmware.MachinePIC {
		return fmt.Errorf("the file is built for another kind of chip (ELF machine %d), not for a PIC", im.Machine)
	}
	programmed := make([]bool, m.v.words)
	for i := range m.flash {
		m.flash[i] = erased
	}
	for _, s := range im.Flash {
		if s.End() > uint32(2*m.v.words) {
			return fmt.Errorf("the file programs flash up to 0x%04X; the %s ends at 0x%04X", (s.End()-1)/2, m.v.title,
				m.v.words-1)
		}
		for i, b := range s.Data {
			at := s.Address + uint32(i)
			word := &m.flash[at/2]
			if at&1 == 0 {
				*word = *word&0x3f00 | uint16(b)
			} else {
				*word = *word&0xff | uint16(b&0x3f)<<8
			}
			programmed[at/2] = true
		}
	}
	for i, w := range m.flash {
		in := decode(w)
		if !programmed[i] {
			in.op = opErased
		}
		m.plain[i], m.code[i] = in, fast(in)
	}
	if err := m.eeprom.load(m.v.title, im.EEPROM); err != nil {
		return err
	}
	if m.config.Cover {
		m.cover = newCover(m.code)
	}
	m.polls.Reset()
	m.powerOn()
	m.configure(im)
	return nil
}

// powerOn sets what only a loss of power sets: memory, the causes of reset, the time.
func (m *Machine) powerOn() {
	random := m.config.Seed ^ 0x5eed
	for i := range m.ram {
		m.ram[i] = byte(machine.Mix(random + uint64(i)))
	}
	m.cycle, m.now = 0, machine.Timebase{Rate: m.config.Clock, Clocks: 4}
	m.notes.Reset()
	m.stop = machine.Stop{}
	m.counters = machine.Counters{}
	m.starts = machine.Starts{}
	m.runsErased = false
	m.polls.Rewind()
	m.wave, m.kept = false, nil
	for i := range m.ports {
		m.ports[i].floated, m.ports[i].told = 0, 0
	}
}

// Causes of reset, as STATUS and PCON have them (DS33023A, table 3-2).
type cause uint8

const (
	byPower cause = iota
	byPin
	byWatchdog
)

// reset puts every register at its initial value and starts at address 0.
func (m *Machine) reset(why cause) {
	m.endWave(m.cycle)
	switch why {
	case byPower:
		m.status, m.ram[regPCON] = statusTO|statusPD, m.v.powerOn
	case byWatchdog:
		m.status = m.status & (statusZ | statusDC | statusC | statusPD) &^ statusTO
	default:
		if m.status &= statusZ | statusDC | statusC | statusTO | statusPD; m.asleep { // MCLR wakes with TO 1, PD 0
			m.status = m.status&^statusPD | statusTO
		} else {
			m.status |= statusTO | statusPD
		}
	}
	for _, a := range m.v.registers.resettable {
		m.ram[a] = m.v.registers.initial[a]
	}
	m.pc, m.sp, m.depth = 0, 0, 0
	if why == byPower {
		m.stack = [8]uint16{}
		m.w = uint8(machine.Mix(m.config.Seed ^ 0x3)) // unknown
	}
	for i := range m.due {
		m.due[i] = never
	}
	m.next, m.wanted, m.irq, m.asleep, m.jumped = never, false, false, false, false
	m.timer0, m.timer2 = timer0{}, timer2{}
	m.timer1.reset(m, why)
	for i := range m.ccps {
		m.ccps[i] = ccp{l: &m.v.ccps[i]}
	}
	m.adc, m.ssp, m.usart = adc{}, ssp{}, usart{}
	m.eeprom.reset()
	m.comparator = comparator{}
	m.setOscillator()
	m.begins = m.cycle + m.startUp(why)
	m.dog.reset(m)
	m.setAnalog()
	for i := range m.ports {
		m.releasePort(i)
	}
	m.timer2.schedule(m)
	if why != byPower {
		m.counters.Resets++
	}
}

// Reset is a pulse on the reset pin.
func (m *Machine) Reset() {
	m.stop = machine.Stop{}
	m.reset(byPin)
}

// Now is the present simulated time.
func (m *Machine) Now() clock.Time { return m.now.At(m.cycle) }

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
	stop := m.runTo(until, l)
	m.tellWave(m.cycle)
	return stop
}

func (m *Machine) runTo(until clock.Time, l machine.Listener) machine.Stop {
	m.listener = l
	m.until = m.now.CycleAt(until)
	if low := m.resetLow && m.hasReset(); low != m.inReset {
		if m.inReset = low; low {
			m.stop = machine.Stop{}
			m.reset(byPin)
		}
	}
	if m.inReset { // nothing runs until the pin is let go
		m.cycle = max(m.cycle, m.until)
		return machine.Stop{At: m.Now()}
	}
	for m.stop.Reason == "" {
		if m.next <= m.cycle {
			m.fire()
		}
		if m.dog.bitten {
			m.dog.bitten = false
			m.reset(byWatchdog)
			m.restarted()
			continue
		}
		switch {
		case m.cycle >= m.until:
			return machine.Stop{At: m.Now(), PC: uint32(m.pc) * 2}
		case m.cycle < m.begins:
			m.cycle = min(m.begins, m.until, max(m.next, m.cycle+1))
			continue
		case m.asleep:
			m.doze()
			continue
		case m.irq && m.cycle >= m.ready:
			m.enterInterrupt()
			continue
		}
		if m.deadline = min(m.until, m.next); m.irq {
			m.deadline = min(m.deadline, m.ready)
		}
		if !m.config.Reference {
			m.interpret()
			continue
		}
		for m.cycle < m.deadline {
			m.step()
		}
	}
	return m.stop
}

// setDue announces the cycle of a peripheral's next effect.
func (m *Machine) setDue(slot int, cycle int64) {
	m.due[slot] = cycle
	m.next = m.due[0]
	for _, d := range m.due[1:] {
		m.next = min(m.next, d)
	}
	m.deadline = min(m.deadline, m.next)
}

// fire handles, in order, everything due by now.
func (m *Machine) fire() {
	for m.next <= m.cycle && m.stop.Reason == "" {
		for slot, at := range m.due {
			if at != m.next {
				continue
			}
			switch slot {
			case dueTimer0: // does nothing that could be seen in another order
			case dueTimer1: // comes before what the wave does at the same cycle
				m.tellWave(at - 1)
			default:
				m.tellWave(at)
			}
			switch slot {
			case dueTimer0:
				m.timer0.overflow(m, at)
			case dueTimer1:
				m.timer1.event(m, at)
			case dueTimer2:
				m.timer2.period(m, at)
			case duePWM:
				m.timer2.edge(m, at)
			case dueSend:
				m.usart.sendNext(m, at)
			case dueReceive:
				m.usart.sample(m, at)
			case dueSSP:
				m.ssp.step(m, at)
			case dueADC:
				m.adc.done(m)
			case dueEEPROM:
				m.eeprom.programmed(m)
			case dueWatchdog:
				m.dog.timedOut(m)
			}
			break
		}
	}
}

// restarted counts a reset by the watchdog. Programs of this family may run from their end back to the beginning: only
// resets count as starting over and over.
func (m *Machine) restarted() {
	if n, within, often := m.starts.Count(m.Now()); often {
		m.end(machine.ResetLoop, "the program started %d times within %s, by watchdog resets: nothing executes CLRWDT in time",
			n, within.Short())
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

// note reports a thing once by its code.
func (m *Machine) note(code, format string, args ...any) {
	m.notes.Add(code, m.Now(), uint32(m.pc)*2, format, args...)
}

// place is the program point to which an effect is ascribed: return addresses from the top of the stack on, two bytes
// each.
func (m *Machine) place() machine.Place {
	p := machine.Place{PC: uint32(m.pc) * 2}
	for i := range m.depth {
		back := m.stack[(m.sp-1-i)&7] | onStack
		p.Stack[2*i], p.Stack[2*i+1] = uint8(back), uint8(back>>8)
	}
	return p
}

// onStack tells a return address in machine.Place from what is none.
const onStack = 0x8000

// Hash is over the whole state: equal hashes mean that two machines go on alike.
func (m *Machine) Hash() [32]byte {
	h := sha256.New()
	m.timer0.sync(m)
	m.timer1.sync(m)
	m.endWave(m.cycle)
	h.Write(m.ram[:])
	for i := range m.ports {
		p := m.ports[i]
		p.watched, p.followed = 0, 0
		fmt.Fprint(h, p)
	}
	for _, c := range m.ccps {
		c.l = nil
		fmt.Fprint(h, c)
	}
	fmt.Fprint(h, m.w, m.status, m.pc, m.stack, m.sp, m.depth, m.cycle, m.wanted, m.irq, m.ready, m.due, m.begins,
		m.asleep, m.inReset, m.now, m.timer0, m.timer1, m.timer2, m.adc, m.ssp, m.usart, m.eeprom, m.comparator, m.dog,
		m.stop)
	return [32]byte(h.Sum(nil))
}

// span is how many cycles a time takes at least, one or more.
func (m *Machine) span(t clock.Time) int64 { return max(1, m.now.CycleAt(m.Now()+t)-m.cycle) }

// Drives returns what a pin does to its net now.
func (m *Machine) Drives(p machine.Pin) circuit.Drive {
	if int(p>>3) >= len(m.ports) || p == m.v.reset && m.hasReset() {
		return circuit.PulledUp
	}
	return m.ports[p>>3].drive(p & 7)
}
