package avr

import "hemble/core/machine/wasm"

// arithmetic writes additions, subtractions and comparisons of bytes.
func (e *emitter) arithmetic(in *instruction) {
	f := pending{source: fromSubtract}
	keeps, stores, immediate := false, true, false
	switch in.op {
	case opADD:
		f.source = fromAdd
	case opADC:
		f.source, f.carry = fromAdd, true
	case opSBC:
		f.carry, keeps = true, true
	case opSUBI:
		immediate = true
	case opSBCI:
		f.carry, keeps, immediate = true, true, true
	case opCP:
		stores = false
	case opCPC:
		f.carry, keeps, stores = true, true, false
	case opCPI:
		immediate, stores = true, false
	}
	if keeps {
		e.condition(flagZ)
		e.c.Set(localT)
	}
	if f.carry {
		e.condition(flagC)
		e.c.Set(localCarry)
	}
	if keeps {
		e.c.Get(localT)
		e.c.Set(localKept)
	}
	f.keeps = keeps
	switch {
	case in.op == opNEG:
		e.reg(in.d)
		e.c.Set(localB)
		e.c.Const(0)
		e.c.Set(localA)
	case immediate:
		e.reg(in.d)
		e.c.Set(localA)
		e.c.Const(int32(uint8(in.k)))
		e.c.Set(localB)
	default:
		e.reg(in.d)
		e.c.Set(localA)
		e.reg(in.r)
		e.c.Set(localB)
	}
	operation := byte(wasm.Sub)
	if f.source == fromAdd {
		operation = wasm.Add
	}
	e.c.Get(localA)
	e.c.Get(localB)
	e.c.Op(operation)
	if f.carry {
		e.c.Get(localCarry)
		e.c.Op(operation)
	}
	e.c.Set(localResult)
	if stores {
		e.c.Get(localResult)
		e.byte()
		e.setReg(in.d)
	}
	e.flags = f
}

// wide writes ADIW and SBIW.
func (e *emitter) wide(in *instruction) {
	s, operation := fromADIW, byte(wasm.Add)
	if in.op == opSBIW {
		s, operation = fromSBIW, wasm.Sub
	}
	e.prepare(s)
	e.pair(in.d)
	e.c.Tee(localA)
	e.c.Const(in.k)
	e.c.Op(operation)
	e.word()
	e.c.Tee(localResult)
	e.setPair(in.d)
	e.flags = pending{source: s}
}

// logic writes the operations whose flags come from their result, or from it and the bit that was shifted out.
func (e *emitter) logic(in *instruction) {
	s := fromLogic
	switch in.op {
	case opCOM:
		s = fromCOM
	case opINC:
		s = fromINC
	case opDEC:
		s = fromDEC
	case opLSR, opROR, opASR:
		s = fromShift
	}
	if in.op == opROR { // before what it comes from is gone
		e.condition(flagC)
		e.c.Set(localP)
	}
	e.prepare(s)
	e.reg(in.d)
	switch in.op {
	case opAND, opOR, opEOR:
		e.reg(in.r)
	case opANDI, opORI:
		e.c.Const(int32(uint8(in.k)))
	case opCOM:
		e.c.Const(0xff)
	case opINC, opDEC:
		e.c.Const(1)
	case opLSR, opROR, opASR:
		e.c.Const(1)
	}
	switch in.op {
	case opAND, opANDI:
		e.c.Op(wasm.And)
	case opOR, opORI:
		e.c.Op(wasm.Or)
	case opEOR, opCOM:
		e.c.Op(wasm.Xor)
	case opINC:
		e.c.Op(wasm.Add)
		e.byte()
	case opDEC:
		e.c.Op(wasm.Sub)
		e.byte()
	default:
		e.c.Op(wasm.ShrU)
		if in.op == opROR {
			e.c.Get(localP)
			e.c.Const(7)
			e.c.Op(wasm.Shl, wasm.Or)
		} else if in.op == opASR {
			e.bits(in.d, 0x80)
			e.c.Op(wasm.Or)
		}
		e.bits(in.d, 1)
		e.c.Set(localCarry)
	}
	e.c.Tee(localResult)
	e.setReg(in.d)
	e.flags = pending{source: s}
}

// multiply writes the products, whose flags are settled at once.
func (e *emitter) multiply(in *instruction) {
	e.apply()
	first, second := in.op != opMUL && in.op != opFMUL, in.op == opMULS || in.op == opFMULS
	e.reg(in.d)
	if first {
		e.c.Op(wasm.Extend8)
	}
	e.reg(in.r)
	if second {
		e.c.Op(wasm.Extend8)
	}
	e.c.Op(wasm.Mul)
	e.word()
	e.c.Tee(localP)
	e.c.Const(15)
	e.c.Op(wasm.ShrU)
	e.c.Set(localT)
	if in.op >= opFMUL {
		e.c.Get(localP)
		e.c.Const(1)
		e.c.Op(wasm.Shl)
		e.word()
		e.c.Set(localP)
	}
	e.c.Get(localSREG)
	e.mod(^(flagC | flagZ) & 0xff)
	e.c.Get(localT)
	e.c.Op(wasm.Or)
	e.c.Get(localP)
	e.c.Op(wasm.Eqz)
	e.c.Const(at(flagZ))
	e.c.Op(wasm.Shl, wasm.Or)
	e.c.Set(localSREG)
	e.c.Get(localP)
	e.setPair(0)
}
