package pic14

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// small are the ports of both chips of 18 pins.
func small() []portLayout {
	return []portLayout{{letter: 'A', port: 0x05, tris: 0x85, exists: 0xff, inputs: 1 << 5},
		{letter: 'B', port: 0x06, tris: 0x86, exists: 0xff, pulled: true}}
}

// choices18 are the oscillators of both.
var choices18 = map[uint16]oscillator{0x00: oscLP, 0x01: oscXT, 0x02: oscHS, 0x03: oscEC, 0x10: oscInside,
	0x11: oscInsideCO, 0x12: oscRC, 0x13: oscRCCO}

// modes18 are the comparators of both (DS30487, figure 13-1; DS40044, figure 10-1).
var modes18 = &[8]comparatorMode{
	off(0x0f),
	{minus: [2]int8{0, 1}, plus: [2]int8{2, 2}, or: [2]int8{3, -1}, analog: 0x0f},
	{minus: [2]int8{0, 1}, plus: [2]int8{0, 0}, or: [2]int8{3, 2}, internal: true, analog: 0x0f},
	{minus: [2]int8{0, 1}, plus: [2]int8{2, 2}, or: neither, analog: 0x07},
	{minus: [2]int8{0, 1}, plus: [2]int8{3, 2}, or: neither, analog: 0x0f},
	{minus: [2]int8{-1, 1}, plus: [2]int8{-1, 2}, or: neither, analog: 0x06},
	{minus: [2]int8{0, 1}, plus: [2]int8{2, 2}, or: neither, analog: 0x07, out: [2]bool{true, true}},
	off(0),
}

// small18 is what both have at the same place.
func small18(v Variant) *Variant {
	v.ports, v.reset = small(), 5
	v.shared = []uint16{regTMR0, 0x06, regOPTION, 0x86}
	v.clockPin0, v.clockPin1, v.external = pinOf(portA, 4), pinOf(portB, 6), pinOf(portB, 0)
	v.onChange = onChange{port: portB, mask: 0xf0}
	v.fuses = fuseLayout{choose: 0x13, oscillators: choices18, dog: 0x4, powerUp: 0x8, resetPin: 0x20, brownOut: 0x40,
		lowVoltage: 0x80}
	v.oscillator.pins = [2]pinAt{pinOf(portA, 7), pinOf(portA, 6)}
	v.ccps = []ccpLayout{{name: "CCP1", con: 0x17, low: 0x15, high: 0x16, flag: flag{regPIR1, 1 << 2}}}
	c := &v.comparator
	c.modes = modes18
	c.inputs = [4]pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portA, 2), pinOf(portA, 3)}
	c.outputs = [2]pinAt{pinOf(portA, 3), pinOf(portA, 4)}
	v.flags = flags{timer1: flag{regPIR1, 1 << 0}, timer2: flag{regPIR1, 1 << 1}, transmit: flag{regPIR1, 1 << 4},
		receive: flag{regPIR1, 1 << 5}}
	return &v
}

// PIC16F88 by its datasheet, DS30487D: memory (2), oscillator (4), ports (5), special features (15).
var PIC16F88 = func() *Variant {
	v := small18(Variant{title: "PIC16F88", words: 0x1000, eeprom: 256, powerOn: 0x01,
		memory: [][2]uint16{{0x20, 0x7f}, {0xa0, 0xef}, {0x110, 0x16f}, {0x190, 0x1ef}}})
	v.longDog = 0x105
	v.fuses.programming, v.fuses.compareElsewhere = pinOf(portB, 3), 0x1000
	o := &v.oscillator
	o.osccon, o.settable, o.stable, o.choose, o.inside = 0x8f, 0x73, 0x0c, 3, 2
	o.rates = []clock.Rate{31_250, 125_000, 250_000, 500_000, 1_000_000, 2_000_000, 4_000_000, 8_000_000}
	v.ccps[0].pin, v.ccps[0].or, v.ccps[0].special = pinOf(portB, 0), pinOf(portB, 3), true
	v.usart.receive, v.usart.transmit = pinOf(portB, 2), pinOf(portB, 5)
	v.ssp = sspLayout{sck: pinOf(portB, 4), sdi: pinOf(portB, 1), sdo: pinOf(portB, 2), ss: pinOf(portB, 5)}
	v.eedata = eepromLayout{con1: 0x18c, con2: 0x18d, data: 0x10c, address: 0x10d, dataHigh: 0x10e, addressHigh: 0x10f}
	l := &v.adc
	l.high, l.low, l.con0, l.con1, l.ansel = 0x1e, 0x9e, 0x1f, 0x9f, 0x9b
	l.channels = []pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portA, 2), pinOf(portA, 3), pinOf(portA, 4),
		pinOf(portB, 6), pinOf(portB, 7)}
	l.choose, l.chooses, l.goes, l.moreClock = 3, 7, 1<<2, 1<<6
	l.plus = func(con1 uint8) int { return channelWhere(con1>>5&1 == 1, 3) }
	l.minus = func(con1 uint8) int { return channelWhere(con1>>4&1 == 1, 2) }
	c := &v.comparator
	c.cmcon, c.initial, c.ladder, c.name = 0x9c, 0x07, 0x9d, "CVRCON"
	v.flags.ssp, v.flags.adc = flag{regPIR1, 1 << 3}, flag{regPIR1, 1 << 6}
	v.flags.eeprom, v.flags.comparator1 = flag{regPIR2, 1 << 4}, flag{regPIR2, 1 << 6}
	v.flags.comparator2 = v.flags.comparator1
	return v.build()
}()

// pins18 are the numbers of ports on the 18-pin DIP.
var pins18 = [][8]int{{17, 18, 1, 2, 3, 4, 15, 16}, {6, 7, 8, 9, 10, 11, 12, 13}}

var rails18 = []machine.Rail{{Name: "VSS", Package: 5, Net: "GND"}, {Name: "VDD", Package: 14, Net: "VCC"}}

func init() {
	c := &machine.Chip{Name: "pic16f88", Source: "Microchip DS30487D (PIC16F87/88)",
		Clocks: [2]clock.Rate{10_000, 20_000_000}, Crystal: [2]string{"RA7", "RA6"}, Supplies: rails18,
		Pins: PIC16F88.pins(pins18, map[string][]string{"RA4": {"T0CKI"}, "RA5": {"MCLR"}, "RB0": {"INT", "CCP1"},
			"RB1": {"SDI"}, "RB2": {"RX", "SDO"}, "RB4": {"SCK"}, "RB5": {"TX"}, "RB6": {"T1CKI"}}),
		Models: []string{"core", "configuration words", "oscillator inside", "ports A and B", "timers 0, 1, 2", "CCP1",
			"ADC", "SPI", "USART", "comparators and their reference", "EEPROM", "watchdog", "sleep"},
		Unmodelled: []string{"I2C", "USART in synchronous modes", "fail-safe clock monitor", "two-speed start-up",
			"timer 1's oscillator as the clock", "writing flash"}}
	c.Limits.Chip = 200_000_000
	machine.Register(PIC16F88.chip(c))
}
