package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// The ports of the ATmega2560.
const (
	a2560 = iota
	b2560
	c2560
	d2560
	e2560
	f2560
	g2560
	h2560
	j2560
	k2560
	l2560
)

// reset2560 is the reset pin, which belongs to no port: its place is behind theirs.
const reset2560 = 11 * 8

// timer16 is a 16-bit timer with three compare channels: Timer/Counter 1, 3, 4 or 5, whose control registers and
// interrupt vectors follow each other (datasheet 17.11, 14).
func timer16(tifr, timsk, control uint16, firstVector uint, outputs [3]pinAt, clock, capture pinAt) timerLayout {
	return timerLayout{wide: true, dividers: dividers01, tifr: tifr, timsk: timsk, tccra: control, tccrb: control + 1,
		tccrc: control + 2, tcnt: control + 4, icr: control + 6,
		ocr: []uint16{control + 8, control + 10, control + 12}, capture: firstVector,
		compare: []uint{firstVector + 1, firstVector + 2, firstVector + 3}, overflow: firstVector + 4,
		outputs: outputs[:], clockPin: clock, capturePin: capture}
}

// pinsOf are the pins of a port from one bit on.
func pinsOf(port, from, n int) (out []pinAt) {
	for i := range n {
		out = append(out, pinAt{port, 1 << (from + i)})
	}
	return out
}

// ATmega2560 is the variant by its datasheet, DS40002211A (ATmega640/V-1280/V-1281/V-2560/V-2561/V): register summary
// (33), interrupt vectors (14.1), alternate functions of ports (13.3).
var ATmega2560 = (&Variant{
	title: "ATmega2560", words: 0x20000, sramStart: 0x200, ramEnd: 0x21ff, eeprom: 4096, wide: true,
	run: run[[0x20000]struct{}, [0x200]struct{}, [0x21ff]struct{}],
	ports: []portLayout{{'A', 0x20, 0xff}, {'B', 0x23, 0xff}, {'C', 0x26, 0xff}, {'D', 0x29, 0xff}, {'E', 0x2c, 0xff},
		{'F', 0x2f, 0xff},
		{'G', 0x32, 0x3f}, {'H', 0x100, 0xff}, {'J', 0x103, 0xff}, {'K', 0x106, 0xff}, {'L', 0x109, 0xff}},
	reset: reset2560,
	timers: []timerLayout{
		{dividers: dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46,
			ocr:     []uint16{0x47, 0x48},
			compare: []uint{21, 22}, overflow: 23, outputs: []pinAt{{b2560, 1 << 7}, {g2560, 1 << 5}},
			clockPin: pinAt{d2560, 1 << 7}},
		timer16(0x36, 0x6f, 0x80, 16, [3]pinAt{{b2560, 1 << 5}, {b2560, 1 << 6}, {b2560, 1 << 7}}, pinAt{d2560, 1 << 6},
			pinAt{d2560, 1 << 4}),
		{async: true, dividers: dividers2, tifr: 0x37, timsk: 0x70, tccra: 0xb0, tccrb: 0xb1, tcnt: 0xb2,
			ocr:     []uint16{0xb3, 0xb4},
			compare: []uint{13, 14}, overflow: 15, outputs: []pinAt{{b2560, 1 << 4}, {h2560, 1 << 6}}},
		timer16(0x38, 0x71, 0x90, 31, [3]pinAt{{e2560, 1 << 3}, {e2560, 1 << 4}, {e2560, 1 << 5}}, pinAt{e2560, 1 << 6},
			pinAt{e2560, 1 << 7}),
		timer16(0x39, 0x72, 0xa0, 41, [3]pinAt{{h2560, 1 << 3}, {h2560, 1 << 4}, {h2560, 1 << 5}}, pinAt{h2560, 1 << 7},
			pinAt{l2560, 1 << 0}),
		timer16(0x3a, 0x73, 0x120, 46, [3]pinAt{{l2560, 1 << 3}, {l2560, 1 << 4}, {l2560, 1 << 5}},
			pinAt{l2560, 1 << 2}, pinAt{l2560, 1 << 1}),
	},
	usarts: []usartLayout{
		{name: "USART0", base: 0xc0, received: 25, empty: 26, sent: 27, receive: pinAt{e2560, 1 << 0},
			transmit: pinAt{e2560, 1 << 1}},
		{name: "USART1", base: 0xc8, received: 36, empty: 37, sent: 38, receive: pinAt{d2560, 1 << 2},
			transmit: pinAt{d2560, 1 << 3}},
		{name: "USART2", base: 0xd0, received: 51, empty: 52, sent: 53, receive: pinAt{h2560, 1 << 0},
			transmit: pinAt{h2560, 1 << 1}},
		{name: "USART3", base: 0x130, received: 54, empty: 55, sent: 56, receive: pinAt{j2560, 1 << 0},
			transmit: pinAt{j2560, 1 << 1}},
	},
	spi:        spiLayout{port: b2560, ss: 1 << 0, sck: 1 << 1, mosi: 1 << 2, miso: 1 << 3},
	twi:        twiLayout{port: d2560, scl: 1 << 0, sda: 1 << 1},
	interrupts: append(pinsOf(d2560, 0, 4), pinsOf(e2560, 4, 4)...),
	changes: []pinChange{{[]pinChangePart{{b2560, 0xff, 0}}}, {[]pinChangePart{{e2560, 1, 0}, {j2560, 0x7f, 1}}},
		{[]pinChangePart{{k2560, 0xff, 0}}}},
	vectors: vectors{int0: 1, pcint0: 9, watchdog: 12, spi: 24, adc: 29, eeprom: 30, comparator: 28, twi: 39},
	analog: analogLayout{channels: append(pinsOf(f2560, 0, 8), pinsOf(k2560, 0, 8)...),
		special: map[uint8]int64{30: bandgap, 31: 0}, mux5: 1 << 3,
		references: [8]int64{fromAREF, fromSupply, bandgap, bandgap2},
		ain0:       pinAt{e2560, 1 << 2}, ain1: pinAt{e2560, 1 << 3}},
	inputs: []inputSwitch{{0x7e, "DIDR0", 0xff, f2560, 0}, {0x7d, "DIDR2", 0xff, k2560, 0},
		{0x7f, "DIDR1", 3, e2560, 2}},
	reduced: []reduction{
		{0x64, "PRR0", [8]string{0: "the ADC", 1: "USART0", 2: "the SPI", 3: "timer 1", 5: "timer 0", 6: "timer 2",
			7: "the TWI"}},
		{0x65, "PRR1", [8]string{0: "USART1", 1: "USART2", 2: "USART3", 3: "timer 3", 4: "timer 4", 5: "timer 5"}},
	},
	inert: []inertRegister{
		{0x51, "OCDR", 0, "there is no debugger to read it"},
		{0x74, "XMCRA", 0x80, "there is no external memory"},
		{0x75, "XMCRB", 0, "there is no external memory"},
	},
}).build()

