package avr

import "hemble/core/machine/wasm"

// one writes a block. Whoever goes to it has made sure that there is time for all of it.
func (e *emitter) one(i int) {
	b := &e.t.blocks[i]
	e.block, e.flags = i, pending{}
	if b.first != 0 {
		e.flags.source = inherited
	}
	e.rest, e.count = b.cycles, int32(len(b.pcs))
	if b.around {
		e.c.Loop()
		e.open++
	}
	e.spend(e.rest, e.count)
	for _, e.pc = range b.pcs {
		in := &e.code[e.pc]
		e.instruction(in)
		e.rest -= e.v.cycles(in)
		e.count--
	}
	if !e.code[e.pc].ends() {
		e.to(b.next)
	}
	if b.around {
		e.c.End()
		e.open--
	}
}

// spend takes cycles from what is left, and counts instructions.
func (e *emitter) spend(cycles, count int32) {
	e.c.Get(localLeft)
	e.c.Const(cycles)
	e.c.Op(wasm.Sub)
	e.c.Set(localLeft)
	if count == 0 {
		return
	}
	e.c.Get(localCount)
	e.c.Const(count)
	e.c.Op(wasm.Add)
	e.c.Set(localCount)
}

// top is the label of the loop around the blocks; behind it is the end of all.
func (e *emitter) top() int { return len(e.t.blocks) - 1 - e.block + e.open }

// leave ends the function at an instruction.
func (e *emitter) leave(pc int32) {
	e.keep()
	e.c.Const(pc)
	e.c.Set(localPC)
	e.c.Br(e.top() + 1)
}

// unlessTime leaves at an instruction if fewer cycles are left than what follows takes.
func (e *emitter) unlessTime(cycles, pc int32) {
	e.c.Get(localLeft)
	e.c.Const(cycles)
	e.c.Op(wasm.LtS)
	e.c.If()
	e.open++
	e.leave(pc)
	e.open--
	e.c.End()
}

// to goes to an address, be it in the translation or not.
func (e *emitter) to(pc int32) {
	n, ok := e.t.number(pc)
	if !ok {
		e.leave(pc)
		return
	}
	b := &e.t.blocks[n]
	e.unlessTime(b.cycles, pc)
	if uint8(e.flags.source.mask())&^b.first != 0 {
		e.write(e.flags)
		e.lazy(0)
	} else if b.early {
		e.keep()
	}
	base := 0
	if e.t.blocks[e.block].around {
		base = 1
	}
	switch {
	case n == e.block+1 && e.open == base: // right behind
	case n == e.block: // around
		e.c.Br(e.open - 1)
	case n > e.block:
		e.c.Br(n - e.block - 1 + e.open)
	default:
		e.c.Const(int32(n + 1))
		e.c.Set(localNext)
		e.c.Br(e.top())
	}
}

// jump goes to the address in localPC, wherever that is.
func (e *emitter) jump() {
	e.apply()
	e.lazy(0)
	e.c.Get(localLeft)
	e.c.Const(longest)
	e.c.Op(wasm.LtS)
	e.c.BrIf(e.top() + 1)
	e.look()
	e.c.Br(e.top())
}

// unless leaves before the instruction at hand, if the stack's top is not 0: run's plain brother carries it out.
func (e *emitter) unless() {
	e.c.If()
	e.open++
	e.spend(-e.rest, -e.count)
	e.leave(e.pc)
	e.open--
	e.c.End()
}

// reg puts a register on the stack.
func (e *emitter) reg(r uint8) { e.c.GetGlobal(uint32(r)) }

// setReg takes a byte from the stack into a register.
func (e *emitter) setReg(r uint8) { e.c.SetGlobal(uint32(r)) }

// pair puts two registers on the stack as one number.
func (e *emitter) pair(r uint8) {
	e.reg(r)
	e.reg(r + 1)
	e.c.Const(8)
	e.c.Op(wasm.Shl, wasm.Or)
}

// setPair takes a number of 16 bits into two registers.
func (e *emitter) setPair(r uint8) {
	e.c.Tee(localT)
	e.byte()
	e.setReg(r)
	e.c.Get(localT)
	e.c.Const(8)
	e.c.Op(wasm.ShrU)
	e.setReg(r + 1)
}

