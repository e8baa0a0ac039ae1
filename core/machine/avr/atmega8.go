package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// ATmega8 is the variant by its datasheet, Atmel 2486: register summary, interrupt vectors (table 18), alternate
// functions of ports (tables 22 to 28). Its pins are those of the ATmega328P.
var ATmega8 = (&Variant{
	title: "ATmega8", words: 0x1000, sramStart: 0x60, ramEnd: 0x45f, eeprom: 512, short: true, undivided: true,
	moved: true, run: run[[0x1000]struct{}, [0x60]struct{}, [0x45f]struct{}],
	ports: []portLayout{{'B', 0x23, 0xff}, {'C', 0x26, 0x3f}, {'D', 0x29, 0xff}},
	reset: 14,
	timers: []timerLayout{
		{dividers: dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46, overflow: 9,
			clockPin: pinAt{d328, 1 << 4}},
		{wide: true, dividers: dividers01, tifr: 0x36, timsk: 0x6f, tccra: 0x80, tccrb: 0x81, tccrc: 0x82, tcnt: 0x84,
			icr: 0x86, ocr: []uint16{0x88, 0x8a}, capture: 5, compare: []uint{6, 7}, overflow: 8,
			outputs: []pinAt{{b328, 1 << 1}, {b328, 1 << 2}}, clockPin: pinAt{d328, 1 << 5},
			capturePin: pinAt{b328, 1 << 0}},
		{async: true, dividers: dividers2, tifr: 0x37, timsk: 0x70, tccra: 0xb0, tccrb: 0xb1, tcnt: 0xb2,
			ocr: []uint16{0xb3}, compare: []uint{3}, overflow: 4, outputs: []pinAt{{b328, 1 << 3}}},
	},
	usarts: []usartLayout{{name: "USART", base: 0xc0, received: 11, empty: 12, sent: 13,
		receive: pinAt{d328, 1 << 0}, transmit: pinAt{d328, 1 << 1}}},
	spi:        spiLayout{b328, 1 << 2, 1 << 3, 1 << 4, 1 << 5},
	twi:        twiLayout{c328, 1 << 4, 1 << 5},
	interrupts: []pinAt{{d328, 1 << 2}, {d328, 1 << 3}},
	vectors:    vectors{int0: 1, spi: 10, adc: 14, eeprom: 15, comparator: 16, twi: 17},
	analog: analogLayout{channels: pinsOf(c328, 0, 6), references: [8]int64{fromAREF, fromSupply, reserved, bandgap2},
		special: map[uint8]int64{14: bandgap8, 15: 0}, ain0: pinAt{d328, 1 << 6}, ain1: pinAt{d328, 1 << 7}},
	views: views8(),
}).build()

