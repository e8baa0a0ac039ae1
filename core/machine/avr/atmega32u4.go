package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// The ports of the ATmega32U4.
const (
	b32u4 = iota
	c32u4
	d32u4
	e32u4
	f32u4
)

// reset32U4 is the reset pin, which belongs to no port: its place is behind theirs.
const reset32U4 = 5 * 8

// modes32U4 are those of Timer/Counter 4: up to OCR4C, and the PWM modes, of which bit 1 is the one up and down
// (DS7766, 15.12.4).
var modes32U4 = []mode{{clearOnMatch, topICR, 0}, {fastPWM, topICR, 0}, {clearOnMatch, topICR, 0}, {bothPWM, topICR, 0}}

// timer3of32U4 is Timer/Counter 3, of whose outputs one has a pin.
func timer3of32U4() timerLayout {
	l := timer16(0x38, 0x71, 0x90, 31, [3]pinAt{{c32u4, 1 << 6}}, pinAt{}, pinAt{c32u4, 1 << 7})
	l.number = "3"
	return l
}

// timer4 is which of the timers Timer/Counter 4 is.
const timer4 = 3

// ATmega32U4 is the variant by its datasheet, Microchip DS7766J: register summary (31), interrupt vectors (9.1),
// alternate functions of ports (10.3), Timer/Counter 4 (15).
var ATmega32U4 = (&Variant{
	title: "ATmega32U4", words: 0x4000, sramStart: 0x100, ramEnd: 0xaff, eeprom: 1024, pll: true,
	run:   run[[0x4000]struct{}, [0x100]struct{}, [0xaff]struct{}],
	ports: []portLayout{{'B', 0x23, 0xff}, {'C', 0x26, 0xc0}, {'D', 0x29, 0xff}, {'E', 0x2c, 0x44}, {'F', 0x2f, 0xf3}},
	reset: reset32U4,
	timers: []timerLayout{
		{dividers: dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46, ocr: []uint16{0x47, 0x48},
			compare: []uint{21, 22}, overflow: 23, outputs: []pinAt{{b32u4, 1 << 7}, {d32u4, 1 << 0}},
			clockPin: pinAt{d32u4, 1 << 7}},
		timer16(0x36, 0x6f, 0x80, 16, [3]pinAt{{b32u4, 1 << 5}, {b32u4, 1 << 6}, {b32u4, 1 << 7}}, pinAt{d32u4, 1 << 6},
			pinAt{d32u4, 1 << 4}),
		timer3of32U4(),
		{number: "4", async: true, dividers: dividersFast, modes: modes32U4, most: 0x3ff, top: 0xff, topOverflows: true,
			tifr: regFastTIFR, timsk: regFastTIMSK, tccra: regFastA, tccrb: regFastB, tcnt: regFastTCNT,
			ocr: []uint16{regFastOCRA, regFastOCRB, regFastOCRD}, compare: []uint{38, 39, 40}, overflow: 41,
			outputs: []pinAt{{c32u4, 1 << 7}, {b32u4, 1 << 6}, {d32u4, 1 << 7}}},
	},
	usarts: []usartLayout{{name: "USART1", base: 0xc8, received: 25, empty: 26, sent: 27, receive: pinAt{d32u4, 1 << 2},
		transmit: pinAt{d32u4, 1 << 3}}},
	spi:        spiLayout{port: b32u4, ss: 1 << 0, sck: 1 << 1, mosi: 1 << 2, miso: 1 << 3},
	twi:        twiLayout{port: d32u4, scl: 1 << 0, sda: 1 << 1},
	interrupts: append(pinsOf(d32u4, 0, 4), pinAt{}, pinAt{}, pinAt{e32u4, 1 << 6}),
	changes:    []pinChange{{[]pinChangePart{{b32u4, 0xff, 0}}}},
	vectors:    vectors{int0: 1, pcint0: 9, watchdog: 12, spi: 24, adc: 29, eeprom: 30, comparator: 28, twi: 36},
	analog: analogLayout{mux5: 1 << 5, channels: append([]pinAt{{f32u4, 1 << 0}, {f32u4, 1 << 1}, {}, {}, {f32u4,
		1 << 4},
		{f32u4, 1 << 5}, {f32u4, 1 << 6}, {f32u4, 1 << 7}, {d32u4, 1 << 4}, {d32u4, 1 << 6}, {d32u4, 1 << 7}},
		pinsOf(b32u4, 4, 3)...), references: [8]int64{fromAREF, fromSupply, reserved, bandgap2},
		special: map[uint8]int64{30: bandgap, 31: 0, 39: temperature}, ain0: pinAt{e32u4, 1 << 6},
		ain1: pinAt{f32u4, 1 << 0}},
	inputs: []inputSwitch{{0x7e, "DIDR0", 0xf3, f32u4, 0}},
	reduced: []reduction{{0x64, "PRR0", [8]string{0: "the ADC", 2: "the SPI", 3: "timer 1", 5: "timer 0", 7: "the TWI"}},
		{0x65, "PRR1", [8]string{0: "USART1", 3: "timer 3", 4: "timer 4"}}},
	inert: inert32U4(),
	views: views32U4(),
}).build()