func (e *emitter) byte() { e.mod(0xff) }

func (e *emitter) word() { e.mod(0xffff) }

func (e *emitter) mod(mask int32) {
	e.c.Const(mask)
	e.c.Op(wasm.And)
}

// bits puts on the stack what a register has of a mask.
func (e *emitter) bits(r uint8, mask uint8) {
	e.reg(r)
	e.mod(int32(mask))
}

// instruction writes one.
func (e *emitter) instruction(in *instruction) {
	switch in.op {
	case opNOP:
	case opADD, opADC, opSUB, opSBC, opSUBI, opSBCI, opCP, opCPC, opCPI, opNEG:
		e.arithmetic(in)
	case opADIW, opSBIW:
		e.wide(in)
	case opAND, opOR, opEOR, opANDI, opORI, opCOM, opINC, opDEC, opLSR, opROR, opASR:
		e.logic(in)
	case opMUL, opMULS, opMULSU, opFMUL, opFMULS, opFMULSU:
		e.multiply(in)
	case opSWAP:
		e.reg(in.d)
		e.c.Const(4)
		e.c.Op(wasm.Shl)
		e.byte()
		e.reg(in.d)
		e.c.Const(4)
		e.c.Op(wasm.ShrU, wasm.Or)
		e.setReg(in.d)
	case opMOV:
		e.reg(in.r)
		e.setReg(in.d)
	case opMOVW:
		for i := range uint8(2) {
			e.reg(in.r + i)
			e.setReg(in.d + i)
		}
	case opLDI:
		e.c.Const(int32(uint8(in.k)))
		e.setReg(in.d)
	case opBSET, opBCLR:
		if in.r&arithmetic != 0 {
			e.apply()
		}
		if in.op == opBSET && in.r == flagI {
			e.lets(func() { e.c.Const(flagI) })
		}
		e.c.Get(localSREG)
		if in.op == opBSET {
			e.c.Const(int32(in.r))
			e.c.Op(wasm.Or)
		} else {
			e.mod(int32(^in.r))
		}
		e.c.Set(localSREG)
	case opBST:
		e.c.Get(localSREG)
		e.mod(^flagT & 0xff)
		e.bits(in.d, in.r)
		e.c.Const(0)
		e.c.Op(wasm.Ne)
		e.c.Const(at(flagT))
		e.c.Op(wasm.Shl, wasm.Or)
		e.c.Set(localSREG)
	case opBLD:
		e.bits(in.d, ^in.r)
		e.c.Get(localSREG)
		e.c.Const(at(flagT))
		e.c.Op(wasm.ShrU)
		e.mod(1)
		e.c.Const(at(in.r))
		e.c.Op(wasm.Shl, wasm.Or)
		e.setReg(in.d)
	case opIN:
		e.in(in)
	case opOUT:
		switch in.d {
		case regSREG:
			e.apply()
			e.lets(func() { e.reg(in.r) })
			e.reg(in.r)
			e.c.Set(localSREG)
		case regSPL, regSPH:
			e.outSP(in)
		default:
			e.port(in)
		}
	case opSBI, opCBI:
		e.port(in)
	case opLPM, opLPM0, opLPMInc:
		e.fromFlash(in)
	case opPUSH:
		e.roomAt(0)
		e.c.Get(localSP)
		e.reg(in.d)
		e.c.Store8(0)
		e.moveSP(-1)
	case opPOP:
		e.c.Get(localSP)
		e.c.Const(1)
		e.c.Op(wasm.Add)
		e.c.Tee(localP)
		e.c.Const(int32(e.v.ramEnd))
		e.c.Op(wasm.GtU)
		e.c.Get(localP)
		e.c.Const(int32(e.v.sramStart))
		e.c.Op(wasm.LtU, wasm.Or)
		e.unless()
		e.c.Get(localP)
		e.c.Load8(0)
		e.setReg(in.d)
		e.moveSP(1)
	case opRJMP, opJMP, opIJMP, opBRBS, opBRBC, opCPSE, opSBRC, opSBRS, opSBIC, opSBIS, opRCALL, opICALL, opCALL, opRET:
		e.control(in)
	default:
		e.access(in)
	}
}

