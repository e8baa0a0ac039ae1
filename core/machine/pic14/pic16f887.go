package pic14

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// PIC16F887 by its datasheet, DS41291G: memory (2), ports (3), oscillator (4), special features (14).
var PIC16F887 = func() *Variant {
	v := large40(Variant{title: "PIC16F887", powerOn: 0x11})
	v.ports = large(0x0f)
	v.reset = 8*portE + 3
	v.pullups, v.onChange, v.longDog = 0x95, onChange{port: portB, mask: 0xff, iocb: 0x96}, 0x105
	v.gate = pinOf(portB, 5)
	v.fuses = fuseLayout{choose: 0x7, oscillators: map[uint16]oscillator{0: oscLP, 1: oscXT, 2: oscHS, 3: oscEC,
		4: oscInside, 5: oscInsideCO, 6: oscRC, 7: oscRCCO}, dog: 0x8, powerUp: 0x10, resetPin: 0x20, brownOut: 0x300,
		lowVoltage: 0x1000, programming: pinOf(portB, 3), fourVolts: true}
	v.oscillator = oscillatorLayout{osccon: 0x8f, initial: 0x60, settable: 0x71, stable: 0x0e, choose: 1, inside: 1,
		rates: []clock.Rate{31_000, 125_000, 250_000, 500_000, 1_000_000, 2_000_000, 4_000_000, 8_000_000},
		pins:  [2]pinAt{pinOf(portA, 7), pinOf(portA, 6)}}
	x := &v.ccps[0]
	x.bridge = [4]pinAt{pinOf(portC, 2), pinOf(portD, 5), pinOf(portD, 6), pinOf(portD, 7)}
	x.delay, x.shutdown, x.steered = 0x9b, 0x9c, 0x9d
	v.usart.wide = 0x187
	l := &v.adc
	l.channels = []pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portA, 2), pinOf(portA, 3), pinOf(portA, 5),
		pinOf(portE, 0), pinOf(portE, 1), pinOf(portE, 2), pinOf(portB, 2), pinOf(portB, 3), pinOf(portB, 1),
		pinOf(portB, 4), pinOf(portB, 0), pinOf(portB, 5)}
	l.choose, l.chooses, l.goes, l.ansel, l.anselh = 2, 15, 1<<1, 0x188, 0x189
	l.divided, l.fixed = 14, 15
	l.plus = func(con1 uint8) int { return channelWhere(con1>>4&1 == 1, 3) }
	l.minus = func(con1 uint8) int { return channelWhere(con1>>5&1 == 1, 2) }
	c := &v.comparator
	c.own, c.more, c.ladder, c.name = [2]uint16{0x107, 0x108}, 0x109, 0x97, "VRCON"
	c.negative = [4]pinAt{pinOf(portA, 0), pinOf(portA, 1), pinOf(portB, 3), pinOf(portB, 1)}
	c.positive = [2]pinAt{pinOf(portA, 3), pinOf(portA, 2)}
	v.flags.comparator1, v.flags.comparator2 = flag{regPIR2, 1 << 5}, flag{regPIR2, 1 << 6}
	v.inert = []inertRegister{{0x185, "SRCON", 0, 0xf2, "the latch behind the comparators, and the fail-safe clock"}}
	return v.build()
}()

func init() {
	c := &machine.Chip{Name: "pic16f887", Source: "Microchip DS41291G (PIC16F882/883/884/886/887)",
		Clocks: [2]clock.Rate{10_000, 20_000_000}, Crystal: [2]string{"RA7", "RA6"}, Supplies: rails40,
		Pins: PIC16F887.pins(pins40([2]int{14, 13}, 1), map[string][]string{"RA4": {"T0CKI"}, "RB0": {"INT"},
			"RC0": {"T1CKI"}, "RC1": {"CCP2"}, "RC2": {"CCP1", "P1A"}, "RC3": {"SCK", "SCL"}, "RC4": {"SDI", "SDA"},
			"RC5": {"SDO"}, "RC6": {"TX"}, "RC7": {"RX"}, "RD5": {"P1B"}, "RD6": {"P1C"}, "RD7": {"P1D"}, "RE3": {"MCLR"}}),
		Models: append([]string{"oscillator inside"}, models40...),
		Unmodelled: []string{"automatic shutdown and pauses of the PWM", "SR latch", "fail-safe clock monitor",
			"measuring a serial speed", "I2C as a slave", "USART in synchronous modes", "writing flash"}}
	c.Limits.Chip = 90_000_000
	machine.Register(PIC16F887.chip(c))
}
