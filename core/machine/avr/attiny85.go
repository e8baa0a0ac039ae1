package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// modesTiny are those of Timer/Counter 1: normal, PWM up to OCR1C, cleared at OCR1C.
var modesTiny = []mode{{normal, topFixed, 0xff}, {fastPWM, topICR, 0}, {clearOnMatch, topICR, 0}, {fastPWM, topICR, 0}}

// ATtiny85 is the variant by its datasheet, Microchip DS2586Q: register summary (23), interrupt vectors (9.1),
// alternate functions of port B (10.2), Timer/Counter 1 (12), USI (15).
var ATtiny85 = (&Variant{
	title: "ATtiny85", words: 0x1000, sramStart: 0x60, ramEnd: 0x25f, eeprom: 512, short: true, lacksMUL: true,
	moved: true, pll: true, run: run[[0x1000]struct{}, [0x60]struct{}, [0x25f]struct{}],
	ports: []portLayout{{'B', 0x23, 0x3f}},
	reset: 5,
	timers: []timerLayout{
		{dividers: dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46, ocr: []uint16{0x47, 0x48},
			compare: []uint{10, 11}, overflow: 5, outputs: pinsOf(0, 0, 2), clockPin: pinAt{0, 1 << 2}},
		{async: true, dividers: dividersFast, modes: modesTiny, top: 0xff, tifr: regFastTIFR, timsk: regFastTIMSK,
			tccra: regFastA, tccrb: regFastB, tcnt: regFastTCNT, ocr: []uint16{regFastOCRA, regFastOCRB},
			compare: []uint{3, 9}, overflow: 4, outputs: []pinAt{{0, 1 << 1}, {0, 1 << 4}}},
	},
	interrupts: []pinAt{{0, 1 << 2}},
	changes:    []pinChange{{[]pinChangePart{{0, 0x3f, 0}}}},
	vectors:    vectors{int0: 1, pcint0: 2, watchdog: 12, adc: 8, eeprom: 6, comparator: 7},
	analog: analogLayout{channels: []pinAt{{0, 1 << 5}, {0, 1 << 2}, {0, 1 << 4}, {0, 1 << 3}},
		references: [8]int64{fromSupply, fromAREF, bandgap, reserved, fromSupply, reserved, bandgap2, bandgap2},
		more:       true,
		special:    map[uint8]int64{12: bandgap, 13: 0, 15: temperature}, ain0: pinAt{0, 1 << 0},
		ain1: pinAt{0, 1 << 1}},
	usi:     usiLayout{port: 0, di: 1 << 0, do: 1 << 1, sck: 1 << 2, start: 13, overflow: 14},
	inputs:  []inputSwitch{{0x7e, "DIDR0", 0x3f, 0, 0}},
	reduced: []reduction{{0x64, "PRR", [8]string{0: "the ADC", 1: "the USI", 2: "timer 0", 3: "timer 1"}}},
	inert:   []inertRegister{{0x1a0, "DTPS1", 0, ""}, {0x1a1, "DT1A", 0, ""}, {0x1a2, "DT1B", 0, ""}, {0x1a3, "DWDR", 0, ""}},
	views:   viewsTiny(),
}).build()

// fastTiny brings timer 1 in line with TCCR1, GTCCR and PLLCSR, as they stand.
func fastTiny(m *Machine) {
	const tccr1, gtccr = regTiny, regTiny + 1
	c, g := m.io[tccr1], m.io[gtccr]
	pwm := c&0x40 != 0 || g&0x40 != 0
	mode := c >> 6 & 2
	if pwm {
		mode |= 1
	}
	m.poke(regFastA, fastA(m.whileComplementary(c>>4, c&0x40 != 0), m.whileComplementary(g>>4, g&0x40 != 0), 0, mode))
	divider := c & 15
	if m.io[regPLLCSR]&bitPCKE != 0 && divider > 0 { // 64 MHz: so many steps of the divider faster than the chip
		faster := uint8(0)
		for rate := m.config.Clock; rate < 64_000_000 && faster < 7; rate *= 2 {
			faster++
		}
		if divider <= faster {
			m.note("unmodelled timer 1", "timer 1 counts faster than the chip's clock (PLLCSR.PCKE and TCCR1.CS), which is "+
				"not modelled: it counts once a cycle")
		}
		divider = max(divider, faster+1) - faster
	}
	m.poke(regFastB, divider)
}

// regTiny is where TCCR1 and GTCCR are kept as they were written.
const regTiny = 0x1b0

