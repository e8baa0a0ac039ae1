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

// notZ is a bit of localLazy that tells that Z is not set, whatever is at that place.
const (
	bitNotZ = 20
	notZ    = 1 << bitNotZ
)

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
			e.c.Const(bitNotZ)
			e.c.Op(wasm.Shl, wasm.Or)
		}
		e.c.Set(localLazy)
	}
}

// flagTables are where in the memory the flags of each kind begin.
var flagTables = map[source]int32{fromAdd: atAdd, fromSubtract: atSub, fromLogic: atLogic, fromCOM: atCOM,
	fromINC: atInc, fromDEC: atDec, fromShift: atShift}

// place puts on the stack where in the memory the flags are.
func (e *emitter) place(f pending) {
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
	e.c.Const(flagTables[f.source])
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
	e.c.Const(bitNotZ - at(flagZ))
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
