package avr

import (
	"bytes"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// maxTable is the largest table that is looked at, in bytes.
const maxTable = 256

// tables looks at those of a program, in flash and in what is copied to memory at the start.
func (a *altering) tables() {
	load, loaded := a.image.Symbol("__data_load_start")
	start, _ := a.image.Symbol("__data_start")
	for _, s := range a.image.Symbols {
		at := s.Address
		if s.Space == firmware.Data {
			if at = load.Address + s.Address - start.Address; !loaded || s.Address < start.Address {
				continue
			}
		}
		if !s.IsData || s.Size > maxTable {
			continue
		}
		for i := range s.Size {
			if b, ok := a.image.Byte(at + i); ok {
				a.element(s, at, i, b)
			}
		}
	}
}

// element looks at one byte of a table.
func (a *altering) element(s firmware.Symbol, at, i uint32, b byte) {
	name, _, _ := strings.Cut(s.Name, ".") // static ones within functions have a number behind their name
	put := func(slip machine.Slip, rare int, to ...byte) {
		changed := map[uint32]byte{}
		for n, v := range to {
			changed[at+i+uint32(n)] = v
		}
		a.out = append(a.out, machine.Alteration{Address: at + i, Slip: slip, Rare: rare, From: int64(b),
			To: int64(to[0]), Table: name, Element: int(i),
			Change: func(im *firmware.Image) *firmware.Image { return im.Patched(changed) }})
	}
	tried := map[byte]bool{b: true}
	try := func(rare int, to int64) {
		if to >= 0 && to < 256 && !tried[byte(to)] {
			tried[byte(to)] = true
			put(machine.Number, rare, byte(to))
		}
	}
	for _, to := range near(int64(b), a.hints) {
		try(1, to)
	}
	try(1, int64(-b)) // a step the other way
	for bit := range 8 {
		try(2, int64(b^1<<bit))
	}
	for wide := uint32(1); wide <= 2; wide++ {
		var here, next []byte
		for n := range wide {
			x, _ := a.image.Byte(at + i + n)
			y, _ := a.image.Byte(at + i + wide + n)
			here, next = append(here, x), append(next, y)
		}
		if i%wide == 0 && i+2*wide <= s.Size && !bytes.Equal(here, next) {
			put(machine.Neighbours, 1, append(next, here...)...)
		}
	}
}