func viewsTiny() []view {
	list := alike(map[uint16][2]string{
		0x23: {"ADCSRB", "ADCSRB"}, 0x24: {"ADCL", "ADCL"}, 0x25: {"ADCH", "ADCH"}, 0x26: {"ADCSRA", "ADCSRA"},
		0x27: {"ADMUX", "ADMUX"}, 0x28: {"ACSR", "ACSR"}, 0x2d: {"USICR", "USICR"}, 0x2e: {"USISR", "USISR"},
		0x2f: {"USIDR", "USIDR"}, 0x30: {"USIBR", "USIBR"}, 0x31: {"GPIOR0", "GPIOR0"}, 0x32: {"GPIOR1", "GPIOR1"},
		0x33: {"GPIOR2", "GPIOR2"}, 0x34: {"DIDR0", "DIDR0"}, 0x35: {"PCMSK", "PCMSK0"}, 0x36: {"PINB", "PINB"},
		0x37: {"DDRB", "DDRB"}, 0x38: {"PORTB", "PORTB"}, 0x3c: {"EECR", "EECR"}, 0x3d: {"EEDR", "EEDR"},
		0x3e: {"EEARL", "EEARL"}, 0x3f: {"EEARH", "EEARH"}, 0x40: {"PRR", "PRR"}, 0x41: {"WDTCR", "WDTCSR"},
		0x42: {"DWDR", "DWDR"}, 0x43: {"DTPS1", "DTPS1"}, 0x44: {"DT1B", "DT1B"}, 0x45: {"DT1A", "DT1A"},
		0x46: {"CLKPR", "CLKPR"}, 0x48: {"OCR0B", "OCR0B"}, 0x49: {"OCR0A", "OCR0A"}, 0x4a: {"TCCR0A", "TCCR0A"},
		0x4b: {"OCR1B", "OCR1B"}, 0x4e: {"OCR1A", "OCR1A"}, 0x4f: {"TCNT1", "TCNT1"}, 0x51: {"OSCCAL", "OSCCAL"},
		0x52: {"TCNT0", "TCNT0"}, 0x53: {"TCCR0B", "TCCR0B"}, 0x54: {"MCUSR", "MCUSR"}, 0x57: {"SPMCSR", "SPMCSR"},
		0x5d: {"SPL", "SPL"}, 0x5e: {"SPH", "SPH"}, 0x5f: {"SREG", "SREG"},
	})
	timers := func(t0, t1 uint16) bitsOf {
		return bitsOf{{6, t1, 1}, {5, t1, 2}, {2, t1, 0}, {4, t0, 1}, {3, t0, 2}, {1, t0, 0}}
	}
	return append(list,
		view{address: 0x47, name: "PLLCSR", read: func(m *Machine) uint8 { return m.see(regPLLCSR) },
			write: func(m *Machine, v uint8) {
				m.poke(regPLLCSR, v)
				fastTiny(m)
			}},
		view{address: 0x4c, name: "GTCCR",
			read: func(m *Machine) uint8 { return m.io[regTiny+1]&0x70 | m.see(regGTCCR)&0x83 },
			write: func(m *Machine, v uint8) {
				m.io[regTiny+1] = v & 0x70
				fastTiny(m)
				m.timers[1].force(m, v<<5&0x80|v<<3&0x40)
				m.poke(regGTCCR, v&0x83)
			}},
		view{address: 0x4d, name: "OCR1C", read: func(m *Machine) uint8 { return uint8(m.timers[1].icr) },
			write: func(m *Machine, v uint8) {
				t := &m.timers[1]
				t.sync(m, m.cycle)
				t.icr = uint16(v)
				t.schedule(m)
			}},
		view{address: 0x50, name: "TCCR1", read: func(m *Machine) uint8 { return m.io[regTiny] },
			write: func(m *Machine, v uint8) {
				m.io[regTiny] = v
				fastTiny(m)
			}},
		bitsOf{{5, regSMCR, 0}, {4, regSMCR, 2}, {3, regSMCR, 1}, {6, regMCUCR, 4}, {1, regEICRA, 1},
			{0, regEICRA, 0}}.gathered(0x55, "MCUCR"),
		timers(0x35, regFastTIFR).cleared(0x58, "TIFR", 3),
		timers(0x6e, regFastTIMSK).gathered(0x59, "TIMSK"),
		bitsOf{{6, regEIFR, 0}, {5, regPCIFR, 0}}.cleared(0x5a, "GIFR", 0),
		bitsOf{{6, regEIMSK, 0}, {5, regPCICR, 0}}.gathered(0x5b, "GIMSK"))
}

func init() {
	list := make([]machine.PinInfo, 8)
	also := [6][]string{{"MOSI", "SDA", "OC0A", "AIN0", "DI"}, {"MISO", "OC0B", "OC1A", "AIN1", "DO"},
		{"SCK", "SCL", "INT0", "T0", "ADC1", "USCK"}, {"ADC3", "XTAL1"}, {"ADC2", "OC1B", "XTAL2"}, {"RESET", "ADC0"}}
	for i, n := range [6]int{5, 6, 7, 2, 3, 1} {
		list[i] = machine.PinInfo{Name: ATtiny85.name(0, i), Package: n, Also: also[i]}
	}
	machine.Register(ATtiny85.chip(&machine.Chip{Name: "attiny85",
		Source: "Microchip DS2586Q (ATtiny25/45/85), DS40002198A (AVR Instruction Set Manual)",
		Clock:  8_000_000, Clocks: [2]clock.Rate{10_000, 20_000_000},
		Inside: []clock.Rate{8_000_000, 1_000_000, 16_000_000},
		Pins:   list, Crystal: [2]string{"PB3", "PB4"},
		Supplies: []machine.Rail{{Name: "GND", Package: 4, Net: "GND"}, {Name: "VCC", Package: 8, Net: "VCC"}},
		Models: []string{"core", "port B", "timer 0", "timer 1 with the PLL", "USI", "INT0", "pin-change interrupt", "sleep",
			"watchdog", "clock prescaler", "EEPROM", "ADC", "analog comparator"},
		Unmodelled: []string{"complementary outputs and dead time of timer 1", "differential channels of the ADC"},
		Limits:     machine.Limits{Pin: 40_000_000, Chip: 200_000_000}}))
}