func init() {
	machine.Register(ATmega2560.chip(&machine.Chip{
		Name:   "atmega2560",
		Source: "Microchip DS40002211A (ATmega640/1280/1281/2560/2561), DS40002198A (AVR Instruction Set Manual)",
		Clock:  16_000_000,
		Clocks: [2]clock.Rate{10_000, 16_000_000},
		Pins:   pins2560(),
		Supplies: []machine.Rail{{Name: "VCC", Package: 10, Net: "VCC"}, {Name: "GND", Package: 11, Net: "GND"},
			{Name: "VCC", Package: 31, Net: "VCC"}, {Name: "GND", Package: 32, Net: "GND"},
			{Name: "XTAL2", Package: 33}, {Name: "XTAL1", Package: 34}, {Name: "VCC", Package: 61, Net: "VCC"},
			{Name: "GND", Package: 62, Net: "GND"},
			{Name: "VCC", Package: 80, Net: "VCC"}, {Name: "GND", Package: 81, Net: "GND"}, {Name: "AREF", Package: 98},
			{Name: "GND", Package: 99, Net: "GND"}, {Name: "AVCC", Package: 100, Net: "VCC"}},
		Crystal: [2]string{"XTAL2", "XTAL1"},
		Models: []string{"core with ELPM, EIJMP and EICALL", "ports A to L", "timers 0 to 5", "USART0 to USART3",
			"INT0 to INT7", "pin-change interrupts", "sleep", "watchdog", "clock prescaler",
			"EEPROM", "SPI", "two-wire interface", "ADC", "analog comparator"},
		Unmodelled: []string{"differential channels of the ADC", "external memory",
			"the modulator of OC0A and OC1C on PB7"},
		Limits:    limits2560(),
		Toolchain: machine.Toolchain{Variant: "mega"},
	}))
	machine.RegisterBoard(board2560())
}

