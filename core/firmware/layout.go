package firmware

import (
	"fmt"
	"math"
)

// Memory is a kind of memory that a firmware file fills.
type Memory uint8

// The memories.
const (
	Flash Memory = iota
	RAM
	EEPROM
	Fuses
	Ignored // what a chip has there is not modelled
	Aside   // what a file may give there says nothing to the chip
)

// Region is a stretch of a file's addresses, up to where the next one begins.
type Region struct {
	From  uint64
	Kind  Memory
	Shown uint64 // the address at which the chip itself has it
	// Spread is how many bytes of the file there are for each byte of the memory, which is the first of them; 0 for
	// one.
	Spread uint64
}

// Layout says where the addresses of a chip's firmware files belong.
type Layout struct {
	Regions []Region // in the order of From; the first one begins at 0
	Erased  uint16   // a word of flash that was never programmed
	Design  bool     // files are designs of programmable logic
	Script  bool     // files are scripts
	Word    uint32   // bytes that an address of the chip counts, where that is more than one
	Family  uint32   // by which blocks of UF2 know the chip; 0 where there are none for it
	// Raw tells whether a file is a plain copy of flash, and from where on; nil where nothing tells one.
	Raw func(file []byte) (from uint32, ok bool)
}

// Endings are those of the names of the files that programs for the chip come in, the usual ones first.
func (l Layout) Endings() []string {
	switch {
	case l.Design:
		return []string{".design"}
	case l.Script:
		return []string{".script"}
	}
	out := []string{".hex"}
	if l.Word > 1 {
		out = append(out, ".cof")
	} else {
		out = append(out, ".elf")
	}
	if l.Family != 0 {
		out = append(out, ".uf2")
	}
	if l.Raw != nil {
		out = append(out, ".bin")
	}
	return out
}

// address is where the chip has what a file has at an address.
func (r Region) address(at uint64) uint32 { return uint32(at - r.From + r.Shown) }

// at is the region of an address.
func (l Layout) at(address uint64) (r Region) {
	for _, next := range l.Regions {
		if address < next.From {
			break
		}
		r = next
	}
	return r
}

// fill gives data from an address of a file on to the memories that have it. Where there is none, it tells the address.
func (l Layout) fill(flash, eeprom, fuses *layer, at uint64, data []byte) (bad uint64, ok bool) {
	for len(data) > 0 {
		n := min(uint64(len(data)), l.end(at)-at)
		if !l.at(at).take(flash, eeprom, fuses, at, data[:n]) {
			return at, false
		}
		data, at = data[n:], at+n
	}
	return 0, true
}

// end is where the region of an address ends.
func (l Layout) end(address uint64) uint64 {
	for _, next := range l.Regions {
		if address < next.From {
			return next.From
		}
	}
	return math.MaxUint64
}

// Address is an address of flash as the trade writes it for the chip: some count words.
// "" for designs, which have none.
func (l Layout) Address(at uint32) string {
	if l.Design || l.Script {
		return ""
	}
	return fmt.Sprintf("0x%04X", at/max(1, l.Word))
}

// take gives data to the memory that has it in this region, and reports whether there is one that a file could fill.
func (r Region) take(flash, eeprom, fuses *layer, at uint64, data []byte) bool {
	switch r.Kind {
	case Flash:
		flash.add(r.address(at), data)
	case EEPROM:
		eeprom.add(r.spread(at, data))
	case Fuses:
		fuses.add(r.address(at), data)
	case Aside:
	default:
		return false
	}
	return true
}

// spread gives the bytes of a memory that are spread over a file's.
func (r Region) spread(at uint64, data []byte) (uint32, []byte) {
	if r.Spread < 2 {
		return r.address(at), data
	}
	var out []byte
	first := uint64(0)
	for i, b := range data {
		if n := at + uint64(i) - r.From; n%r.Spread == 0 {
			if out == nil {
				first = n / r.Spread
			}
			out = append(out, b)
		}
	}
	return uint32(first + r.Shown), out
}
