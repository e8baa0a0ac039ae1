package avr

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

const ms = clock.Millisecond

func (m *Machine) wait(d clock.Time) { m.to(m.now.cycleAt(m.Now() + d)) }

func TestEEPROM(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(regEEARH, 1)
	m.store(regEEARL, 0x23)
	m.store(regEEDR, 0x5a)
	m.store(regEECR, bitEEPE)
	assert.Zero(t, m.load(regEECR)&bitEEPE, "EEPE without EEMPE does nothing")
	m.store(regEECR, bitEEMPE)
	m.to(m.cycle + 5)
	m.store(regEECR, bitEEPE)
	assert.Zero(t, m.load(regEECR)&bitEEPE, "more than four cycles after EEMPE")
	m.store(regEECR, bitEEMPE)
	m.store(regEECR, bitEEMPE|bitEEPE)
	assert.NotZero(t, m.load(regEECR)&bitEEPE)
	assert.Equal(t, int64(2), m.power.halted, "the core halts for two cycles")
	m.wait(3300 * clock.Microsecond)
	assert.NotZero(t, m.load(regEECR)&bitEEPE, "3.4 ms for erasing and writing")
	m.store(regEEDR, 0)
	m.store(regEECR, bitEERE)
	assert.Zero(t, m.load(regEEDR), "nothing is read while it is programmed")
	m.wait(101 * clock.Microsecond)
	assert.Zero(t, m.load(regEECR)&bitEEPE)
	m.store(regEECR, bitEERE)
	assert.Equal(t, uint8(0x5a), m.load(regEEDR))
	m.wait(clock.Microsecond)
	m.Reset()
	assert.Equal(t, int64(1), m.Counters().Writes, "of three tries one was a write")
	assert.Equal(t, uint8(0x5a), m.eeprom.memory[0x123], "it keeps its contents over a reset")

	m.store(regEEARL, 0x23)
	m.store(regEEARH, 1)
	m.store(regEEDR, 0x0f)
	m.store(regEECR, 2<<4|bitEEMPE) // write only: bits can only be cleared
	m.store(regEECR, 2<<4|bitEEPE|bitEERIE)
	assert.Zero(t, m.irq&(1<<ATmega328P.vectors.eeprom))
	m.wait(1900 * clock.Microsecond)
	assert.Equal(t, uint8(0x0a), m.eeprom.memory[0x123])
	assert.NotZero(t, m.irq&(1<<ATmega328P.vectors.eeprom), "ready")
}

func TestSPIMaster(t *testing.T) {
	for _, c := range []struct {
		control uint8
		want    []bool // MOSI at each sampling edge for 0xb1
		rising  bool
		period  int64
	}{
		{0, []bool{true, false, true, true, false, false, false, true}, true, 4},
		{bitCPOL, []bool{true, false, true, true, false, false, false, true}, false, 4},
		{bitCPHA, []bool{true, false, true, true, false, false, false, true}, false, 4},
		{bitCPOL | bitCPHA | bitDORD | 1, []bool{true, false, false, false, true, true, false, true}, true, 16},
	} {
		m := spin(t)
		e := listen(m)
		m.to(10)
		m.store(0x24, pinMOSI|pinSCK|pinSS)
		m.store(regSPCR, bitSPE|bitMSTR|c.control)
		e.list = nil
		start := m.cycle
		m.Input(4, circuit.High) // MISO
		m.store(regSPDR, 0xb1)
		m.to(m.cycle + 8*c.period)
		m.store(regSPDR, 0)
		mosi, bits := false, []bool{}
		for _, x := range e.list {
			switch {
			case x.pin == "PB3":
				mosi = x.level == circuit.High
			case x.pin == "PB5" && (x.level == circuit.High) == c.rising:
				bits = append(bits, mosi)
			}
		}
		assert.Equal(t, c.want, bits, "%02x", c.control)
		assert.Equal(t, start+8*c.period, lastEdge(e, "PB5", start+8*c.period), "eight periods, %02x", c.control)
		assert.NotZero(t, m.load(regSPSR)&bitSPIF)
		assert.Equal(t, uint8(0xff), m.load(regSPDR), "MISO was high")
		assert.Zero(t, m.load(regSPSR)&bitSPIF, "reading SPSR, then SPDR, clears SPIF")
	}
}

