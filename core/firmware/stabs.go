package firmware

import (
	"bytes"
	"debug/elf"
	"errors"
	"fmt"
	"path"
)

// STABS line information, which some builds of avr-gcc write for a plain -g ("The 'stabs' representation of debugging
// information", Free Software Foundation; binutils, include/aout/stab.def).
const (
	stabSize   = 12
	stabUnit   = 0x00 // N_UNDF: a unit begins; its value is the length of its strings
	stabFunc   = 0x24 // N_FUN: a function at an address; without a name, its end
	stabLine   = 0x44 // N_SLINE: a line, at an offset from its function
	stabSource = 0x64 // N_SO: a folder, then a source file; without a name, the end of the file's code
	stabOther  = 0x84 // N_SOL: another file that is in it
)

// stabs are the sections of STABS as they are.
type stabs struct {
	entries, strings []byte
	order            interface {
		Uint16([]byte) uint16
		Uint32([]byte) uint32
	}
}

// readStabs gives the sections, nil where there are none.
func readStabs(f *elf.File) (*stabs, error) {
	table, names := f.Section(".stab"), f.Section(".stabstr")
	if table == nil || names == nil {
		return nil, nil
	}
	if table.Size+names.Size > maxDebug {
		return nil, fmt.Errorf("it takes more than %d MB", maxDebug>>20)
	}
	s := &stabs{order: f.ByteOrder}
	var err1, err2 error
	s.entries, err1 = plainData(table)
	s.strings, err2 = plainData(names)
	if err := errors.Join(err1, err2); err != nil {
		return nil, errors.New("it is damaged")
	}
	return s, nil
}

// text gives a string of the table.
func (s *stabs) text(at uint64) string {
	if at >= uint64(len(s.strings)) {
		return ""
	}
	text := s.strings[at:min(at+maxString, uint64(len(s.strings)))]
	if end := bytes.IndexByte(text, 0); end >= 0 {
		text = text[:end]
	}
	return string(text)
}

// readStabs collects the lines. A stretch of a header of the toolchain, which the compiler put in the place of a call,
// belongs to the author's line before it.
func (l *Lines) readStabs(s *stabs, symbols []Symbol) {
	sizes := map[uint32]uint32{} // of functions: STABS of this compiler does not tell where they end
	for _, f := range symbols {
		if f.Space == Code && !f.IsData {
			sizes[f.Address] = max(sizes[f.Address], f.Size)
		}
	}
	effort := effort{entries: maxDebugEffort}
	base, next := uint64(0), uint64(0) // of the unit's strings
	function, inside := uint32(0), false
	file := ""
	var own *Line // the author's line that was left last, within the function
	end := func() {
		if size := sizes[function]; inside && size > 0 {
			l.entries = append(l.entries, lineEntry{address: function + size, end: true})
			l.close(function + size)
		}
		inside, own = false, nil
	}
	for at := 0; at+stabSize <= len(s.entries) && effort.entry(); at += stabSize {
		e := s.entries[at : at+stabSize]
		value := s.order.Uint32(e[8:])
		name := func() string { return s.text(base + uint64(s.order.Uint32(e))) }
		switch e[4] {
		case stabUnit:
			base, next = next, next+uint64(value)
		case stabSource:
			end()
			file = name()
		case stabOther:
			file = name()
		case stabFunc:
			if name() != "" {
				end()
				function, inside = value, true
			}
		case stabLine:
			address := value
			if inside {
				address += function
			}
			line := Line{File: path.Base(file), System: isSystem(file), Line: int(s.order.Uint16(e[6:]))}
			l.close(address)
			switch {
			case !line.System:
				own = &line
			case own != nil:
				l.inlined = append(l.inlined, inlined{low: address, call: *own})
			}
			l.entries = append(l.entries, lineEntry{address: address, line: line})
		}
	}
	end()
}

// close ends the stretch that began last.
func (l *Lines) close(address uint32) {
	if n := len(l.inlined); n > 0 && l.inlined[n-1].high == 0 {
		l.inlined[n-1].high = address
	}
}
