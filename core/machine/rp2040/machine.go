package rp2040

import (
	"crypto/sha256"
	"fmt"
	"maps"
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/armm"
	"hemble/core/machine/loops"
)

const never = armm.Never

// Events, by their place among what is due; of equal times the first one comes first.
const (
	dueAlarm    = 0 // four
	dueSend     = 4 // two
	dueReceive  = 6 // two
	duePWM      = 8
	dueADC      = 9
	dueWatchdog = 10
	dueI2C      = 11 // two
	dueSPI      = 13 // two
	dueRTC      = 15
	dueDMA      = 16
	dues        = 17
)

// Machine is an RP2040 running firmware on its core 0.
type Machine struct {
	core   *armm.Core
	config machine.Config
	flash  []byte
	ram    []byte
	cover  *cover // nil where nobody asks

	now   machine.Timebase
	until int64
	due   [dues]int64
	next  int64

	listener machine.Listener
	changes  []machine.Change
	resetLow bool
	inReset  bool

	starts machine.Starts // by resets

	resets   resets
	clocks   clocks
	watchdog watchdog
	timer    timer
	sio      sio
	pins     [gpios]pin
	bank     bank
	uarts    [2]uart
	i2cs     [2]i2c
	spis     [2]spi
	rtc      rtc
	dma      dma
	pwm      pwm
	adc      adc
	plain    map[uint32]uint32 // registers that only keep what was written
	watched  uint32
	followed uint32 // pins whose edges may be told later
	kept     []machine.Edge
	wave     []machine.Edge // of a period, while it is taped
	taping   bool
	given    [32]uint32 // pins, by the function that has them
	stale    bool       // levels and floating are those of before
	levels   uint32     // of pins whose input is on
	floating uint32     // such pins that nothing drives
	floated  uint32     // pins whose floating was told

	polls polls
	notes machine.Notes
}

func newMachine(config machine.Config) machine.Machine {
	m := &Machine{config: config, flash: make([]byte, flashSize), ram: make([]byte, ramSize)}
	m.core = armm.New(armm.CortexM0Plus, m)
	if m.config.Clock == 0 {
		m.config.Clock = Chip.Clock
	}
	if m.config.Supply == 0 {
		m.config.Supply = Chip.Electric.Supply
	}
	m.watched = 1<<gpios - 1
	if config.Watched != nil {
		m.watched = 0
		for _, p := range config.Watched {
			if p < gpios {
				m.watched |= 1 << p
			}
		}
	}
	for _, p := range config.Followed {
		if p < gpios {
			m.followed |= 1 << p
		}
	}
	for i := range m.flash {
		m.flash[i] = 0xff
	}
	m.core.Memories[flashAt>>28] = armm.Memory{Data: m.flash}
	m.core.Memories[ramAt>>28] = armm.Memory{Data: m.ram, Writable: true}
	if config.Cover {
		m.cover = &cover{at: map[uint32]carried{}, round: 1}
	}
	m.powerOn()
	return m
}

// Load puts an image into flash and restarts from power-on.
func (m *Machine) Load(im *firmware.Image) error {
	if im.Machine != 0 && im.Machine != firmware.MachineARM {
		return fmt.Errorf("the file is built for another kind of chip (ELF machine %d), not for an Arm core",
			im.Machine)
	}
	for i := range m.flash {
		m.flash[i] = 0xff
	}
	for _, s := range im.Flash {
		if s.Address < flashAt || uint64(s.Address)+uint64(len(s.Data)) > flashAt+flashSize {
			return fmt.Errorf("the file programs 0x%08X to 0x%08X; the flash of this board is 0x%08X to 0x%08X",
				s.Address,
				s.End()-1, flashAt, flashAt+flashSize-1)
		}
		copy(m.flash[s.Address-flashAt:], s.Data)
	}
	m.polls = polls{}
	m.powerOn()
	return nil
}