func lastEdge(e *edges, pin string, until int64) (at int64) {
	for _, x := range e.list {
		if x.pin == pin && x.cycle <= until {
			at = x.cycle
		}
	}
	return at
}

// MOSI is a compare output of timer 2, too; the SPI goes before it, whatever is written to the timer.
func TestSPIBeforeTimer(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x24, pinMOSI|pinSCK|pinSS)
	m.store(regSPCR, bitSPE|bitMSTR)
	m.store(0xb0, 0) // TCCR2A: no output
	m.store(regSPDR, 0x80)
	assert.Equal(t, circuit.DrivenHigh, m.Drives(3), "the first bit")
	m.to(m.cycle + 40)
	m.store(regSPCR, 0)
	m.store(0x25, pinMOSI)
	assert.Equal(t, circuit.DrivenHigh, m.Drives(3), "switched off, the port decides again")
}

func TestSPIFlags(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x24, pinMOSI|pinSCK|pinSS)
	m.store(regSPCR, bitSPE|bitMSTR|bitSPIE|3)
	m.store(regSPDR, 1)
	m.store(regSPDR, 2)
	assert.NotZero(t, m.load(regSPSR)&bitWCOL, "a write while it shifts collides")
	m.to(m.cycle + 1025)
	assert.NotZero(t, m.irq&(1<<ATmega328P.vectors.spi))
	m.store(0x24, pinMOSI|pinSCK) // SS becomes an input
	m.Input(2, circuit.High)
	m.Input(2, circuit.Low)
	assert.Zero(t, m.load(regSPCR)&bitMSTR, "SS low takes mastership away")
}

func TestSPISlave(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(0x24, pinMISO)
	m.Input(2, circuit.High)
	m.Input(5, circuit.Low)
	m.store(regSPCR, bitSPE)
	m.store(regSPDR, 0xa5)
	m.Input(2, circuit.Low)
	var got uint8
	for i := 7; i >= 0; i-- {
		m.Input(3, circuit.Level(0x3c>>i&1))
		m.to(m.cycle + 8)
		m.Input(5, circuit.High)
		if m.Drives(4).Level == circuit.High {
			got |= 1 << i
		}
		m.to(m.cycle + 8)
		m.Input(5, circuit.Low)
	}
	assert.Equal(t, uint8(0xa5), got)
	assert.NotZero(t, m.load(regSPSR)&bitSPIF)
	assert.Equal(t, uint8(0x3c), m.load(regSPDR))
}

func TestADC(t *testing.T) {
	m := spin(t)
	volts := map[machine.Pin]int64{8: 2_500_000}
	m.config.Sample = func(p machine.Pin) (int64, bool) { v, ok := volts[p]; return v, ok }
	m.Input(8, circuit.High)
	m.to(10)
	m.store(regADMUX, 1<<6)
	m.store(regADCSRA, bitADEN|bitADSC|7)
	start := m.cycle
	m.to(start + 25*128 - 4)
	assert.NotZero(t, m.load(regADCSRA)&bitADSC, "the first conversion takes 25 ADC clocks")
	m.to(start + 25*128 + 1)
	assert.Equal(t, uint8(bitADEN|bitADIF|7), m.load(regADCSRA))
	v := int(m.load(regADCL)) | int(m.load(regADCH))<<8
	assert.InDelta(t, 512, v, 1)
	volts[8] = 1_234_000
	m.store(regADCSRA, bitADEN|bitADSC|bitADIF|7)
	begun := m.cycle
	for m.load(regADCSRA)&bitADSC != 0 {
		m.to(m.cycle + 1)
	}
	assert.InDelta(t, 13*128, m.cycle-begun, 128, "later ones 13, from the next ADC clock")
	assert.InDelta(t, 252, int(m.load(regADCL))|int(m.load(regADCH))<<8, 1)

	m.store(regADMUX, 1<<6|bitADLAR|14)
	m.store(regADCSRA, bitADEN|bitADSC|2)
	m.to(m.cycle + 200)
	assert.InDelta(t, 225>>2, m.load(regADCH), 1, "left-adjusted bandgap")
	m.store(regADMUX, 3<<6|15)
	m.store(regADCSRB, 0)
	m.store(regADCSRA, bitADEN|bitADSC|bitADATE|bitADIE|2)
	m.to(m.cycle + 3*13*4 + 4)
	assert.NotZero(t, m.irq&(1<<ATmega328P.vectors.adc))
	assert.NotZero(t, m.load(regADCSRA)&bitADSC, "free running goes on")
	m.store(regADCSRA, 0)
	assert.Equal(t, never, m.due[ATmega328P.slots.adc])

	m.store(0x44, 0) // timer 0 overflow starts a conversion
	m.store(regADCSRA, bitADEN|bitADATE|2)
	m.store(regADCSRB, triggerTimer0Overflow)
	m.store(0x45, 1)
	m.to(m.cycle + 250)
	assert.Zero(t, m.load(regADCSRA)&bitADSC)
	m.to(m.cycle + 10)
	assert.NotZero(t, m.load(regADCSRA)&bitADSC)
}

