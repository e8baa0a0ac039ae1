package pic14

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Variant is what tells one chip from another: its memories, and where its registers and pins are. A chip is one
// Variant in a file of its own; the rest of this package is laid out by peripheral and asks it.
type Variant struct {
	title   string
	words   int         // of flash, a power of two
	memory  [][2]uint16 // of general purpose, from and to addresses
	shared  []uint16    // registers of bank 0 or 1 that are at the same place two banks on
	eeprom  int         // bytes
	powerOn uint8       // PCON after power-on

	ports      []portLayout
	reset      machine.Pin
	fuses      fuseLayout
	clockPin0  pinAt // T0CKI
	clockPin1  pinAt // T1CKI
	gate       pinAt // T1G, where timer 1 has a gate
	external   pinAt // INT
	pullups    uint16
	onChange   onChange
	oscillator oscillatorLayout
	ccps       []ccpLayout
	adc        adcLayout
	usart      usartLayout
	ssp        sspLayout
	eedata     eepromLayout
	comparator comparatorLayout
	longDog    uint16 // WDTCON, where the watchdog has a clock and a divider of its own; else 0
	flags      flags
	inert      []inertRegister

	// Made of those (build).
	at        [0x200]uint16 // the first address of what is at an address
	readable  [0x200]uint16 // that of what can be read like memory; else 0
	written   [0x200]uint16 // and written
	registers registers
}

// registers are what reading and writing them does beyond memory.
type registers struct {
	name       [0x200]string
	read       [0x200]func(*Machine) uint8
	write      [0x200]func(*Machine, uint8)
	initial    [0x200]uint8
	resettable []uint16 // those that a reset sets
}

// pinAt is a pin of a port: which port, and its bit. A mask of 0 is no pin.
type pinAt struct {
	port int
	mask uint8
}

// pin is the index of a pin among the chip's.
func (p pinAt) pin() machine.Pin { return machine.Pin(p.port*8 + bit(p.mask)) }

func bit(mask uint8) int {
	for i := range 8 {
		if mask>>i&1 == 1 {
			return i
		}
	}
	return 0
}

// flag is a bit of PIR1 or PIR2; PIE1 and PIE2 have the same bits, a bank on.
type flag struct {
	register uint16
	mask     uint8
}

// Where PIR1 and PIR2 are.
const (
	regPIR1 = 0x0c
	regPIR2 = 0x0d
	regPIE1 = 0x8c
	regPIE2 = 0x8d
)

// flags are the requests of peripherals. Those of a peripheral that a chip has not are zero.
type flags struct {
	timer1, timer2, receive, transmit, ssp, collision, adc, eeprom, comparator1, comparator2 flag
}

// inertRegister is one of a peripheral that is not modelled: it keeps what is written, and what sets one of some bits
// is told.
type inertRegister struct {
	address uint16
	name    string
	initial uint8
	mask    uint8
	what    string
}

// erased is a word of flash that was never programmed.
const erased = 0x3fff

// build makes what follows from the declarations.
func (v *Variant) build() *Variant {
	for a := range uint16(0x200) {
		v.at[a] = a
		if low := a & 0x7f; low >= 0x70 {
			v.at[a] = low
		}
	}
	everywhere := []uint16{regINDF, regPCL, regSTATUS, regFSR, regPCLATH, regINTCON}
	for _, low := range everywhere {
		for bank := range uint16(4) {
			v.at[bank<<7|low] = low
		}
	}
	for _, a := range v.shared {
		v.at[a|0x100] = a
	}
	for _, r := range v.memory {
		for a := r[0]; a <= r[1]; a++ {
			v.readable[a], v.written[a] = a, a
		}
	}
	v.define(regINDF, "INDF", 0, func(*Machine) uint8 { return 0 }, func(*Machine, uint8) {})
	v.define(regFSR, "FSR", 0, nil, nil)
	v.defineCore()
	v.definePorts()
	v.defineInterrupts()
	v.defineOscillator()
	v.defineTimer0()
	v.defineTimer1()
	v.defineTimer2()
	v.defineCCPs()
	v.defineADC()
	v.defineUSART()
	v.defineSSP()
	v.defineEEPROM()
	v.defineComparator()
	v.defineWatchdog()
	for _, r := range v.inert {
		v.define(r.address, r.name, r.initial, nil, func(m *Machine, x uint8) {
			m.ram[r.address] = x
			if x&r.mask != 0 {
				m.note("unmodelled "+r.name, "%s (%s) is not modelled", r.name, r.what)
			}
		})
	}
	for a := range uint16(0x200) { // what the first address can do its others can
		first := v.at[a]
		v.readable[a], v.written[a] = v.readable[first], v.written[first]
	}
	return v
}

