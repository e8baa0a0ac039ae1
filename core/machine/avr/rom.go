package avr

import (
	"bytes"
	"fmt"
	"slices"
	"sync"

	"hemble/core/firmware"
)

// rom is what a machine makes of an image. It takes room and time, and mostly the next machine of the chip runs the
// same program, or one that differs in a place: so a machine that is closed leaves its own to others.
type rom struct {
	of               *Variant
	code             []instruction // predecoded, with loop heads marked
	reference        []instruction // predecoded only: what the plain interpreter runs
	flash            []byte
	programmed       []bool // of flash's bytes
	before           []byte // flash and programmed of the program before, to be used again
	programmedBefore []bool
	decoded          bool  // reference is that of flash, but for the reset vector
	pcMask           int32 // of word addresses
}

// blank is the program of a machine that has none.
var blank = rom{code: make([]instruction, 1), reference: make([]instruction, 1), flash: []byte{0xff, 0xff}}

// spare are programs of machines that were closed.
var spare sync.Pool

// room is where a program of a variant can be put, often that of another machine.
func (v *Variant) room() rom {
	if p, ok := spare.Get().(*rom); ok && p.of == v {
		return *p
	}
	return v.empty()
}

// empty is a rom of its own.
func (v *Variant) empty() rom {
	n := 2 * v.words
	return rom{of: v, code: make([]instruction, v.words), reference: make([]instruction, v.words),
		flash: make([]byte, n), programmed: make([]bool, n), before: make([]byte, n), programmedBefore: make([]bool, n),
		pcMask: int32(v.words - 1)}
}

// load puts an image in the place of what was there, and decodes anew what differs.
func (p *rom) load(im *firmware.Image) error {
	for _, s := range im.Flash {
		if s.End() > uint32(len(p.flash)) {
			return fmt.Errorf("the file programs flash up to 0x%05X; the %s ends at 0x%05X", s.End()-1, p.of.title,
				len(p.flash)-1)
		}
	}
	p.flash, p.before = p.before, p.flash
	p.programmed, p.programmedBefore = p.programmedBefore, p.programmed
	for i := range p.flash {
		p.flash[i] = 0xff
	}
	clear(p.programmed)
	for _, s := range im.Flash {
		copy(p.flash[s.Address:], s.Data)
		for i := range s.Data {
			p.programmed[s.Address+uint32(i)] = true
		}
	}
	const block = 64 // words
	for from := 0; from < len(p.code); from += block {
		to := min(from+block, len(p.code))
		if p.decoded && to < len(p.code) && p.same(from, to+1) { // the last word is followed by the first
			continue
		}
		for pc := from; pc < to; pc++ {
			p.reference[pc] = p.decode(pc)
		}
	}
	p.reference[0], p.decoded = p.decode(0), true
	copy(p.code, p.reference)
	return nil
}

// same reports whether some words are those of the program before.
func (p *rom) same(from, to int) bool {
	return bytes.Equal(p.flash[2*from:2*to], p.before[2*from:2*to]) &&
		slices.Equal(p.programmed[2*from:2*to], p.programmedBefore[2*from:2*to])
}

// decode is the instruction at a word.
func (p *rom) decode(pc int) instruction {
	word := func(i int) uint16 {
		i &= int(p.pcMask)
		return uint16(p.flash[2*i]) | uint16(p.flash[2*i+1])<<8
	}
	in := instruction{op: opErased}
	if p.programmed[2*pc] || p.programmed[2*pc+1] {
		in = decode(pc, word(pc), word(pc+1), p.pcMask, p.of.wide)
	}
	if p.of.lacks(in.op) {
		in = instruction{op: opIllegal}
	}
	in.skip = 1
	if isLong(word(pc + 1)) {
		in.skip = 2
	}
	return in
}

// Close leaves the program to the next machine. Nothing runs any more.
func (m *Machine) Close() {
	m.exit()
	if m.of == nil {
		return
	}
	p := m.rom
	m.rom = blank
	spare.Put(&p)
}
