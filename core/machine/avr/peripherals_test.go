package avr

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

const (
	nop  = 0x0000
	self = 0xcfff // rjmp .-2
	sei  = 0x9478
	cli  = 0x94f8
	reti = 0x9518
)

// spin is a machine whose interrupt vectors all return at once and whose program is given, put
// behind them, followed by an endless loop.
func spin(t testing.TB, words ...uint16) *Machine {
	code := make([]uint16, 52)
	for i := range code {
		code[i] = reti
	}
	code[0] = 0xc000 | 51 // rjmp to 52
	m := program(t, false, append(append(code, words...), self)...)
	m.ports = []port{{watched: 0xff}, {watched: 0xff}, {watched: 0xff}}
	m.releaseAll()
	return m
}

func (m *Machine) releaseAll() {
	for i := range m.ports {
		m.releasePort(i)
	}
}

func (m *Machine) to(cycle int64) { m.Run(m.now.at(cycle), m.listener) }

// edges records changes with their cycles.
type edges struct {
	m    *Machine
	list []edge
}

type edge struct {
	cycle int64
	pin   string
	level circuit.Level
}

func (e *edges) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		e.list = append(e.list, edge{e.m.now.cycleAt(t), pins328()[c.Pin].Name, c.Drive.Level})
	}
	return clock.Never
}

func listen(m *Machine) *edges {
	e := &edges{m: m}
	m.listener = e
	return e
}

func TestInterruptLatency(t *testing.T) {
	// OUT TIMSK0-like set-ups by hand: raise TOV0 while running NOPs.
	m := spin(t, sei, nop, nop, nop)
	m.to(3) // rjmp (2), sei (1)
	assert.Equal(t, int32(53), m.pc)
	m.store(0x6e, bitTOV)
	m.io[regTIFR0] |= bitTOV
	m.timers[0].requests(m)
	m.to(4) // the instruction behind SEI runs first
	assert.Equal(t, int32(54), m.pc)
	m.to(5) // then four cycles to the vector
	assert.Equal(t, int32(32), m.pc)
	assert.Equal(t, int64(8), m.cycle)
	assert.Zero(t, m.io[regTIFR0], "taking the interrupt clears its flag")
	assert.Zero(t, m.sreg&flagI)
	assert.Equal(t, uint8(54), m.data[ramEnd])
	m.to(9) // RETI: four cycles
	assert.Equal(t, int32(54), m.pc)
	assert.Equal(t, int64(12), m.cycle)
}

func TestInterruptPriority(t *testing.T) {
	m := spin(t, sei, nop, nop, nop, nop)
	m.to(3)
	m.store(regEIMSK, 1)
	m.store(regEICRA, 3)
	m.store(0x6e, bitTOV|bitOCFA)
	m.io[regEIFR] |= 1
	m.io[regTIFR0] |= bitTOV | bitOCFA
	m.timers[0].requests(m)
	m.externalRequests()
	var order []int32
	for m.cycle < 40 {
		if m.to(m.cycle + 1); m.pc < 52 && m.pc%2 == 0 {
			order = append(order, m.pc/2)
		}
	}
	assert.Equal(t, []int32{vectorINT0, 14, 16}, order,
		"INT0 before TIMER0 COMPA before TIMER0 OVF, one instruction of the program between them")
}

