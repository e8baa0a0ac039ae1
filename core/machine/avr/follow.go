package avr

import (
	"math/bits"

	"hemble/core/machine/loops"
)

// The effect of each instruction on values, for the walks of package loops.

// Places of the data space are its addresses, registers among them. What else a program keeps is behind.
const (
	placeFlags = loops.Place(0x10000) // of SREG, one by one
	placeSP    = loops.Place(0x10010)
	placeTemp  = loops.Place(0x10020) // the high byte that a 16-bit reading of a timer keeps
)

// walk is the walk of a machine's loop.
type walk struct {
	*loops.Walk
	m *Machine
}

// Look gives what a place holds.
func (m *Machine) Look(p loops.Place, mask uint64) (v uint64, until int64, ok bool) {
	switch {
	case p >= placeTemp:
		m.unlike++
		return uint64(m.timers[p-placeTemp].temp), loops.Never, true
	case p == placeSP:
		return uint64(m.sp), loops.Never, true
	case p >= placeFlags:
		return uint64(m.sreg >> (p - placeFlags) & 1), loops.Never, true
	case p < 0x20 || p >= loops.Place(m.sramStart):
		return uint64(m.data[p]), loops.Never, true
	case m.v.isPlain[p]:
		return uint64(m.io[m.v.registers[p].at]), loops.Never, true
	case m.v.pinsOf[p] >= 0:
		return m.lookAtPort(int(m.v.pinsOf[p]), uint8(mask))
	}
	m.unlike++
	r := &m.v.registers[p]
	if timers := m.v.timersOf[p]; timers != 0 {
		until = loops.Never
		for i := range m.timers {
			if timers>>i&1 == 1 {
				until = min(until, m.timers[i].quietUntil(m))
			}
		}
		return uint64(r.read(m, r.at)), until, true
	}
	for i := range m.usarts {
		if r.at == m.usarts[i].l.ucsra() {
			return uint64(r.read(m, r.at)), loops.Never, true
		}
	}
	return 0, 0, false
}

// lookAtPort is PINx, constant until an event, but for pins that float.
func (m *Machine) lookAtPort(i int, mask uint8) (v uint64, until int64, ok bool) {
	m.tellWaves(m.cycle)
	p := &m.ports[i]
	if m.cycle <= p.changed || m.waves != 0 && m.wavePins(i)&mask != 0 {
		return 0, 0, false
	}
	high, float := p.high&^m.ext.analog[i], p.float&^m.ext.analog[i]
	if float == 0 {
		return uint64(high), loops.Never, true
	}
	if float&p.watched != 0 && m.config.Watched != nil { // the program is told of it at the first read
		return 0, 0, false
	}
	until = loops.Never
	if mask&float != 0 {
		m.unlike++
		until = (m.cycle/noiseCycles + 1) * noiseCycles
	}
	return uint64(high | float&m.noise(i, m.cycle)), until, true
}

// quietUntil brings a timer up to date and gives the cycle at which the next thing may happen to it.
func (t *timer) quietUntil(m *Machine) int64 {
	t.sync(m, m.cycle)
	p := t.prescaler(m)
	if t.shift >= pinRising || t.frozen || p.held {
		return loops.Never
	}
	tick := (t.synced-p.base)>>t.shift + 1 + t.distance()
	return p.base + tick<<t.shift
}

// Count gives a timer's count.
func (m *Machine) Count(id uint8, cycle int64) (loops.Count, bool) {
	m.unlike++
	t := &m.timers[id]
	until := t.quietUntil(m)
	p := t.prescaler(m)
	if t.shift >= pinRising || t.frozen || p.held {
		return loops.Count{Value: uint64(t.count), Until: until}, true
	}
	if t.down {
		return loops.Count{}, false
	}
	ticks := (cycle-p.base)>>t.shift - (t.synced-p.base)>>t.shift
	return loops.Count{Value: uint64(t.count) + uint64(ticks), Base: p.base, Period: 1 << t.shift, Until: until}, true
}

// Put changes a place of those that may count rounds: a register or a byte of memory.
func (m *Machine) Put(p loops.Place, v uint64) { m.data[p] = uint8(v) }