func (e *emitter) in(in *instruction) {
	switch in.r {
	case regSREG:
		e.apply()
		e.c.Get(localSREG)
	case regSPL:
		e.c.Get(localSP)
		e.byte()
	case regSPH:
		e.c.Get(localSP)
		e.c.Const(8)
		e.c.Op(wasm.ShrU)
	default:
		e.plain(uint16(in.r))
	}
	e.setReg(in.d)
}

// plain puts a register on the stack that is read like memory.
func (e *emitter) plain(address uint16) {
	e.c.Get(localZero)
	e.c.Load8(atIO + uint32(e.v.registers[address].at))
}

// lets has what a value lets of interrupts take effect: an instruction more comes before one (see interruptsOn).
func (e *emitter) lets(value func()) {
	value()
	e.c.Get(localSREG)
	e.c.Const(-1)
	e.c.Op(wasm.Xor, wasm.And)
	e.mod(flagI)
	e.c.If()
	e.open++
	e.c.Get(localIRQ)
	e.unless()
	e.left(1)
	e.c.Set(localSEI)
	e.open--
	e.c.End()
}

// left puts on the stack what is left behind the instruction at hand, and so much more.
func (e *emitter) left(more int32) {
	e.c.Get(localLeft)
	e.c.Const(e.rest - e.v.cycles(&e.code[e.pc]) + more)
	e.c.Op(wasm.Add)
}

// outSP writes one of the two halves of the stack pointer.
func (e *emitter) outSP(in *instruction) {
	e.c.Get(localSP)
	if in.d == regSPL {
		e.mod(0xff00)
		e.reg(in.r)
	} else {
		e.byte()
		e.reg(in.r)
		e.c.Const(8)
		e.c.Op(wasm.Shl)
	}
	e.c.Op(wasm.Or)
	e.c.Set(localSP)
}

func (e *emitter) fromFlash(in *instruction) {
	e.pair(regZ)
	e.c.Tee(localP)
	e.mod(int32(2*len(e.code) - 1))
	e.c.Load8(e.atFlash)
	if in.op == opLPM0 {
		e.setReg(0)
		return
	}
	e.setReg(in.d)
	if in.op == opLPMInc {
		e.c.Get(localP)
		e.c.Const(1)
		e.c.Op(wasm.Add)
		e.word()
		e.setPair(regZ)
	}
}

func (e *emitter) moveSP(by int32) {
	e.c.Get(localSP)
	e.c.Const(by)
	e.c.Op(wasm.Add)
	e.c.Set(localSP)
}

// roomAt leaves unless the stack has room for a byte, so far below its pointer.
func (e *emitter) roomAt(below int32) {
	e.c.Get(localSP)
	e.c.Get(localFloor)
	e.c.Op(wasm.Sub)
	if below != 0 {
		e.c.Const(below)
		e.c.Op(wasm.Sub)
	}
	e.word()
	e.c.Const(int32(e.v.ramEnd - e.v.sramStart))
	e.c.Op(wasm.GtU)
	e.c.Get(localSP)
	e.c.Const(int32(e.v.ramEnd))
	e.c.Op(wasm.GtU, wasm.Or)
	e.unless()
}

