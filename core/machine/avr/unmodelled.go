package avr

// What is not modelled yet. Its registers keep what is written and read back the same, and the
// first touch of each block is reported by the register's name.
var unmodelled = []struct {
	block, means string
	registers    map[uint16]string
}{
	{"EEPROM", "the EEPROM", map[uint16]string{0x3f: "EECR", 0x40: "EEDR", 0x41: "EEARL", 0x42: "EEARH"}},
	{"SPI", "the SPI bus", map[uint16]string{0x4c: "SPCR", 0x4d: "SPSR", 0x4e: "SPDR"}},
	{"AC", "the analog comparator", map[uint16]string{0x50: "ACSR", 0x7f: "DIDR1"}},
	{"ADC", "the analog-to-digital converter", map[uint16]string{0x78: "ADCL", 0x79: "ADCH", 0x7a: "ADCSRA", 0x7b: "ADCSRB", 0x7c: "ADMUX", 0x7e: "DIDR0"}},
	{"TWI", "the two-wire bus", map[uint16]string{0xb8: "TWBR", 0xb9: "TWSR", 0xba: "TWAR", 0xbb: "TWDR", 0xbc: "TWCR", 0xbd: "TWAMR"}},
	{"SPM", "writing flash", map[uint16]string{0x57: "SPMCSR"}},
	{"OSCCAL", "tuning the RC oscillator", map[uint16]string{0x66: "OSCCAL"}},
}

func init() {
	for _, b := range unmodelled {
		for address, name := range b.registers {
			define(address, name, func(m *Machine, a uint16) uint8 {
				m.note("unmodelled "+b.block, "%s (%s) is not modelled; %s was read and gave back what was last written to it", b.block, b.means, name)
				return m.data[a]
			}, func(m *Machine, a uint16, v uint8) {
				if m.data[a] = v; v != 0 { // switching a block off is what it does anyway
					m.note("unmodelled "+b.block, "%s (%s) is not modelled; a write to %s has no effect", b.block, b.means, name)
				}
			})
		}
	}
	for i, address := range []uint16{0x3e, 0x4a, 0x4b} {
		define(address, []string{"GPIOR0", "GPIOR1", "GPIOR2"}[i], nil, nil)
	}
}