// The stamps of compare outputs and flags for each mode, at the cycles of the timing diagrams.
func TestTimerModes(t *testing.T) {
	type setup map[uint16]uint8
	cases := []struct {
		name   string
		set    setup
		order  []uint16
		pin    string
		stamps []int64 // of the first edges, relative to the write that starts the clock
		levels []circuit.Level
	}{
		{"timer 0, CTC, toggle, /1", setup{0x44: 0x42, 0x47: 9, 0x45: 1}, []uint16{0x44, 0x47, 0x45}, "PD6",
			[]int64{10, 20, 30}, []circuit.Level{1, 0, 1}},
		{"timer 0, CTC, toggle, /8", setup{0x44: 0x42, 0x47: 9, 0x45: 2}, []uint16{0x44, 0x47, 0x45}, "PD6",
			[]int64{80, 160, 240}, []circuit.Level{1, 0, 1}},
		{"timer 0, fast PWM, clear on match", setup{0x44: 0x83, 0x47: 63, 0x45: 1}, []uint16{0x44, 0x47, 0x45}, "PD6",
			[]int64{256, 320, 512}, []circuit.Level{1, 0, 1}},
		{"timer 0, phase correct PWM", setup{0x44: 0x81, 0x47: 63, 0x45: 1}, []uint16{0x44, 0x47, 0x45}, "PD6",
			[]int64{510 - 63 + 1, 510 + 63 + 1, 1020 - 63 + 1}, []circuit.Level{1, 0, 1}},
		{"timer 2, CTC, toggle, /32", setup{0xb0: 0x42, 0xb3: 3, 0xb1: 3}, []uint16{0xb0, 0xb3, 0xb1}, "PB3",
			[]int64{128, 256, 384}, []circuit.Level{1, 0, 1}},
		{"timer 1, CTC with OCR1A, toggle OC1B", setup{0x80: 0x10, 0x89: 0x03, 0x88: 0xe7, 0x8b: 0, 0x8a: 99,
			0x81: 0x09}, []uint16{0x80, 0x89, 0x88, 0x8b, 0x8a, 0x81}, "PB2", []int64{100, 1100, 2100},
			[]circuit.Level{1, 0, 1}},
		{"timer 1, fast PWM to ICR1", setup{0x80: 0x82, 0x81: 0x18, 0x87: 0x03, 0x86: 0xe7, 0x89: 0, 0x88: 99},
			[]uint16{0x80, 0x81, 0x87, 0x86, 0x89, 0x88}, "PB1", []int64{1000, 1100, 2000}, []circuit.Level{1, 0, 1}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			m := spin(t)
			m.to(10)
			m.presync.base, m.preasync.base = m.cycle, m.cycle
			m.store(0x24, 0xff)
			m.store(0x2a, 0xff)
			e := listen(m)
			for _, address := range c.order {
				m.store(address, c.set[address])
			}
			if c.order[len(c.order)-1] == 0x88 { // started last, with the clock
				m.store(0x81, 0x19)
			}
			start := m.cycle
			m.to(start + 3000)
			var stamps []int64
			var levels []circuit.Level
			for _, x := range e.list {
				if x.pin == c.pin && len(stamps) < len(c.stamps) && (x.cycle > start) {
					stamps, levels = append(stamps, x.cycle-start), append(levels, x.level)
				}
			}
			assert.Equal(t, c.stamps, stamps)
			assert.Equal(t, c.levels, levels)
		})
	}
}

func TestTimerFlagsAndCapture(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.presync.base = m.cycle
	m.store(0x45, 2) // timer 0, /8
	start := m.cycle
	m.cycle = start + 8*255 + 7
	assert.Equal(t, uint8(255), m.load(0x46))
	assert.Zero(t, m.load(regTIFR0)&bitTOV)
	m.cycle++
	assert.Zero(t, m.load(0x46))
	assert.Equal(t, uint8(bitTOV), m.load(regTIFR0)&bitTOV)
	m.store(regTIFR0, bitTOV)
	assert.Zero(t, m.load(regTIFR0)&bitTOV, "a flag is cleared by writing a one")
	m.cycle += 8 * 256 * 1000
	assert.Equal(t, uint8(bitTOV|bitOCFA|bitOCFB), m.load(regTIFR0), "a long rest is caught up with")
	assert.Zero(t, m.load(0x46))

	m.store(0x81, 0x41) // timer 1, /1, capture on the rising edge
	m.store(0x84, 0)
	m.Input(0, circuit.Low)
	at := m.cycle
	m.cycle += 777
	m.Input(0, circuit.High)
	assert.Equal(t, uint8(bitICF), m.load(regTIFR0+1)&bitICF)
	assert.Equal(t, uint16(m.cycle-at), uint16(m.load(0x86))|uint16(m.load(0x87))<<8)

	m.store(0x85, 0x12) // the high byte waits in TEMP
	m.store(0x84, 0x34)
	low := m.load(0x84)
	m.cycle += 300
	assert.Equal(t, []uint8{0x34, 0x12}, []uint8{low, m.load(0x85)}, "and is read together with the low one")
}