// inert32U4 are registers that only keep what is written: those of a USB that nothing is plugged into, above all.
func inert32U4() (out []inertRegister) {
	for _, r := range []struct {
		address uint16
		names   []string
	}{{0x51, []string{"OCDR", "PLLFRQ"}}, {0x5b, []string{"RAMPZ", "EIND"}}, {0x67, []string{"RCCTRL"}},
		{0x7d, []string{"DIDR2", "", "DIDR1"}}, {0xc4, []string{"TCCR4E", "CLKSEL0", "CLKSEL1", "CLKSTA"}},
		{0xcb, []string{"UCSR1D"}}, {0xd4, []string{"DT4", "", "", "UHWCON", "USBCON", "USBSTA", "USBINT"}},
		{0xe0, []string{"UDCON", "UDINT", "UDIEN", "UDADDR", "UDFNUML", "UDFNUMH", "UDMFN", "", "UEINTX", "UENUM", "UERST",
			"UECONX", "UECFG0X", "UECFG1X", "UESTA0X", "UESTA1X", "UEIENX", "UEDATX", "UEBCLX", "UEBCHX", "UEINT"}}} {
		for i, name := range r.names {
			if name != "" {
				out = append(out, inertRegister{r.address + uint16(i), name, 0, "nothing is plugged into the USB"})
			}
		}
	}
	return out
}

// reg32U4 is where TCCR4A to TCCR4D, and TC4H, are kept as they were written.
const reg32U4 = 0x1b0

// fast32U4 brings timer 4 in line with its control registers, as they stand.
func fast32U4(m *Machine) {
	a, c, d := m.io[reg32U4], m.io[reg32U4+2], m.io[reg32U4+3]
	mode := uint8(0)
	if a&3 != 0 || c&1 != 0 {
		mode = 1 | d&1<<1
	}
	m.poke(regFastA, fastA(m.whileComplementary(a>>6, a&2 != 0), m.whileComplementary(a>>4, a&1 != 0),
		m.whileComplementary(c>>2, c&1 != 0), mode))
	m.poke(regFastB, m.io[reg32U4+1]&15)
}

func views32U4() []view {
	kept := func(address uint16, name string, i uint16, write func(m *Machine, v uint8)) view {
		return view{address: address, name: name, read: func(m *Machine) uint8 { return m.io[reg32U4+i] }, write: write}
	}
	// ten is a register of ten bits, of which TC4H has the higher two (15.11).
	ten := func(address uint16, name string, read func(m *Machine) uint16, write func(m *Machine, v uint16)) view {
		return view{address: address, name: name, read: func(m *Machine) uint8 {
			v := read(m)
			m.io[reg32U4+4] = uint8(v >> 8)
			return uint8(v)
		}, write: func(m *Machine, v uint8) { write(m, (uint16(m.io[reg32U4+4])<<8|uint16(v))&0x3ff) }}
	}
	compare := func(address uint16, name string, c int) view {
		return ten(address, name, func(m *Machine) uint16 { return m.timers[timer4].ocrNext[c] },
			func(m *Machine, v uint16) { m.timers[timer4].setCompare(m, c, v) })
	}
	bits := func(of uint16) bitsOf { return bitsOf{{7, of, 3}, {6, of, 1}, {5, of, 2}, {2, of, 0}} }
	return []view{
		kept(0xc0, "TCCR4A", 0, func(m *Machine, v uint8) {
			m.io[reg32U4] = v & 0xf3
			fast32U4(m)
			m.timers[timer4].force(m, v<<4&0xc0)
		}),
		kept(0xc1, "TCCR4B", 1, func(m *Machine, v uint8) {
			m.io[reg32U4+1] = v &^ 0x40
			if v&0x40 != 0 { // PSR4
				m.timers[timer4].sync(m, m.cycle)
				m.preasync.base = m.cycle
			}
			fast32U4(m)
		}),
		{address: 0xc2, name: "TCCR4C", read: func(m *Machine) uint8 { return m.io[reg32U4]&0xf0 | m.io[reg32U4+2]&0x0d },
			write: func(m *Machine, v uint8) {
				m.io[reg32U4], m.io[reg32U4+2] = m.io[reg32U4]&0x0f|v&0xf0, v&0x0d
				fast32U4(m)
			}},
		kept(0xc3, "TCCR4D", 3, func(m *Machine, v uint8) {
			m.io[reg32U4+3] = v
			if v&0x82 != 0 {
				m.note("unmodelled TCCR4D", "the fault protection and the six-output PWM of timer 4 (TCCR4D) are not modelled")
			}
			fast32U4(m)
		}),
		kept(0xbf, "TC4H", 4, func(m *Machine, v uint8) { m.io[reg32U4+4] = v & 3 }),
		ten(0xbe, "TCNT4", func(m *Machine) uint16 {
			m.timers[timer4].sync(m, m.cycle)
			return m.timers[timer4].count
		}, func(m *Machine, v uint16) { m.timers[timer4].setCount(m, v) }),
		compare(0xcf, "OCR4A", 0), compare(0xd0, "OCR4B", 1), compare(0xd2, "OCR4D", 2),
		ten(0xd1, "OCR4C", func(m *Machine) uint16 { return m.timers[timer4].icr }, func(m *Machine, v uint16) {
			t := &m.timers[timer4]
			t.sync(m, m.cycle)
			t.icr = v
			t.schedule(m)
		}),
		bits(regFastTIFR).cleared(0x39, "TIFR4", 1<<timer4),
		bits(regFastTIMSK).gathered(0x72, "TIMSK4"),
	}
}

