package avr

import "hemble/core/machine/wasm"

// pinCells are where the memory has what a change of pins is about: locals to count from, and how far on it is.
type pinCells struct {
	closedFrom, closed uint32 // of the pins that are not to change
	latchFrom, latch   uint32 // of PORTx
	where              func() // puts on the stack what the log has of place and port
}

// port writes what sets PORTx or DDRx at an address that is known.
func (e *emitter) port(in *instruction) {
	address := uint16(in.d)
	if in.op == opSTS {
		address = uint16(in.k)
	}
	i, direction, _ := e.v.portAt(address)
	e.plain(address)
	switch in.op { // the pins that are to change
	case opSBI:
		e.mod(int32(in.r))
		e.c.Const(int32(in.r))
		e.c.Op(wasm.Xor)
	case opCBI:
		e.mod(int32(in.r))
	case opSTS:
		e.reg(in.d)
		e.c.Op(wasm.Xor)
	default:
		e.reg(in.r)
		e.c.Op(wasm.Xor)
	}
	if direction {
		e.unless()
		return
	}
	e.t.pins = true
	e.c.Set(localT)
	e.pins(pinCells{localZero, atClosed + uint32(i), localZero, atIO + uint32(e.v.registers[address].at),
		func() { e.c.Const(e.pc | int32(i)<<logPort) }})
}

// viaIO loads or stores at the address in localP, which is not in SRAM: a register that is read like memory, or a
// PORTx.
func (e *emitter) viaIO(in *instruction, store bool) {
	e.c.Get(localP)
	e.c.Const(maxIO)
	e.c.Op(wasm.GeU)
	e.unless()
	e.c.Get(localP)
	e.c.Const(1)
	e.c.Op(wasm.Shl)
	e.c.Load16(atPlain)
	e.c.Tee(localN)
	e.c.Op(wasm.Eqz)
	e.unless()
	e.c.Get(localN)
	e.c.Load8(atIO - 1)
	if !store {
		e.setReg(in.d)
		return
	}
	e.reg(in.d)
	e.c.Op(wasm.Xor)
	e.c.Set(localT)
	e.c.Get(localP)
	e.c.Load8(atPorts)
	e.c.Tee(localV)
	e.c.Op(wasm.Eqz)
	e.unless()
	e.pins(pinCells{localV, atClosed - 1, localN, atIO - 1, func() {
		e.c.Get(localV)
		e.c.Const(1)
		e.c.Op(wasm.Sub)
		e.c.Const(logPort)
		e.c.Op(wasm.Shl)
		e.c.Const(e.pc)
		e.c.Op(wasm.Or)
	}})
}

// pins changes the pins in localT: they go to the log, unless some of them are not to change here, the log is full, or
// the stack is where nobody could tell what called this.
func (e *emitter) pins(at pinCells) {
	e.c.Get(localT)
	e.c.If()
	e.open++
	e.c.Get(at.closedFrom)
	e.c.Load8(at.closed)
	e.c.Get(localT)
	e.c.Op(wasm.And)
	e.c.Get(localSP)
	e.c.Const(int32(e.v.ramEnd))
	e.c.Op(wasm.GtU, wasm.Or)
	e.c.Get(localLog)
	e.c.Const(logEntry * logEntries)
	e.c.Op(wasm.GeU, wasm.Or)
	e.unless()
	e.c.Get(at.latchFrom)
	e.c.Get(at.latchFrom)
	e.c.Load8(at.latch)
	e.c.Get(localT)
	e.c.Op(wasm.Xor)
	e.c.Tee(localLatch)
	e.c.Store8(at.latch)

	for i := uint32(logStackSize); i > 0; { // from the far end: what is nearer is known to be in the memory then
		i -= 8
		e.c.Get(localLog)
		e.c.Get(localSP)
		e.c.Load64(1 + i)
		e.c.Store64(atLog + logStack + i)
	}
	e.c.Get(localLog)
	e.c.Get(localT)
	e.c.Get(localLatch)
	e.c.Const(8)
	e.c.Op(wasm.Shl, wasm.Or)
	e.c.Store16(atLog + logPins)
	e.c.Get(localLog)
	at.where()
	e.c.Store32(atLog + logWhere)
	e.c.Get(localLog)
	e.left(0)
	e.c.Store32(atLog)
	e.c.Get(localLog)
	e.c.Const(logEntry)
	e.c.Op(wasm.Add)
	e.c.Set(localLog)
	e.open--
	e.c.End()
}
