package avr

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// summary2560 is the register summary of the ATmega2560's datasheet (section 33): data address and names from there on.
const summary2560 = `20 PINA DDRA PORTA PINB DDRB PORTB PINC DDRC PORTC PIND DDRD PORTD PINE DDRE PORTE PINF DDRF PORTF PING DDRG PORTG
35 TIFR0 TIFR1 TIFR2 TIFR3 TIFR4 TIFR5 PCIFR EIFR EIMSK GPIOR0 EECR EEDR EEARL EEARH GTCCR TCCR0A TCCR0B TCNT0 OCR0A OCR0B
4a GPIOR1 GPIOR2 SPCR SPSR SPDR
50 ACSR OCDR
53 SMCR MCUSR MCUCR
57 SPMCSR
5b RAMPZ EIND SPL SPH SREG WDTCSR CLKPR
64 PRR0 PRR1 OSCCAL
68 PCICR EICRA EICRB PCMSK0 PCMSK1 PCMSK2 TIMSK0 TIMSK1 TIMSK2 TIMSK3 TIMSK4 TIMSK5 XMCRA XMCRB
78 ADCL ADCH ADCSRA ADCSRB ADMUX DIDR2 DIDR0 DIDR1 TCCR1A TCCR1B TCCR1C
84 TCNT1L TCNT1H ICR1L ICR1H OCR1AL OCR1AH OCR1BL OCR1BH OCR1CL OCR1CH
90 TCCR3A TCCR3B TCCR3C
94 TCNT3L TCNT3H ICR3L ICR3H OCR3AL OCR3AH OCR3BL OCR3BH OCR3CL OCR3CH
a0 TCCR4A TCCR4B TCCR4C
a4 TCNT4L TCNT4H ICR4L ICR4H OCR4AL OCR4AH OCR4BL OCR4BH OCR4CL OCR4CH
b0 TCCR2A TCCR2B TCNT2 OCR2A OCR2B
b6 ASSR
b8 TWBR TWSR TWAR TWDR TWCR TWAMR
c0 UCSR0A UCSR0B UCSR0C
c4 UBRR0L UBRR0H UDR0
c8 UCSR1A UCSR1B UCSR1C
cc UBRR1L UBRR1H UDR1
d0 UCSR2A UCSR2B UCSR2C
d4 UBRR2L UBRR2H UDR2
100 PINH DDRH PORTH PINJ DDRJ PORTJ PINK DDRK PORTK PINL DDRL PORTL
120 TCCR5A TCCR5B TCCR5C
124 TCNT5L TCNT5H ICR5L ICR5H OCR5AL OCR5AH OCR5BL OCR5BH OCR5CL OCR5CH
130 UCSR3A UCSR3B UCSR3C
134 UBRR3L UBRR3H UDR3`

// mega is an ATmega2560 with a program, on either interpreter.
func mega(t *testing.T, plain bool, words ...uint16) *Machine {
	var data []byte
	for _, w := range words {
		data = append(data, byte(w), byte(w>>8))
	}
	m := New(ATmega2560, machine.Config{Reference: plain}).(*Machine)
	require.NoError(t,
		m.Load(&firmware.Image{Flash: []firmware.Segment{{Data: data},
			{Address: 0x20000, Data: []byte{0x11, 0x22, 0x08, 0x95}}}}))
	return m
}

// Instructions for more than 128 KB, and return addresses of three bytes (instruction set manual: ELPM, EIJMP, EICALL,
// CALL, RET).
func TestFarProgramMemory(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := mega(t, plain, 0x95d8, 0x9127, 0x9136) // elpm; elpm r18, Z+; elpm r19, Z
		m.io[regRAMPZ], m.data[30], m.data[31] = 2, 0, 0
		assert.Equal(t, int64(3), m.one())
		assert.Equal(t, uint8(0x11), m.data[0])
		m.one()
		assert.Equal(t, uint8(0x11), m.data[18])
		assert.Equal(t, uint16(1), pair(m.data, regZ))
		m.one()
		assert.Equal(t, uint8(0x22), m.data[19])

		m = mega(t, plain, 0x9519, 0xcfff) // eicall
		m.io[regEIND] = 1
		m.data[30], m.data[31] = 1, 0
		assert.Equal(t, int64(4), m.one())
		assert.Equal(t, int32(0x10001), m.pc)
		assert.Equal(t, []uint8{0, 0, 1}, []uint8{m.data[m.sp+1], m.data[m.sp+2], m.data[m.sp+3]},
			"the return address, high byte first")
		assert.Equal(t, int64(5), m.one(), "RET")
		assert.Equal(t, int32(1), m.pc)
		assert.Equal(t, m.ramEnd, m.sp)

		m = mega(t, plain, 0x9419) // eijmp
		m.io[regEIND], m.data[30] = 1, 1
		assert.Equal(t, int64(2), m.one())
		assert.Equal(t, int32(0x10001), m.pc)

		m = mega(t, plain, 0x940f, 0x0001, 0xd000) // call 0x10001
		m.pc = 0
		assert.Equal(t, int64(5), m.one())
		assert.Equal(t, int32(0x10001), m.pc)
	})
	assert.Equal(t, opIllegal, decode(0, 0x95d8, 0, 0x3fff, false).op, "the smaller chip has none of them")
}

