package avr

import (
	"math/bits"
	"slices"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// number is one that stands in instructions, a byte in each, the lowest first.
type number struct {
	*place          // the first of the instructions
	slots  []uint32 // the byte addresses of the instructions; noSlot for a byte that is 0 and stays so
	value  int64
	added  bool // it is subtracted, which programs that add are built to do
	masks  bool // it stands for bits: one of them may be another one, and hardly two
}

// noSlot stands for a byte that no instruction holds.
const noSlot = ^uint32(0)

// number takes what an LDI, SUBI or CPI begins: up to four bytes, where instructions for the others follow.
func (a *altering) number(i int) {
	p := &a.code[i]
	n := number{place: p, slots: []uint32{p.at}, value: int64(p.in.k), added: p.in.op == opSUBI}
	take := func(k int) {
		n.value |= int64(a.code[k].in.k) << (8 * len(n.slots))
		n.slots = append(n.slots, a.code[k].at)
		a.taken[a.code[k].at] = true
	}
	next := func(k int, with op) bool {
		return k < len(a.code) && len(n.slots) < 4 && a.code[k].in.op == with &&
			int(a.code[k].in.d) == int(p.in.d)+len(n.slots)
	}
	switch p.in.op {
	case opLDI:
		for k := i + 1; len(n.slots) < a.loaded(i) && next(k, opLDI); k++ {
			take(k)
		}
	case opSUBI:
		for k := i + 1; next(k, opSBCI); k++ {
			take(k)
		}
	case opCPI: // the higher bytes follow with their own, or with registers, 0 or loaded around here
		for k := i + 1; k < len(a.code) && k <= i+7; k++ {
			if a.code[k].in.op == opLDI {
				continue
			}
			if next(k, opSBCI) {
				take(k)
				continue
			}
			if !next(k, opCPC) {
				break
			}
			from := k - 1
			for from >= max(0, k-10) && (a.code[from].in.op != opLDI || a.code[from].in.d != a.code[k].in.r) {
				from--
			}
			if from >= max(0, k-10) {
				take(from)
			} else {
				n.slots = append(n.slots, noSlot)
			}
		}
	}
	a.values(n)
	if n.added {
		a.add(p, machine.Sign, n.encode(a.image, -n.value)...)
	}
}

// loaded is how many bytes the number has that a run of LDI begins with: one stands in a register, or in two or four
// from an even one on, and two of 16 bits may stand side by side as well (AVR GCC's calling convention: arguments).
func (a *altering) loaded(i int) int {
	run, value := 1, int64(a.code[i].in.k)
	for k := i + 1; k < len(a.code) && run < 4 && a.code[k].in.op == opLDI &&
		int(a.code[k].in.d) == int(a.code[i].in.d)+run; k++ {
		value |= int64(a.code[k].in.k) << (8 * run)
		run++
	}
	switch upper := value >> 16; {
	case a.code[i].in.d%2 == 1 || run == 1:
		return 1
	case run == 4 && (upper == 0 || upper == 0xffff || value%round == 0):
		return 4
	default:
		return 2
	}
}

// round is what numbers of four bytes are multiples of that programs are written with.
const round = 100

// bytes is how many a number has.
func (n number) bytes() int { return len(n.slots) }

// meant is the number as its author wrote it.
func (n number) meant(v int64) int64 {
	if !n.added {
		return v
	}
	shift := 64 - 8*n.bytes()
	return -v << shift >> shift
}

// values are the numbers that one may have been meant to be.
func (a *altering) values(n number) {
	is := n.meant(n.value)
	mask := int64(1)<<(8*n.bytes()) - 1
	tried := []int64{n.value}
	try := func(rare int, to int64) {
		v := to
		if n.added {
			v = -to
		}
		v &= mask
		if n.masks && bits.OnesCount64(uint64(is)) == 1 && bits.OnesCount64(uint64(v)) > 1 {
			return
		}
		if patches := n.encode(a.image, v); patches != nil && !slices.Contains(tried, v) {
			tried = append(tried, v)
			a.put(n.place, machine.Number, rare, is, n.meant(v), patches)
		}
	}
	a.hints.Each(is, n.bytes() == 1, try)
}

// encode puts the bytes of a number into its instructions; nil where they have no room for it.
func (n number) encode(im *firmware.Image, v int64) (out []patch) {
	for i, at := range n.slots {
		k := uint16(v >> (8 * i) & 0xff)
		switch w := im.Word(at); {
		case at == noSlot:
			if k != 0 {
				return nil
			}
		case w&0xfe00 == 0x9600: // ADIW, SBIW: six bits
			if k > 63 {
				return nil
			}
			out = append(out, patch{at, w&^0x00cf | k&15 | k&0x30<<2})
		default:
			out = append(out, patch{at, w&^0x0f0f | k&15 | k&0xf0<<4})
		}
	}
	return out
}
