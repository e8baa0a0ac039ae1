package avr

import (
	"slices"
	"sort"

	"hemble/core/machine/wasm"
)

// The translation of what a program computes to WebAssembly: one function for all instructions that are hot. It does
// what run does, with the same checks, and leaves to it what run leaves to others; like run it stops before the limit.

// Where the translation's memory has what it works on. Its beginning is the data space.
const (
	atClosed = 0xff00 // behind the data: by port, the pins that are not to change here (portlog.go)
	atIO     = 0x10000
	atLogic  = 0x10200 // the flags of results: of logic operations, ...
	atInc    = 0x10300
	atDec    = 0x10400
	atCOM    = 0x10500 // ... and so on, which set C, too: of COM, ...
	atShift  = 0x10600 // ... of shifts, by carry and result
	atPlain  = 0x10800 // by address below maxIO, 1 + the place of a register that is read like memory, 16 bits; or 0
	atPorts  = 0x10c00 // by address, 1 + the port whose PORTx it is; or 0
	atLog    = 0x11000 // the changes of pins
	atAdd    = 0x20000 // ... as addFlags
	atSub    = 0x40000
	atBlocks = 0x60000 // by word address, the number of the block that begins there, from 1 on; then the flash
	pageSize = 0x10000
)

// The locals of the function. The first ones are its parameters.
const (
	localPC   = iota
	localLeft // cycles until the limit
	localSREG
	localSP
	localFloor
	localZero // 0: the base of addresses that are known
	localIRQ  // whether an interrupt waits for being let
	parameters

	localCount = iota - 1 // instructions carried out
	localLog              // the length of the log, in bytes
	localSEI              // 1 + the cycles left when interrupts were let last; 0: they were not
	localNext             // the block to go to
	localA                // the operands that the flags come from
	localB
	localCarry
	localResult
	localKept // of SBC, SBCI, CPC: Z before
	localLazy // where in the memory the flags are, from the block before (emitflags.go), or 0
	localT    // for a moment
	localP
	localN
	localV
	localLatch
	locals
)

// What the function gives, in the places of its parameters: those up to localSP, and behind them ...
const (
	givenCount = localSP + 1 + iota // localCount, ...
	givenLog
	givenSEI
	results
)

// registers is how many there are, as global variables of the module: while it runs they are not in the data space.
const registers = 32

// longest is how many cycles a block takes at most: a translation can be entered if that many are left.
const longest = 150

// translation is what was made of a program, beside the module: its memory's size, and where it can be entered.
type translation struct {
	pages  int
	blocks []block // by address
	seen   []seen  // by word address: what was known of the program
	within []bool  // instructions that it has
	pins   bool    // some may change pins
}

// block is a run of instructions that is entered at its beginning only, and left at its end or by branches and skips on
// the way.
type block struct {
	pcs    []int32 // their word addresses
	next   int32   // the one behind
	cycles int32   // of all, where nothing branches
	first  uint8   // the flags that the first instruction sets that sets any, if nothing looks at any before; or 0
	early  bool    // it may be left before that
	around bool    // it branches to its beginning
}

// length is that of an instruction in words.
func (in *instruction) length() int32 {
	switch in.op {
	case opLDS, opSTS, opJMP, opCALL:
		return 2
	}
	return 1
}

// cycles is what an instruction takes, where branches and skips do not branch or skip.
func (v *Variant) cycles(in *instruction) int32 {
	switch {
	case v.wide && (in.op == opCALL || in.op == opRET):
		return 5
	case v.wide && (in.op == opRCALL || in.op == opICALL):
		return 4
	case in.op == opCALL || in.op == opRET:
		return 4
	case in.op == opRCALL || in.op == opICALL || in.op == opJMP || in.op == opLPM || in.op == opLPM0 ||
		in.op == opLPMInc:
		return 3
	case in.op == opADIW || in.op == opSBIW || in.op == opRJMP || in.op == opIJMP || in.op == opPUSH ||
		in.op == opPOP || in.op == opSBI || in.op == opCBI, in.op >= opMUL && in.op <= opFMULSU,
		in.op >= opLDX && in.op <= opSTS:
		return 2
	}
	return 1
}

