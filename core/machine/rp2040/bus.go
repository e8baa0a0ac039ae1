package rp2040

import (
	"strings"

	"hemble/core/machine"
)

// block is a peripheral on one of the chip's buses, with its registers at multiples of four.
type block struct {
	name  string
	reset uint // its bit of RESETS; 32 for none
	read  func(m *Machine, offset uint32) uint32
	write func(m *Machine, offset, v uint32)
}

// blocks are those from 0x40000000 on, one every 16 KiB (2.2), by their number. One without functions keeps what was
// written to it; where its name ends in "?" it is not modelled.
var blocks = [32]block{
	{"SYSINFO", 32, func(_ *Machine, offset uint32) uint32 {
		if offset == 0 {
			return 0x2000_2927 // CHIP_ID: B2
		}
		return 0
	}, nil},
	{"SYSCFG", 18, nil, nil},
	{"CLOCKS", 32, (*Machine).readClocks, (*Machine).writeClocks},
	{"RESETS", 32, (*Machine).readResets, (*Machine).writeResets},
	{"PSM", 32, func(_ *Machine, offset uint32) uint32 {
		if offset == 12 {
			return 0x1_ffff // DONE
		}
		return 0
	}, nil},
	{"IO_BANK0", 5, (*Machine).readBank, (*Machine).writeBank},
	{"IO_QSPI", 6, nil, nil},
	{"PADS_BANK0", 8, (*Machine).readPads, (*Machine).writePads},
	{"PADS_QSPI", 9, nil, nil},
	{"XOSC", 32, (*Machine).readCrystal, (*Machine).writeCrystal},
	{"PLL_SYS", 12, func(m *Machine, o uint32) uint32 { return m.clocks.plls[0].read(o) },
		func(m *Machine, o, v uint32) { m.clocks.plls[0].write(m, o, v) }},
	{"PLL_USB", 13, func(m *Machine, o uint32) uint32 { return m.clocks.plls[1].read(o) },
		func(m *Machine, o, v uint32) { m.clocks.plls[1].write(m, o, v) }},
	{"BUSCTRL", 1, nil, nil},
	{"UART0", 22, func(m *Machine, o uint32) uint32 { return m.uarts[0].read(m, o) },
		func(m *Machine, o, v uint32) { m.uarts[0].write(m, o, v) }},
	{"UART1", 23, func(m *Machine, o uint32) uint32 { return m.uarts[1].read(m, o) },
		func(m *Machine, o, v uint32) { m.uarts[1].write(m, o, v) }},
	{"SPI0", 16, func(m *Machine, o uint32) uint32 { return m.spis[0].read(m, o) },
		func(m *Machine, o, v uint32) { m.spis[0].write(m, o, v) }},
	{"SPI1", 17, func(m *Machine, o uint32) uint32 { return m.spis[1].read(m, o) },
		func(m *Machine, o, v uint32) { m.spis[1].write(m, o, v) }},
	{"I2C0", 3, func(m *Machine, o uint32) uint32 { return m.i2cs[0].read(m, o) },
		func(m *Machine, o, v uint32) { m.i2cs[0].write(m, o, v) }},
	{"I2C1", 4, func(m *Machine, o uint32) uint32 { return m.i2cs[1].read(m, o) },
		func(m *Machine, o, v uint32) { m.i2cs[1].write(m, o, v) }},
	{"ADC", 0, (*Machine).readADC, (*Machine).writeADC},
	{"PWM", 14, (*Machine).readPWM, (*Machine).writePWM},
	{"TIMER", 21, (*Machine).readTimer, (*Machine).writeTimer},
	{"WATCHDOG", 32, (*Machine).readWatchdog, (*Machine).writeWatchdog},
	{"RTC", 15, (*Machine).readRTC, (*Machine).writeRTC},
	{"ROSC", 32, func(m *Machine, offset uint32) uint32 {
		switch offset {
		case 0x18: // STATUS: stable, enabled
			return 1<<31 | 1<<12
		case 0x1c: // RANDOMBIT
			return uint32(machine.Mix(m.config.Seed^uint64(m.core.Cycle))) & 1
		}
		return m.plain[0x4006_0000+offset]
	}, nil},
	{"VREG_AND_CHIP_RESET", 32, nil, nil},
	{},
	{"TBMAN", 32, func(*Machine, uint32) uint32 { return 1 }, nil},
}

