package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// The ports of the ATmega328P and the ATmega168.
const (
	b328 = iota
	c328
	d328
)

// The variants by their datasheet, DS40002061B: register summary (30), interrupt vectors (12.1), alternate functions of
// ports (14.3). They differ in their memories alone.
var (
	ATmega328P = layout328(Variant{title: "ATmega328P", words: 0x4000, sramStart: 0x100, ramEnd: 0x8ff, eeprom: 1024,
		run: run[[0x4000]struct{}, [0x100]struct{}, [0x8ff]struct{}]}).build()
	ATmega168 = layout328(Variant{title: "ATmega168", words: 0x2000, sramStart: 0x100, ramEnd: 0x4ff, eeprom: 512,
		run: run[[0x2000]struct{}, [0x100]struct{}, [0x4ff]struct{}]}).build()
)

// layout328 has registers, vectors and pins where both have them.
func layout328(v Variant) *Variant {
	v.ports = []portLayout{{'B', 0x23, 0xff}, {'C', 0x26, 0x3f}, {'D', 0x29, 0xff}}
	v.reset = 14 // PC6, which has a pull-up of its own (11.3)
	v.timers = []timerLayout{
		{dividers: dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46,
			ocr:     []uint16{0x47, 0x48},
			compare: []uint{14, 15}, overflow: 16, outputs: []pinAt{{d328, 1 << 6}, {d328, 1 << 5}},
			clockPin: pinAt{d328, 1 << 4}},
		{wide: true, dividers: dividers01, tifr: 0x36, timsk: 0x6f, tccra: 0x80, tccrb: 0x81, tccrc: 0x82, tcnt: 0x84,
			icr: 0x86, ocr: []uint16{0x88, 0x8a},
			capture: 10, compare: []uint{11, 12}, overflow: 13, outputs: []pinAt{{b328, 1 << 1}, {b328, 1 << 2}},
			clockPin: pinAt{d328, 1 << 5}, capturePin: pinAt{b328, 1 << 0}},
		{async: true, dividers: dividers2, tifr: 0x37, timsk: 0x70, tccra: 0xb0, tccrb: 0xb1, tcnt: 0xb2,
			ocr:     []uint16{0xb3, 0xb4},
			compare: []uint{7, 8}, overflow: 9, outputs: []pinAt{{b328, 1 << 3}, {d328, 1 << 3}}},
	}
	v.usarts = []usartLayout{{name: "USART0", base: 0xc0, received: 18, empty: 19, sent: 20,
		receive: pinAt{d328, 1 << 0}, transmit: pinAt{d328, 1 << 1}}}
	v.spi = spiLayout{b328, 1 << 2, 1 << 3, 1 << 4, 1 << 5}
	v.twi = twiLayout{c328, 1 << 4, 1 << 5}
	v.interrupts = []pinAt{{d328, 1 << 2}, {d328, 1 << 3}}
	v.changes = []pinChange{{[]pinChangePart{{b328, 0xff, 0}}}, {[]pinChangePart{{c328, 0xff, 0}}},
		{[]pinChangePart{{d328, 0xff, 0}}}}
	v.vectors = vectors{int0: 1, pcint0: 3, watchdog: 6, spi: 17, adc: 21, eeprom: 22, comparator: 23, twi: 24}
	v.analog = analogLayout{
		channels: []pinAt{{c328, 1 << 0}, {c328, 1 << 1}, {c328, 1 << 2}, {c328, 1 << 3}, {c328, 1 << 4},
			{c328, 1 << 5}},
		references: [8]int64{fromAREF, fromSupply, reserved, bandgap},
		special:    map[uint8]int64{8: temperature, 14: bandgap, 15: 0}, ain0: pinAt{d328, 1 << 6},
		ain1: pinAt{d328, 1 << 7},
	}
	v.inputs = []inputSwitch{{0x7e, "DIDR0", 0x3f, c328, 0}, {0x7f, "DIDR1", 3, d328, 6}}
	v.reduced = []reduction{{0x64, "PRR", [8]string{0: "the ADC", 1: "the USART", 2: "the SPI", 3: "timer 1", 5: "timer 0",
		6: "timer 2", 7: "the TWI"}}}
	return &v
}