// Follow walks one instruction.
func (m *Machine) Follow(l *loops.Walk) bool {
	w := walk{l, m}
	pc := int32(l.PC) & m.pcMask
	in := &m.reference[pc]
	cycles, words := int64(1), int32(1)
	switch in.op {
	case opNOP:
	case opMOV:
		w.set(in.d, w.reg(in.r))
	case opMOVW:
		low, high := w.reg(in.r), w.reg(in.r+1)
		w.set(in.d, low)
		w.set(in.d+1, high)
	case opLDI:
		w.set(in.d, w.byte(uint8(in.k)))
	case opADD:
		w.set(in.d, w.add(w.reg(in.d), w.reg(in.r), w.Const(1, 0)))
	case opADC:
		w.set(in.d, w.add(w.reg(in.d), w.reg(in.r), w.flag(indexC)))
	case opSUB:
		w.set(in.d, w.subtract(w.reg(in.d), w.reg(in.r)))
	case opSUBI:
		w.set(in.d, w.subtract(w.reg(in.d), w.byte(uint8(in.k))))
	case opSBC:
		w.set(in.d, w.subtractOn(w.reg(in.d), w.reg(in.r)))
	case opSBCI:
		w.set(in.d, w.subtractOn(w.reg(in.d), w.byte(uint8(in.k))))
	case opCP:
		w.subtract(w.reg(in.d), w.reg(in.r))
	case opCPI:
		w.subtract(w.reg(in.d), w.byte(uint8(in.k)))
	case opCPC:
		w.subtractOn(w.reg(in.d), w.reg(in.r))
	case opADIW, opSBIW:
		w.word(in)
		cycles = 2
	case opAND:
		if in.d == in.r { // TST
			w.logic(w.reg(in.d))
			break
		}
		w.bitwise(in, func(a, b uint8) uint8 { return a & b })
	case opANDI:
		w.set(in.d, w.logic(w.And(w.reg(in.d), uint64(uint8(in.k)))))
	case opOR:
		if in.d == in.r {
			w.logic(w.reg(in.d))
			break
		}
		w.bitwise(in, func(a, b uint8) uint8 { return a | b })
	case opORI:
		all := w.bits(w.reg(in.d))
		for i := range all {
			if in.k>>i&1 == 1 {
				all[i] = w.Const(1, 1)
			}
		}
		w.set(in.d, w.logic(w.Row(all[:]...)))
	case opEOR:
		if in.d == in.r {
			w.set(in.d, w.logic(w.byte(0)))
			break
		}
		w.bitwise(in, func(a, b uint8) uint8 { return a ^ b })
	case opCOM:
		r, _ := w.Subtract(w.byte(0xff), w.reg(in.d), w.Const(1, 0))
		w.set(in.d, w.logic(r))
		w.setFlag(indexC, w.Const(1, 1))
	case opNEG:
		w.set(in.d, w.subtract(w.byte(0), w.reg(in.d)))
	case opINC, opDEC:
		one := uint8(1)
		turn := uint64(0x80)
		if in.op == opDEC {
			one, turn = 0xff, 0x7f
		}
		r, _ := w.Add(w.reg(in.d), w.byte(one), w.Const(1, 0))
		w.set(in.d, w.logic(r))
		v := w.Make(1, is(w.Now(r) == turn), r)
		w.setFlag(indexV, v)
		w.setFlag(indexS, w.Make(1, w.Now(r)>>7^w.Now(v), r, v))
	case opLSR:
		w.shift(in.d, w.Const(1, 0))
	case opASR:
		w.shift(in.d, w.Slice(w.reg(in.d), 7, 1))
	case opROR:
		w.shift(in.d, w.flag(indexC))
	case opSWAP:
		all := w.bits(w.reg(in.d))
		w.set(in.d, w.Row(append(all[4:], all[:4]...)...))
	case opMUL, opMULS, opMULSU, opFMUL, opFMULS, opFMULSU:
		cycles = w.product(in)
	case opBST:
		w.setFlag(indexT, w.Slice(w.reg(in.d), log2(in.r), 1))
	case opBLD:
		all := w.bits(w.reg(in.d))
		all[log2(in.r)] = w.flag(indexT)
		w.set(in.d, w.Row(all[:]...))
	case opBSET, opBCLR:
		for rest := in.r; rest != 0; rest &= rest - 1 {
			w.setFlag(log2(rest), w.Const(1, is(in.op == opBSET)))
		}

	case opRJMP, opJMP:
		l.PC = uint32(in.k)
		l.Cycle += 2
		if in.op == opJMP {
			l.Cycle++
		}
		return true
	case opIJMP:
		l.PC = uint32(w.pointer(regZ, 0, 0)) & uint32(m.pcMask)
		l.Cycle += 2
		return true
	case opBRBS, opBRBC:
		l.Cycle++
		if l.PC = uint32(pc+1) & uint32(m.pcMask); w.Decide(w.flag(log2(in.r))) == (in.op == opBRBS) {
			l.PC = uint32(in.k)
			l.Cycle++
		}
		return true
	case opCPSE:
		difference, _ := w.Subtract(w.reg(in.d), w.reg(in.r), w.Const(1, 0))
		return w.skipIf(w.Decide(w.Zero(difference)), in)
	case opSBRC, opSBRS:
		return w.skipIf(w.Decide(w.Slice(w.reg(in.d), log2(in.r), 1)) == (in.op == opSBRS), in)
	case opSBIC, opSBIS:
		return w.skipIf(w.Decide(w.Slice(w.load(uint16(in.d)), log2(in.r), 1)) == (in.op == opSBIS), in)
	case opSBI, opCBI:
		w.writeBit(uint16(in.d), in.r, in.op == opSBI)
		cycles = 2
	case opRCALL:
		return w.call(in.k, pc+1, 3)
	case opICALL:
		return w.call(int32(w.pointer(regZ, 0, 0)), pc+1, 3)
	case opCALL:
		return w.call(in.k, pc+2, 4)
	case opRET:
		back := uint64(0)
		if l.Cycle += 4; m.v.wide {
			l.Cycle++
			back = w.Known(w.pop())
		}
		back = back<<8 | w.Known(w.pop())
		back = back<<8 | w.Known(w.pop())
		l.PC = uint32(back) & uint32(m.pcMask)
		return true
	case opPUSH:
		w.push(w.reg(in.d))
		cycles = 2
	case opPOP:
		w.set(in.d, w.pop())
		cycles = 2

	case opLDX, opLDXInc, opLDXDec, opLDYInc, opLDYDec, opLDDY, opLDZInc, opLDZDec, opLDDZ, opLDS:
		if in.loadsPointer() {
			return false
		}
		address := w.address(in)
		l.Cycle++ // a load sees what is there at its last cycle but one
		w.set(in.d, w.load(address))
		if in.op == opLDS {
			words = 2
		}
	case opSTX, opSTXInc, opSTXDec, opSTYInc, opSTYDec, opSTDY, opSTZInc, opSTZDec, opSTDZ, opSTS:
		v := w.reg(in.d)
		w.store(w.address(in), v)
		cycles = 2
		if in.op == opSTS {
			words = 2
		}
	case opLPM0:
		w.set(0, w.flash(w.pointer(regZ, 0, 0)))
		cycles = 3
	case opLPM:
		w.set(in.d, w.flash(w.pointer(regZ, 0, 0)))
		cycles = 3
	case opLPMInc:
		if in.loadsPointer() {
			return false
		}
		w.set(in.d, w.flash(w.pointer(regZ, 0, 1)))
		cycles = 3
	case opIN:
		w.set(in.d, w.load(uint16(in.r)))
	case opOUT:
		w.store(uint16(in.d), w.reg(in.r))
	default: // what acts on more than registers and memory
		return false
	}
	l.Cycle += cycles
	l.PC = uint32(pc+words) & uint32(m.pcMask)
	return true
}

