package avr

import "hemble/core/machine/wasm"

// The flags of SREG are only computed where something looks at them: until then it is known what they come from, within
// a block here, and from a block to the next and to the end by localLazy.

// source is the kind of operation that flags come from.
type source uint8

const (
	settled      source = iota // all are in SREG
	fromAdd                    // localA + localB + localCarry = localResult
	fromSubtract               // localA - localB - localCarry = localResult, not cut to a byte
	fromLogic                  // localResult
	fromCOM
	fromINC
	fromDEC
	fromShift // localResult, and localCarry
	fromADIW  // of localA comes localResult, both 16 bits
	fromSBIW
	inherited // from the block before: localLazy knows
)

// pending is what flags come from.
type pending struct {
	source source
	carry  bool // there is a carry in
	keeps  bool // Z is only ever cleared: localKept
}

// mask is which flags an operation leaves.
func (s source) mask() int32 {
	switch s {
	case fromAdd, fromSubtract:
		return arithmetic
	case fromCOM, fromShift, fromADIW, fromSBIW:
		return logic | flagC
	case fromLogic, fromINC, fromDEC:
		return logic
	}
	return 0
}

// prepare settles what an operation whose flags come from elsewhere leaves as it was, before its operands are set.
func (e *emitter) prepare(s source) {
	if e.flags.source.mask()&^s.mask() != 0 {
		e.apply()
	}
}

// apply settles the flags.
func (e *emitter) apply() {
	e.write(e.flags)
	e.flags = pending{}
}

// notZ in localLazy tells that Z is not set, whatever is at that place.
const notZ = 1 << 20

// lazy sets localLazy.
func (e *emitter) lazy(v int32) {
	e.c.Const(v)
	e.c.Set(localLazy)
}

// keep lets localLazy, or SREG, know the flags, for a block that does not look at them, and for the end of all.
func (e *emitter) keep() {
	switch f := e.flags; f.source {
	case inherited:
	case settled:
		e.lazy(0)
	case fromADIW, fromSBIW:
		e.write(f)
		e.lazy(0)
	default:
		e.place(f)
		if f.keeps {
			e.c.Get(localKept)
			e.c.Op(wasm.Eqz)
			e.c.Const(20)
			e.c.Op(wasm.Shl, wasm.Or)
		}
		e.c.Set(localLazy)
	}
}

// place puts on the stack where in the memory the flags are.
func (e *emitter) place(f pending) {
	offset := map[source]int32{fromAdd: atAdd, fromSubtract: atSub, fromLogic: atLogic, fromCOM: atCOM, fromINC: atInc,
		fromDEC: atDec, fromShift: atShift}[f.source]
	switch f.source {
	case fromAdd, fromSubtract:
		e.c.Get(localA)
		e.c.Const(8)
		e.c.Op(wasm.Shl)
		e.c.Get(localB)
		e.c.Op(wasm.Or)
		if f.carry {
			e.c.Get(localCarry)
			e.c.Const(16)
			e.c.Op(wasm.Shl, wasm.Or)
		}
	case fromShift:
		e.c.Get(localCarry)
		e.c.Const(8)
		e.c.Op(wasm.Shl)
		e.c.Get(localResult)
		e.c.Op(wasm.Or)
	default:
		e.c.Get(localResult)
	}
	e.c.Const(offset)
	e.c.Op(wasm.Add)
}

// settle has SREG be what localLazy knows.
func (e *emitter) settle() {
	e.c.Get(localLazy)
	e.c.If()
	e.c.Get(localLazy)
	e.mod(notZ - 1)
	e.c.Tee(localP)
	e.c.Load8(0)
	e.c.Get(localLazy)
	e.c.Const(notZ)
	e.c.Op(wasm.And)
	e.c.Const(20 - 1)
	e.c.Op(wasm.ShrU)
	e.c.Const(-1)
	e.c.Op(wasm.Xor, wasm.And) // the flags; then those that are not among them
	e.c.Get(localSREG)
	e.c.Const(^logic & 0xff)
	for _, more := range [][2]int32{{atCOM, flagC}, {atAdd, flagH}} {
		e.c.Get(localP)
		e.c.Const(more[0])
		e.c.Op(wasm.GeU)
		e.c.Const(at(uint8(more[1])))
		e.c.Op(wasm.Shl, wasm.Sub)
	}
	e.c.Op(wasm.And, wasm.Or)
	e.c.Set(localSREG)
	e.c.End()
}