func TestComparator(t *testing.T) {
	m := spin(t)
	volts := map[machine.Pin]int64{22: 1_000_000, 23: 2_000_000}
	m.config.Sample = func(p machine.Pin) (int64, bool) { v, ok := volts[p]; return v, ok }
	m.Input(22, circuit.Low)
	m.Input(23, circuit.Low)
	m.to(10)
	assert.Zero(t, m.load(regACSR)&bitACO)
	m.store(regACSR, bitACIE|3) // rising output
	volts[22] = 3_000_000
	m.Input(22, circuit.High)
	assert.NotZero(t, m.load(regACSR)&bitACO)
	assert.NotZero(t, m.irq&(1<<ATmega328P.vectors.comparator))
	m.comparator.acknowledge(m)
	assert.Zero(t, m.load(regACSR)&bitACI)
	m.store(regACSR, bitACBG)
	assert.Zero(t, m.load(regACSR)&bitACO, "1.1 V against 2 V")
	m.store(regADCSRB, bitACME)
	m.store(regADMUX, 2)
	volts[10] = 500_000
	m.Input(10, circuit.Low)
	assert.NotZero(t, m.load(regACSR)&bitACO, "the ADC multiplexer selects the other input")
	m.store(regACSR, bitACD)
	assert.Equal(t, uint8(bitACD), m.load(regACSR)&^(bitACO|bitACI))
}

// wire is a two-wire bus with pull-ups, to which a test answers.
type wire struct {
	m        *Machine
	sda, scl bool // what the test pulls low
	bits     []bool
	starts   int
	stops    int
	answer   func(bit int) bool // pulls SDA low before the given bit
	was      [2]bool
}

func newWire(m *Machine) *wire {
	w := &wire{m: m, was: [2]bool{true, true}}
	m.listener = w
	w.apply()
	return w
}

