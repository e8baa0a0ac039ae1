package pic14

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// The ports of the larger chips.
const (
	portA = iota
	portB
	portC
	portD
	portE
)

func pinOf(port, n int) pinAt { return pinAt{port, 1 << n} }

// large are the ports that both chips of 40 pins have.
func large(e uint8) []portLayout {
	return []portLayout{{letter: 'A', port: 0x05, tris: 0x85, exists: 0xff},
		{letter: 'B', port: 0x06, tris: 0x86, exists: 0xff, pulled: true},
		{letter: 'C', port: 0x07, tris: 0x87, exists: 0xff}, {letter: 'D', port: 0x08, tris: 0x88, exists: 0xff},
		{letter: 'E', port: 0x09, tris: 0x89, exists: e, inputs: e & 8}}
}

// large40 is what both have at the same place.
func large40(v Variant) *Variant {
	v.words, v.eeprom = 0x2000, 256
	v.memory = [][2]uint16{{0x20, 0x7f}, {0xa0, 0xef}, {0x110, 0x16f}, {0x190, 0x1ef}}
	v.shared = []uint16{regTMR0, 0x06, regOPTION, 0x86}
	v.clockPin0, v.clockPin1, v.external = pinOf(portA, 4), pinOf(portC, 0), pinOf(portB, 0)
	v.ccps = []ccpLayout{
		{name: "CCP1", con: 0x17, low: 0x15, high: 0x16, pin: pinOf(portC, 2), flag: flag{regPIR1, 1 << 2}},
		{name: "CCP2", con: 0x1d, low: 0x1b, high: 0x1c, pin: pinOf(portC, 1), flag: flag{regPIR2, 1 << 0}, special: true}}
	v.usart.receive, v.usart.transmit = pinOf(portC, 7), pinOf(portC, 6)
	v.ssp = sspLayout{sck: pinOf(portC, 3), sdi: pinOf(portC, 4), sdo: pinOf(portC, 5), ss: pinOf(portA, 5),
		master: true}
	v.eedata = eepromLayout{con1: 0x18c, con2: 0x18d, data: 0x10c, address: 0x10d, dataHigh: 0x10e, addressHigh: 0x10f}
	v.adc.high, v.adc.low, v.adc.con0, v.adc.con1 = 0x1e, 0x9e, 0x1f, 0x9f
	v.flags = flags{timer1: flag{regPIR1, 1 << 0}, timer2: flag{regPIR1, 1 << 1}, ssp: flag{regPIR1, 1 << 3},
		transmit: flag{regPIR1, 1 << 4}, receive: flag{regPIR1, 1 << 5}, adc: flag{regPIR1, 1 << 6},
		collision: flag{regPIR2, 1 << 3}, eeprom: flag{regPIR2, 1 << 4}}
	v.comparator.outputs = [2]pinAt{pinOf(portA, 4), pinOf(portA, 5)}
	return &v
}