// far are blocks elsewhere, by the upper half of their addresses, those first that programs use most.
var far = [...]struct {
	page uint32
	block
}{
	{0xd000, block{"SIO", 32, (*Machine).readSIO, (*Machine).writeSIO}},
	{0x5000, block{"DMA", 2, (*Machine).readDMA, (*Machine).writeDMA}},
	{0x1400, block{"XIP_CTRL", 32, func(_ *Machine, offset uint32) uint32 {
		if offset == 8 { // STAT: the cache is empty and ready
			return 3
		}
		return 0
	}, nil}},
	{0x1800, block{"SSI", 32, func(_ *Machine, offset uint32) uint32 {
		if offset == 0x28 { // SR: nothing under way
			return 4
		}
		return 0
	}, nil}},
	{0x5010, block{"USB memory", 32, nil, nil}},
	{0x5011, block{"USB", 24, nil, nil}}, // there, and connected to nothing
	{0x5020, block{"PIO0?", 10, nil, nil}},
	{0x5030, block{"PIO1?", 11, nil, nil}},
}

// at finds the block of an address, and what of the address is an offset in it and one of the aliases that change
// single bits (2.1.2).
func at(address uint32) (b *block, offset, alias uint32) {
	if address>>28 == 4 {
		i := address >> 14 & 0x3fff
		if i >= uint32(len(blocks)) || blocks[i].name == "" {
			return nil, 0, 0
		}
		return &blocks[i], address & 0xfff, address >> 12 & 3
	}
	for i := range far {
		if f := &far[i]; f.page == address>>16 {
			if address>>28 == 5 && f.page != 0x5010 {
				return &f.block, address & 0xfff, address >> 12 & 3
			}
			return &f.block, address & 0xffff, 0
		}
	}
	return nil, 0, 0
}

// Read reads what is no plain memory.
func (m *Machine) Read(address uint32, size int) (uint32, bool) {
	if address < romSize {
		return m.loadROM(address, size), true
	}
	b, offset, _ := at(address)
	if b == nil {
		return 0, false
	}
	if m.next <= m.core.Cycle {
		m.fire()
	}
	v := uint32(0)
	if m.answers(b) {
		v = m.register(b, address, offset&^3)
	}
	return v >> (8 * (address & 3)) & (0xffff_ffff >> (32 - 8*size)), true
}

// register reads a register of a block.
func (m *Machine) register(b *block, address, offset uint32) uint32 {
	if b.read != nil {
		return b.read(m, offset)
	}
	return m.plain[base(address)+offset]
}

// base is where the block of an address begins.
func base(address uint32) uint32 {
	if address>>28 == 4 {
		return address &^ 0x3fff
	}
	return address &^ 0xffff
}

// answers reports whether a block does, and tells what a person should know where it does not.
func (m *Machine) answers(b *block) bool {
	if b.name[len(b.name)-1] == '?' {
		name := strings.TrimSuffix(b.name, "?")
		m.note("unmodelled "+name, "the program uses %s, which is not modelled", name)
	}
	if b.reset < 32 && m.resets.held>>b.reset&1 == 1 {
		m.note("in-reset "+b.name, "%s was used while it is still held in reset: its bit in RESETS was not cleared",
			strings.TrimSuffix(b.name, "?"))
		return false
	}
	return true
}

// Write writes what is no plain memory. Bytes and halves are written to all of a register (2.1.4).
func (m *Machine) Write(address uint32, size int, v uint32) bool {
	b, offset, alias := at(address)
	if b == nil {
		return false
	}
	switch size {
	case 1:
		v = v & 0xff * 0x0101_0101
	case 2:
		v = v & 0xffff * 0x1_0001
	}
	if m.next <= m.core.Cycle {
		m.fire()
	}
	if !m.answers(b) {
		return true
	}
	offset &^= 3
	switch alias {
	case 1:
		v ^= m.register(b, address, offset)
	case 2:
		v |= m.register(b, address, offset)
	case 3:
		v = m.register(b, address, offset) &^ v
	}
	if b.write != nil {
		b.write(m, offset, v)
	} else {
		m.plain[base(address)+offset] = v
	}
	if m.dma.busy != 0 {
		m.pace()
	}
	return true
}
