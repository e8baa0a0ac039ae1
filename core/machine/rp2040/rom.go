package rp2040

import (
	"math/bits"
)

// The boot ROM (2.8.2) is the chip's own: here its functions are carried out by the simulation, in a few cycles for
// each byte or word, and its tables lead to them.
const (
	romSize   = 0x4000
	romTable  = 0x0100 // of functions
	romData   = 0x0200
	romLookup = 0x0240 // the function that looks one up
	romCode   = 0x0400 // where those of the table stand, 16 bytes apart
	romSingle = 0x0800 // the addresses of functions for single precision, and for double
	romDouble = 0x0900
	romFloats = 0x1000 // where those stand
)

// romTables are what is found as data, by two letters (2.8.3).
var romTables = []struct {
	code string
	at   uint32
}{{"SF", romSingle}, {"SD", romDouble}}

// romFunctions are those that programs look up, by their two letters (2.8.3).
var romFunctions = []struct {
	code string
	call func(m *Machine, r *[16]uint32)
}{
	{"P3", func(_ *Machine, r *[16]uint32) { r[0] = uint32(bits.OnesCount32(r[0])) }},
	{"R3", func(_ *Machine, r *[16]uint32) { r[0] = bits.Reverse32(r[0]) }},
	{"L3", func(_ *Machine, r *[16]uint32) { r[0] = uint32(bits.LeadingZeros32(r[0])) }},
	{"T3", func(_ *Machine, r *[16]uint32) { r[0] = uint32(bits.TrailingZeros32(r[0])) }},
	{"MS", (*Machine).romSet},
	{"S4", (*Machine).romSet},
	{"MC", (*Machine).romCopy},
	{"C4", (*Machine).romCopy},
	{"IF", func(*Machine, *[16]uint32) {}}, // flash, which is not written here
	{"EX", func(*Machine, *[16]uint32) {}},
	{"FC", func(*Machine, *[16]uint32) {}},
	{"CX", func(*Machine, *[16]uint32) {}},
	{"RE", func(m *Machine, _ *[16]uint32) {
		m.note("unmodelled flash", "the program erases flash, which is not modelled: it did nothing")
	}},
	{"RP", func(m *Machine, _ *[16]uint32) {
		m.note("unmodelled flash", "the program writes flash, which is not modelled: it did nothing")
	}},
}

func (m *Machine) romSet(r *[16]uint32) {
	m.each(r[0], r[2], func(i uint32) { m.ram[i] = byte(r[1]) })
}

func (m *Machine) romCopy(r *[16]uint32) {
	from, to := r[1], r[0]
	m.each(to, r[2], func(i uint32) {
		a := from + (ramAt + i - to)
		switch a >> 28 {
		case flashAt >> 28:
			if a-flashAt < flashSize {
				m.ram[i] = m.flash[a-flashAt]
			}
		case ramAt >> 28:
			if a-ramAt < ramSize {
				m.ram[i] = m.ram[a-ramAt]
			}
		}
	})
}

// each does something with bytes of RAM, one after the other, as far as there are any, a cycle for each.
func (m *Machine) each(at, n uint32, do func(i uint32)) {
	n = min(n, ramSize)
	for k := range n {
		if i := at + k - ramAt; i < ramSize {
			do(i)
		}
	}
	m.core.Cycle += int64(n)
}

func letters(code string) uint32 { return uint32(code[0]) | uint32(code[1])<<8 }

// Call carries out a function of the boot ROM.
func (m *Machine) Call(address uint32) bool {
	r := &m.core.R
	switch i := (address - romCode) / 16; {
	case address == romLookup: // of a table and a code
		found := uint32(0)
		switch r[0] {
		case romTable:
			for n := range romFunctions {
				if letters(romFunctions[n].code) == r[1]&0xffff {
					found = romCode + 16*uint32(n) + 1
				}
			}
		case romData:
			for _, t := range romTables {
				if letters(t.code) == r[1]&0xffff {
					found = t.at
				}
			}
		}
		r[0] = found
	case address >= romCode && address&15 == 0 && i < uint32(len(romFunctions)):
		romFunctions[i].call(m, r)
	case address >= romFloats && address&15 == 0 && m.callFloat(int(address-romFloats)/16):
	default:
		return false
	}
	m.core.Cycle += 10
	m.core.R[15] = r[14] &^ 1
	return true
}

// loadROM reads the ROM: its magic word and pointers, and its tables.
func (m *Machine) loadROM(address uint32, size int) (v uint32) {
	for k := range uint32(size) {
		v |= uint32(romByte(address+k)) << (8 * k)
	}
	return v
}

func romByte(address uint32) byte {
	half := func(v uint32) byte { return byte(v >> (8 * (address & 1))) }
	switch address &^ 1 {
	case 0x10:
		return "Mu"[address&1]
	case 0x12:
		return [2]byte{1, 3}[address&1]
	case 0x14:
		return half(romTable)
	case 0x16:
		return half(romData)
	case 0x18:
		return half(romLookup + 1)
	}
	if address >= romSingle && address < romDouble+4*floatSlots {
		return byte(floatAddress((address-romSingle)/4) >> (8 * (address & 3)))
	}
	if n := (address - romData) / 4; address >= romData && n < uint32(len(romTables)) {
		if address&2 == 0 {
			return romTables[n].code[address&1]
		}
		return half(romTables[n].at)
	}
	if n := (address - romTable) / 4; address >= romTable && n < uint32(len(romFunctions)) {
		if address&2 == 0 {
			return romFunctions[n].code[address&1]
		}
		return half(romCode + 16*n + 1)
	}
	return 0
}
