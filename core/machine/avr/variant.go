package avr

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Variant is what tells one AVR from another: its Memories, and where its registers, interrupt vectors and pins are. A
// chip is one Variant in a file of its own; the rest of this package is laid out by peripheral and asks it.
type Variant struct {
	title             string
	words             int // of flash, a power of two
	sramStart, ramEnd uint16
	// bytes, a power of two
	eeprom int
	// of its own sizes
	run func(m *Machine, pc int32, cycle int64, sreg uint8, limit int64) (int32, int64, uint8, int64)
	// the program counter has more than 16 bits: three bytes of it on the stack, RAMPZ and EIND
	wide  bool
	short bool // 8 KB of flash or less: vectors of one word, neither JMP nor CALL
	// the clock cannot be divided: no CLKPR, and no fuse for it
	undivided bool
	lacksMUL  bool

	ports      []portLayout
	reset      machine.Pin
	timers     []timerLayout
	usarts     []usartLayout
	spi        spiLayout
	twi        twiLayout
	analog     analogLayout
	interrupts []pinAt     // INT0, INT1, …
	changes    []pinChange // the groups of pin-change interrupts
	vectors    vectors
	inputs     []inputSwitch // registers that switch digital inputs off
	reduced    []reduction
	inert      []inertRegister

	moved bool   // its registers are elsewhere: only views show them
	views []view // what addresses show that are not registers of peripherals as those have them
	usi   usiLayout
	pll   bool // PLLCSR

	// Made of those (build).
	own          [maxIO]register // the registers as the peripherals have them ...
	registers    [maxIO]register // ... and by the chip's addresses
	isPlain      [maxIO]bool     // addresses that can be read like memory, by a quick look
	isState      [maxIO]bool     // of pins and of the core: what rounds.go compares
	portOf       [maxIO]int8     // the port of a PORTx register by its address, or -1
	pinsOf       [maxIO]int8     // the port of a PINx register, or -1
	isFlags      [maxIO]bool     // registers whose bits are cleared by writing ones, among those that SBI reaches
	timersOf     [maxIO]uint8    // the timers whose flags a register shows
	acknowledged [maxVectors]func(*Machine)
	slots        slots
	deepWakes    uint64 // the interrupts that end the deepest sleep
}

// The most that a variant may have.
const (
	maxIO      = 0x200 // where SRAM begins at the latest
	maxVectors = 64
	maxPorts   = 16
	maxDue     = 32
)

// pinAt is a pin of a port: which port, and its bit.
type pinAt struct {
	port int
	mask uint8
}

// vectors are the numbers of those interrupts that do not belong to one of several like peripherals.
type vectors struct {
	int0, pcint0, watchdog, spi, adc, eeprom, comparator, twi uint
}

// slots are where the peripherals' events are in Machine.due; of equal times the first one comes first.
type slots struct {
	timer, send, receive, watchdog, noise, capture, eeprom, spi, twi, adc, count int
}

// build makes what follows from the declarations.
func (v *Variant) build() *Variant {
	for i := range v.portOf {
		v.portOf[i] = -1
	}
	for i := range v.pinsOf {
		v.pinsOf[i] = -1
	}
	captures := 0
	for i := range v.timers {
		if v.timers[i].wide {
			v.timers[i].captureSlot = captures
			captures++
		}
	}
	n := 0
	take := func(slot *int, count int) {
		*slot = n
		n += count
	}
	s := &v.slots
	take(&s.timer, len(v.timers))
	take(&s.send, len(v.usarts))
	take(&s.receive, len(v.usarts))
	take(&s.watchdog, 1)
	take(&s.noise, 1)
	take(&s.capture, captures)
	for _, slot := range []*int{&s.eeprom, &s.spi, &s.twi, &s.adc} {
		take(slot, 1)
	}
	if s.count = n; n > maxDue {
		panic(fmt.Sprintf("the %s has %d events; there is room for %d", v.title, n, maxDue))
	}
	v.definePorts()
	v.defineExternal()
	v.defineTimers()
	v.defineUSARTs()
	v.definePower()
	v.defineWatchdog()
	v.defineEEPROM()
	v.defineSPI()
	v.defineTWI()
	v.defineADC()
	v.defineComparator()
	v.defineUSI()
	v.definePLL()
	v.defineInert()
	v.place()
	return v
}