func init() {
	packaged := [5][8]int{b32u4: {8, 9, 10, 11, 28, 29, 30, 12}, c32u4: {6: 31, 7: 32},
		d32u4: {18, 19, 20, 21, 25, 22, 26, 27}, e32u4: {2: 33, 6: 1}, f32u4: {41, 40, 0, 0, 39, 38, 37, 36}}
	second := map[string][]string{"PB0": {"SS"}, "PB1": {"SCK"}, "PB2": {"MOSI"}, "PB3": {"MISO"}, "PB5": {"OC1A"},
		"PB6": {"OC1B", "OC4B"}, "PB7": {"OC0A", "OC1C"}, "PC6": {"OC3A"}, "PC7": {"ICP3", "OC4A"},
		"PD0": {"SCL", "INT0", "OC0B"}, "PD1": {"SDA", "INT1"}, "PD2": {"RXD1", "INT2"}, "PD3": {"TXD1", "INT3"},
		"PD4": {"ICP1"}, "PD6": {"T1"}, "PD7": {"T0", "OC4D"}, "PE6": {"INT6", "AIN0"}}
	list := make([]machine.PinInfo, reset32U4+1)
	for port, l := range ATmega32U4.ports {
		for bit := range 8 {
			if l.exists>>bit&1 == 1 {
				name := ATmega32U4.name(port, bit)
				list[port*8+bit] = machine.PinInfo{Name: name, Package: packaged[port][bit], Also: second[name]}
			}
		}
	}
	list[reset32U4] = machine.PinInfo{Name: "RESET", Package: 13}
	machine.Register(ATmega32U4.chip(&machine.Chip{Name: "atmega32u4",
		Source: "Microchip DS7766J (ATmega16U4/32U4), DS40002198A (AVR Instruction Set Manual)",
		Clock:  16_000_000, Clocks: [2]clock.Rate{10_000, 16_000_000}, Pins: list, Crystal: [2]string{"XTAL2", "XTAL1"},
		Supplies: []machine.Rail{{Name: "VCC", Package: 14, Net: "VCC"}, {Name: "GND", Package: 15, Net: "GND"},
			{Name: "GND", Package: 23, Net: "GND"}, {Name: "AVCC", Package: 24, Net: "VCC"},
			{Name: "VCC", Package: 34, Net: "VCC"}, {Name: "GND", Package: 35, Net: "GND"}, {Name: "AREF", Package: 42},
			{Name: "GND", Package: 43, Net: "GND"}, {Name: "AVCC", Package: 44, Net: "VCC"}},
		Models: []string{"core", "ports B to F", "timers 0, 1, 3, 4", "USART1", "INT0 to INT3, INT6",
			"pin-change interrupt", "sleep", "watchdog", "clock prescaler", "PLL", "EEPROM", "SPI", "two-wire interface",
			"ADC", "analog comparator"},
		Unmodelled: []string{"USB, beyond one that nothing is plugged into", "differential channels of the ADC",
			"complementary outputs, dead time and fault protection of timer 4"},
		Limits: machine.Limits{Pin: 40_000_000, Chip: 200_000_000},
		// The packaged core wants to know what the USB would call itself.
		Toolchain: machine.Toolchain{Variant: "micro", Device: []string{"-DUSB_VID=0", "-DUSB_PID=0"}}}))
	machine.RegisterBoard(board32U4())
}
