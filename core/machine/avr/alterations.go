package avr

import (
	"slices"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// alterations lists how single instructions, and bytes of tables, of what its author wrote may have been meant: of the
// whole program, where it does not tell which parts of it that is.
func alterations(im *firmware.Image, hints machine.Hints) []machine.Alteration {
	a := &altering{image: im, hints: hints, taken: map[uint32]bool{}}
	all := !im.HasLines()
	for _, s := range im.Flash {
		for at := (s.Address + 1) &^ 1; at+2 <= s.End(); {
			p := place{at: at, size: 2, word: im.Word(at)}
			if isLong(p.word) {
				p.size = 4
			}
			if line, ok := im.Own(at, nil); ok && !line.System || all {
				p.line, p.in = line, decode(int(at/2), p.word, im.Word(at+2), -1, true)
				a.code = append(a.code, p)
			}
			at += p.size
		}
	}
	for i := range a.code {
		if len(a.out) < machine.MostAltered && hints.Runs(a.code[i].at) {
			a.instruction(i)
		}
	}
	return append(a.out, machine.AlteredTables(im, hints, "__data_load_start", "__data_start")...)
}

// altering is a program of which alterations are looked for.
type altering struct {
	image *firmware.Image
	hints machine.Hints
	code  []place         // what its author wrote, by address
	taken map[uint32]bool // the instructions that are part of a longer number
	out   []machine.Alteration
}

// place is an instruction.
type place struct {
	at, size uint32 // bytes
	word     uint16
	in       instruction
	line     firmware.Line
}

// follows reports whether one instruction stands right behind the one before it.
func (a *altering) follows(i int) bool {
	return i > 0 && i < len(a.code) && a.code[i].at == a.code[i-1].at+a.code[i-1].size
}

// patch is one word of a changed program.
type patch struct {
	at   uint32
	word uint16
}

func (a *altering) add(p *place, slip machine.Slip, patches ...patch) {
	a.put(p, slip, 0, 0, 0, patches)
}

func (a *altering) put(p *place, slip machine.Slip, rare int, from, to int64, patches []patch) {
	words := map[uint32]uint16{}
	for _, p := range patches {
		words[p.at] = p.word
	}
	if !machine.Rewrites(a.image, words) {
		return
	}
	a.out = append(a.out, machine.Alteration{Address: p.at, Line: p.line, Slip: slip, Rare: rare, From: from, To: to,
		Loaded: slip == machine.Number && p.in.op == opLDI, Change: machine.Rewritten(words)})
}

// Words of instructions (AVR Instruction Set Manual): those without operands, and with them at 0.
const (
	wordNOP  = 0x0000
	wordLSR  = 0x9406
	wordADD  = 0x0c00
	wordSUBI = 0x5000
	wordRJMP = 0xc000
)

const (
	zero     = 1  // the register that holds 0
	maxApart = 12 // instructions that a number is loaded at most before it is used
)

// Bits in which the words of two opposite instructions differ.
const (
	flipADIW = 0x0100          // ADIW, SBIW
	flipINC  = 0x9403 ^ 0x940a // INC, DEC
	flipSBI  = 0x0200          // CBI, SBI; SBIC, SBIS; SBRC, SBRS
	flipBRBS = 0x0400          // BRBS, BRBC
	flipAND  = 0x0800          // AND, OR
	flipADD  = 0x0c00 ^ 0x1800 // ADD, SUB
	flipADC  = 0x1c00 ^ 0x0800 // ADC, SBC
	flipANDI = 0x1000          // ANDI, ORI
)

// instruction looks at one.
func (a *altering) instruction(i int) {
	p := &a.code[i]
	switch p.in.op {
	case opLDI, opSUBI, opCPI:
		if !a.taken[p.at] {
			a.number(i)
		}
	case opANDI, opORI:
		a.values(number{place: p, slots: []uint32{p.at}, value: int64(p.in.k), masks: true})
	case opADIW, opSBIW:
		a.values(number{place: p, slots: []uint32{p.at}, value: int64(p.in.k)})
		a.add(p, machine.Sign, patch{p.at, p.word ^ flipADIW})
	case opINC, opDEC:
		a.add(p, machine.Sign, patch{p.at, p.word ^ flipINC})
		a.needless(p)
		a.steps(p)
	case opCBI, opSBI:
		a.bits(p)
		a.add(p, machine.Level, patch{p.at, p.word ^ flipSBI})
		a.needless(p)
	case opSBIC, opSBIS, opSBRC, opSBRS:
		a.bits(p)
		a.add(p, machine.Reversed, patch{p.at, p.word ^ flipSBI})
	case opBRBS, opBRBC:
		a.add(p, machine.Reversed, patch{p.at, p.word ^ flipBRBS})
		a.add(p, machine.Regardless, patch{p.at, wordNOP})
		offset := int16(p.word<<6) >> 9
		a.add(p, machine.Regardless, patch{p.at, wordRJMP | uint16(offset)&0x0fff})
		a.inclusive(i)
	case opRCALL, opICALL, opCALL:
		a.needless(p)
	case opSTS, opOUT, opSTX, opSTXInc, opSTYInc, opSTZInc, opSTDY, opSTDZ:
		a.needless(p)
		a.zeroed(i)
	case opMOV:
		a.zeroed(i)
	case opCOM, opNEG:
		a.add(p, machine.Inverted, patch{p.at, wordNOP})
	case opAND, opOR:
		a.put(p, machine.Mask, 1, 0, 0, []patch{{p.at, p.word ^ flipAND}})
	case opADD, opSUB:
		a.sum(i)
	case opLSR:
		d := uint16(p.in.d)
		a.add(p, machine.Shift, patch{p.at, wordADD | d<<4 | d&15 | d&16<<5}) // LSL
	}
}

// readers are the instructions that only read what others write to.
var readers = []op{opCPI, opCP, opCPC, opSTS, opSTX, opSTXInc, opSTYInc, opSTZInc, opSTDY, opSTDZ, opPUSH}

// zeroed puts 0 where a register holds a number, which stands for other things as well: programs that are built keep 0
// in register 1 (AVR Libc manual, ABI).
func (a *altering) zeroed(i int) {
	p := &a.code[i]
	stored, w := p.in.d, p.word&^0x01f0|zero<<4
	switch p.in.op {
	case opOUT:
		stored = p.in.r
	case opMOV:
		stored, w = p.in.r, p.word&^0x020f|zero
	}
	for k := i; a.follows(k) && i-k < maxApart; k-- {
		switch from := &a.code[k-1]; {
		case from.in.op == opLDI && from.in.d == stored:
			a.put(p, machine.Number, 1, int64(from.in.k), 0, []patch{{p.at, w}})
			return
		case from.in.d == stored && !slices.Contains(readers, from.in.op):
			return
		}
	}
}

// needless leaves an instruction out.
func (a *altering) needless(p *place) {
	var patches []patch
	for at := p.at; at < p.at+p.size; at += 2 {
		patches = append(patches, patch{at, wordNOP})
	}
	a.put(p, machine.Needless, 1, 0, 0, patches)
}

// bits are other bits of the same register.
func (a *altering) bits(p *place) {
	for bit := range uint16(8) {
		if p.word&7 != bit {
			a.put(p, machine.Number, 1, int64(p.word&7), int64(bit), []patch{{p.at, p.word&^7 | bit}})
		}
	}
}

// steps counts by more than one, where an instruction for that is as long.
func (a *altering) steps(p *place) {
	if p.in.d < 16 {
		return
	}
	for by := uint16(2); by <= 5; by++ {
		k := by
		if p.in.op == opINC {
			k = -by
		}
		a.put(p, machine.Number, 1, 1, int64(by),
			[]patch{{p.at, wordSUBI | uint16(p.in.d-16)<<4 | k&15 | k&0xf0<<4}})
	}
}

// inclusive turns a comparison of registers before a branch around, and the branch with it: less becomes at most.
func (a *altering) inclusive(i int) {
	var patches []patch
	for k := i; a.follows(k); k-- {
		p := &a.code[k-1]
		if p.in.op != opCP && p.in.op != opCPC {
			return
		}
		d, r := uint16(p.in.d), uint16(p.in.r)
		patches = append(patches, patch{p.at, p.word&0xfc00 | r<<4 | d&15 | d&16<<5})
		if p.in.op == opCP {
			a.add(&a.code[i], machine.Inclusive, append(patches, patch{a.code[i].at, a.code[i].word ^ flipBRBS})...)
			return
		}
	}
}

// sum turns an addition of registers into a subtraction, or the reverse; of one to itself, which is a shift to the
// left, a shift to the right.
func (a *altering) sum(i int) {
	p := &a.code[i]
	if p.in.op == opADD && p.in.d == p.in.r {
		a.add(p, machine.Shift, patch{p.at, wordLSR | uint16(p.in.d)<<4})
		return
	}
	patches := []patch{{p.at, p.word ^ flipADD}}
	for k := i + 1; a.follows(k) && (a.code[k].in.op == opADC || a.code[k].in.op == opSBC); k++ {
		patches = append(patches, patch{a.code[k].at, a.code[k].word ^ flipADC})
	}
	a.add(p, machine.Sign, patches...)
}