// RAMPZ continues with Z from one 64 KB to the next.
func TestELPMCarries(t *testing.T) {
	m := mega(t, false, 0x9007)
	m.io[regRAMPZ], m.data[30], m.data[31] = 1, 0xff, 0xff
	m.one()
	assert.Equal(t, uint8(2), m.io[regRAMPZ])
	assert.Zero(t, pair(m.data, regZ))
}

// Pins far from each other share an interrupt: PE0 is PCINT8, PJ0 to PJ6 are PCINT9 to 15 (datasheet 15.2.7).
func TestPinChangesOfSeveralPorts(t *testing.T) {
	m := mega(t, false, 0, 0xcfff)
	m.store(regPCICR, 2)
	m.store(regPCMSK0+1, 1|1<<3) // PE0, PJ2
	for _, pin := range []machine.Pin{e2560 * 8, j2560*8 + 2} {
		m.Input(pin, circuit.Low)
		m.store(regPCIFR, 7)
		assert.Zero(t, m.irq)
		m.Input(pin, circuit.High)
		assert.Equal(t, uint64(1<<10), m.irq, "PCINT1")
		m.store(regPCIFR, 7)
	}
	m.Input(j2560*8+1, circuit.High)
	assert.Zero(t, m.irq, "PJ1 is not in the mask")
}

// INT4 to INT7 have a register of their own, and pins of port E.
func TestEightExternalInterrupts(t *testing.T) {
	m := mega(t, false, 0, 0xcfff)
	m.Input(e2560*8+6, circuit.Low)
	m.store(regEICRA+1, 3<<4) // INT6, rising
	m.store(regEIFR, 0xff)
	m.store(regEIMSK, 1<<6)
	m.Input(e2560*8+6, circuit.High)
	assert.Equal(t, uint64(1<<7), m.irq)
	m.acknowledge(7)
	assert.Zero(t, m.irq)
}

// A third compare channel: OC5C on PL5 toggles at each match.
func TestThirdCompareChannel(t *testing.T) {
	m := mega(t, false, 0, 0xcfff)
	m.store(0x10a, 1<<5) // DDRL
	m.store(0x12d, 0)
	m.store(0x12c, 99) // OCR5C
	m.store(0x129, 0)  // OCR5A: the top
	m.store(0x128, 199)
	m.store(0x120, 1<<2) // COM5C0
	m.store(0x121, 1<<3|1)
	level := func() bool { return m.Drives(l2560*8+5).Level == circuit.High }
	was := level()
	m.Run(m.now.at(m.cycle+200), nil)
	assert.NotEqual(t, was, level())
	m.Run(m.now.at(m.cycle+200), nil)
	assert.Equal(t, was, level())
}

// Channels 8 to 15 are selected by MUX5, and 2.56 V is a reference (datasheet tables 26-3 and 26-4).
func TestUpperChannels(t *testing.T) {
	m := mega(t, false, 0, 0xcfff)
	m.config.Sample = func(p machine.Pin) (int64, bool) { return 1_280_000, p == k2560*8+3 }
	m.Input(k2560*8+3, circuit.High)
	m.store(regADMUX, 3<<6|3)
	m.store(regADCSRB, uint8(1<<3))
	m.store(regADCSRA, bitADEN|bitADSC|7)
	m.Run(m.now.at(m.cycle+26*128), nil)
	assert.InDelta(t, 512, int(m.load(regADCL))|int(m.load(regADCH))<<8, 1)
}

// Each USART sends under its own name.
func TestFourUSARTs(t *testing.T) {
	sent := map[string]uint8{}
	m := mega(t, false, 0, 0xcfff)
	m.config.Bytes = func(b machine.Byte) { sent[b.Port] = b.Value }
	for i := range ATmega2560.usarts {
		l := &ATmega2560.usarts[i]
		m.store(l.ucsrb(), bitTXEN)
		m.store(l.udr(), uint8('a'+i))
	}
	m.Run(m.now.at(m.cycle+1000), nil)
	assert.Equal(t, map[string]uint8{"USART0": 'a', "USART1": 'b', "USART2": 'c', "USART3": 'd'}, sent)
}

// Every pin of the package is there once.
func TestPackagePins(t *testing.T) {
	for name, pins := range map[string]int{"atmega328p": 28, "atmega2560": 100} {
		c, err := machine.Find(name)
		require.NoError(t, err)
		at := map[int]string{}
		for _, p := range c.Pins {
			if p.Package > 0 {
				assert.Empty(t, at[p.Package], "%s: %d", name, p.Package)
				at[p.Package] = p.Name
			}
		}
		for _, r := range c.Supplies {
			assert.Empty(t, at[r.Package], "%s: %d", name, r.Package)
			at[r.Package] = r.Name
		}
		assert.Len(t, at, pins)
		assert.Equal(t, c.Pins[c.Reset].Package, map[string]int{"atmega328p": 1, "atmega2560": 30}[name])
		for _, b := range machine.Boards(name) {
			for alias, pin := range b.Aliases {
				_, ok := c.Pin(pin)
				assert.True(t, ok, "%s: %s is %s", b.Name, alias, pin)
			}
		}
	}
}