// powerOn is what only a loss of power does: memory and time begin anew.
func (m *Machine) powerOn() {
	random := m.config.Seed ^ 0x5eed
	for i := 0; i < len(m.ram); i += 8 {
		v := machine.Mix(random + uint64(i))
		for k := range 8 {
			m.ram[i+k] = byte(v >> (8 * k))
		}
	}
	m.core.Cycle, m.core.Counters = 0, machine.Counters{}
	m.now = machine.Timebase{Rate: rosc, Clocks: 1}
	m.notes.Reset()
	m.floated = 0
	m.polls.rewind()
	m.watchdog = watchdog{}
	m.starts = machine.Starts{}
	for i := range m.pins {
		m.pins[i] = pin{level: circuit.Float}
	}
	m.given, m.stale = [32]uint32{allPins}, true
	m.reset()
}

// reset is one of the whole chip: registers begin anew, and the boot ROM starts what it finds in flash (2.8).
func (m *Machine) reset() {
	m.tellWaves()
	for i := range m.due {
		m.due[i] = never
	}
	m.next = never
	m.plain = maps.Clone(plainAtReset)
	m.resets = resets{held: allBlocks}
	m.clocks.reset(m)
	m.watchdog.reset()
	m.timer = timer{}
	m.sio = sio{}
	m.bank = bank{}
	for i := range m.uarts {
		m.uarts[i] = newUART(i)
	}
	for i := range m.i2cs {
		m.i2cs[i].index = i
		m.i2cs[i].reset(m)
	}
	for i := range m.spis {
		m.spis[i] = spi{index: i}
	}
	m.pwm.reset()
	m.adc, m.rtc, m.dma = adc{}, rtc{}, newDMA()
	for i := range m.pins {
		m.give(i, 0x1f)
		m.pins[i].pad = 0x56
	}
	m.updatePins(allPins)
	m.boot()
}

// boot checks what the boot ROM checks, and goes on where the second stage leads: at the vectors behind it.
func (m *Machine) boot() {
	m.core.Reset(flashAt + secondStage)
	if crc := checksum(m.flash[:secondStage-4]); crc != word(m.flash[secondStage-4:]) {
		m.core.Stop = machine.Stop{}
		m.core.End(machine.NoStart,
			"the first 252 bytes of flash do not have their checksum (0x%08X; bytes 252 to 255 "+
				"have 0x%08X): the boot ROM would not start this program", crc, word(m.flash[secondStage-4:]))
	}
	if m.core.Stop.Reason == "" && m.core.Cycle > 0 {
		m.core.Counters.Resets++
		m.restarted()
	}
}

// restarted counts a start that was not the first.
func (m *Machine) restarted() {
	if n, within, often := m.starts.Count(m.Now()); often {
		m.core.End(machine.ResetLoop, "the program started %d times within %s, by resets of the watchdog or of its own",
			n, within.Short())
	}
}

// secondStage is the size of the second boot stage, checksum included (2.8.1.3.1).
const secondStage = 256

func word(b []byte) uint32 {
	return uint32(b[0]) | uint32(b[1])<<8 | uint32(b[2])<<16 | uint32(b[3])<<24
}

// checksum is that of the second stage: the polynomial 0x04C11DB7, from ones, highest bit first (2.8.1.3.1).
func checksum(data []byte) uint32 {
	crc := ^uint32(0)
	for _, b := range data {
		crc ^= uint32(b) << 24
		for range 8 {
			crc = crc<<1 ^ uint32(int32(crc)>>31)&0x04c1_1db7
		}
	}
	return crc
}

// Reset is a pulse on RUN.
func (m *Machine) Reset() { m.reset() }

// Now is the present simulated time.
func (m *Machine) Now() clock.Time { return m.now.At(m.core.Cycle) }

// Notes lists what the firmware did that a person should know of.
func (m *Machine) Notes() []machine.Note { return m.notes.List }

// Counters tell the effort so far.
func (m *Machine) Counters() machine.Counters {
	c := m.core.Counters
	c.Cycles = m.core.Cycle
	c.Followed, c.Walks = m.polls.loops.Followed, m.polls.loops.Walks
	return c
}

// Run interprets until the given moment; see machine.Source.
func (m *Machine) Run(until clock.Time, l machine.Listener) machine.Stop {
	stop := m.run(until, l)
	m.tellWaves()
	return stop
}