func TestPortsAndSynchroniser(t *testing.T) {
	// sbi DDRB,0; sbi PINB,0 (toggle); in r16,PINB; in r17,PINB
	m := spin(t, 0x9a20, 0x9a18, 0xb103, 0xb113, nop)
	m.to(20)
	assert.Equal(t, []uint8{0, 1}, []uint8{m.data[16] & 1, m.data[17] & 1},
		"the synchroniser shows an edge one cycle late")
	assert.Equal(t, uint8(1), m.io[0x25])
	assert.Equal(t, circuit.DrivenHigh, m.Drives(0))

	m.store(0x2b, 0x80)
	assert.Equal(t, circuit.PulledUp, m.Drives(23))
	m.store(regMCUCR, bitPUD)
	assert.Equal(t, circuit.Released, m.Drives(23), "PUD switches all pull-ups off")

	seen := map[uint8]bool{}
	for i := 0; i < 64; i++ {
		m.cycle += noiseCycles
		seen[m.load(0x29)&0x10] = true
	}
	assert.Len(t, seen, 2, "a floating input reads noise")
	again := spin(t)
	again.cycle = m.cycle
	assert.Equal(t, m.load(0x29)&0x10, again.load(0x29)&0x10, "the same with the same seed")
}

func TestPinInterrupts(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(regEICRA, 0x0e) // INT0 falling... INT1 rising
	m.store(regPCICR, 2)
	m.store(regPCMSK0+1, 1)
	m.store(regEIMSK, 3)
	for _, p := range []machine.Pin{8, 18, 19} {
		m.Input(p, circuit.Low)
	}
	m.store(regEIFR, 3)
	m.store(regPCIFR, 7)
	m.Input(18, circuit.High)
	assert.Zero(t, m.io[regEIFR])
	m.Input(18, circuit.Low)
	assert.Equal(t, uint8(1), m.io[regEIFR])
	m.Input(19, circuit.High)
	assert.Equal(t, uint8(3), m.io[regEIFR])
	m.Input(8, circuit.High)
	assert.Equal(t, uint8(2), m.io[regPCIFR])
	assert.Equal(t, uint64(1<<vectorINT0|1<<(vectorINT0+1)|1<<(vectorPCINT0+1)), m.irq)
	m.store(regEICRA, 0) // low level
	m.Input(18, circuit.High)
	m.externalRequests()
	assert.Zero(t, m.irq&(1<<vectorINT0))
}

func TestUSART(t *testing.T) {
	m := spin(t)
	var sent []machine.Byte
	m.config.Bytes = func(b machine.Byte) { sent = append(sent, b) }
	m.to(10)
	e := listen(m)
	m.store(0xc4, 103) // 9600 baud
	m.store(0xc1, bitTXEN|bitRXEN)
	m.store(0xc6, 'U')
	m.store(0xc6, '!') // the buffer
	require.Empty(t, m.Notes())
	m.store(0xc6, '?') // which is full
	require.Len(t, m.Notes(), 1)
	assert.Equal(t, "serial-lost", m.Notes()[0].Code)
	assert.Zero(t, m.load(0xc0)&bitUDRE)
	start, bit := m.cycle, int64(16*104)
	m.to(start + 21*bit)
	require.Len(t, sent, 2)
	assert.Equal(t, []byte{'U', '!'}, []byte{sent[0].Value, sent[1].Value})
	assert.Equal(t, m.now.at(start+10*bit), sent[0].At)
	var stamps []int64
	for _, x := range e.list[1:10] {
		stamps = append(stamps, (x.cycle-start)/bit)
	}
	assert.Equal(t, []int64{0, 1, 2, 3, 4, 5, 6, 7, 8}, stamps, "U toggles the line at every bit")
	assert.Equal(t, uint8(bitTXC|bitUDRE), m.load(0xc0)&(bitTXC|bitUDRE))

	receive := func(frame uint16, bits int) {
		for i := 0; i < bits; i++ {
			m.Input(16, circuit.Level(frame>>i&1))
			m.to(m.cycle + bit)
		}
		m.Input(16, circuit.High)
		m.to(m.cycle + bit)
	}
	m.Input(16, circuit.High)
	receive(uint16('k')<<1|0x200, 10)
	assert.Equal(t, uint8(bitRXC), m.load(0xc0)&(bitRXC|bitFE))
	assert.Equal(t, uint8('k'), m.load(0xc6))
	assert.Zero(t, m.load(0xc0)&bitRXC)
	receive(uint16('x')<<1, 10) // no stop bit
	assert.Equal(t, uint8(bitFE), m.load(0xc0)&bitFE)
	m.load(0xc6)
	for _, c := range "abc" {
		receive(uint16(c)<<1|0x200, 10)
	}
	assert.Equal(t, uint8('a'), m.load(0xc6))
	assert.Equal(t, uint8(bitDOR), m.load(0xc0)&bitDOR, "the third byte found no room")
	m.store(0xc2, 0x26) // even parity
	receive(uint16('d')<<1|0<<9|0x400, 11)
	m.load(0xc6)
	assert.Equal(t, uint8(bitUPE), m.load(0xc0)&bitUPE, "'d' has three ones: parity 0 is wrong")
}