// define gives a register its name and its value after a reset, and says what reading or writing it does beyond
// memory.
func (v *Variant) define(a uint16, name string, initial uint8, read func(*Machine) uint8,
	write func(*Machine, uint8)) {
	v.registers.name[a], v.registers.initial[a] = name, initial
	v.registers.read[a], v.registers.write[a] = read, write
	v.readable[a], v.written[a] = 0, 0
	if read == nil {
		v.readable[a] = a
		if write == nil {
			v.written[a] = a
		}
	}
	switch a {
	case regINDF, regFSR, regPCL, regSTATUS, regPCON, regPCLATH:
		if a != regPCLATH {
			return
		}
	}
	v.registers.resettable = append(v.registers.resettable, a)
}

// masked is a register of which only some bits can be written.
func (v *Variant) masked(a uint16, name string, initial, mask uint8) {
	v.define(a, name, initial, nil, func(m *Machine, x uint8) { m.ram[a] = x & mask })
}

// defineCore are the registers of the processor (DS33023A, 5.3, 6.3).
func (v *Variant) defineCore() {
	v.define(regPCL, "PCL", 0, func(m *Machine) uint8 { return uint8(m.pc + 1) }, func(m *Machine, x uint8) {
		m.pcWritten(x)
	})
	v.define(regSTATUS, "STATUS", 0, func(m *Machine) uint8 { return m.status }, func(m *Machine, x uint8) {
		m.status = m.status&(statusTO|statusPD) | x&^(statusTO|statusPD)
	})
	v.masked(regPCLATH, "PCLATH", 0, 0x1f)
	v.masked(regPCON, "PCON", 0, 0x3b)
}

// pcWritten is a write of PCL: PCLATH gives the higher bits (6.3.1).
func (m *Machine) pcWritten(low uint8) {
	from := m.pc
	m.pc = (uint16(m.ram[regPCLATH])<<8 | uint16(low)) & m.mask
	m.jumped = true
	if in := m.plain[from]; in.op == opADDWF && m.pc < from && from-m.pc < 0x100 {
		m.note("table-page", "the computed jump at 0x%04X led backwards, to 0x%04X: a table that crosses a boundary of "+
			"256 words needs PCLATH set for its page", from, m.pc)
	}
}

// read reads a register at m.cycle.
func (m *Machine) read(a uint16) uint8 {
	a = m.v.at[a]
	if hook := m.v.registers.read[a]; hook != nil {
		return hook(m)
	}
	if m.v.readable[a] == 0 {
		m.note("reserved", "the program read address 0x%03X, where the %s has nothing", a, m.v.title)
		return 0
	}
	return m.ram[a]
}

// write writes a register at m.cycle.
func (m *Machine) write(a uint16, x uint8) {
	a = m.v.at[a]
	if hook := m.v.registers.write[a]; hook != nil {
		m.tellWave(m.cycle)
		if hook(m, x); m.wave && !m.isWave() {
			m.endWave(m.cycle)
		}
		return
	}
	if m.v.written[a] == 0 {
		m.note("reserved", "the program wrote address 0x%03X, where the %s has nothing", a, m.v.title)
		return
	}
	m.ram[a] = x
}

// raise sets a request of a peripheral.
func (m *Machine) raise(f flag, cycle int64) {
	if f.mask != 0 {
		m.ram[f.register] |= f.mask
		m.requests(cycle)
	}
}

// usualClock is that of exercises that name none.
const usualClock = clock.Rate(4_000_000)

// chip fills in what follows from the variant.
func (v *Variant) chip(c *machine.Chip) *machine.Chip {
	c.Title, c.Source = v.title, c.Source+", DS33023A (PICmicro Mid-Range MCU Family Reference Manual)"
	c.Flash, c.EEPROM = 2*v.words, v.eeprom
	for _, r := range v.memory {
		c.SRAM += int(r[1]-r[0]) + 1
	}
	c.Data, c.Clock = 0x20, usualClock
	c.Notes, c.Reset, c.Settings = notes, v.reset, v.settings()
	c.Firmware = v.layout()
	c.Machine = firmware.MachinePIC
	c.Inside = v.oscillator.rates
	c.Toolchain = machine.Toolchain{Compiler: "gpasm", Device: []string{"-p", c.Name[3:]}, Headers: []string{"p" + c.Name[3:]}}
	c.Electric = machine.Electric{Supply: 5_000_000, Supplies: [2]int64{2_000_000, 5_500_000}, Drive: 80, Pull: 20_000,
		Over: 300_000}
	c.Limits.Pin = 25_000_000
	c.New = func(config machine.Config) machine.Machine { return newMachine(v, config) }
	c.Vectors = map[string][]machine.Pin{}
	for i, l := range v.ports {
		var pins []machine.Pin
		for b := range 8 {
			pins = append(pins, pinAt{i, 1 << b}.pin())
		}
		for _, prefix := range []string{"PORT", "R", ""} {
			c.Vectors[prefix+string(rune(l.letter))] = pins
		}
	}
	if u := v.usart; u.receive.mask != 0 {
		c.Serial = []machine.SerialPort{{Name: "USART", Receive: u.receive.pin(), Transmit: u.transmit.pin()}}
	}
	c.ReturnAddresses, c.Normalise, c.Alterations = callers, shape, alterations
	return c
}

