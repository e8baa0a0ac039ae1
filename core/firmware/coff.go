package firmware

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"path"
)

// Microchip's COFF for programs, version 2 (DS51399, "COFF Object Module Format"): what gputils links.
const (
	coffMagic   = 0x1240
	coffHeader  = 20
	coffSection = 40
	coffSymbol  = 20
	coffLine    = 16

	coffText      = 0x20 // a section of code
	coffFile      = 103  // storage class of a source file
	coffLabel     = 6
	coffExternal  = 2
	maxCOFFCounts = 100_000 // symbols and lines
	maxCOFFName   = 300
)

// coff is a file under way.
type coff struct {
	file    []byte
	symbols []byte
	strings []byte
	layout  Layout
}

// part is size bytes from an offset on; ok is false where the file has not so many.
func (c *coff) part(from, size uint64) (b []byte, ok bool) {
	if from > uint64(len(c.file)) || size > uint64(len(c.file))-from {
		return nil, false
	}
	return c.file[from : from+size], true
}

// readCOFF takes a linked program: its code, and of what else it says labels and lines.
func readCOFF(file []byte, layout Layout) (*Image, error) {
	c := &coff{file: file, layout: layout}
	head, ok := c.part(0, coffHeader)
	if !ok {
		return nil, fmt.Errorf("the COFF file ends within its header")
	}
	le := binary.LittleEndian
	sections, at, symbols := int(le.Uint16(head[2:])), le.Uint32(head[8:]), uint64(le.Uint32(head[12:]))
	optional := uint64(le.Uint16(head[16:]))
	if symbols > maxCOFFCounts {
		return nil, fmt.Errorf("the COFF file announces %d symbols; at most %d are read", symbols, maxCOFFCounts)
	}
	if c.symbols, ok = c.part(uint64(at), symbols*coffSymbol); !ok {
		return nil, fmt.Errorf("the COFF file ends within its symbols")
	}
	c.strings = file[uint64(at)+symbols*coffSymbol:]
	im := &Image{Format: "coff", Machine: MachinePIC}
	var flash, eeprom, fuses layer
	lines := 0
	for i := range sections {
		h, ok := c.part(coffHeader+optional+uint64(i)*coffSection, coffSection)
		if !ok {
			return nil, fmt.Errorf("the COFF file ends within the headers of its sections")
		}
		if le.Uint32(h[36:])&coffText == 0 {
			continue
		}
		data, ok := c.part(uint64(le.Uint32(h[20:])), uint64(le.Uint32(h[16:])))
		if !ok {
			return nil, fmt.Errorf("the COFF file ends within its section %d", i+1)
		}
		word := uint64(max(1, layout.Word))
		if bad, ok := layout.fill(&flash, &eeprom, &fuses, uint64(le.Uint32(h[8:]))*word, data); !ok {
			return nil, fmt.Errorf("section %d has address %s, which is in no memory of the chip that a file could fill",
				i+1, layout.Address(uint32(bad)))
		}
		n := int(le.Uint16(h[34:]))
		if lines += n; lines > maxCOFFCounts {
			return nil, fmt.Errorf("the COFF file has more than %d line numbers", maxCOFFCounts)
		}
		table, ok := c.part(uint64(le.Uint32(h[28:])), uint64(n)*coffLine)
		if ok {
			im.lines.entries = append(im.lines.entries, c.lines(table)...)
		}
	}
	if err := im.takeLayers(&flash, &eeprom, &fuses, layout); err != nil {
		return nil, err
	}
	im.Symbols = c.labels()
	im.lines.once.Do(im.lines.sort)
	return im, nil
}

// lines are the entries of a table, each ended where its instruction does.
func (c *coff) lines(table []byte) (out []lineEntry) {
	le := binary.LittleEndian
	for ; len(table) >= coffLine; table = table[coffLine:] {
		name := c.fileName(le.Uint32(table))
		address := le.Uint32(table[6:]) * max(1, c.layout.Word)
		out = append(out, lineEntry{address: address, line: Line{File: path.Base(name), System: isSystem(name),
			Line: int(le.Uint16(table[4:]))}}, lineEntry{address: address + 2, end: true})
	}
	return out
}

// fileName is that of a .file symbol, which its auxiliary one has.
func (c *coff) fileName(symbol uint32) string {
	at := (uint64(symbol) + 1) * coffSymbol
	if at+coffSymbol > uint64(len(c.symbols)) {
		return ""
	}
	return c.text(binary.LittleEndian.Uint32(c.symbols[at:]))
}

// text is a string of the table behind the symbols.
func (c *coff) text(offset uint32) string {
	if uint64(offset) >= uint64(len(c.strings)) {
		return ""
	}
	text, _, _ := bytes.Cut(c.strings[offset:min(uint64(len(c.strings)), uint64(offset)+maxCOFFName)], []byte{0})
	return string(text)
}

// labels are the places of code that have names.
func (c *coff) labels() (out []Symbol) {
	le := binary.LittleEndian
	for at := 0; at+coffSymbol <= len(c.symbols); at += coffSymbol {
		s := c.symbols[at:]
		class, more := s[18], int(s[19])
		if section := int16(le.Uint16(s[12:])); section > 0 && (class == coffLabel || class == coffExternal) {
			name := string(bytes.TrimRight(s[:8], "\x00"))
			if le.Uint32(s) == 0 {
				name = c.text(le.Uint32(s[4:]))
			}
			out = append(out, Symbol{Name: name, Address: le.Uint32(s[8:]) * max(1, c.layout.Word)})
		}
		at += more * coffSymbol
	}
	return out
}