func TestWatchdog(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(regWDTCSR, bitWDCE|bitWDE)
	m.store(regWDTCSR, bitWDE|2) // 64 ms
	m.Run(60*clock.Millisecond, nil)
	assert.Zero(t, m.io[regMCUSR]&resetWatchdog)
	m.dog.feed(m)
	m.Run(120*clock.Millisecond, nil)
	assert.Zero(t, m.io[regMCUSR]&resetWatchdog, "fed in time")
	m.Run(130*clock.Millisecond, nil)
	assert.NotZero(t, m.io[regMCUSR]&resetWatchdog)
	assert.Equal(t, uint8(bitWDE), m.io[regWDTCSR], "after its reset it runs at the shortest time-out")
	m.store(regWDTCSR, 0)
	assert.NotZero(t, m.io[regWDTCSR]&bitWDE, "WDRF holds WDE")

	m = spin(t)
	m.to(10)
	m.store(regWDTCSR, bitWDE|2)
	assert.Zero(t, m.io[regWDTCSR]&7, "the prescaler needs the timed sequence")
}

func TestSleep(t *testing.T) {
	// sei; sleep
	m := spin(t, sei, 0x9588)
	m.to(2)
	m.store(regSMCR, 1) // idle
	m.store(0x6e, bitTOV)
	m.store(0x45, 1) // timer 0 overflows every 256 cycles
	from := m.counters.Instructions
	m.Run(clock.Millisecond, nil)
	assert.Less(t, m.counters.Instructions-from, int64(200000))
	assert.False(t, m.power.asleep, "the interrupt woke it, and the program went on into its loop")

	m = spin(t, cli, 0x9588)
	m.to(2)
	m.store(regSMCR, 5) // power-down
	stop := m.Run(clock.Second, nil)
	assert.Equal(t, machine.Asleep, stop.Reason)

	m = spin(t, sei, 0x9588)
	m.to(2)
	m.store(regSMCR, 5)
	m.store(regPCICR, 4)
	m.store(regPCMSK0+2, 0x80)
	m.Input(23, circuit.High)
	m.store(regPCIFR, 7)
	require.Equal(t, machine.Reached, m.Run(clock.Millisecond, nil).Reason, "a pin can still wake it")
	assert.True(t, m.power.asleep)
	m.Input(23, circuit.Low)
	at := m.cycle
	m.Run(3*clock.Millisecond, nil)
	assert.False(t, m.power.asleep)
	assert.Greater(t, m.cycle, at+wakeCycles)
}

func TestClockPrescaler(t *testing.T) {
	m := spin(t)
	m.to(160) // 10 µs
	m.store(regCLKPR, 0x80)
	m.store(regCLKPR, 3)
	from := m.Now()
	m.cycle += 100
	assert.Equal(t, 50*clock.Microsecond, m.Now()-from, "divided by eight")
	m.store(regCLKPR, 0)
	assert.Equal(t, uint8(3), m.io[regCLKPR], "a change needs the timed sequence")
}

func TestStops(t *testing.T) {
	assert.Equal(t, machine.ResetLoop, program(t, false, 0x940c, 0).Run(clock.Second, nil).Reason)
	assert.Equal(t, machine.StackEmpty, program(t, false, nop, 0x9508).Run(clock.Second, nil).Reason)
	assert.Equal(t, machine.StackOverrun, program(t, false, nop, 0x920f, 0xcffe).Run(clock.Second, nil).Reason)
	assert.Equal(t, machine.Breakpoint, program(t, false, nop, 0x9598).Run(clock.Second, nil).Reason)
	m := program(t, false, nop, self)
	stop := m.Run(10*clock.Second, nil)
	assert.Equal(t, machine.Reached, stop.Reason)
	assert.Less(t, m.counters.Instructions, int64(1000), "an idle loop costs nothing")
}