// pins2560 lists PA0 to PL7 and RESET with their numbers on the 100-pin TQFP (datasheet figure 1-1).
func pins2560() []machine.PinInfo {
	packaged := [11][8]int{
		a2560: {78, 77, 76, 75, 74, 73, 72, 71}, b2560: {19, 20, 21, 22, 23, 24, 25, 26},
		c2560: {53, 54, 55, 56, 57, 58, 59, 60}, d2560: {43, 44, 45, 46, 47, 48, 49, 50},
		e2560: {2, 3, 4, 5, 6, 7, 8, 9}, f2560: {97, 96, 95, 94, 93, 92, 91, 90}, g2560: {51, 52, 70, 28, 29, 1},
		h2560: {12, 13, 14, 15, 16, 17, 18, 27},
		j2560: {63, 64, 65, 66, 67, 68, 69, 79}, k2560: {89, 88, 87, 86, 85, 84, 83, 82},
		l2560: {35, 36, 37, 38, 39, 40, 41, 42},
	}
	second := map[string][]string{
		"PB0": {"SS"}, "PB1": {"SCK"}, "PB2": {"MOSI"}, "PB3": {"MISO"}, "PB4": {"OC2A"}, "PB5": {"OC1A"},
		"PB6": {"OC1B"}, "PB7": {"OC0A", "OC1C"},
		"PD0": {"SCL", "INT0"}, "PD1": {"SDA", "INT1"}, "PD2": {"RXD1", "INT2"}, "PD3": {"TXD1", "INT3"},
		"PD4": {"ICP1"}, "PD6": {"T1"}, "PD7": {"T0"},
		"PE0": {"RXD0"}, "PE1": {"TXD0"}, "PE2": {"AIN0"}, "PE3": {"AIN1", "OC3A"}, "PE4": {"OC3B", "INT4"},
		"PE5": {"OC3C", "INT5"}, "PE6": {"T3", "INT6"}, "PE7": {"ICP3", "INT7"},
		"PG5": {"OC0B"}, "PH0": {"RXD2"}, "PH1": {"TXD2"}, "PH3": {"OC4A"}, "PH4": {"OC4B"}, "PH5": {"OC4C"},
		"PH6": {"OC2B"}, "PH7": {"T4"},
		"PJ0": {"RXD3"}, "PJ1": {"TXD3"}, "PL0": {"ICP4"}, "PL1": {"ICP5"}, "PL2": {"T5"}, "PL3": {"OC5A"},
		"PL4": {"OC5B"}, "PL5": {"OC5C"},
	}
	list := make([]machine.PinInfo, reset2560+1)
	for port, l := range ATmega2560.ports {
		for bit := range 8 {
			if l.exists>>bit&1 == 1 {
				name := ATmega2560.name(port, bit)
				list[port*8+bit] = machine.PinInfo{Name: name, Package: packaged[port][bit], Also: second[name]}
			}
		}
	}
	list[reset2560] = machine.PinInfo{Name: "RESET", Package: 30}
	return list
}

// limits2560 are the absolute maximum ratings (datasheet 31.1) and the sums of the notes to the DC characteristics
// (table 31-1), in nA: those for what the pins take and what they give are the same.
func limits2560() machine.Limits {
	group := func(name string, most int64, pins ...[]pinAt) machine.Group {
		g := machine.Group{Name: name, Most: most}
		for _, list := range pins {
			for _, p := range list {
				g.Pins = append(g.Pins, p.pin())
			}
		}
		return g
	}
	groups := []machine.Group{
		group("ports J and A and PG2", 200_000_000, pinsOf(j2560, 0, 8), pinsOf(a2560, 0, 8), pinsOf(g2560, 2, 1)),
		group("ports C, D and L, PG0 and PG1", 200_000_000, pinsOf(c2560, 0, 8), pinsOf(d2560, 0, 8),
			pinsOf(l2560, 0, 8), pinsOf(g2560, 0, 2)),
		group("ports B and H, PG3 and PG4", 200_000_000, pinsOf(b2560, 0, 8), pinsOf(h2560, 0, 8), pinsOf(g2560, 3, 2)),
		group("port E and PG5", 100_000_000, pinsOf(e2560, 0, 8), pinsOf(g2560, 5, 1)),
		group("ports F and K", 100_000_000, pinsOf(f2560, 0, 8), pinsOf(k2560, 0, 8)),
	}
	return machine.Limits{Pin: 40_000_000, Chip: 200_000_000, Source: groups, Sink: groups}
}
