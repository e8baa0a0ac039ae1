package firmware

import (
	"bytes"
	"debug/dwarf"
	"debug/elf"
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Bounds of debug information. Those of programs that fit these chips are far below; without them a file of some
// kilobytes could ask for gigabytes, or for hours: sections are compressed, and tables may be pointed at from many
// places.
const (
	maxDebug       = 8 << 20 // bytes of all sections together, unpacked
	maxString      = 1024    // bytes of a name
	maxAttributes  = 64      // of one kind of entry
	maxUnits       = 2000    // compilation units
	maxLineHeader  = 64 << 10
	maxDebugEffort = 1 << 20 // entries and rows that are looked at
	maxRangeEffort = 1 << 28 // bytes of range lists that are looked at
)

// debugSections are the sections that are read, by their names without .debug_ (DWARF 5, appendix B).
var debugSections = []string{"abbrev", "info", "line", "ranges", "str", "line_str", "rnglists", "addr", "str_offsets"}

// debug is a program's debug information, within its bounds.
type debug struct {
	data   *dwarf.Data
	units  []dwarf.Offset // where the entry of each compilation unit begins
	lines  map[int64]bool // where a line table begins
	ranges int            // bytes of range lists
}

// readDebug reads debug information and checks that its tables are as large as they may be. It gives nil where there is
// none.
func readDebug(f *elf.File) (*debug, error) {
	found := map[string][]byte{}
	total := uint64(0)
	for _, s := range f.Sections {
		name, packed := strings.CutPrefix(s.Name, ".zdebug_")
		if !packed {
			var ok bool
			if name, ok = strings.CutPrefix(s.Name, ".debug_"); !ok {
				continue
			}
		}
		size := s.Size
		if packed { // "ZLIB", its length, its bytes: debug/elf unpacks that, too
			head := make([]byte, 12)
			if n, _ := s.ReadAt(head, 0); n == len(head) {
				size = binary.BigEndian.Uint64(head[4:])
			}
		}
		if total += min(size, maxDebug+1); total > maxDebug {
			return nil, fmt.Errorf("it takes more than %d MB", maxDebug>>20)
		}
		if s.Type == elf.SHT_NOBITS || found[name] != nil || !slices.Contains(debugSections, name) {
			continue
		}
		data, err := s.Data()
		if err != nil {
			return nil, fmt.Errorf("section %s is damaged", s.Name)
		}
		found[name] = data
	}
	if len(found["info"]) == 0 {
		return nil, nil
	}
	for _, name := range []string{"str", "line_str"} {
		if longRun(found[name]) {
			return nil, fmt.Errorf("it has names of more than %d bytes", maxString)
		}
	}
	d := &debug{lines: map[int64]bool{}, ranges: len(found["ranges"]) + len(found["rnglists"])}
	tables, err := abbreviations(found["abbrev"])
	if err != nil {
		return nil, err
	}
	if err := d.findUnits(found["info"], tables, f.ByteOrder); err != nil {
		return nil, err
	}
	if err := d.findLines(found["line"], f.ByteOrder); err != nil {
		return nil, err
	}
	if d.data, err = dwarf.New(found["abbrev"], nil, nil, found["info"], found["line"], nil, found["ranges"],
		found["str"]); err != nil {
		return nil, errors.New("it is damaged")
	}
	for _, name := range []string{"line_str", "rnglists", "addr", "str_offsets"} {
		if len(found[name]) > 0 {
			if err := d.data.AddSection(".debug_"+name, found[name]); err != nil {
				return nil, errors.New("it is damaged")
			}
		}
	}
	return d, nil
}

// longRun reports whether a table of strings has one that is too long.
func longRun(data []byte) bool {
	for len(data) > 0 {
		end := bytes.IndexByte(data, 0)
		if end < 0 {
			end = len(data)
		}
		if end > maxString {
			return true
		}
		data = data[min(end+1, len(data)):]
	}
	return false
}

// abbreviations gives where the tables of .debug_abbrev begin, and how long each is (DWARF 5, section 7.5.3).
func abbreviations(data []byte) (map[uint64]int, error) {
	out := map[uint64]int{}
	damaged := errors.New("its abbreviations are damaged")
	for at := 0; at < len(data); {
		begin := at
		number := func() (v uint64, err error) {
			for shift := 0; at < len(data) && shift < 64; shift += 7 {
				b := data[at]
				at++
				if v |= uint64(b&0x7f) << shift; b < 0x80 {
					return v, nil
				}
			}
			return 0, damaged
		}
		for {
			code, err := number()
			if err != nil {
				return nil, err
			}
			if code == 0 {
				break
			}
			if _, err := number(); err != nil { // the tag
				return nil, err
			}
			at++ // whether it has children
			for n := 0; ; n++ {
				name, err := number()
				if err != nil {
					return nil, err
				}
				form, err := number()
				if err != nil {
					return nil, err
				}
				if form == formImplicitConst {
					if _, err := number(); err != nil {
						return nil, err
					}
				}
				if name == 0 && form == 0 {
					break
				}
				if n == maxAttributes {
					return nil, fmt.Errorf("an entry of it has more than %d attributes", maxAttributes)
				}
			}
		}
		out[uint64(begin)] = at - begin
	}
	return out, nil
}

const formImplicitConst = 0x21 // DW_FORM_implicit_const

// findUnits walks over the headers of .debug_info (DWARF 5, section 7.5.1). All programs for these chips use the 32-bit
// format.
func (d *debug) findUnits(data []byte, tables map[uint64]int, order binary.ByteOrder) error {
	damaged := errors.New("its table of units is damaged")
	parsed := 0
	for at := 0; at < len(data); {
		if len(data)-at < 12 {
			return damaged
		}
		length, version := order.Uint32(data[at:]), order.Uint16(data[at+4:])
		if length < 7 || uint64(length) > uint64(len(data)-at-4) || version < 2 || version > 5 {
			return damaged
		}
		table, entry := order.Uint32(data[at+6:]), at+11
		if version == 5 {
			table, entry = order.Uint32(data[at+8:]), at+12
			if kind := data[at+6]; kind != 1 {
				return fmt.Errorf("it has units of kind %d", kind)
			}
		}
		size, ok := tables[uint64(table)]
		if !ok {
			return damaged
		}
		if parsed += size; parsed > maxDebug || len(d.units) == maxUnits {
			return errors.New("its units name more abbreviations than it has")
		}
		d.units = append(d.units, dwarf.Offset(entry))
		at += 4 + int(length)
	}
	return nil
}

// findLines walks over the headers of .debug_line (DWARF 5, section 6.2.4).
func (d *debug) findLines(data []byte, order binary.ByteOrder) error {
	damaged := errors.New("its line tables are damaged")
	for at := 0; at < len(data); {
		if len(data)-at < 15 {
			return damaged
		}
		length, version := order.Uint32(data[at:]), order.Uint16(data[at+4:])
		if uint64(length) > uint64(len(data)-at-4) {
			return damaged
		}
		header, begin := order.Uint32(data[at+6:]), at+10
		if version == 5 {
			header, begin = order.Uint32(data[at+8:]), at+12
		}
		if header > maxLineHeader || uint64(begin)+uint64(header) > uint64(at)+4+uint64(length) ||
			longRun(data[begin:begin+int(header)]) {
			return fmt.Errorf("a line table's header takes more than %d bytes", maxLineHeader)
		}
		d.lines[int64(at)] = true
		at += 4 + int(length)
	}
	return nil
}