const (
	indexC = iota
	indexZ
	indexN
	indexV
	indexS
	indexH
	indexT
)

// log2 of the lowest bit of a mask.
func log2(mask uint8) uint8 { return uint8(bits.TrailingZeros8(mask)) }

func is(b bool) uint64 {
	if b {
		return 1
	}
	return 0
}

// reg is a register. The compiler keeps 0 in r1, and counts on it: so do we while it is so.
func (w walk) reg(r uint8) loops.Value {
	v := w.Get(loops.Place(r), 8)
	if r == 1 && w.Now(v) == 0 {
		w.Known(v)
		return w.byte(0)
	}
	return v
}

func (w walk) set(r uint8, v loops.Value) { w.Set(loops.Place(r), v) }

func (w walk) byte(v uint8) loops.Value { return w.Const(8, uint64(v)) }

func (w walk) flag(i uint8) loops.Value { return w.Get(placeFlags+loops.Place(i), 1) }

func (w walk) setFlag(i uint8, v loops.Value) { w.Set(placeFlags+loops.Place(i), v) }

// add is a + b + c with its flags.
func (w walk) add(a, b, c loops.Value) loops.Value {
	sum, carry := w.Add(a, b, c)
	x, y, r := w.Now(a), w.Now(b), w.Now(sum)
	w.setFlag(indexC, carry)
	w.setFlag(indexZ, w.Zero(sum))
	n := w.Slice(sum, 7, 1)
	w.setFlag(indexN, n)
	v := w.Make(1, (x^r)&(y^r)>>7&1, a, b, c)
	w.setFlag(indexV, v)
	w.setFlag(indexS, w.Make(1, w.Now(n)^w.Now(v), n, v))
	w.setFlag(indexH, w.Make(1, (x&15+y&15+w.Now(c))>>4&1, a, b, c))
	return sum
}