// What is not modelled is told by name, once.
func TestUnmodelled(t *testing.T) {
	// r16 = 0xFF; out SPMCSR,r16 twice; r16 = 4, sts PRR,r16 twice
	m := program(t, false, 0xef0f, 0xbf07, 0xbf07, 0xe004, 0x9300, 0x0064, 0x9300, 0x0064, self)
	m.Run(clock.Millisecond, nil)
	require.Len(t, m.Notes(), 2)
	assert.Contains(t, m.Notes()[0].Text, "SPMCSR")
	assert.Contains(t, m.Notes()[1].Text, "PRR")
}

// SEI, a write to SREG that sets I, and RETI each let one more instruction run.
func TestOneInstructionFirst(t *testing.T) {
	for name, words := range map[string][]uint16{"SEI": {sei, nop, nop}, "OUT SREG": {0xbf0f, nop, nop},
		"RETI": {0xd001, nop, reti}} {
		m := spin(t, words...)
		m.data[16] = flagI
		m.store(regEIMSK, 1)
		m.store(regEICRA, 3)
		m.io[regEIFR] = 1
		m.externalRequests()
		ran := 0
		for m.pc != vectorINT0*2 && m.cycle < 40 {
			if m.sreg&flagI != 0 {
				ran++
			}
			m.to(m.cycle + 1)
		}
		assert.Equal(t, int32(vectorINT0*2), m.pc, name)
		assert.Equal(t, 2, ran, "%s: I stands for one instruction and for the moment of the interrupt", name)
	}
}

// The count of each timer advances once for each divider, for every clock select.
func TestPrescalers(t *testing.T) {
	for i, dividers := range [][]int64{{0, 1, 8, 64, 256, 1024}, {0, 1, 8, 64, 256, 1024},
		{0, 1, 8, 32, 64, 128, 256, 1024}} {
		for cs, divider := range dividers {
			m := spin(t)
			m.to(10)
			m.presync.base, m.preasync.base = m.cycle, m.cycle
			m.store(ATmega328P.timers[i].tccrb, uint8(cs))
			at := func(cycles int64) uint8 {
				m.cycle += cycles
				return m.load(ATmega328P.timers[i].tcnt)
			}
			if divider == 0 {
				assert.Zero(t, at(5000), "timer %d stopped", i)
				continue
			}
			assert.Equal(t, uint8(0), at(divider-1), "timer %d, /%d", i, divider)
			assert.Equal(t, uint8(1), at(1), "timer %d, /%d", i, divider)
			assert.Equal(t, uint8(101), at(100*divider), "timer %d, /%d", i, divider)
		}
	}
}

// Where the highest count comes from, for all sixteen modes of timer 1: the period in ticks.
func TestTimer1Periods(t *testing.T) {
	const ocr, icr = 999, 499
	want := map[int]int64{0: 65536, 1: 2 * 255, 2: 2 * 511, 3: 2 * 1023, 4: ocr + 1, 5: 256, 6: 512, 7: 1024,
		8: 2 * icr, 9: 2 * ocr, 10: 2 * icr, 11: 2 * ocr, 12: icr + 1, 14: icr + 1, 15: ocr + 1}
	for mode, period := range want {
		m := spin(t)
		m.to(10)
		m.store(0x80, uint8(mode&3))
		m.store(0x81, uint8(mode&12)<<1)
		wide := func(address uint16, v uint16) {
			m.store(address+1, uint8(v>>8))
			m.store(address, uint8(v))
		}
		wide(0x88, ocr)
		wide(0x86, icr)
		m.presync.base = m.cycle
		m.store(0x81, uint8(mode&12)<<1|1)
		m.cycle += 200_000 // past the first take-over of buffered compare values
		m.load(regTIFR0 + 1)
		read := func() [2]uint8 { return [2]uint8{m.load(0x84), m.load(0x85)} }
		first := read()
		down := m.timers[1].down
		m.cycle += period
		assert.Equal(t, first, read(), "mode %d repeats after %d ticks", mode, period)
		assert.Equal(t, down, m.timers[1].down, "mode %d", mode)
		m.cycle += period / 2
		assert.NotEqual(t, [3]any{first[0], first[1], down}, [3]any{m.load(0x84), m.load(0x85), m.timers[1].down},
			"mode %d does not repeat earlier", mode)
	}
}

