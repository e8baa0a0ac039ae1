package pic14

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// PIC16F628A by its datasheet, DS40044G: memory (4), ports (5), special features (14).
var PIC16F628A = func() *Variant {
	v := small18(Variant{title: "PIC16F628A", words: 0x800, eeprom: 128, powerOn: 0x09,
		memory: [][2]uint16{{0x20, 0x7f}, {0xa0, 0xef}, {0x120, 0x14f}}})
	v.ports[portA].drain = 1 << 4
	v.fuses.programming = pinOf(portB, 4)
	v.oscillator.rates, v.oscillator.slow = []clock.Rate{48_000, 4_000_000}, true
	v.ccps[0].pin = pinOf(portB, 3)
	v.usart.receive, v.usart.transmit = pinOf(portB, 1), pinOf(portB, 2)
	v.eedata = eepromLayout{con1: 0x9c, con2: 0x9d, data: 0x9a, address: 0x9b}
	c := &v.comparator
	c.cmcon, c.ladder, c.name = 0x1f, 0x9f, "VRCON"
	v.flags.eeprom, v.flags.comparator1 = flag{regPIR1, 1 << 7}, flag{regPIR1, 1 << 6}
	v.flags.comparator2 = v.flags.comparator1
	return v.build()
}()

func init() {
	c := &machine.Chip{Name: "pic16f628a", Source: "Microchip DS40044G (PIC16F627A/628A/648A)",
		Clocks: [2]clock.Rate{10_000, 20_000_000}, Crystal: [2]string{"RA7", "RA6"}, Supplies: rails18,
		Pins: PIC16F628A.pins(pins18, map[string][]string{"RA4": {"T0CKI"}, "RA5": {"MCLR"}, "RB0": {"INT"},
			"RB1": {"RX"}, "RB2": {"TX"}, "RB3": {"CCP1"}, "RB6": {"T1CKI"}}),
		Models: []string{"core", "configuration word", "oscillator inside", "ports A and B", "timers 0, 1, 2", "CCP1",
			"USART", "comparators and their reference", "EEPROM", "watchdog", "sleep"},
		Unmodelled: []string{"USART in synchronous modes"}}
	c.Limits.Chip = 200_000_000
	machine.Register(PIC16F628A.chip(c))
}
