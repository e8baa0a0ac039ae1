// Package firmware reads the output of compilers and programmers into one Image: the bytes for flash, EEPROM and
// fuses, which of them were programmed, and debug information.
package firmware

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"slices"
	"sort"

	"hemble/core/netlist"
	"hemble/core/script"
)

// MaxFile is the largest firmware file that is looked at, in bytes.
const MaxFile = 16 << 20

// Image is a firmware ready to be put on a chip.
type Image struct {
	Format  string    // "hex", "elf", "uf2", "bin", "coff", "design" or "script"
	Machine uint16    // ELF e_machine, 0 if the format does not say
	Flash   []Segment // programmed bytes, in order, not overlapping
	EEPROM  []Segment
	Fuses   []byte // low, high, extended; as many as the file gives
	Symbols []Symbol
	Design  *netlist.Design // of programmable logic; else nil
	Script  *script.Program // a script; else nil
	Note    string          // what of the file was left aside, and why; "" for nothing

	debug *debug // nil without DWARF
	stabs *stabs // nil without STABS
	lines Lines
}

// Segment is a run of programmed bytes.
type Segment struct {
	Address uint32
	Data    []byte
}

// End is the first address behind the segment.
func (s Segment) End() uint32 { return s.Address + uint32(len(s.Data)) }

// Space is which memory a symbol lives in.
type Space uint8

// The spaces: program memory, and that of variables.
const (
	Code Space = iota
	Data
)

// Symbol is a named place of an ELF file.
type Symbol struct {
	Name    string
	Space   Space
	Address uint32 // byte address within its space
	Size    uint32
	IsData  bool // an object, not a function
}

// Size is the number of programmed flash bytes.
func (im *Image) Size() int {
	n := 0
	for _, s := range im.Flash {
		n += len(s.Data)
	}
	return n
}

// Hash identifies what the chip would run: two files with the same programmed bytes have the same
// hash, whatever their format.
func (im *Image) Hash() [32]byte {
	h := sha256.New()
	part := func(segments []Segment) {
		for _, s := range segments {
			binary.Write(h, binary.LittleEndian, s.Address)
			binary.Write(h, binary.LittleEndian, uint32(len(s.Data)))
			h.Write(s.Data)
		}
		h.Write([]byte{0xff})
	}
	part(im.Flash)
	part(im.EEPROM)
	h.Write(im.Fuses)
	if im.Design != nil {
		h.Write(im.Design.Hash[:])
	}
	if im.Script != nil {
		h.Write(im.Script.Hash[:])
	}
	return [32]byte(h.Sum(nil))
}

// Set gives the image with other settings of the chip, without what it says of its source.
func (im *Image) Set(fuses []byte) *Image {
	return &Image{Format: im.Format, Machine: im.Machine, Flash: im.Flash, EEPROM: im.EEPROM, Fuses: fuses}
}

// DataEnd is the address behind the variables that the program itself lays out; ok is false where the file does not
// tell.
func (im *Image) DataEnd() (address uint32, ok bool) {
	for _, name := range []string{"__heap_start", "_end", "__bss_end"} {
		if s, ok := im.Symbol(name); ok && s.Space == Data {
			return s.Address, true
		}
	}
	return 0, false
}

// Word is the programmed word at a byte address, 0xffff where none is.
func (im *Image) Word(address uint32) uint16 {
	for _, s := range im.Flash {
		if i := uint64(address) - uint64(s.Address); address >= s.Address && i+2 <= uint64(len(s.Data)) {
			return uint16(s.Data[i]) | uint16(s.Data[i+1])<<8
		}
	}
	return 0xffff
}

// Symbol finds a symbol by name.
func (im *Image) Symbol(name string) (Symbol, bool) {
	for _, s := range im.Symbols {
		if s.Name == name {
			return s, true
		}
	}
	return Symbol{}, false
}