// PIC16F877A by its datasheet, DS39582B: memory (2), ports (4), special features (14).
var PIC16F877A = func() *Variant {
	v := large40(Variant{title: "PIC16F877A", powerOn: 0x01})
	v.ports = large(0x07)
	v.ports[portA].exists, v.ports[portA].drain = 0x3f, 1<<4
	v.reset = 40 // a pin of its own
	v.onChange = onChange{port: portB, mask: 0xf0}
	v.fuses = fuseLayout{choose: 0x3, oscillators: map[uint16]oscillator{0: oscLP, 1: oscXT, 2: oscHS, 3: oscRC},
		dog: 0x4, powerUp: 0x8, brownOut: 0x40, lowVoltage: 0x80, programming: pinOf(portB, 3)}
	l := &v.adc
	l.channels = []pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portA, 2), pinOf(portA, 3), pinOf(portA, 5),
		pinOf(portE, 0), pinOf(portE, 1), pinOf(portE, 2)}
	l.choose, l.chooses, l.goes, l.moreClock = 3, 7, 1<<2, 1<<6
	l.plus = func(con1 uint8) int { return channelWhere(pinModes[con1&15].plus, 3) }
	l.minus = func(con1 uint8) int { return channelWhere(pinModes[con1&15].minus, 2) }
	c := &v.comparator
	c.cmcon, c.initial, c.ladder, c.name = 0x9c, 0x07, 0x9d, "CVRCON"
	c.inputs = [4]pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portA, 2), pinOf(portA, 3)}
	c.modes = &[8]comparatorMode{ // figure 12-1
		off(0x0f),
		{minus: [2]int8{0, -1}, plus: [2]int8{3, -1}, or: neither, analog: 0x09, out: [2]bool{true, false}},
		{minus: [2]int8{0, 1}, plus: [2]int8{3, 2}, or: neither, analog: 0x0f},
		{minus: [2]int8{0, 1}, plus: [2]int8{3, 2}, or: neither, analog: 0x0f, out: [2]bool{true, true}},
		{minus: [2]int8{0, 1}, plus: [2]int8{3, 3}, or: neither, analog: 0x0b},
		{minus: [2]int8{0, 1}, plus: [2]int8{3, 3}, or: neither, analog: 0x0b, out: [2]bool{true, true}},
		{minus: [2]int8{0, 1}, plus: [2]int8{0, 0}, or: [2]int8{3, 2}, internal: true, analog: 0x0f},
		off(0),
	}
	v.flags.comparator1 = flag{regPIR2, 1 << 6}
	v.flags.comparator2 = v.flags.comparator1
	return v.build()
}()

// neither has no other choice of an input.
var neither = [2]int8{-1, -1}

// off is a mode in which both comparators are.
func off(analog uint8) comparatorMode {
	return comparatorMode{minus: neither, plus: neither, or: neither, analog: analog}
}

func channelWhere(is bool, n int) int {
	if is {
		return n
	}
	return -1
}

// pins40 are the numbers of ports on the 40-pin DIP.
func pins40(outer [2]int, e3 int) [][8]int {
	return [][8]int{{2, 3, 4, 5, 6, 7, outer[0], outer[1]}, {33, 34, 35, 36, 37, 38, 39, 40},
		{15, 16, 17, 18, 23, 24, 25, 26}, {19, 20, 21, 22, 27, 28, 29, 30}, {8, 9, 10, e3}}
}

var rails40 = []machine.Rail{{Name: "VDD", Package: 11, Net: "VCC"}, {Name: "VSS", Package: 12, Net: "GND"},
	{Name: "VSS", Package: 31, Net: "GND"}, {Name: "VDD", Package: 32, Net: "VCC"}}

// models40 are what both chips of 40 pins have.
var models40 = []string{"core", "configuration words", "ports A to E", "timers 0, 1, 2", "CCP1, CCP2", "ADC",
	"SPI, I2C as a master", "USART", "comparators and their reference", "EEPROM", "watchdog", "sleep"}

func init() {
	c := &machine.Chip{Name: "pic16f877a", Source: "Microchip DS39582B (PIC16F87XA)",
		Clocks: [2]clock.Rate{10_000, 20_000_000}, Crystal: [2]string{"OSC1", "OSC2"},
		Supplies: append([]machine.Rail{{Name: "OSC1", Package: 13}, {Name: "OSC2", Package: 14}}, rails40...),
		Pins: PIC16F877A.pins(pins40([2]int{}, 0), map[string][]string{"RA4": {"T0CKI"}, "RB0": {"INT"}, "RC0": {"T1CKI"},
			"RC1": {"CCP2"}, "RC2": {"CCP1"}, "RC3": {"SCK", "SCL"}, "RC4": {"SDI", "SDA"}, "RC5": {"SDO"}, "RC6": {"TX"},
			"RC7": {"RX"}}),
		Models:     models40,
		Unmodelled: []string{"parallel slave port", "I2C as a slave", "USART in synchronous modes", "writing flash"}}
	c.Pins = append(c.Pins, machine.PinInfo{Name: "MCLR", Package: 1})
	c.Limits.Chip = 200_000_000
	machine.Register(PIC16F877A.chip(c))
}
