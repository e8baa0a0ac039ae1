package firmware

import (
	"debug/dwarf"
	"path"
	"sort"
	"sync"
)

// Line is a place in the source of a firmware.
type Line struct {
	File   string `json:"file"` // base name
	Line   int    `json:"line"`
	Column int    `json:"column,omitempty"`
}

// Lines finds source lines by byte address.
type Lines struct {
	once    sync.Once
	entries []lineEntry
}

type lineEntry struct {
	address uint32
	line    Line
	end     bool
}

// Line gives the source line of the instruction at a byte address, if the image has debug
// information for it.
func (im *Image) Line(address uint32) (Line, bool) {
	im.lines.once.Do(func() { im.lines.read(im.Debug) })
	e := im.lines.entries
	i := sort.Search(len(e), func(i int) bool { return e[i].address > address }) - 1
	if i < 0 || e[i].end {
		return Line{}, false
	}
	return e[i].line, true
}

// read collects the line tables of all compilation units (DWARF 5, section 6.2). Damaged tables
// give what could be read of them.
func (l *Lines) read(d *dwarf.Data) {
	if d == nil {
		return
	}
	defer func() {
		_ = recover()
		sort.SliceStable(l.entries, func(i, j int) bool { return l.entries[i].address < l.entries[j].address })
	}()
	for units := d.Reader(); ; units.SkipChildren() {
		unit, err := units.Next()
		if unit == nil || err != nil {
			return
		}
		table, err := d.LineReader(unit)
		if table == nil || err != nil {
			continue
		}
		var e dwarf.LineEntry
		for table.Next(&e) == nil {
			x := lineEntry{address: uint32(e.Address), end: e.EndSequence}
			if e.File != nil {
				x.line = Line{path.Base(e.File.Name), e.Line, e.Column}
			}
			l.entries = append(l.entries, x)
		}
	}
}