// subtract is a - b with its flags, where nothing below goes on.
func (w walk) subtract(a, b loops.Value) loops.Value { return w.difference(a, b, w.Const(1, 0), nil) }

// subtractOn is a - b with the borrow and Z of the bytes below.
func (w walk) subtractOn(a, b loops.Value) loops.Value {
	z := w.flag(indexZ)
	return w.difference(a, b, w.flag(indexC), &z)
}

func (w walk) difference(a, b, c loops.Value, below *loops.Value) loops.Value {
	d, borrow := w.Subtract(a, b, c)
	x, y, r := w.Now(a), w.Now(b), w.Now(d)
	w.setFlag(indexC, borrow)
	if below != nil {
		w.setFlag(indexZ, w.AlsoZero(*below, d))
	} else {
		w.setFlag(indexZ, w.Zero(d))
	}
	n := w.Slice(d, 7, 1)
	w.setFlag(indexN, n)
	v := w.Make(1, (x^y)&(x^r)>>7&1, a, b, c)
	w.setFlag(indexV, v)
	s, ok := w.LessSigned(borrow)
	if !ok {
		s = w.Make(1, w.Now(n)^w.Now(v), n, v)
	}
	w.setFlag(indexS, s)
	w.setFlag(indexH, w.Make(1, is(x&15 < y&15+w.Now(c)), a, b, c))
	return d
}

// word is ADIW and SBIW.
func (w walk) word(in *instruction) {
	a, k := w.Join(w.reg(in.d), w.reg(in.d+1)), w.Const(16, uint64(in.k))
	x := uint16(w.Now(a))
	var r, carry loops.Value
	var over uint16
	if in.op == opADIW {
		r, carry = w.Add(a, k, w.Const(1, 0))
		over = ^x & uint16(w.Now(r)) >> 15
	} else {
		r, carry = w.Subtract(a, k, w.Const(1, 0))
		over = x &^ uint16(w.Now(r)) >> 15
	}
	w.set(in.d, w.Slice(r, 0, 8))
	w.set(in.d+1, w.Slice(r, 8, 8))
	w.setFlag(indexC, carry)
	w.setFlag(indexZ, w.Zero(r))
	n := w.Slice(r, 15, 1)
	w.setFlag(indexN, n)
	v := w.Make(1, uint64(over), a)
	w.setFlag(indexV, v)
	w.setFlag(indexS, w.Make(1, w.Now(n)^w.Now(v), n, v))
}

