package machine

import (
	"bytes"
	"strings"

	"hemble/core/firmware"
)

// maxTable is the largest table that is looked at, in bytes.
const maxTable = 256

// AlteredTables lists how bytes of a program's tables may have been meant. Those in memory are copied there at the
// start: loaded and start are the symbols from and to.
func AlteredTables(im *firmware.Image, hints Hints, loaded, start string) (out []Alteration) {
	load, copied := im.Symbol(loaded)
	begin, _ := im.Symbol(start)
	for _, s := range im.Symbols {
		if !s.IsData || s.Size > maxTable {
			continue
		}
		from := s.Address
		if s.Space == firmware.Data {
			if !copied || s.Address < begin.Address {
				continue
			}
			from = load.Address + s.Address - begin.Address
		}
		for i := range s.Size {
			if b, ok := im.Byte(from + i); ok && len(out) < MostAltered {
				out = append(out, element(im, hints, s, from, i, b)...)
			}
		}
	}
	return out
}

// element looks at one byte of a table.
func element(im *firmware.Image, hints Hints, s firmware.Symbol, at, i uint32, b byte) (out []Alteration) {
	name, _, _ := strings.Cut(s.Name, ".") // static ones within functions have a number behind their name
	put := func(slip Slip, rare int, to ...byte) {
		changed := map[uint32]byte{}
		for n, v := range to {
			changed[at+i+uint32(n)] = v
		}
		out = append(out, Alteration{Address: at + i, Slip: slip, Rare: rare, From: int64(b), To: int64(to[0]),
			Table: name, Element: int(i), Bytes: int(s.Size),
			Change: func(im *firmware.Image) *firmware.Image { return im.Patched(changed) }})
	}
	tried := map[byte]bool{b: true}
	try := func(rare int, to int64) {
		if to >= 0 && to < 256 && !tried[byte(to)] {
			tried[byte(to)] = true
			put(Number, rare, byte(to))
		}
	}
	for _, to := range hints.near(int64(b)) {
		try(1, to)
	}
	try(1, 0)
	if step := int64(int8(b)); -mostStep <= step && step <= mostStep { // the other way
		try(1, -step&0xff)
	}
	for bit := range 8 {
		try(2, int64(b^1<<bit))
	}
	for wide := uint32(1); wide <= 2; wide++ {
		var here, next []byte
		for n := range wide {
			x, _ := im.Byte(at + i + n)
			y, _ := im.Byte(at + i + wide + n)
			here, next = append(here, x), append(next, y)
		}
		if i%wide == 0 && i+2*wide <= s.Size && !bytes.Equal(here, next) {
			put(Neighbours, 1, append(next, here...)...)
		}
	}
	return out
}