// Read takes a firmware file of any known format, told apart by its first bytes, for a chip with some layout of
// memories.
func Read(file []byte, layout Layout) (*Image, error) {
	if len(file) > MaxFile {
		return nil, fmt.Errorf("the file has %d bytes; no firmware needs more than %d", len(file), MaxFile)
	}
	trimmed := bytes.TrimLeft(file, " \t\r\n\ufeff")
	switch {
	case len(trimmed) == 0:
		return nil, fmt.Errorf("the file is empty")
	case bytes.HasPrefix(file, []byte("\x7fELF")):
		return readELF(file, layout)
	case trimmed[0] == ':':
		return readHex(file, layout)
	}
	if len(file) >= 4 && binary.LittleEndian.Uint32(file) == uf2First && layout.Family != 0 {
		return readUF2(file, layout)
	}
	switch {
	case layout.Design:
		return readDesign(file)
	case layout.Script:
		return readScript(file)
	}
	if len(file) >= 2 && binary.LittleEndian.Uint16(file) == coffMagic && layout.Word > 1 {
		return readCOFF(file, layout)
	}
	others := "nor ELF (it starts with \\x7fELF)"
	if layout.Raw != nil {
		if from, ok := layout.Raw(file); ok {
			return readRaw(file, from, layout)
		}
		others = "nor ELF (it starts with \\x7fELF) nor UF2 (\"UF2\\n\") nor a plain copy of the chip's flash"
	}
	return nil, fmt.Errorf("this is neither Intel HEX (its lines start with ':') %s; the file starts with %q", others,
		file[:min(len(file), 8)])
}

// Endings are those of the names of firmware files.
var Endings = []string{".elf", ".hex", ".ihex", ".uf2", ".bin", ".cof", ".design", ".script"}

// readRaw takes a plain copy of flash.
func readRaw(file []byte, from uint32, layout Layout) (*Image, error) {
	if last := uint64(from) + uint64(len(file)) - 1; layout.at(last) != layout.at(uint64(from)) {
		return nil, fmt.Errorf("the file has %d bytes, which is more than the flash has from 0x%08X on", len(file), from)
	}
	segments := trimErased([]Segment{{from, bytes.Clone(file)}}, layout.Erased)
	return &Image{Format: "bin", Flash: segments}, nil
}

// layer collects programmed bytes from records that may come in any order.
type layer struct {
	segments []Segment
}

func (l *layer) add(address uint32, data []byte) {
	if len(data) == 0 {
		return
	}
	if n := len(l.segments); n > 0 && l.segments[n-1].End() == address {
		l.segments[n-1].Data = append(l.segments[n-1].Data, data...)
		return
	}
	l.segments = append(l.segments, Segment{address, bytes.Clone(data)})
}

// sorted gives the segments in order, neighbours joined. Overlapping records are an error.
func (l *layer) sorted(shown Layout) ([]Segment, error) {
	sort.SliceStable(l.segments, func(i, j int) bool { return l.segments[i].Address < l.segments[j].Address })
	var out []Segment
	for _, s := range l.segments {
		n := len(out)
		switch {
		case n > 0 && s.Address < out[n-1].End():
			return nil, fmt.Errorf("two records give bytes for address %s", shown.Address(s.Address))
		case n > 0 && s.Address == out[n-1].End():
			out[n-1].Data = append(out[n-1].Data, s.Data...)
		default:
			out = append(out, s)
		}
	}
	return out, nil
}

// erasedTail is how many erased bytes at the end of a file are taken as never programmed: a dump of
// a whole chip ends in them, a program does not.
const erasedTail = 16

func trimErased(segments []Segment, erased uint16) []Segment {
	n := len(segments)
	if n == 0 {
		return segments
	}
	last := &segments[n-1]
	kept := last.Data
	for len(kept) > 0 && kept[len(kept)-1] == byte(erased>>(8*((last.Address+uint32(len(kept))-1)&1))) {
		kept = kept[:len(kept)-1]
	}
	if len(last.Data)-len(kept) < erasedTail {
		return segments
	}
	if len(kept) == 0 {
		return segments[:n-1]
	}
	last.Data = kept[: len(kept)+len(kept)%2 : len(kept)+len(kept)%2]
	return segments
}

// Patched gives the image with other bytes at some addresses of its flash, without what it says of its source.
func (im *Image) Patched(bytes map[uint32]byte) *Image {
	out := im.Set(im.Fuses)
	out.Flash = slices.Clone(im.Flash)
	for i := range out.Flash {
		s := &out.Flash[i]
		cloned := false
		for at, b := range bytes {
			if at < s.Address || at >= s.End() {
				continue
			}
			if !cloned {
				s.Data, cloned = slices.Clone(s.Data), true
			}
			s.Data[at-s.Address] = b
		}
	}
	return out
}

// Byte is the programmed byte at an address; ok is false where none is.
func (im *Image) Byte(address uint32) (b byte, ok bool) {
	for _, s := range im.Flash {
		if address >= s.Address && address < s.End() {
			return s.Data[address-s.Address], true
		}
	}
	return 0, false
}