// Frames of every length, parity and stop bits take their time on the line.
func TestUSARTFrames(t *testing.T) {
	for _, c := range []struct {
		ucsrc uint8
		bits  int64
	}{{0x00, 7}, {0x02, 8}, {0x04, 9}, {0x06, 10}, {0x0e, 11}, {0x26, 11}, {0x36, 11}, {0x2e, 12}} {
		m := spin(t)
		var sent []machine.Byte
		m.config.Bytes = func(b machine.Byte) { sent = append(sent, b) }
		m.to(10)
		m.store(0xc4, 9)
		m.store(0xc2, c.ucsrc)
		m.store(0xc1, bitTXEN)
		m.store(0xc6, 0x15)
		start := m.cycle
		m.to(start + 20*160)
		require.Len(t, sent, 1)
		assert.Equal(t, m.now.at(start+c.bits*160), sent[0].At, "UCSR0C %02X: %d bits", c.ucsrc, c.bits)
		assert.Equal(t, byte(0x15), sent[0].Value)
	}
	m := spin(t)
	m.to(10)
	m.store(0xc0, bitU2X)
	assert.Equal(t, int64(8), m.usarts[0].bit(m), "double speed")
	m.store(0xc6, 'x')
	assert.False(t, m.usarts[0].sending, "a transmitter that is off sends nothing")
}

// FOCnx acts as a match at once, and only in the modes without PWM.
func TestForceOutputCompare(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x2a, 0x40)
	m.store(0x44, 0x40) // toggle OC0A
	m.store(0x45, 0x80)
	assert.Equal(t, circuit.DrivenHigh, m.Drives(22))
	m.store(0x45, 0x80)
	assert.Equal(t, circuit.DrivenLow, m.Drives(22))
	m.store(0x44, 0x83) // fast PWM
	m.store(0x45, 0x80)
	assert.Equal(t, circuit.DrivenLow, m.Drives(22))
	m.store(0x44, 0)
	m.store(0x2b, 0x40)
	assert.Equal(t, circuit.DrivenHigh, m.Drives(22), "disconnected, the pin is the port's again")
}

// T0 counts edges of its pin.
func TestExternalClock(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.Input(20, circuit.Low)
	m.store(0x45, 7) // rising edges
	for i := 0; i < 5; i++ {
		m.cycle += 10
		m.Input(20, circuit.High)
		m.cycle += 10
		m.Input(20, circuit.Low)
	}
	assert.Equal(t, uint8(5), m.load(0x46))
	m.store(0x45, 6) // falling edges
	m.Input(20, circuit.High)
	assert.Equal(t, uint8(5), m.load(0x46))
	m.Input(20, circuit.Low)
	assert.Equal(t, uint8(6), m.load(0x46))
}

// A reset puts registers back and keeps the RAM; MCUSR tells its cause.
func TestResetKeepsRAM(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x200, 77)
	m.store(0x24, 0xff)
	m.store(regMCUSR, 0)
	m.Reset()
	assert.Equal(t, uint8(77), m.load(0x200))
	assert.Zero(t, m.load(0x24))
	assert.Equal(t, uint8(resetExternal), m.load(regMCUSR))
	assert.Equal(t, circuit.Released, m.Drives(0))
	assert.Equal(t, uint16(ramEnd), m.sp)
}

// Addresses outside the SRAM do nothing, and are told of.
func TestOutsideSRAM(t *testing.T) {
	m := program(t, false, nop, 0x9300, 0x0a00, 0x9110, 0x0a00, self)
	m.data[16] = 5
	m.Run(clock.Millisecond, nil)
	assert.Zero(t, m.data[17])
	require.NotEmpty(t, m.Notes())
	assert.Contains(t, m.Notes()[0].Text, "address 0x0A00, beyond the SRAM")
}