// write has SREG be what it is by now, without a change of what is known for the way on.
func (e *emitter) write(f pending) {
	if f.source == settled || f.source == inherited {
		return
	}
	e.c.Get(localSREG)
	e.mod(^f.source.mask() & 0xff)
	if f.source == fromADIW || f.source == fromSBIW {
		e.wordFlags(f.source)
	} else {
		e.place(f)
		e.c.Load8(0)
	}
	if f.keeps {
		e.c.Get(localKept)
		e.c.Const(at(flagZ))
		e.c.Op(wasm.Shl)
		e.c.Const(^flagZ & 0xff)
		e.c.Op(wasm.Or, wasm.And)
	}
	e.c.Op(wasm.Or)
	e.c.Set(localSREG)
}

// wordFlags puts the flags of ADIW or SBIW on the stack, as wordFlags has them.
func (e *emitter) wordFlags(s source) {
	bit15 := func(clear, is uint32) { // of ^clear & is
		e.c.Get(clear)
		e.c.Const(-1)
		e.c.Op(wasm.Xor)
		e.c.Get(is)
		e.c.Op(wasm.And)
		e.c.Const(15)
		e.c.Op(wasm.ShrU)
		e.mod(1)
	}
	carry, overflow := [2]uint32{localResult, localA}, [2]uint32{localA, localResult}
	if s == fromSBIW {
		carry, overflow = overflow, carry
	}
	bit15(carry[0], carry[1])
	bit15(overflow[0], overflow[1])
	e.c.Tee(localV)
	e.c.Const(at(flagV))
	e.c.Op(wasm.Shl, wasm.Or)
	e.c.Get(localResult)
	e.c.Const(15)
	e.c.Op(wasm.ShrU)
	e.c.Tee(localN)
	e.c.Const(at(flagN))
	e.c.Op(wasm.Shl, wasm.Or)
	e.c.Get(localV)
	e.c.Get(localN)
	e.c.Op(wasm.Xor)
	e.c.Const(at(flagS))
	e.c.Op(wasm.Shl, wasm.Or)
	e.c.Get(localResult)
	e.c.Op(wasm.Eqz)
	e.c.Const(at(flagZ))
	e.c.Op(wasm.Shl, wasm.Or)
}

// at is where a flag or a bit is.
func at(mask uint8) int32 { return int32(log2(mask)) }

// condition puts a flag on the stack, 0 or 1.
func (e *emitter) condition(flag uint8) {
	f := e.flags
	shifted := func(local uint32, by int32) {
		e.c.Get(local)
		e.c.Const(by)
		e.c.Op(wasm.ShrU)
	}
	switch {
	case f.source == fromAdd && flag == flagC:
		shifted(localResult, 8)
	case f.source == fromSubtract && flag == flagC:
		shifted(localResult, 31)
	case f.source == fromShift && flag == flagC:
		e.c.Get(localCarry)
	case f.source == fromCOM && flag == flagC:
		e.c.Const(1)
	case f.source == fromSBIW && flag == flagC: // a borrow: the result is larger
		e.c.Get(localResult)
		e.c.Get(localA)
		e.c.Op(wasm.GtU)
	case (f.source == fromAdd || f.source == fromSubtract) && flag == flagZ:
		e.c.Get(localResult)
		e.byte()
		e.c.Op(wasm.Eqz)
		if f.keeps {
			e.c.Get(localKept)
			e.c.Op(wasm.And)
		}
	case f.source != settled && f.source < fromADIW && flag == flagN,
		(f.source == fromLogic || f.source == fromCOM) && flag == flagS:
		shifted(localResult, 7)
		e.mod(1)
	case f.source == fromSubtract && flag == flagS:
		e.c.Get(localA)
		e.c.Op(wasm.Extend8)
		e.c.Get(localB)
		e.c.Op(wasm.Extend8)
		if f.carry {
			e.c.Op(wasm.Sub)
			e.c.Get(localCarry)
			e.c.Op(wasm.Sub)
			e.c.Const(31)
			e.c.Op(wasm.ShrU)
		} else {
			e.c.Op(wasm.LtS)
		}
	case f.source > fromSubtract && f.source < inherited && flag == flagZ:
		e.c.Get(localResult)
		e.c.Op(wasm.Eqz)
	default:
		if f.source.mask()&int32(flag) != 0 {
			e.apply()
		}
		shifted(localSREG, at(flag))
		e.mod(1)
	}
}

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