func (m *Machine) run(until clock.Time, l machine.Listener) machine.Stop {
	c := m.core
	m.listener = l
	m.until = m.now.CycleAt(until)
	if m.resetLow != m.inReset {
		if m.inReset = m.resetLow; m.resetLow {
			m.reset()
		}
	}
	if m.inReset {
		c.Cycle = max(c.Cycle, m.until)
		return machine.Stop{At: m.Now()}
	}
	for c.Stop.Reason == "" {
		if m.next <= c.Cycle {
			m.fire()
		}
		if m.watchdog.bitten || c.Restart {
			m.reset()
			continue
		}
		if c.Cycle >= m.until {
			return machine.Stop{At: m.Now(), PC: c.R[15]}
		}
		awake := c.Attend()
		c.Deadline = min(m.until, m.next, c.NextTick())
		switch {
		case c.Stop.Reason != "":
		case awake:
			m.interpret()
		case c.Deadline == never:
			c.End(machine.Asleep, "the core sleeps at 0x%08X, and nothing is left that could wake it", c.R[15])
		default:
			c.Cycle = max(c.Cycle, c.Deadline)
		}
	}
	c.Stop.At = m.Now()
	return c.Stop
}

// setDue announces the cycle of a peripheral's next effect.
func (m *Machine) setDue(slot int, cycle int64) {
	m.due[slot] = cycle
	m.next = m.due[0]
	for _, d := range m.due[1:] {
		m.next = min(m.next, d)
	}
	m.core.Deadline = min(m.core.Deadline, m.next)
}

// fire handles, in order, everything due by now.
func (m *Machine) fire() {
	for m.next <= m.core.Cycle && m.core.Stop.Reason == "" {
		for slot, at := range m.due {
			if at != m.next {
				continue
			}
			switch {
			case slot < dueSend:
				m.timer.alarm(m, slot)
			case slot < dueReceive:
				m.uarts[slot-dueSend].sendNext(m, at)
			case slot < duePWM:
				m.uarts[slot-dueReceive].sample(m, at)
			case slot == duePWM:
				m.pwm.edge(m, at)
			case slot == dueADC:
				m.adc.done(m)
			case slot == dueWatchdog:
				m.watchdog.bite(m)
			case slot < dueSPI:
				m.i2cs[slot-dueI2C].step(m, at)
			case slot < dueRTC:
				m.spis[slot-dueSPI].step(m, at)
			case slot == dueRTC:
				m.rtc.second(m)
			default:
				m.move()
			}
			break
		}
		if m.dma.busy != 0 {
			m.pace()
		}
	}
}

// note reports a thing once by its code.
func (m *Machine) note(code, format string, args ...any) {
	m.notes.Add(code, m.Now(), m.core.R[15], format, args...)
}

// place is the program point to which an effect is ascribed.
func (m *Machine) place() machine.Place {
	p := machine.Place{PC: m.core.R[15]}
	if sp := m.core.R[13] - ramAt; uint64(sp)+uint64(len(p.Stack)) <= uint64(len(m.ram)) {
		copy(p.Stack[:], m.ram[sp:])
	}
	return p
}

// Hash is over the whole state: equal hashes mean that two machines go on alike.
func (m *Machine) Hash() [32]byte {
	h := sha256.New()
	h.Write(m.ram)
	h.Write(m.core.Hash())
	m.timer.sync(m)
	fmt.Fprint(h, m.due, m.now, m.resets, m.clocks, m.watchdog, m.timer, m.sio, m.pins, m.bank, m.uarts, m.i2cs,
		m.spis, m.pwm,
		m.adc, m.rtc, m.dma,
		m.plain, m.inReset)
	return [32]byte(h.Sum(nil))
}

// polls decides when to look for a loop that waits.
type polls struct {
	loops loops.Loops
	again map[uint32]int64 // by heads: not before that cycle
}

func (p *polls) rewind() {
	p.loops.Rewind()
	p.again = map[uint32]int64{}
}

// lowest is the number of the lowest bit of a mask.
func lowest(mask uint32) int { return bits.TrailingZeros32(mask) }
