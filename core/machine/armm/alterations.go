package armm

import (
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Alterations lists how single instructions, numbers and bytes of tables of what its author wrote may have been
// meant: of the whole program, where it does not tell which parts of it that is.
func Alterations(im *firmware.Image, hints machine.Hints) []machine.Alteration {
	a := &altering{image: im, hints: hints, literals: map[uint32]bool{}}
	all := !im.HasLines()
	for _, s := range im.Flash {
		for at := (s.Address + 1) &^ 1; at+2 <= s.End(); {
			p := place{at: at, size: 2, in: im.Word(at)}
			if p.in>>11 > 0b11101 {
				p.size = 4
			}
			if len(a.out) < machine.MostAltered && hints.Runs(at) && !a.literals[at&^3] {
				if line, ok := im.Own(at, nil); ok && !line.System || all {
					p.line = line
					a.instruction(p)
				}
			}
			at += p.size
		}
	}
	return append(a.out, machine.AlteredTables(im, hints, "data_from", "data_start")...)
}

// altering is a program of which alterations are looked for.
type altering struct {
	image    *firmware.Image
	hints    machine.Hints
	literals map[uint32]bool // words that instructions load, by address
	out      []machine.Alteration
}

// place is an instruction.
type place struct {
	at, size uint32 // bytes
	in       uint16
	line     firmware.Line
}

// Words of instructions (ARM DDI 0419E, A6.7), and bits in which those of two opposite ones differ.
const (
	wordNOP = 0xbf00
	wordB   = 0xe000
	wordMOV = 0x0000 // of low registers, LSL by 0

	flipADD8   = 0x3000 ^ 0x3800 // ADD, SUB of an immediate of 8 bits
	flipADD3   = 0x1800 ^ 0x1a00 // ADD, SUB of a register, or of an immediate of 3 bits
	flipLSL    = 0x0000 ^ 0x0800 // LSL, LSR by an immediate
	loadMOV    = 0b00100         // MOV (immediate), by its upper bits ...
	loadLDR    = 0b01001         // ... and LDR (literal)
	flipBranch = 0x0100          // the condition of a branch
	flipAND    = 0x4000 ^ 0x4300 // AND, ORR
	flipBIC    = 0x4380 ^ 0x4300 // BIC, ORR
)

// beside are the conditions that take in their limit, or leave it out: HS and HI, LO and LS, GE and GT, LT and LE
// (A6.3).
var beside = map[uint16]uint16{2: 8, 8: 2, 3: 9, 9: 3, 10: 12, 12: 10, 11: 13, 13: 11}

// instruction looks at one.
func (a *altering) instruction(p place) {
	switch p.in >> 11 {
	case 0b00000, 0b00001: // LSL, LSR
		if p.in>>6&31 > 0 {
			a.number(p, 6, 5)
			a.put(p, machine.Shift, 0, p.in^flipLSL)
		}
	case 0b00011:
		if p.in>>10&1 == 1 {
			a.number(p, 6, 3)
		}
		a.put(p, machine.Sign, 0, p.in^flipADD3)
	case 0b00100, 0b00101: // MOV, CMP
		a.number(p, 0, 8)
	case 0b00110, 0b00111:
		a.number(p, 0, 8)
		a.put(p, machine.Sign, 0, p.in^flipADD8)
	case 0b01000:
		a.process(p)
	case 0b01001: // LDR (literal)
		a.literal(p)
	case 0b01100: // STR, whose neighbours are the registers that set bits and clear them
		a.put(p, machine.Level, 0, p.in+1<<6)
		a.put(p, machine.Level, 0, p.in-1<<6)
		a.needless(p)
	case 0b01110, 0b10000: // STRB, STRH
		a.needless(p)
	case 0b11010, 0b11011: // B with a condition
		if condition := p.in >> 8 & 15; condition < 14 {
			a.put(p, machine.Reversed, 0, p.in^flipBranch)
			a.put(p, machine.Regardless, 0, wordNOP)
			a.put(p, machine.Regardless, 0, wordB|uint16(int16(int8(p.in)))&0x7ff)
			if other, ok := beside[condition]; ok {
				a.put(p, machine.Inclusive, 0, p.in&^0x0f00|other<<8)
			}
		}
	case 0b11110: // BL
		a.needless(p)
	}
}

// process looks at an operation on two registers (A5.2.2).
func (a *altering) process(p place) {
	switch p.in >> 6 & 31 {
	case 0b0000: // AND
		a.put(p, machine.Mask, 1, p.in^flipAND)
	case 0b1100: // ORR
		a.put(p, machine.Mask, 1, p.in^flipAND)
		a.put(p, machine.Level, 0, p.in^flipBIC)
	case 0b1110: // BIC
		a.put(p, machine.Level, 0, p.in^flipBIC)
	case 0b1001, 0b1111: // RSB from 0, MVN
		a.put(p, machine.Inverted, 0, wordMOV|p.in&0x3f)
	}
}

func (a *altering) add(p place, slip machine.Slip, rare int, from, to int64, words map[uint32]uint16) {
	if !machine.Rewrites(a.image, words) {
		return
	}
	loads := p.in>>11 == loadMOV || p.in>>11 == loadLDR
	a.out = append(a.out, machine.Alteration{Address: p.at, Line: p.line, Slip: slip, Rare: rare, From: from, To: to,
		Loaded: loads && slip == machine.Number, Change: machine.Rewritten(words)})
}

// put has another word in the place.
func (a *altering) put(p place, slip machine.Slip, rare int, word uint16) {
	a.add(p, slip, rare, 0, 0, map[uint32]uint16{p.at: word})
}

// needless leaves an instruction out.
func (a *altering) needless(p place) {
	words := map[uint32]uint16{}
	for at := p.at; at < p.at+p.size; at += 2 {
		words[at] = wordNOP
	}
	a.add(p, machine.Needless, 1, 0, 0, words)
}

// number is one within an instruction, from a bit on.
func (a *altering) number(p place, bit, bits int) {
	mask := int64(1)<<bits - 1
	a.values(p, int64(p.in)>>bit&mask, mask, func(to int64) map[uint32]uint16 {
		return map[uint32]uint16{p.at: p.in&^uint16(mask<<bit) | uint16(to<<bit)}
	})
}

// mostLiteral is the largest number that is looked at of those that programs keep beside their code: addresses of
// registers and of memory are beyond it.
const mostLiteral = 1 << 24

// literal is a number that stands beside the code.
func (a *altering) literal(p place) {
	at := (p.at+4)&^3 + uint32(p.in&0xff)<<2
	if a.literals[at] {
		return // told where it is loaded first
	}
	a.literals[at] = true
	is, sign := int64(int32(uint32(a.image.Word(at))|uint32(a.image.Word(at+2))<<16)), int64(1)
	if is < 0 { // compilers compare by adding the opposite
		is, sign = -is, -1
	}
	if is >= mostLiteral {
		return
	}
	a.values(p, is, mostLiteral-1, func(to int64) map[uint32]uint16 {
		return map[uint32]uint16{at: uint16(sign * to), at + 2: uint16(sign * to >> 16)}
	})
}

// values are the numbers that one may have been meant to be.
func (a *altering) values(p place, is, mask int64, words func(int64) map[uint32]uint16) {
	tried := map[int64]bool{is: true}
	try := func(rare int, to int64) {
		if to >= 0 && to <= mask && !tried[to] {
			tried[to] = true
			a.add(p, machine.Number, rare, is, to, words(to))
		}
	}
	a.hints.Each(is, mask == 0xff, try)
}