// logic gives a result the flags of a logic operation.
func (w walk) logic(r loops.Value) loops.Value {
	n := w.Slice(r, 7, 1)
	w.setFlag(indexZ, w.Zero(r))
	w.setFlag(indexN, n)
	w.setFlag(indexV, w.Const(1, 0))
	w.setFlag(indexS, n)
	return r
}

// bitwise is a logic operation of two registers.
func (w walk) bitwise(in *instruction, f func(a, b uint8) uint8) {
	a, b := w.reg(in.d), w.reg(in.r)
	v := f(uint8(w.Now(a)), uint8(w.Now(b)))
	k, fixed := w.Fixed(b)
	if !fixed {
		a, b = b, a
		k, fixed = w.Fixed(b)
	}
	switch {
	case fixed && in.op == opAND:
		w.set(in.d, w.logic(w.And(a, k)))
	case fixed && k == 0:
		w.set(in.d, w.logic(a))
	default:
		w.set(in.d, w.logic(w.Make(8, uint64(v), a, b)))
	}
}

// bits are those of a byte, the lowest first.
func (w walk) bits(v loops.Value) (all [8]loops.Value) {
	for i := range all {
		all[i] = w.Slice(v, uint8(i), 1)
	}
	return all
}

// shift shifts a register to the right.
func (w walk) shift(r uint8, top loops.Value) {
	all := w.bits(w.reg(r))
	carry := all[0]
	v := w.Row(append(all[1:], top)...)
	w.set(r, v)
	w.logic(v)
	w.setFlag(indexC, carry)
	over := w.Make(1, w.Now(top)^w.Now(carry), top, carry) // V = N xor C, S = N xor V, which is C
	w.setFlag(indexV, over)
	w.setFlag(indexS, carry)
}

// product has the plain interpreter multiply what the registers hold now: what comes of it is not followed.
func (w walk) product(in *instruction) int64 {
	m, a, b := w.m, w.reg(in.d), w.reg(in.r)
	sreg, pc, cycle := m.sreg, m.pc, m.cycle // a machine of no more than registers and SREG
	before := [32]uint8(m.data[:32])
	m.data[in.d], m.data[in.r] = uint8(w.Now(a)), uint8(w.Now(b))
	m.cycle = 0
	m.execute(*in)
	took, after := m.cycle, m.sreg
	for r := range uint8(2) {
		w.set(r, w.Make(8, uint64(m.data[r]), a, b))
	}
	copy(m.data[:32], before[:])
	m.sreg, m.pc, m.cycle = sreg, pc, cycle
	for _, i := range []uint8{indexC, indexZ} {
		w.setFlag(i, w.Make(1, uint64(after>>i&1), a, b))
	}
	return took
}

func (w walk) skipIf(condition bool, in *instruction) bool {
	w.PC++
	w.Cycle++
	if condition {
		w.PC += uint32(in.skip)
		w.Cycle += int64(in.skip)
	}
	w.PC &= uint32(w.m.pcMask)
	return true
}

// pointer gives the address in a pair of registers, and moves it.
func (w walk) pointer(r uint8, before, after int32) uint16 {
	p := uint16(w.Known(w.reg(r))) | uint16(w.Known(w.reg(r+1)))<<8
	p += uint16(before)
	if before != 0 || after != 0 {
		next := p + uint16(after)
		w.set(r, w.byte(uint8(next)))
		w.set(r+1, w.byte(uint8(next>>8)))
	}
	return p
}

// loadsPointer reports whether an instruction loads into the pointer that it moves, which is undefined (instruction set
// manual, LD, "Note"): in the interpreters the pointer wins.
func (in *instruction) loadsPointer() bool {
	pointer, before, after, _, _ := in.through()
	return before|after != 0 && in.d&^1 == pointer
}

// address is that of a load or a store.
func (w walk) address(in *instruction) uint16 {
	pointer, before, after, offset, ok := in.through()
	if !ok {
		return uint16(in.k)
	}
	return w.pointer(pointer, before, after) + uint16(offset)
}

func (w walk) flash(address uint16) loops.Value {
	return w.byte(w.m.flash[int(address)&(len(w.m.flash)-1)])
}