// lacks tells instructions that the chip has not.
func (v *Variant) lacks(o op) bool {
	switch o {
	case opMUL, opMULS, opMULSU, opFMUL, opFMULS, opFMULSU:
		return v.lacksMUL
	case opJMP, opCALL:
		return v.short
	}
	return false
}

// define gives an I/O register its name, and what reading or writing does beyond memory.
func (v *Variant) define(address uint16, name string, read func(*Machine, uint16) uint8,
	write func(*Machine, uint16, uint8)) {
	v.own[address] = register{name, read, write, address}
}

// pin is the index of a pin among the chip's.
func (p pinAt) pin() machine.Pin { return machine.Pin(p.port*8) + machine.Pin(log2(p.mask)) }

// name is that of a pin: PB0.
func (v *Variant) name(port int, bit int) string {
	return fmt.Sprintf("P%c%d", v.ports[port].letter, bit)
}

// Memories is where avr-ld puts the Memories in its one address space (avr-libc manual, "Memory Sections").
var Memories = firmware.Layout{Erased: 0xffff, Regions: []firmware.Region{
	{Kind: firmware.Flash}, {From: 0x800000, Kind: firmware.RAM}, {From: 0x810000, Kind: firmware.EEPROM},
	{From: 0x820000, Kind: firmware.Fuses}, {From: 0x830000, Kind: firmware.Ignored},
}}

// chip fills in what follows from the variant: Memories, pins by their ports, and how it is made.
func (v *Variant) chip(c *machine.Chip) *machine.Chip {
	c.Title = v.title
	c.Flash, c.SRAM, c.Data, c.EEPROM = 2*v.words, int(v.ramEnd-v.sramStart)+1, int(v.sramStart), v.eeprom
	c.Reference = v.analog.references[3]
	c.Unmodelled = append(v.unmodelled(), c.Unmodelled...)
	c.Notes = notes
	c.Reset = v.reset
	c.Firmware = Memories
	c.New = func(config machine.Config) machine.Machine { return New(v, config) }
	for _, u := range v.usarts {
		c.Serial = append(c.Serial,
			machine.SerialPort{Name: u.name, Receive: u.receive.pin(), Transmit: u.transmit.pin()})
	}
	c.Vectors = map[string][]machine.Pin{}
	for i, l := range v.ports {
		var pins []machine.Pin
		for bit := range 8 {
			pins = append(pins, pinAt{i, 1 << bit}.pin())
		}
		for _, prefix := range []string{"PORT", "P", ""} {
			c.Vectors[prefix+string(rune(l.letter))] = pins
		}
	}
	stack := 2
	if v.wide {
		stack = 3
	}
	c.ReturnAddresses = callers(stack)
	c.Normalise = instructionShape
	c.Alterations = alterations
	if c.Inside == nil {
		c.Inside = []clock.Rate{8_000_000, 1_000_000}
	}
	c.Machine, c.Toolchain.Compiler = firmware.MachineAVR, "avr-gcc"
	c.Toolchain.Device = append([]string{"-mmcu=" + c.Name}, c.Toolchain.Device...)
	c.Toolchain.Headers = []string{"avr/", "util/", "Arduino.h"}
	if c.Electric.Supply == 0 {
		c.Electric = machine.Electric{Supply: 5_000_000, Supplies: [2]int64{1_800_000, 5_500_000}}
	}
	c.Electric.Drive, c.Electric.Pull, c.Electric.Over = 25, 35_000, 500_000
	return c
}