// settings are those of the configuration word that programs are often built with by mistake.
func (v *Variant) settings() []machine.Setting {
	without := func(mask uint16) func(*firmware.Image) *firmware.Image {
		return func(im *firmware.Image) *firmware.Image {
			out := append(slices.Clone(im.Fuses), 0xff, 0x3f)[:max(2, len(im.Fuses))]
			out[0], out[1] = out[0]&^uint8(mask), out[1]&^uint8(mask>>8)
			return im.Set(out)
		}
	}
	f := &v.fuses
	return []machine.Setting{
		{Code: machine.SettingCode, Note: "watchdog", Change: without(f.dog),
			Text: "The watchdog is on in the configuration word, and nothing clears it in time: it restarts the program."},
		{Code: machine.SettingCode, Note: "low-voltage-programming", Change: without(f.lowVoltage),
			Text: fmt.Sprintf("Low-voltage programming is on in the configuration word: %s belongs to it, and is no output.",
				v.name(f.programming.port, bit(f.programming.mask)))},
	}
}

// layout is where a file has what: two bytes for each word, and the data EEPROM a byte in each word (DS39025, 2.2).
func (v *Variant) layout() firmware.Layout {
	const identity, settings, data = 0x4000, 0x400e, 0x4200
	regions := []firmware.Region{{Kind: firmware.Flash}, {From: uint64(2 * v.words), Kind: firmware.Ignored},
		{From: identity, Kind: firmware.Aside}, {From: settings, Kind: firmware.Fuses},
		{From: settings + 4, Kind: firmware.Ignored}, {From: data, Kind: firmware.EEPROM, Spread: 2},
		{From: data + 2*uint64(v.eeprom), Kind: firmware.Ignored}}
	if 2*v.words == identity {
		regions = append(regions[:1], regions[2:]...)
	}
	return firmware.Layout{Regions: regions, Erased: erased, Word: 2}
}

// name is that of a pin: RB0.
func (v *Variant) name(port, bit int) string { return fmt.Sprintf("R%c%d", v.ports[port].letter, bit) }

// pins lists the pins of the ports with their numbers on the package: those of a port in a row from bit 0 on, 0 where
// there is none.
func (v *Variant) pins(packaged [][8]int, also map[string][]string) (out []machine.PinInfo) {
	for i := range v.ports {
		for b := range 8 {
			info := machine.PinInfo{}
			if n := packaged[i][b]; n != 0 {
				info = machine.PinInfo{Name: v.name(i, b), Package: n}
				info.Also = also[info.Name]
			}
			out = append(out, info)
		}
	}
	return out
}

// callers finds return addresses among the bytes of machine.Place.
func callers(im *firmware.Image, stack []uint8) (out []uint32) {
	for i := 0; i+2 <= len(stack); i += 2 {
		back := uint16(stack[i]) | uint16(stack[i+1])<<8
		if back&onStack == 0 {
			break
		}
		out = append(out, uint32(back&^onStack-1)*2)
	}
	return out
}

// shape masks where a jump or a call leads.
func shape(im *firmware.Image, address uint32) (uint32, uint32) {
	w := uint32(im.Word(address)) & 0x3fff
	if w>>12 == 2 {
		w &= 0x3800
	}
	return w, 2
}

// notes are what the chips may report of a program.
var notes = []finding.Entry{
	{Code: "adc-channel", Doc: "the converter was asked for a channel that has no pin"},
	{Code: "adc-clock", Doc: "the converter's clock is too fast for it"},
	{Code: "adc-digital", Fact: true, Doc: "a pin was converted that is a digital one"},
	{Code: "analog", Fact: true, Doc: "a pin was read as a digital input while it is an analog one"},
	{Code: "configuration", Doc: "the file has no configuration word"},
	{Code: "eeprom-key", Doc: "a byte of EEPROM was to be written without the sequence that allows it"},
	{Code: "erased", Fact: true, Doc: "the program ran into flash that was never programmed"},
	{Code: "floating", Doc: "a pin was read while nothing drove it"},
	{Code: "i2c-busy", Doc: "the I2C master was asked for something before it had finished"},
	{Code: "i2c-lines", Doc: "an I2C bus has no pull-ups"},
	{Code: "low-voltage-programming", Doc: "a pin belongs to low-voltage programming, which is on"},
	{Code: "oscillator", Fact: true, Doc: "the configuration word chooses another oscillator than the bench has"},
	{Code: "overrun", Fact: true, Doc: "the serial receiver stands still because a byte was not read in time"},
	{Code: "read-modify-write", Doc: "an instruction on one pin changed the output latch of another"},
	{Code: "reserved", Doc: "the program used a reserved address"},
	{Code: "stack-underflow", Fact: true, Doc: "a return found no address on the stack"},
	{Code: "stack-wraps", Fact: true, Doc: "more than eight return addresses were put on the stack"},
	{Code: "table-page", Fact: true, Doc: "a computed jump crossed a boundary of 256 words"},
	{Code: "unmodelled", Doc: "the program used something of the chip that is not modelled"},
	{Code: "watchdog", Fact: true, Doc: "the watchdog reset the chip"},
}