// ends reports whether a block ends behind an instruction.
func (in *instruction) ends() bool {
	switch in.op {
	case opRJMP, opJMP, opIJMP, opRCALL, opICALL, opCALL, opRET:
		return true
	}
	return false
}

// leads is where an instruction may go but to the next, if that is known.
func (in *instruction) leads(next, mask int32) (pc int32, ok bool) {
	switch in.op {
	case opRJMP, opJMP, opRCALL, opCALL, opBRBS, opBRBC:
		return in.k & mask, true
	case opCPSE, opSBRC, opSBRS, opSBIC, opSBIS:
		return (next + int32(in.skip)) & mask, true
	}
	return 0, false
}

// translatable tells the instructions that run carries out itself, and that a translation has.
func (v *Variant) translatable(in *instruction) bool {
	switch in.op {
	case opIN:
		return in.r == regSREG || in.r == regSPL || in.r == regSPH || v.isPlain[in.r]
	case opSBIC, opSBIS:
		return v.isPlain[in.d]
	case opOUT, opSBI, opCBI:
		_, _, ok := v.portAt(uint16(in.d))
		return ok || in.op == opOUT && (in.d == regSREG || in.d == regSPL || in.d == regSPH)
	case opLDS:
		return v.inSRAM(in) || in.k < maxIO && v.isPlain[in.k]
	case opSTS:
		_, _, ok := v.portAt(uint16(in.k))
		return ok || v.inSRAM(in)
	case opRETI, opSPM, opELPM0, opELPM, opELPMInc, opEIJMP, opEICALL:
		return false
	}
	return in.op > opErased && in.op < opSLEEP
}

// inSRAM reports whether a load or a store of an address is one of SRAM.
func (v *Variant) inSRAM(in *instruction) bool {
	return uint16(in.k) >= v.sramStart && uint16(in.k) <= v.ramEnd
}

// hotCode is what there is to translate of a program: copies, since that is done while the program runs.
type hotCode struct {
	v      *Variant
	code   []instruction
	seen   []seen // by word address
	within []bool // the instructions to translate
}

// hotCode gives those of the instructions that were seen which a translation has, and how many.
func (m *Machine) hotCode(all []seen) (h *hotCode, n int) {
	h = &hotCode{m.v, slices.Clone(m.reference), all, make([]bool, len(all))}
	for pc := range all {
		h.within[pc] = all[pc] != 0 && m.suits(int32(pc))
		if h.within[pc] {
			n++
		}
	}
	return h, n
}

// translate makes a module of them.
func (h *hotCode) translate() (t *translation, module []byte) {
	words := len(h.code)
	t = &translation{seen: h.seen, within: h.within, blocks: h.blocks()}
	flash := atBlocks + 2*words
	t.pages = (flash + 2*words + pageSize - 1) / pageSize
	e := emitter{hotCode: h, t: t, atFlash: uint32(flash), mask: int32(words - 1)}
	e.function()
	return t, e.c.Module(parameters, results, locals-parameters, registers, t.pages)
}

// blocks cuts the code into blocks: they begin where something leads to, behind calls, and where nothing leads to that
// is translated.
func (h *hotCode) blocks() (blocks []block) {
	n := len(h.code)
	begins, reached := make([]bool, n), make([]bool, n)
	mask := int32(n - 1)
	for pc, is := range h.within {
		if !is {
			continue
		}
		in := &h.code[pc]
		next := (int32(pc) + in.length()) & mask
		reached[next] = true
		if to, ok := in.leads(next, mask); ok {
			begins[to] = true
		}
		begins[next] = begins[next] || in.ends()
	}
	for pc, is := range h.within {
		if !is || !begins[pc] && reached[pc] {
			continue
		}
		b := block{next: int32(pc)}
		for more := true; more; {
			at := b.next
			in := &h.code[at]
			b.pcs = append(b.pcs, at)
			b.cycles += h.v.cycles(in)
			b.next = (at + in.length()) & mask
			if to, ok := in.leads(b.next, mask); ok && to == int32(pc) {
				b.around = true
			}
			if b.cycles > longest-8 {
				begins[b.next] = true
			}
			more = !in.ends() && h.within[b.next] && !begins[b.next] && b.next > at
		}
		b.first, b.early = h.first(b.pcs)
		blocks = append(blocks, b)
	}
	return blocks
}

