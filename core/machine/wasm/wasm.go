// Package wasm writes WebAssembly modules of one function that works on one memory, as they are needed to have code
// compiled while it runs (WebAssembly Core Specification 2.0, chapter 5, "Binary Format").
package wasm

import "slices"

// Instructions without operands, on 32-bit integers.
const (
	Eqz     = 0x45
	Eq      = 0x46
	Ne      = 0x47
	LtS     = 0x48
	LtU     = 0x49
	GtU     = 0x4b
	GeU     = 0x4f
	Add     = 0x6a
	Sub     = 0x6b
	Mul     = 0x6c
	And     = 0x71
	Or      = 0x72
	Xor     = 0x73
	Shl     = 0x74
	ShrU    = 0x76
	Extend8 = 0xc0 // the sign of the low byte, through the rest
)

const (
	block    = 0x02
	loop     = 0x03
	branch   = 0x04 // if
	orElse   = 0x05
	end      = 0x0b
	br       = 0x0c
	brIf     = 0x0d
	brTable  = 0x0e
	get      = 0x20
	set      = 0x21
	tee      = 0x22
	getG     = 0x23
	setG     = 0x24
	load8    = 0x2d
	load16   = 0x2f
	load64   = 0x29
	store32  = 0x36
	store64  = 0x37
	store8   = 0x3a
	store16  = 0x3b
	constant = 0x41
	i32      = 0x7f
	empty    = 0x40
)

// Code is the body of a function as it is written. Labels count the blocks, loops and ifs that are open, from the inner
// ones out.
type Code struct{ b []byte }

// Op appends instructions without operands.
func (c *Code) Op(ops ...byte) { c.b = append(c.b, ops...) }

// Const puts a number on the stack.
func (c *Code) Const(v int32) { c.b = signed(append(c.b, constant), v) }

// Get puts a local on the stack.
func (c *Code) Get(local uint32) { c.index(get, local) }

// Set takes the stack's top into a local.
func (c *Code) Set(local uint32) { c.index(set, local) }

// Tee keeps the stack's top in a local, too.
func (c *Code) Tee(local uint32) { c.index(tee, local) }

// GetGlobal puts a global variable on the stack.
func (c *Code) GetGlobal(i uint32) { c.index(getG, i) }

// SetGlobal takes the stack's top into a global variable.
func (c *Code) SetGlobal(i uint32) { c.index(setG, i) }

// Load8 replaces the address on the stack by the byte that stands there, so many bytes on.
func (c *Code) Load8(offset uint32) { c.memory(load8, 0, offset) }

// Load16 is Load8 of two bytes, the low one first.
func (c *Code) Load16(offset uint32) { c.memory(load16, 0, offset) }

// Load64 is Load8 of eight bytes, for Store64 alone: everything else is of 32 bits.
func (c *Code) Load64(offset uint32) { c.memory(load64, 0, offset) }

// Store8 takes a value and, below it, an address, and stores the value's low byte.
func (c *Code) Store8(offset uint32) { c.memory(store8, 0, offset) }

// Store16 is Store8 of two bytes.
func (c *Code) Store16(offset uint32) { c.memory(store16, 0, offset) }

// Store32 is Store8 of four bytes.
func (c *Code) Store32(offset uint32) { c.memory(store32, 0, offset) }

// Store64 is Store8 of the eight bytes of a Load64.
func (c *Code) Store64(offset uint32) { c.memory(store64, 0, offset) }

// Block opens a block, whose label is its end.
func (c *Code) Block() { c.Op(block, empty) }

// Loop opens a loop, whose label is its beginning.
func (c *Code) Loop() { c.Op(loop, empty) }

// If opens what is done only if the stack's top is not 0.
func (c *Code) If() { c.Op(branch, empty) }

// Else goes from what is done if it is not 0 to what is done if it is.
func (c *Code) Else() { c.Op(orElse) }

// End closes the inner block, loop or if.
func (c *Code) End() { c.Op(end) }

// Br goes to a label.
func (c *Code) Br(label int) { c.index(br, uint32(label)) }

// BrIf goes to a label if the stack's top is not 0.
func (c *Code) BrIf(label int) { c.index(brIf, uint32(label)) }

// BrTable goes to the label that the stack's top counts, or to the last where it is larger.
func (c *Code) BrTable(labels []int, last int) {
	c.index(brTable, uint32(len(labels)))
	for _, l := range labels {
		c.b = unsigned(c.b, uint32(l))
	}
	c.b = unsigned(c.b, uint32(last))
}

func (c *Code) index(op byte, i uint32) { c.b = unsigned(append(c.b, op), i) }

func (c *Code) memory(op, align byte, offset uint32) { c.b = unsigned(append(c.b, op, align), offset) }

// Module is a module that exports the function as "run": of so many parameters, results and further locals, over so
// many global variables, all 32-bit integers, and a memory of just so many pages of 64 KB.
func (c *Code) Module(parameters, results, locals, globals, pages int) []byte {
	m := []byte{0, 'a', 's', 'm', 1, 0, 0, 0}
	section := func(id byte, content ...byte) {
		m = append(unsigned(append(m, id), uint32(len(content))), content...)
	}
	signature := unsigned([]byte{1, 0x60}, uint32(parameters))
	signature = append(signature, slices.Repeat([]byte{i32}, parameters)...)
	signature = unsigned(signature, uint32(results))
	section(1, append(signature, slices.Repeat([]byte{i32}, results)...)...)
	section(3, 1, 0)
	section(5, unsigned(unsigned([]byte{1, 1}, uint32(pages)), uint32(pages))...)
	variables := unsigned(nil, uint32(globals))
	for range globals {
		variables = append(variables, i32, 1, constant, 0, end)
	}
	section(6, variables...)
	section(7, 1, 3, 'r', 'u', 'n', 0, 0)
	body := append(unsigned([]byte{1}, uint32(locals)), i32)
	body = append(append(body, c.b...), end)
	section(10, append(unsigned([]byte{1}, uint32(len(body))), body...)...)
	return m
}

// unsigned appends a number in LEB128 (5.2.2, "Integers").
func unsigned(b []byte, v uint32) []byte {
	for ; v >= 0x80; v >>= 7 {
		b = append(b, byte(v)|0x80)
	}
	return append(b, byte(v))
}

func signed(b []byte, v int32) []byte {
	for ; v < -64 || v > 63; v >>= 7 {
		b = append(b, byte(v)&0x7f|0x80)
	}
	return append(b, byte(v)&0x7f)
}