func init() {
	machine.Register(chip328(ATmega328P, machine.Chip{Name: "atmega328p", Usual: true}))
	machine.Register(chip328(ATmega168, machine.Chip{Name: "atmega168"}))
}

// chip328 is what both are for people and for the circuit.
func chip328(v *Variant, c machine.Chip) *machine.Chip {
	c.Source = "Microchip DS40002061B (ATmega48A/PA/88A/PA/168A/PA/328/P), DS40002198A (AVR Instruction Set Manual)"
	c.Clock, c.Clocks = 16_000_000, [2]clock.Rate{10_000, 20_000_000}
	c.Pins, c.Crystal, c.Limits = pins328(), [2]string{"PB6", "PB7"}, limits328
	c.Supplies = []machine.Rail{{Name: "VCC", Package: 7, Net: "VCC"}, {Name: "GND", Package: 8, Net: "GND"},
		{Name: "AVCC", Package: 20, Net: "VCC"}, {Name: "AREF", Package: 21}, {Name: "GND", Package: 22, Net: "GND"}}
	c.Models = []string{"core", "ports B, C, D", "timers 0, 1, 2", "USART0", "INT0, INT1", "pin-change interrupts",
		"sleep", "watchdog", "clock prescaler", "EEPROM", "SPI", "two-wire interface", "ADC", "analog comparator"}
	c.Toolchain = machine.Toolchain{Variant: "standard"}
	return v.chip(&c)
}

// limits328 are the absolute maximum ratings (datasheet 29.1) and the sums of notes 3 and 4 to the DC
// characteristics (table 29-1), in nA.
var limits328 = machine.Limits{
	Pin: 40_000_000, Chip: 200_000_000,
	Sink: []machine.Group{
		{Name: "PC0 to PC5", Pins: []machine.Pin{8, 9, 10, 11, 12, 13}, Most: 100_000_000},
		{Name: "PB0 to PB5 and PD5 to PD7", Pins: []machine.Pin{0, 1, 2, 3, 4, 5, 6, 7, 21, 22, 23}, Most: 100_000_000},
		{Name: "PD0 to PD4", Pins: []machine.Pin{16, 17, 18, 19, 20}, Most: 100_000_000},
	},
	Source: []machine.Group{
		{Name: "PC0 to PC5 and PD0 to PD4", Pins: []machine.Pin{8, 9, 10, 11, 12, 13, 16, 17, 18, 19, 20},
			Most: 150_000_000},
		{Name: "PB0 to PB5 and PD5 to PD7", Pins: []machine.Pin{0, 1, 2, 3, 4, 5, 6, 7, 21, 22, 23}, Most: 150_000_000},
	},
}

// pins328 lists PB0 to PD7 with their numbers on the 28-pin DIP (datasheet figure 1-1). A pin without a
// name does not exist.
func pins328() []machine.PinInfo {
	packaged := [24]int{14, 15, 16, 17, 18, 19, 9, 10, 23, 24, 25, 26, 27, 28, 1, 0, 2, 3, 4, 5, 6, 11, 12, 13}
	second := map[int][]string{0: {"ICP1"}, 1: {"OC1A"}, 2: {"OC1B", "SS"}, 3: {"OC2A", "MOSI"}, 4: {"MISO"},
		5: {"SCK"}, 14: {"RESET"},
		12: {"SDA"}, 13: {"SCL"}, 16: {"RXD"}, 17: {"TXD"}, 18: {"INT0"}, 19: {"INT1", "OC2B"}, 20: {"T0"},
		21: {"T1", "OC0B"}, 22: {"OC0A"}}
	list := make([]machine.PinInfo, 24)
	for i := range list {
		if packaged[i] != 0 {
			list[i] = machine.PinInfo{Name: ATmega328P.name(i/8, i%8), Package: packaged[i], Also: second[i]}
		}
	}
	return list
}