// first tells what is done with flags first in some instructions.
func (h *hotCode) first(pcs []int32) (set uint8, early bool) {
	for _, pc := range pcs {
		in := &h.code[pc]
		if in.looks() {
			return 0, false
		}
		if set = in.leaves(); set != 0 {
			return set, early
		}
		early = early || in.mayLeave()
	}
	return 0, false
}

// mayLeave reports whether a translation may be left at an instruction.
func (in *instruction) mayLeave() bool {
	switch in.op {
	case opPUSH, opPOP, opOUT, opSBI, opCBI:
		return true
	}
	return in.op >= opLDX && in.op < opLPM0
}

// looks reports whether an instruction looks at flags, sets them in a way of its own, or goes elsewhere.
func (in *instruction) looks() bool {
	switch in.op {
	case opIN:
		return in.r == regSREG
	case opOUT:
		return in.d == regSREG
	case opNOP, opADD, opSUB, opSUBI, opCP, opCPI, opNEG, opADIW, opSBIW, opAND, opOR, opEOR, opANDI, opORI, opCOM,
		opINC, opDEC, opLSR, opASR, opSWAP, opMOV, opMOVW, opLDI, opLPM, opLPM0, opLPMInc, opPUSH, opPOP, opBST, opBLD,
		opSBI, opCBI:
		return false
	}
	return in.op < opLDX || in.op >= opLPM0
}

// leaves are the flags that an operation sets.
func (in *instruction) leaves() uint8 {
	switch in.op {
	case opADD, opADC, opSUB, opSUBI, opSBC, opSBCI, opCP, opCPI, opCPC, opNEG:
		return arithmetic
	case opADIW, opSBIW, opCOM, opLSR, opROR, opASR:
		return logic | flagC
	case opAND, opOR, opEOR, opANDI, opORI, opINC, opDEC:
		return logic
	}
	return 0
}

// number is that of the block that begins at an address.
func (t *translation) number(pc int32) (int, bool) {
	i := sort.Search(len(t.blocks), func(i int) bool { return t.blocks[i].pcs[0] >= pc })
	return i, i < len(t.blocks) && t.blocks[i].pcs[0] == pc
}

// emitter writes the function, block by block.
type emitter struct {
	*hotCode
	t       *translation
	c       wasm.Code
	atFlash uint32
	mask    int32 // of word addresses

	block int   // the one at hand
	open  int   // loops and ifs in it that are open
	rest  int32 // the cycles from the instruction at hand to the end of the block, ...
	count int32 // ... and the instructions
	pc    int32 // of that instruction
	flags pending
}

// function writes all blocks, each at the end of a block of WebAssembly, so that one can go to every later one
// directly, and to the earlier ones by the table at the beginning of the loop around them.
func (e *emitter) function() {
	n := len(e.t.blocks)
	for r := range uint32(registers) {
		e.c.Get(localZero)
		e.c.Load8(r)
		e.c.SetGlobal(r)
	}
	e.look()
	e.c.Block()
	e.c.Loop()
	for range n {
		e.c.Block()
	}
	e.c.Get(localNext)
	labels := []int{n + 1}
	for i := range n {
		labels = append(labels, i)
	}
	e.c.BrTable(labels, n+1)
	for i := range n {
		e.c.End()
		e.one(i)
	}
	e.c.End()
	e.c.End()
	e.settle()
	for r := range uint32(registers) {
		e.c.Get(localZero)
		e.c.GetGlobal(r)
		e.c.Store8(r)
	}
	for _, l := range []uint32{localPC, localLeft, localSREG, localSP, localCount, localLog, localSEI} {
		e.c.Get(l)
	}
}

// look finds the number of the block at the program counter; it is 0 where there is none.
func (e *emitter) look() {
	e.c.Get(localPC)
	e.c.Const(1)
	e.c.Op(wasm.Shl)
	e.c.Load16(atBlocks)
	e.c.Set(localNext)
}