func (w walk) call(target, back int32, cycles int64) bool {
	w.push(w.byte(uint8(back)))
	w.push(w.byte(uint8(back >> 8)))
	if w.Cycle += cycles; w.m.v.wide {
		w.push(w.byte(uint8(back >> 16)))
		w.Cycle++
	}
	w.PC = uint32(target & w.m.pcMask)
	return true
}

// stack is the stack pointer.
func (w walk) stack() uint16 { return uint16(w.Known(w.Get(placeSP, 16))) }

func (w walk) setStack(sp uint16) { w.Set(placeSP, w.Const(16, uint64(sp))) }

func (w walk) push(v loops.Value) {
	sp := w.stack()
	if sp <= w.m.stackFloor || sp > w.m.ramEnd {
		w.Fail()
		return
	}
	w.Set(loops.Place(sp), v)
	w.setStack(sp - 1)
}

func (w walk) pop() loops.Value {
	sp := w.stack() + 1
	if sp > w.m.ramEnd || sp < w.m.sramStart {
		return w.Fail()
	}
	w.setStack(sp)
	return w.Get(loops.Place(sp), 8)
}

// load reads the data space.
func (w walk) load(address uint16) loops.Value {
	m := w.m
	switch {
	case address > m.ramEnd || address < 0x20:
		return w.Fail()
	case address >= m.sramStart:
		return w.Get(loops.Place(address), 8)
	case address == regSREG:
		all := [8]loops.Value{}
		for i := range all {
			all[i] = w.flag(uint8(i))
		}
		return w.Row(all[:]...)
	case address == regSPL:
		return w.byte(uint8(w.stack()))
	case address == regSPH:
		return w.byte(uint8(w.stack() >> 8))
	case m.v.registers[address].name == "":
		return w.Fail()
	}
	at := m.v.registers[address].at
	for i := range m.timers {
		switch t := &m.timers[i]; {
		case at == t.tcnt && t.wide:
			c := w.Count(uint8(i), 16)
			w.Set(placeTemp+loops.Place(i), w.Slice(c, 8, 8))
			return w.Slice(c, 0, 8)
		case at == t.tcnt:
			return w.Count(uint8(i), 8)
		case t.wide && at == t.tcnt+1:
			return w.Get(placeTemp+loops.Place(i), 8)
		}
	}
	return w.Input(loops.Place(address), 8)
}

// store writes the data space. Of I/O registers SREG and the stack pointer may be written, and of a port's, and of a
// timer's that no pin follows, what is there already: others act.
func (w walk) store(address uint16, v loops.Value) {
	m := w.m
	switch {
	case address >= m.sramStart && address <= m.ramEnd:
		w.Set(loops.Place(address), v)
	case address == regSREG:
		for i := range uint8(8) {
			w.setFlag(i, w.Slice(v, i, 1))
		}
	case address == regSPL:
		w.setStack(w.stack()&0xff00 | uint16(w.Known(v)))
	case address == regSPH:
		w.setStack(w.stack()&0x00ff | uint16(w.Known(v))<<8)
	case m.keeps(address) && w.Known(v) == uint64(m.io[m.v.registers[address].at]):
		w.Known(w.Input(loops.Place(address), 8))
	default:
		w.Fail()
	}
}

// writeBit is SBI and CBI, where the bit is as it shall be.
func (w walk) writeBit(address uint16, mask uint8, on bool) {
	if !w.m.keeps(address) || (w.m.io[w.m.v.registers[address].at]&mask != 0) != on {
		w.Fail()
		return
	}
	w.Known(w.And(w.Input(loops.Place(address), 8), uint64(mask)))
}

// keeps reports whether writing an I/O register as it is changes nothing: DDRx, PORTx, and TCCRnA of a timer that
// drives no pin. The packaged core does the last whenever a pin is read that the timer could drive.
func (m *Machine) keeps(address uint16) bool {
	if address >= m.sramStart {
		return false
	}
	address = m.v.registers[address].at
	for _, l := range m.v.ports {
		if address == l.base+1 || address == l.base+2 {
			return true
		}
	}
	for i := range m.timers {
		if m.timers[i].tccra == address {
			return m.io[address]&^3 == 0
		}
	}
	return false
}