// control writes what goes elsewhere.
func (e *emitter) control(in *instruction) {
	next := (e.pc + 1) & e.mask
	target, _ := in.leads(next, e.mask)
	switch in.op {
	case opRJMP, opJMP:
		e.to(target)
	case opIJMP:
		e.viaZ()
	case opBRBS, opBRBC:
		e.condition(in.r)
		if in.op == opBRBC {
			e.c.Op(wasm.Eqz)
		}
		e.branch(target, 1)
	case opCPSE:
		e.reg(in.d)
		e.reg(in.r)
		e.c.Op(wasm.Eq)
		e.branch(target, int32(in.skip))
	case opSBRC, opSBRS:
		e.bits(in.d, in.r)
		if in.op == opSBRC {
			e.c.Op(wasm.Eqz)
		}
		e.branch(target, int32(in.skip))
	case opSBIC, opSBIS:
		e.plain(uint16(in.d))
		e.mod(int32(in.r))
		if in.op == opSBIC {
			e.c.Op(wasm.Eqz)
		}
		e.branch(target, int32(in.skip))
	case opRCALL, opICALL, opCALL:
		e.roomAt(e.address() - 1)
		back := e.pc + in.length() // as run has it, not around the end of flash
		e.moveSP(-e.address())
		for i := range e.address() {
			e.c.Get(localSP)
			e.c.Const(int32(uint8(back >> (8 * i))))
			e.c.Store8(uint32(e.address() - i))
		}
		if in.op == opICALL {
			e.viaZ()
		} else {
			e.to(target)
		}
	case opRET:
		e.c.Get(localSP)
		e.c.Const(int32(e.v.sramStart))
		e.c.Op(wasm.Sub)
		e.c.Const(int32(e.v.ramEnd-e.v.sramStart) - e.address())
		e.c.Op(wasm.GtU)
		e.unless()
		for i := range e.address() {
			e.c.Get(localSP)
			e.c.Load8(uint32(i + 1))
			if i < e.address()-1 {
				e.c.Const(8 * (e.address() - 1 - i))
				e.c.Op(wasm.Shl)
			}
			if i > 0 {
				e.c.Op(wasm.Or)
			}
		}
		e.mod(e.mask)
		e.c.Set(localPC)
		e.moveSP(e.address())
		e.jump()
	}
}

// address is how many bytes a return address has.
func (e *emitter) address() int32 {
	if e.v.wide {
		return 3
	}
	return 2
}

// viaZ goes to the address in Z.
func (e *emitter) viaZ() {
	e.pair(regZ)
	e.mod(e.mask)
	e.c.Set(localPC)
	e.jump()
}

// branch goes to an address, which takes so many cycles more, if the stack's top is not 0.
func (e *emitter) branch(pc, more int32) {
	in := &e.code[e.pc]
	e.c.If()
	e.open++
	e.spend(more-(e.rest-e.v.cycles(in)), -(e.count - 1))
	e.to(pc)
	e.open--
	e.c.End()
}

// access writes loads and stores.
func (e *emitter) access(in *instruction) {
	store := in.op >= opSTX
	base, before, after, offset, ok := in.through()
	if !ok { // of an address that is known
		switch sram := e.v.inSRAM(in); {
		case store && !sram:
			e.port(in)
		case store:
			e.c.Get(localZero)
			e.reg(in.d)
			e.c.Store8(uint32(uint16(in.k)))
		case sram:
			e.c.Get(localZero)
			e.c.Load8(uint32(uint16(in.k)))
			e.setReg(in.d)
		default:
			e.plain(uint16(in.k))
			e.setReg(in.d)
		}
		return
	}
	e.pair(base)
	offset += before
	if offset != 0 {
		e.c.Const(offset)
		e.c.Op(wasm.Add)
		e.word()
	}
	e.c.Tee(localP)
	e.c.Const(int32(e.v.sramStart))
	e.c.Op(wasm.Sub)
	e.c.Const(int32(e.v.ramEnd - e.v.sramStart))
	e.c.Op(wasm.GtU)
	if e.seen[e.pc]&seenIO != 0 {
		e.t.pins = e.t.pins || store
		e.c.If()
		e.open++
		e.viaIO(in, store)
		e.c.Else()
		e.viaSRAM(in, store)
		e.open--
		e.c.End()
	} else {
		e.unless()
		e.viaSRAM(in, store)
	}
	if before != 0 || after != 0 {
		e.c.Get(localP)
		if after != 0 {
			e.c.Const(after)
			e.c.Op(wasm.Add)
			e.word()
		}
		e.setPair(base)
	}
}

// viaSRAM loads or stores at the address in localP, before the pointer moves.
func (e *emitter) viaSRAM(in *instruction, store bool) {
	e.c.Get(localP)
	if store {
		e.reg(in.d)
		e.c.Store8(0)
	} else {
		e.c.Load8(0)
		e.setReg(in.d)
	}
}