// views8 are the registers of the ATmega8: most are one of a peripheral, others have parts of several.
func views8() []view {
	const (
		tccr1a, tccr1c, tccr2a, tccr2b, ubrrh, ucsrc = 0x80, 0x82, 0xb0, 0xb1, 0xc5, 0xc2
		tifr1, tifr2, timsk0, timsk1, timsk2         = 0x36, 0x37, 0x6e, 0x6f, 0x70
	)
	timers := func(t0, t1, t2 uint16) bitsOf {
		return bitsOf{{7, t2, 1}, {6, t2, 0}, {5, t1, 5}, {4, t1, 1}, {3, t1, 2}, {2, t1, 0}, {0, t0, 0}}
	}
	list := alike(map[uint16][2]string{
		0x20: {"TWBR", "TWBR"}, 0x21: {"TWSR", "TWSR"}, 0x22: {"TWAR", "TWAR"}, 0x23: {"TWDR", "TWDR"},
		0x24: {"ADCL", "ADCL"}, 0x25: {"ADCH", "ADCH"}, 0x26: {"ADCSRA", "ADCSRA"}, 0x27: {"ADMUX", "ADMUX"},
		0x28: {"ACSR", "ACSR"}, 0x29: {"UBRRL", "UBRR0L"}, 0x2a: {"UCSRB", "UCSR0B"}, 0x2b: {"UCSRA", "UCSR0A"},
		0x2c: {"UDR", "UDR0"}, 0x2d: {"SPCR", "SPCR"}, 0x2e: {"SPSR", "SPSR"}, 0x2f: {"SPDR", "SPDR"},
		0x30: {"PIND", "PIND"}, 0x31: {"DDRD", "DDRD"}, 0x32: {"PORTD", "PORTD"}, 0x33: {"PINC", "PINC"},
		0x34: {"DDRC", "DDRC"}, 0x35: {"PORTC", "PORTC"}, 0x36: {"PINB", "PINB"}, 0x37: {"DDRB", "DDRB"},
		0x38: {"PORTB", "PORTB"}, 0x3c: {"EECR", "EECR"}, 0x3d: {"EEDR", "EEDR"}, 0x3e: {"EEARL", "EEARL"},
		0x3f: {"EEARH", "EEARH"}, 0x42: {"ASSR", "ASSR"}, 0x43: {"OCR2", "OCR2A"}, 0x44: {"TCNT2", "TCNT2"},
		0x46: {"ICR1L", "ICR1L"}, 0x47: {"ICR1H", "ICR1H"}, 0x48: {"OCR1BL", "OCR1BL"}, 0x49: {"OCR1BH", "OCR1BH"},
		0x4a: {"OCR1AL", "OCR1AL"}, 0x4b: {"OCR1AH", "OCR1AH"}, 0x4c: {"TCNT1L", "TCNT1L"}, 0x4d: {"TCNT1H", "TCNT1H"},
		0x4e: {"TCCR1B", "TCCR1B"}, 0x51: {"OSCCAL", "OSCCAL"}, 0x52: {"TCNT0", "TCNT0"}, 0x53: {"TCCR0", "TCCR0B"},
		0x54: {"MCUCSR", "MCUSR"}, 0x56: {"TWCR", "TWCR"}, 0x57: {"SPMCR", "SPMCSR"}, 0x5d: {"SPL", "SPL"},
		0x5e: {"SPH", "SPH"}, 0x5f: {"SREG", "SREG"},
	})
	return append(list,
		view{address: 0x40, name: "UBRRH", read: func(m *Machine) uint8 { // the second of two reads in a row is UCSRC
			last := m.usarts[0].highRead
			m.usarts[0].highRead = m.cycle
			if m.cycle-last <= 1 && last > 0 {
				return m.see(ucsrc) | 0x80
			}
			return m.see(ubrrh)
		}, write: func(m *Machine, v uint8) {
			if v&0x80 != 0 { // URSEL
				m.poke(ucsrc, v&0x7f)
				return
			}
			m.poke(ubrrh, v)
		}},
		view{address: 0x41, name: "WDTCR", read: func(m *Machine) uint8 { return m.see(regWDTCSR) & 0x1f },
			write: func(m *Machine, v uint8) { m.poke(regWDTCSR, v&0x1f) }},
		view{address: 0x45, name: "TCCR2", read: func(m *Machine) uint8 {
			a := m.see(tccr2a)
			return a&1<<6 | a>>6<<4 | a>>1&1<<3 | m.see(tccr2b)&7
		}, write: func(m *Machine, v uint8) {
			m.poke(tccr2a, v>>4&3<<6|v>>3&1<<1|v>>6&1)
			m.poke(tccr2b, v&0x87)
		}},
		view{address: 0x4f, name: "TCCR1A", read: func(m *Machine) uint8 { return m.see(tccr1a) },
			write: func(m *Machine, v uint8) {
				m.poke(tccr1a, v&0xf3)
				m.poke(tccr1c, v<<4&0xc0)
			}},
		bitsOf{{3, regADCSRB, 6}, {2, regMCUCR, 4}, {1, regGTCCR, 1}, {0, regGTCCR, 0}}.gathered(0x50, "SFIOR"),
		bitsOf{{7, regSMCR, 0}, {6, regSMCR, 3}, {5, regSMCR, 2}, {4, regSMCR, 1}, {3, regEICRA, 3}, {2, regEICRA, 2},
			{1, regEICRA, 1}, {0, regEICRA, 0}}.gathered(0x55, "MCUCR"),
		timers(0x35, tifr1, tifr2).cleared(0x58, "TIFR", 7),
		timers(timsk0, timsk1, timsk2).gathered(0x59, "TIMSK"),
		bitsOf{{7, regEIFR, 1}, {6, regEIFR, 0}}.cleared(0x5a, "GIFR", 0),
		bitsOf{{7, regEIMSK, 1}, {6, regEIMSK, 0}}.gathered(0x5b, "GICR"))
}

func init() {
	c := chip328(ATmega8, machine.Chip{Name: "atmega8"})
	c.Source = "Microchip 2486 (ATmega8), DS40002198A (AVR Instruction Set Manual)"
	c.Clocks[1], c.Inside = 16_000_000, []clock.Rate{1_000_000, 2_000_000, 4_000_000, 8_000_000}
	c.Electric.Supplies = [2]int64{2_700_000, 5_500_000}
	c.Models = []string{"core", "ports B, C, D", "timers 0, 1, 2", "USART", "INT0, INT1", "sleep", "watchdog", "EEPROM",
		"SPI", "two-wire interface", "ADC", "analog comparator"}
	c.Limits.Chip = 300_000_000
	machine.Register(c)
}
