package pic14

import (
	"strconv"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// alterations lists how single instructions of what its author wrote may have been meant: of the whole program, where
// it does not tell which parts of it that is.
func alterations(im *firmware.Image, hints machine.Hints) []machine.Alteration {
	a := &altering{image: im, hints: hints}
	all := !im.HasLines()
	for _, s := range im.Flash {
		for at := (s.Address + 1) &^ 1; at+2 <= s.End(); at += 2 {
			if len(a.out) >= machine.MostAltered || !hints.Runs(at) {
				continue
			}
			if line, ok := im.Own(at, nil); ok && !line.System || all {
				w := im.Word(at) & 0x3fff
				a.instruction(place{at: at, word: w, in: decode(w), line: line})
			}
		}
	}
	return a.out
}

// altering is a program of which alterations are looked for.
type altering struct {
	image *firmware.Image
	hints machine.Hints
	out   []machine.Alteration
}

// place is an instruction.
type place struct {
	at   uint32 // byte address
	word uint16
	in   instruction
	line firmware.Line
}

// Words of instructions (DS33023A, table 29-2), and bits in which those of two opposite ones differ.
const (
	wordNOP  = 0x0000
	wordMOVF = 0x0800
	wordGOTO = 0x2800

	flipINCF  = 0x0a00 ^ 0x0300 // INCF, DECF
	flipADDWF = 0x0700 ^ 0x0200 // ADDWF, SUBWF
	flipRLF   = 0x0d00 ^ 0x0c00 // RLF, RRF
	flipANDWF = 0x0500 ^ 0x0400 // ANDWF, IORWF
	flipANDLW = 0x3900 ^ 0x3800 // ANDLW, IORLW
	flipBCF   = 0x1000 ^ 0x1400 // BCF, BSF
	flipBTFSC = 0x1800 ^ 0x1c00 // BTFSC, BTFSS
)

// instruction looks at one.
func (a *altering) instruction(p place) {
	switch p.in.op {
	case opMOVLW, opADDLW, opSUBLW, opXORLW:
		a.number(p)
	case opANDLW, opIORLW:
		a.number(p)
		a.put(p, machine.Mask, 1, p.word^flipANDLW)
	case opRETLW:
		a.number(p)
		if next := p.at + 2; decode(a.image.Word(next)).op == opRETLW && a.image.Word(next)&0x3fff != p.word {
			a.add(p, machine.Neighbours, 1, 0, 0, map[uint32]uint16{p.at: a.image.Word(next), next: p.word})
		}
	case opBCF, opBSF:
		a.bits(p)
		a.put(p, machine.Level, 0, p.word^flipBCF)
		a.put(p, machine.Needless, 1, wordNOP)
	case opBTFSC, opBTFSS:
		a.bits(p)
		a.put(p, machine.Reversed, 0, p.word^flipBTFSC)
		a.put(p, machine.Regardless, 0, wordNOP)
		a.put(p, machine.Regardless, 0, wordGOTO|uint16(p.at/2+2)&0x7ff)
	case opINCF, opDECF:
		a.put(p, machine.Sign, 0, p.word^flipINCF)
		a.put(p, machine.Needless, 1, wordNOP)
	case opADDWF, opSUBWF:
		if p.in.toF || !a.decides(p.at+2) {
			a.put(p, machine.Sign, 0, p.word^flipADDWF)
		}
	case opRLF, opRRF:
		a.put(p, machine.Shift, 0, p.word^flipRLF)
	case opANDWF, opIORWF:
		a.put(p, machine.Mask, 1, p.word^flipANDWF)
	case opCOMF:
		a.put(p, machine.Inverted, 0, wordMOVF|p.word&0xff)
	case opCALL, opMOVWF, opCLRF:
		a.put(p, machine.Needless, 1, wordNOP)
	}
}

// decides reports whether an instruction skips by a flag of STATUS: what came before it is a comparison then, of which
// nobody means the sum.
func (a *altering) decides(at uint32) bool {
	in := decode(a.image.Word(at))
	return (in.op == opBTFSC || in.op == opBTFSS) && in.f == regSTATUS
}

func (a *altering) add(p place, slip machine.Slip, rare int, from, to int64, words map[uint32]uint16) {
	if !machine.Rewrites(a.image, words) {
		return
	}
	a.out = append(a.out, machine.Alteration{Address: p.at, Line: p.line, Slip: slip, Rare: rare, From: from, To: to,
		Change: machine.Rewritten(words)})
}

// put has another word in the place.
func (a *altering) put(p place, slip machine.Slip, rare int, word uint16) {
	a.add(p, slip, rare, 0, 0, map[uint32]uint16{p.at: word})
}

// number is a literal.
func (a *altering) number(p place) {
	is := int64(p.in.k)
	tried := map[int64]bool{is: true}
	try := func(rare int, to int64) {
		if to &= 0xff; !tried[to] {
			tried[to] = true
			a.add(p, machine.Number, rare, is, to, map[uint32]uint16{p.at: p.word&^0xff | uint16(to)})
		}
	}
	if to, err := strconv.ParseInt(strconv.FormatInt(is, 16), 10, 64); err == nil { // assemblers take 10 as hexadecimal
		try(0, to)
	}
	a.hints.Each(is, true, try)
}

// bits are other bits of the same register; STATUS is no matter of slips.
func (a *altering) bits(p place) {
	if p.in.f == regSTATUS {
		return
	}
	is := int64(p.word >> 7 & 7)
	for to := range int64(8) {
		if to != is {
			a.add(p, machine.Number, 1, is, to, map[uint32]uint16{p.at: p.word&^0x380 | uint16(to)<<7})
		}
	}
}
