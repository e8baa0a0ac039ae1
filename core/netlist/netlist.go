// Package netlist reads designs of programmable logic: the word-level netlist of a module without others in it, as
// yosys writes it (write_json), and which of its ports sits on which pin of the board.
package netlist

import (
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Bounds of a design.
const (
	MaxCells = 60_000
	MaxBits  = 2_000_000 // of all ports of all cells
	maxWidth = 1 << 16   // of a port
)

const maxNarrow = 20

// name is that of a register.
var name = regexp.MustCompile(`^[A-Za-z_]\w{0,59}$`)

// Magic begins the file of a design.
const Magic = `{"hemble-design":1,`

// Bit is a wire of a netlist, by its number, or a constant.
type Bit int32

// The constants. Undefined and undriven bits are configured as 0.
const (
	Zero Bit = -1
	One  Bit = -2
	None Bit = -3 // nothing drives it
)

// Design is a netlist with its pins.
type Design struct {
	Ports []Port
	Cells []Cell
	Init  map[Bit]bool // what registers are configured with, where it is not 0
	Names map[string][]Bit
	Begin []Beginning       // registers whose source says what they are configured with, by their names
	Pins  map[string]string // pins of the board, by port and bit: "seg[3]", "clk"
	Pulls map[string]string // PullUp or PullDown, in the same way
	Hash  [32]byte          // of the file it was read from

	Narrow []Narrow // registers that never get to a number that they are compared with ...
	Wider  *Design  // ... and the same design, with no pins, in which they do; nil where there is none
}

// Narrow is a register that is too narrow.
type Narrow struct {
	Register string `json:"register"` // a name of the language
	Bits     int    `json:"bits"`
	Needs    int    `json:"needs"`
}

// What a constraint may have a pin pulled to.
const (
	PullUp   = "up"
	PullDown = "down"
)

// Port is one of the module.
type Port struct {
	Name          string
	Input, Output bool // both for an inout
	Bits          []Bit
	From          int  // the index of the first bit ...
	Down          bool // ... and whether they go down from there, as in [0:6]
}

// Name is what the design calls wires: a port before anything else, and else its shortest name that has the first of
// them; "" where they have none.
func (d *Design) Name(of []Bit) (best string) {
	if len(of) == 0 {
		return ""
	}
	for _, p := range d.Ports {
		if slices.Contains(p.Bits, of[0]) {
			return p.Name
		}
	}
	for name, bits := range d.Names {
		if slices.Contains(bits, of[0]) && (best == "" || better(name, best)) {
			best = name
		}
	}
	return best
}

// numbered is what a VHDL front end calls wires that its signals are made from.
var numbered = regexp.MustCompile(`^n[0-9]+(_[a-z]+[0-9]*)?$`)

// better reports whether a wire should be called by one name rather than by another: its author's, or the shorter one.
func better(name, other string) bool {
	if made := numbered.MatchString(name); made != numbered.MatchString(other) {
		return !made
	}
	return len(name) < len(other) || len(name) == len(other) && name < other
}

// Unused are the bits of ports that are inputs alone and that nothing in the design looks at.
func (d *Design) Unused() (names []string) {
	used := map[Bit]bool{}
	for i := range d.Cells {
		for _, bits := range d.Cells[i].Ports {
			for _, b := range bits {
				used[b] = true
			}
		}
	}
	for _, p := range d.Ports {
		for _, b := range p.Bits {
			used[b] = used[b] || p.Output
		}
	}
	for _, p := range d.Ports {
		for i, b := range p.Bits {
			if !used[b] {
				names = append(names, p.Bit(i))
			}
		}
	}
	return names
}

// Bit names a bit of the port as constraints do.
func (p Port) Bit(i int) string {
	if len(p.Bits) == 1 && p.From == 0 {
		return p.Name
	}
	if p.Down {
		return fmt.Sprintf("%s[%d]", p.Name, p.From+len(p.Bits)-1-i)
	}
	return fmt.Sprintf("%s[%d]", p.Name, p.From+i)
}

// Cell is one operation or register.
type Cell struct {
	Name, Type string
	Parameters map[string]string // binary digits, the highest first
	Ports      map[string][]Bit
	Place      // where it comes from
}

// Place is one in the source; of none, the line is 0.
type Place struct {
	File   string
	Line   int
	Column int
}

// Beginning is a register with a number of the source that it is configured with.
type Beginning struct {
	Name string
	Bits []Bit
	Place
}

// Number is a parameter as a number; 0 where there is none.
func (c *Cell) Number(name string) int {
	v, err := strconv.ParseInt(strings.Map(binary, c.Parameters[name]), 2, 32)
	if err != nil {
		return 0
	}
	return int(v)
}

// Flag is whether a parameter is not 0.
func (c *Cell) Flag(name string) bool { return strings.Contains(c.Parameters[name], "1") }

func binary(r rune) rune {
	if r == '0' || r == '1' {
		return r
	}
	return '0'
}

type rawPort struct {
	Direction string            `json:"direction"`
	Bits      []json.RawMessage `json:"bits"`
	Offset    int               `json:"offset"`
	Upto      int               `json:"upto"`
}

type rawCell struct {
	Type        string                       `json:"type"`
	Parameters  map[string]json.RawMessage   `json:"parameters"`
	Attributes  map[string]json.RawMessage   `json:"attributes"`
	Connections map[string][]json.RawMessage `json:"connections"`
}

type rawNet struct {
	Bits       []json.RawMessage          `json:"bits"`
	Attributes map[string]json.RawMessage `json:"attributes"`
	Hide       int                        `json:"hide_name"`
}

// Module is a module as yosys writes it.
type Module struct {
	Attributes map[string]json.RawMessage `json:"attributes"`
	Ports      map[string]rawPort         `json:"ports"`
	Cells      map[string]rawCell         `json:"cells"`
	Nets       map[string]rawNet          `json:"netnames"`
}

// file is a design as it is kept: a module, and pins.
type file struct {
	Version int               `json:"hemble-design"`
	Pins    map[string]string `json:"pins"`
	Pulls   map[string]string `json:"pulls"`
	Module  json.RawMessage   `json:"module"`
	Narrow  []Narrow          `json:"narrow"`
	Wider   json.RawMessage   `json:"wider"` // a module
}

// Is tells the file of a design by its first bytes.
func Is(data []byte) bool { return bytes.HasPrefix(data, []byte(Magic)) }

// Write makes the file of a design of a module. The registers of it that are too narrow, and the module in which they
// are not, may be missing.
func Write(module json.RawMessage, pins, pulls map[string]string, narrow []Narrow, wider json.RawMessage) ([]byte,
	error) {
	named, err := json.Marshal(pins)
	if err != nil {
		return nil, err
	}
	pulled, err := json.Marshal(pulls)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	b.WriteString(Magic + `"pins":`)
	b.Write(named)
	b.WriteString(`,"pulls":`)
	b.Write(pulled)
	b.WriteString(`,"module":`)
	if err := json.Compact(&b, module); err != nil {
		return nil, err
	}
	if len(narrow) > 0 {
		told, err := json.Marshal(narrow)
		if err != nil {
			return nil, err
		}
		b.WriteString(`,"narrow":`)
		b.Write(told)
	}
	if len(wider) > 0 {
		b.WriteString(`,"wider":`)
		if err := json.Compact(&b, wider); err != nil {
			return nil, err
		}
	}
	b.WriteString("}\n")
	return b.Bytes(), nil
}

// Read reads the file of a design.
func Read(data []byte) (*Design, error) {
	var f file
	if err := json.Unmarshal(data, &f); err != nil {
		return nil, fmt.Errorf("the design is damaged: %w", err)
	}
	if f.Version != 1 {
		return nil, fmt.Errorf("the design is of version %d; version 1 is known here", f.Version)
	}
	d, err := ReadModule(f.Module)
	if err != nil {
		return nil, err
	}
	d.Pins, d.Pulls, d.Hash, d.Narrow = f.Pins, f.Pulls, sha256.Sum256(data), f.Narrow
	if len(f.Narrow) > maxNarrow {
		return nil, fmt.Errorf("the design tells of %d narrow registers; at most %d are told", len(f.Narrow), maxNarrow)
	}
	for _, n := range f.Narrow {
		if !name.MatchString(n.Register) || n.Bits < 1 || n.Needs <= n.Bits || n.Needs > maxWidth {
			return nil, fmt.Errorf("the design tells of a narrow register %.20q of %d bits that needs %d", n.Register, n.Bits,
				n.Needs)
		}
	}
	if len(f.Wider) > 0 && len(f.Narrow) > 0 {
		if d.Wider, err = ReadModule(f.Wider); err != nil {
			return nil, err
		}
	}
	return d, nil
}

// ReadModule reads a module as yosys writes it.
func ReadModule(data []byte) (*Design, error) {
	var m Module
	if err := json.Unmarshal(data, &m); err != nil {
		return nil, fmt.Errorf("the netlist is damaged: %w", err)
	}
	if len(m.Cells) > MaxCells {
		return nil, fmt.Errorf("the netlist has %d cells; at most %d are taken", len(m.Cells), MaxCells)
	}
	r := reader{d: &Design{Init: map[Bit]bool{}, Names: map[string][]Bit{}}}
	for _, name := range sorted(m.Ports) {
		p := m.Ports[name]
		r.d.Ports = append(r.d.Ports, Port{Name: name, Input: p.Direction != "output", Output: p.Direction != "input",
			Bits: r.bits(p.Bits), From: p.Offset, Down: p.Upto != 0})
	}
	for _, name := range sorted(m.Cells) {
		r.d.Cells = append(r.d.Cells, r.cell(name, m.Cells[name]))
	}
	for _, name := range sorted(m.Nets) {
		n := m.Nets[name]
		bits := r.bits(n.Bits)
		if n.Hide == 0 {
			r.d.Names[name] = bits
		}
		init := text(n.Attributes["init"])
		if at := place(text(n.Attributes["src"])); init != "" && n.Hide == 0 {
			r.d.Begin = append(r.d.Begin, Beginning{name, bits, at})
		}
		for i := 0; i < len(init) && i < len(bits); i++ {
			if init[len(init)-1-i] == '1' && bits[i] >= 0 {
				r.d.Init[bits[i]] = true
			}
		}
	}
	for i, b := range r.d.Begin {
		for name, bits := range r.d.Names {
			if numbered.MatchString(b.Name) && slices.Equal(bits, b.Bits) && better(name, r.d.Begin[i].Name) {
				r.d.Begin[i].Name = name
			}
		}
	}
	return r.d, r.err
}

func sorted[V any](m map[string]V) []string {
	names := make([]string, 0, len(m))
	for name := range m {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// reader keeps the first problem.
type reader struct {
	d     *Design
	total int
	err   error
}

func (r *reader) fail(format string, args ...any) {
	if r.err == nil {
		r.err = fmt.Errorf(format, args...)
	}
}

func (r *reader) bits(raw []json.RawMessage) []Bit {
	if r.total += len(raw); len(raw) > maxWidth || r.total > MaxBits {
		r.fail("the netlist has too many bits: %d in one port, %d in all", len(raw), r.total)
		return nil
	}
	out := make([]Bit, len(raw))
	for i, b := range raw {
		switch s := string(b); s {
		case `"0"`:
			out[i] = Zero
		case `"1"`:
			out[i] = One
		case `"x"`, `"z"`:
			out[i] = None
		default:
			n, err := strconv.ParseInt(s, 10, 32)
			if err != nil || n < 0 {
				r.fail("%.20s is no bit of a netlist", s)
				return nil
			}
			out[i] = Bit(n)
		}
	}
	return out
}

// text is a string, or a number written as binary digits.
func text(raw json.RawMessage) string {
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	var n int64
	if json.Unmarshal(raw, &n) == nil && n >= 0 {
		return strconv.FormatInt(n, 2)
	}
	return ""
}

func (r *reader) cell(name string, raw rawCell) Cell {
	c := Cell{Name: name, Type: raw.Type, Parameters: map[string]string{}, Ports: map[string][]Bit{}}
	for p, v := range raw.Parameters {
		c.Parameters[p] = text(v)
	}
	for _, port := range sorted(raw.Connections) {
		c.Ports[port] = r.bits(raw.Connections[port])
	}
	c.Place = place(text(raw.Attributes["src"]))
	return c
}

// place is where something comes from: "lock.v:9.5-9.13", of several the first that names a line.
func place(src string) (p Place) {
	all := strings.Split(src, "|")
	slices.Reverse(all) // of a cell of an instance, where the instance is stands before where the cell is
	for _, one := range all {
		name, rest, ok := cutLast(one, ":")
		if !ok {
			continue
		}
		first, _, _ := strings.Cut(rest, "-")
		l, c, _ := strings.Cut(first, ".")
		if p.Line, _ = strconv.Atoi(l); p.Line > 0 {
			p.File = name
			p.Column, _ = strconv.Atoi(c)
			return p
		}
	}
	return Place{}
}

func cutLast(s, sep string) (before, after string, ok bool) {
	i := strings.LastIndex(s, sep)
	if i < 0 {
		return s, "", false
	}
	return s[:i], s[i+len(sep):], true
}

// Range is how a vector is numbered: from its left to its right, upwards or downwards. A bound that is not known is
// nil.
type Range struct {
	Up          bool
	Left, Right *int
}

// low is the lowest number of a vector of so many bits; 0 where no bound is known.
func (r Range) low(bits int) int {
	lowest, highest := r.Right, r.Left
	if r.Up {
		lowest, highest = r.Left, r.Right
	}
	switch {
	case lowest != nil:
		return *lowest
	case highest != nil:
		return *highest - bits + 1
	}
	return 0
}

// Numbered is a file of yosys (write_json) with ports of one of its modules numbered in another way, by their names:
// for front ends that number all vectors alike. Nothing is changed where the file has no such module or port.
func Numbered(data []byte, module string, ports map[string]Range) ([]byte, error) {
	if len(ports) == 0 {
		return data, nil
	}
	return within(data, []string{"modules", module, "ports"}, func(raw json.RawMessage) (any, error) {
		all := map[string]rawPort{}
		if err := json.Unmarshal(raw, &all); err != nil {
			return nil, err
		}
		for name, r := range ports {
			p, ok := all[name]
			if !ok {
				continue
			}
			p.Offset, p.Upto = r.low(len(p.Bits)), 0
			if r.Up {
				p.Upto = 1
			}
			all[name] = p
		}
		return all, nil
	})
}

// within changes what an object of objects has at a path of keys; one that has nothing there stays as it is.
func within(data []byte, path []string, change func(json.RawMessage) (any, error)) ([]byte, error) {
	if len(path) == 0 {
		v, err := change(data)
		if err != nil {
			return nil, fmt.Errorf("the netlist is damaged: %w", err)
		}
		return json.Marshal(v)
	}
	var m map[string]json.RawMessage
	if err := json.Unmarshal(data, &m); err != nil {
		return nil, fmt.Errorf("the netlist is damaged: %w", err)
	}
	inner, ok := m[path[0]]
	if !ok {
		return data, nil
	}
	inner, err := within(inner, path[1:], change)
	if err != nil {
		return nil, err
	}
	m[path[0]] = inner
	return json.Marshal(m)
}

// Top gives the module of a file of yosys (write_json) that is marked as the top, or the only one.
func Top(data []byte) (json.RawMessage, error) {
	var all struct {
		Modules map[string]json.RawMessage `json:"modules"`
	}
	if err := json.Unmarshal(data, &all); err != nil {
		return nil, fmt.Errorf("the netlist is damaged: %w", err)
	}
	for _, name := range sorted(all.Modules) {
		var m struct {
			Attributes map[string]json.RawMessage `json:"attributes"`
		}
		if err := json.Unmarshal(all.Modules[name], &m); err != nil {
			return nil, fmt.Errorf("the netlist is damaged: %w", err)
		}
		if strings.Contains(text(m.Attributes["top"]), "1") || len(all.Modules) == 1 {
			return all.Modules[name], nil
		}
	}
	return nil, fmt.Errorf("the netlist has %d modules, and none is the top", len(all.Modules))
}