// In the deep modes only what table 9-1 lists continues, and only that wakes; a byte that was being sent stops half way
// and continues afterwards; timers do not count while the oscillator starts.
func TestDeepSleep(t *testing.T) {
	asleep := func(mode uint8) *Machine {
		m := spin(t, sei, 0x9588)
		m.to(2)
		m.store(regSMCR, 1|mode<<1)
		m.store(regPCICR, 4)
		m.store(regPCMSK0+2, 0x80)
		m.Input(23, circuit.High)
		m.store(regPCIFR, 7)
		return m
	}
	for mode, start := range map[uint8]int64{sleepPowerDown: 16384, sleepPowerSave: 16384, sleepStandby: 6,
		sleepExtendedStandby: 6, sleepNoiseReduction: 0} {
		m := asleep(mode)
		m.store(0x45, 1) // timer 0, each cycle
		m.store(0xc1, bitTXEN|0x40)
		m.store(0xc6, 0x55)
		m.store(regSPCR, bitSPE|bitMSTR|bitSPIE)
		m.store(regSPDR, 1)
		m.store(regADMUX, 1<<6)
		if mode != sleepNoiseReduction {
			m.store(regADCSRA, bitADEN|bitADSC|bitADIE|1)
		}
		m.Run(2*clock.Millisecond, nil)
		assert.True(t, m.power.asleep, "mode %d: neither the USART, the SPI, the ADC nor a timer wakes it", mode)
		count := m.timers[0].count
		m.Run(10*clock.Millisecond, nil)
		assert.Equal(t, count, m.timers[0].count, "mode %d", mode)
		assert.True(t, m.usarts[0].sending, "mode %d: the byte stopped half way", mode)
		at := m.cycle
		m.Input(23, circuit.Low)
		m.Run(10*clock.Millisecond+clock.Microsecond/2, nil)
		assert.False(t, m.power.asleep, "mode %d: a pin does", mode)
		m.to(at + start + 12)
		assert.Less(t, int(m.load(0x46)-uint8(count)), 14, "mode %d: the timer did not count the start-up", mode)
		m.Run(12*clock.Millisecond+clock.Time(start)*62500, nil)
		assert.False(t, m.usarts[0].sending, "mode %d: then it is sent", mode)
	}
	// What needs the I/O clock is not even seen.
	m := asleep(sleepPowerDown)
	m.store(regEIMSK, 1)
	m.store(regEICRA, 2)
	m.store(0xc1, bitRXEN|0x80)
	m.Input(18, circuit.High)
	m.Input(16, circuit.High)
	m.Run(clock.Millisecond, nil)
	require.True(t, m.power.asleep)
	m.Input(18, circuit.Low)
	m.Input(16, circuit.Low)
	m.Run(5*clock.Millisecond, nil)
	assert.True(t, m.power.asleep, "an edge at INT0, a start bit")
	m.store(regEICRA, 0)
	m.Run(8*clock.Millisecond, nil)
	assert.False(t, m.power.asleep, "a low level at INT0 does wake it")
}

// A pin whose digital input is switched off reads 0 (datasheet 24.9.5, 23.3.2), and PRR returns what it would stop.
func TestSwitchedOffInputs(t *testing.T) {
	m := spin(t)
	m.Input(8, circuit.High)
	m.Input(9, circuit.High)
	m.Input(22, circuit.High)
	m.to(10)
	m.store(regDIDR0, 1)
	m.store(regDIDR1, 1)
	assert.Equal(t, uint8(2), m.load(0x26)&3)
	assert.Zero(t, m.load(0x29)&0x40)
	m.store(regDIDR0, 0)
	assert.Equal(t, uint8(3), m.load(0x26)&3)
	before := len(m.Notes())
	m.store(regPRR, 1|1<<2|1<<7)
	require.Len(t, m.Notes(), before+3)
	assert.Contains(t, m.Notes()[before].Text, "the ADC")
}

// With nothing wired to the SPI a byte reads what MISO is at: a pull-up gives 0xFF.
func TestSPIOfOpenLine(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x25, 1<<4) // PORTB4: the pull-up of MISO
	m.store(0x24, 1<<2|1<<3|1<<5)
	m.store(regSPCR, bitSPE|bitMSTR)
	m.store(regSPDR, 0x12)
	m.to(200)
	assert.Equal(t, uint8(0xff), m.load(regSPDR))
}
