package firmware

import (
	"debug/dwarf"
	"iter"
	"path"
	"sort"
	"strings"
	"sync"
)

// Line is a place in the source of a firmware.
type Line struct {
	File   string `json:"file"` // base name
	System bool   `json:"-"`    // it belongs to the toolchain or the core, not to who wrote the program
	Line   int    `json:"line"`
	Column int    `json:"column,omitempty"`
}

// Lines finds source lines by byte address.
type Lines struct {
	once    sync.Once
	entries []lineEntry
	inlined []inlined
}

// inlined is a call whose function was put in its place: the addresses it covers, and where the call stands.
type inlined struct {
	low, high uint32
	call      Line
}

type lineEntry struct {
	address uint32
	line    Line
	end     bool
}

// Line gives the source line of the instruction at a byte address, if the image has debug
// information for it.
func (im *Image) Line(address uint32) (Line, bool) {
	if im.Script != nil {
		name, line := im.Script.Line(address)
		return Line{File: name, Line: line}, line > 0
	}
	im.lines.once.Do(func() { im.lines.read(im.debug, im.stabs, im.Symbols) })
	e := im.lines.entries
	i := sort.Search(len(e), func(i int) bool { return e[i].address > address }) - 1
	if i < 0 || e[i].end {
		return Line{}, false
	}
	return e[i].line, true
}

// Rows gives the byte addresses at which the image tells that a source line begins, in their order; a line may have
// many.
func (im *Image) Rows() iter.Seq2[uint32, Line] {
	return func(yield func(uint32, Line) bool) {
		if im.Script != nil {
			return
		}
		im.Line(0) // which reads them
		for _, e := range im.lines.entries {
			if !e.end && !yield(e.address, e.line) {
				return
			}
		}
	}
}

// HasLines reports whether the image tells the source lines of its instructions.
func (im *Image) HasLines() bool {
	im.Line(0) // which reads them
	return len(im.lines.entries) > 0
}

// read collects the line tables of all compilation units (DWARF 5, section 6.2). Damaged tables
// give what could be read of them.
func (l *Lines) read(d *debug, s *stabs, symbols []Symbol) {
	defer func() {
		_ = recover()
		l.sort()
	}()
	if s != nil {
		l.readStabs(s, symbols)
	}
	if d == nil {
		return
	}
	effort := &effort{entries: maxDebugEffort, ranges: maxRangeEffort}
	for _, at := range d.units {
		units := d.data.Reader()
		units.Seek(at)
		unit, err := units.Next()
		if unit == nil || err != nil {
			return
		}
		// Each table is for one unit; what points into the middle of one, or at one once more, is no compiler's.
		where, ok := unit.Val(dwarf.AttrStmtList).(int64)
		if !ok || !d.lines[where] {
			continue
		}
		delete(d.lines, where)
		table, err := d.data.LineReader(unit)
		if table == nil || err != nil {
			continue
		}
		var e dwarf.LineEntry
		for table.Next(&e) == nil {
			x := lineEntry{address: uint32(e.Address), end: e.EndSequence}
			if e.File != nil {
				x.line = Line{File: path.Base(e.File.Name), System: isSystem(e.File.Name), Line: e.Line,
					Column: e.Column}
			}
			if !effort.entry() {
				return
			}
			l.entries = append(l.entries, x)
		}
		l.readInlined(d, unit, table.Files(), effort)
	}
}

// sort puts the entries in order: where one sequence ends the next may begin.
func (l *Lines) sort() {
	sort.SliceStable(l.entries, func(i, j int) bool {
		a, b := l.entries[i], l.entries[j]
		return a.address < b.address || a.address == b.address && a.end && !b.end
	})
}

// effort is how much debug information is still looked at.
type effort struct{ entries, ranges int }

func (e *effort) entry() bool { e.entries--; return e.entries >= 0 }

// SourceFolder and LibraryFolder are where a program that was built from source, and the libraries that it used, stood
// for the compiler.
const (
	SourceFolder  = "/src"
	LibraryFolder = "/library"
)

// isSystem tells a file that is not the author's own: one of the toolchain, by where Debian puts it, or one of
// a library that a build from source used.
func isSystem(name string) bool {
	name = path.Clean(name)
	return strings.HasPrefix(name, "/usr/") || strings.HasPrefix(name, LibraryFolder+"/")
}

// readInlined collects the inlined calls of a unit (DWARF 4, section 3.3.8.2), outer ones before inner ones.
func (l *Lines) readInlined(d *debug, unit *dwarf.Entry, files []*dwarf.LineFile, effort *effort) {
	r := d.data.Reader()
	r.Seek(unit.Offset)
	if e, err := r.Next(); err != nil || e == nil {
		return
	}
	for depth := 1; depth > 0; {
		e, err := r.Next()
		if e == nil || err != nil || !effort.entry() {
			return
		}
		if e.Tag == 0 {
			depth--
			continue
		}
		if e.Children {
			depth++
		}
		file, _ := e.Val(dwarf.AttrCallFile).(int64)
		line, _ := e.Val(dwarf.AttrCallLine).(int64)
		if e.Tag != dwarf.TagInlinedSubroutine || line == 0 || file <= 0 || int(file) >= len(files) ||
			files[file] == nil {
			continue
		}
		if e.AttrField(dwarf.AttrRanges) != nil {
			if effort.ranges -= d.ranges; effort.ranges < 0 {
				return
			}
		}
		ranges, err := d.data.Ranges(e)
		if err != nil {
			continue
		}
		for _, x := range ranges {
			l.inlined = append(l.inlined,
				inlined{uint32(x[0]), uint32(x[1]),
					Line{File: path.Base(files[file].Name), System: isSystem(files[file].Name), Line: int(line)}})
		}
	}
}

// Calls gives the source line of the instruction at a byte address, and the lines of the calls that were inlined
// to it, innermost first.
func (im *Image) Calls(address uint32) (out []Line) {
	if line, ok := im.Line(address); ok {
		out = append(out, line)
	}
	list := im.lines.inlined
	for i := len(list) - 1; i >= 0; i-- {
		if x := list[i]; address >= x.low && address < x.high {
			out = append(out, x.call)
		}
	}
	return out
}

// Own gives the line of what its author wrote that made the instruction at a byte address run: the line itself,
// a call that was inlined to it, or a call through one of the return addresses (bytes) that stood on the stack.
func (im *Image) Own(address uint32, returns []uint32) (Line, bool) {
	first, found := im.Line(address)
	for _, a := range append([]uint32{address}, returns...) {
		for _, line := range im.Calls(a) {
			if !line.System {
				return line, true
			}
		}
	}
	return first, found
}