func (w *wire) apply() {
	sda := w.m.Drives(12).Level == circuit.Low || w.sda
	scl := w.m.Drives(13).Level == circuit.Low || w.scl
	w.m.Input(12, circuit.Level(b2i(!sda)))
	w.m.Input(13, circuit.Level(b2i(!scl)))
	d, c := !sda, !scl
	switch {
	case w.was[1] && c && w.was[0] && !d:
		w.starts++
		w.bits = nil
	case w.was[1] && c && !w.was[0] && d:
		w.stops++
	case !w.was[1] && c:
		w.bits = append(w.bits, d)
	case w.was[1] && !c && w.answer != nil:
		w.was = [2]bool{d, c}
		w.sda = w.answer(len(w.bits))
		w.apply()
		return
	}
	w.was = [2]bool{d, c}
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

func (w *wire) Drive(clock.Time, []machine.Change, machine.Place) clock.Time {
	w.apply()
	return clock.Never
}

func (w *wire) byte() (v uint8) {
	for _, b := range w.bits[len(w.bits)-9 : len(w.bits)-1] {
		v = v<<1 | uint8(b2i(b))
	}
	return v
}

func TestTwoWireMaster(t *testing.T) {
	m := spin(t)
	w := newWire(m)
	m.to(10)
	w.answer = func(bit int) bool { return bit%9 == 8 }
	m.store(regTWBR, 72) // 100 kHz
	command := func(bits uint8) uint8 {
		m.store(regTWCR, bitTWINT|bitTWEN|bits)
		m.wait(ms)
		assert.NotZero(t, m.load(regTWCR)&bitTWINT, "done")
		return m.load(regTWSR) & 0xf8
	}
	assert.Equal(t, uint8(statusStart), command(bitTWSTA))
	m.store(regTWDR, 0x4e)
	begun := m.cycle
	m.store(regTWCR, bitTWINT|bitTWEN)
	for m.load(regTWCR)&bitTWINT == 0 {
		m.to(m.cycle + 1)
	}
	assert.InDelta(t, 9*160, m.cycle-begun, 2, "nine bits at 100 kHz")
	assert.Equal(t, uint8(statusSentSLAW), m.load(regTWSR))
	assert.Equal(t, uint8(0x4e), w.byte())
	m.store(regTWDR, 0xa7)
	assert.Equal(t, uint8(statusSentData), command(0))
	assert.Equal(t, uint8(0xa7), w.byte())
	w.answer = func(int) bool { return false }
	m.store(regTWDR, 0x11)
	assert.Equal(t, uint8(0x30), command(0), "nobody acknowledges")
	w.answer = func(bit int) bool {
		return bit == 8 || bit > 8 && bit < 17 && 0x3c>>(16-bit)&1 == 0 || bit >= 18 && bit < 26 && bit%2 == 0
	}
	assert.Equal(t, uint8(statusRepeatedStart), command(bitTWSTA))
	m.store(regTWDR, 0x4f)
	assert.Equal(t, uint8(statusSentSLAR), command(0))
	assert.Equal(t, uint8(statusGotData), command(bitTWEA))
	assert.Equal(t, uint8(0x3c), m.load(regTWDR))
	assert.Equal(t, uint8(0x58), command(0), "the last byte is not acknowledged")
	assert.Equal(t, uint8(0x55), m.load(regTWDR))
	m.store(regTWCR, bitTWINT|bitTWEN|bitTWSTO)
	m.wait(ms)
	assert.Equal(t, []int{2, 1}, []int{w.starts, w.stops})
	assert.Zero(t, m.load(regTWCR)&bitTWSTO)
	assert.True(t, w.was[0] && w.was[1], "the bus is free")

	w.answer = nil
	command(bitTWSTA)
	w.scl = true // a slave stretches the clock
	m.store(regTWDR, 0xff)
	m.store(regTWCR, bitTWINT|bitTWEN)
	m.wait(ms)
	assert.Zero(t, m.load(regTWCR)&bitTWINT)
	w.scl = false
	w.apply()
	m.wait(ms)
	assert.Equal(t, uint8(0x48), m.load(regTWSR))
	w.sda = true
	m.store(regTWDR, 0xff)
	m.store(regTWCR, bitTWINT|bitTWEN|bitTWSTA)
	m.wait(ms)
	m.store(regTWDR, 0xff)
	m.store(regTWCR, bitTWINT|bitTWEN)
	m.wait(ms)
	assert.Equal(t, uint8(statusLost), m.load(regTWSR), "another master sends a 0")
}

// clockByte bit-bangs one byte and the acknowledge as a master would.
func (w *wire) clockByte(v uint8, ack bool) (in uint8, acked bool) {
	pulse := func(low bool) bool {
		w.sda = low
		w.apply()
		w.m.wait(5 * clock.Microsecond)
		w.scl = false
		w.apply()
		w.m.wait(5 * clock.Microsecond)
		sda := w.was[0]
		w.scl = true
		w.apply()
		w.m.wait(5 * clock.Microsecond)
		return sda
	}
	for i := 7; i >= 0; i-- {
		in = in<<1 | uint8(b2i(pulse(v>>i&1 == 0)))
	}
	return in, !pulse(ack)
}

func (w *wire) start() {
	w.sda, w.scl = false, false
	w.apply()
	w.m.wait(5 * clock.Microsecond)
	w.sda = true
	w.apply()
	w.m.wait(5 * clock.Microsecond)
	w.scl = true
	w.apply()
	w.m.wait(5 * clock.Microsecond)
}

func (w *wire) stop() {
	w.sda = true
	w.apply()
	w.scl = false
	w.apply()
	w.m.wait(5 * clock.Microsecond)
	w.sda = false
	w.apply()
	w.m.wait(5 * clock.Microsecond)
}

func TestTwoWireSlave(t *testing.T) {
	m := spin(t)
	w := newWire(m)
	m.to(10)
	m.store(regTWAR, 0x22<<1|1)
	m.store(regTWCR, bitTWEN|bitTWEA)
	goOn := func(bits uint8) uint8 {
		status := m.load(regTWSR)
		assert.NotZero(t, m.load(regTWCR)&bitTWINT)
		m.store(regTWCR, bitTWINT|bitTWEN|bits)
		m.wait(clock.Microsecond)
		return status
	}
	w.start()
	_, ok := w.clockByte(0x23<<1, false)
	assert.False(t, ok, "not its address")
	w.stop()
	w.start()
	_, ok = w.clockByte(0x22<<1, false)
	assert.True(t, ok)
	assert.Equal(t, circuit.Low, m.Drives(13).Level, "it holds the clock until the program acts")
	assert.Equal(t, uint8(statusOwnSLAW), goOn(bitTWEA))
	_, ok = w.clockByte(0x77, false)
	assert.True(t, ok)
	assert.Equal(t, uint8(0x77), m.load(regTWDR))
	assert.Equal(t, uint8(statusSlaveGot), goOn(bitTWEA))
	w.stop()
	assert.Equal(t, uint8(statusSlaveStop), goOn(bitTWEA))

	w.start()
	_, ok = w.clockByte(0x22<<1|1, false)
	assert.True(t, ok)
	m.store(regTWDR, 0x9c)
	assert.Equal(t, uint8(statusOwnSLAR), goOn(bitTWEA))
	v, _ := w.clockByte(0xff, true)
	assert.Equal(t, uint8(0x9c), v)
	m.store(regTWDR, 0x12)
	assert.Equal(t, uint8(statusSlaveSent), goOn(bitTWEA))
	v, _ = w.clockByte(0xff, false)
	assert.Equal(t, uint8(0x12), v)
	assert.Equal(t, uint8(0xc0), goOn(bitTWEA), "the master wants no more")
	w.stop()

	w.start()
	_, ok = w.clockByte(0, false)
	assert.True(t, ok)
	assert.Equal(t, uint8(statusGeneralCall), goOn(bitTWEA))
	w.stop()
	goOn(bitTWEA)
	m.store(regTWCR, 0)
	assert.Equal(t, circuit.Float, m.Drives(12).Level)
}

func TestBusWithoutPullUps(t *testing.T) {
	m := spin(t)
	m.to(10)
	m.store(regTWCR, bitTWINT|bitTWSTA|bitTWEN)
	m.wait(ms)
	assert.Zero(t, m.load(regTWCR)&bitTWINT, "the lines never rise")
	assert.Contains(t, m.Notes()[0].Text, "pull-up")
}

func TestNoiseReductionSleep(t *testing.T) {
	m := counting(t)
	m.Input(8, circuit.High)
	m.store(0x45, 1)
	m.store(regADMUX, 1<<6)
	m.store(regADCSRA, bitADEN|bitADIE|7)
	m.store(regSMCR, 1|sleepNoiseReduction<<1)
	was := m.load(0x46)
	m.fallAsleep()
	m.to(m.cycle + 25*128 + 200)
	assert.Equal(t, 1, m.counts()[int(ATmega328P.vectors.adc)], "the conversion woke it")
	assert.Less(t, int(m.load(0x46))-int(was), 250, "timer 0 stood still meanwhile")
}
