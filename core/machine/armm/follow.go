package armm

import (
	"math/bits"

	"hemble/core/machine/loops"
)

// Places of the core for walks; memory is by its addresses, in words.
const (
	placeN       = loops.Place(16)
	placeZ       = loops.Place(17)
	placeC       = loops.Place(18)
	placeV       = loops.Place(19)
	placeLess    = loops.Place(20) // N differs from V: of two numbers with a sign the first was less
	placePrimask = loops.Place(21)
)

// SysTickCount is the number by which walks read SysTick.
const SysTickCount = 255

// Times is what a chip tells of its counts: the one that is read at an address, by its number, how many bits it has,
// and from which bit on they are read.
type Times interface {
	TimeAt(address uint32) (id, bits, from uint8, ok bool)
	// Idle tells whether it has no effect to write a value, as long as some register stays as it is.
	Idle(address, v uint32) (register uint32, ok bool)
}

// Look gives what a place of the core or plain memory holds; see loops.Core. known is false for what is the chip's.
func (c *Core) Look(p loops.Place) (v uint64, known bool) {
	flag := func(b bool) (uint64, bool) {
		if b {
			return 1, true
		}
		return 0, true
	}
	switch {
	case p < 16:
		return uint64(c.R[p]), true
	case p == placeN:
		return flag(c.N)
	case p == placeZ:
		return flag(c.Z)
	case p == placeC:
		return flag(c.C)
	case p == placeV:
		return flag(c.V)
	case p == placeLess:
		return flag(c.N != c.V)
	case p == placePrimask:
		return flag(c.primask)
	}
	m := &c.Memories[p>>28]
	if i := uint32(p) & 0x0fff_ffff; uint64(i)+4 <= uint64(len(m.Data)) {
		return uint64(m.Data[i]) | uint64(m.Data[i+1])<<8 | uint64(m.Data[i+2])<<16 | uint64(m.Data[i+3])<<24, true
	}
	return 0, false
}

// LookAtSystem gives what a register of the core's own holds, and until when.
func (c *Core) LookAtSystem(address uint32) (v uint64, until int64, ok bool) {
	switch {
	case address == regCSR && !c.tick.flag(c.Cycle): // reading the flag clears it
		return uint64(c.tick.control), c.tick.nextZero(c.Cycle), true
	case address == regRVR, address >= regISER && address < regIPR, address == regICSR:
		x, ok := c.loadSystem(address, 4)
		return uint64(x), loops.Never, ok
	}
	return 0, 0, false
}

// Put changes a register or a word of memory.
func (c *Core) Put(p loops.Place, v uint64) {
	if p < 16 {
		c.R[p] = uint32(v)
		return
	}
	m, i := &c.Memories[p>>28], uint32(p)&0x0fff_ffff
	m.Data[i], m.Data[i+1], m.Data[i+2], m.Data[i+3] = byte(v), byte(v>>8), byte(v>>16), byte(v>>24)
}

// Count gives SysTick as one that counts up: how far it is below its reload value.
func (c *Core) Count(cycle int64) (loops.Count, bool) {
	t := &c.tick
	if !t.runs() {
		return loops.Count{Value: uint64(t.reload - t.value(cycle)), Until: loops.Never}, true
	}
	return loops.Count{Value: uint64(t.reload - t.value(cycle)), Base: t.since, Period: 1, Until: t.nextZero(c.Cycle)},
		t.value(cycle) <= t.reload
}

// walk is a walk of this core.
type walk struct {
	*loops.Walk
	c *Core
	t Times
}

// Follow walks one instruction; see loops.Core.
func (c *Core) Follow(l *loops.Walk, t Times) bool {
	w := walk{l, c, t}
	pc := l.PC
	in, ok := w.code(pc)
	if !ok {
		return false
	}
	at := func(i uint32) loops.Value { return w.reg(in >> i & 7) }
	imm := func(v uint32) loops.Value { return w.Const(32, uint64(v)) }
	switch in >> 11 {
	case 0b00000:
		a, n := at(3), uint8(in>>6&31)
		if n == 0 {
			w.set(in&7, w.logic(a))
			break
		}
		w.Set(placeC, w.Slice(a, 32-n, 1))
		w.set(in&7, w.logic(w.left(a, n)))
	case 0b00001:
		a, n := at(3), uint8(in>>6&31)
		if n == 0 {
			w.Set(placeC, w.Slice(a, 31, 1))
			w.set(in&7, w.logic(imm(0)))
			break
		}
		w.Set(placeC, w.Slice(a, n-1, 1))
		w.set(in&7, w.logic(w.wide(w.Slice(a, n, 32-n))))
	case 0b00010:
		a, n := at(3), uint8(in>>6&31)
		if n == 0 {
			n = 32
		}
		w.Set(placeC, w.Slice(a, n-1, 1))
		w.set(in&7, w.logic(w.Make(32, uint64(uint32(int64(int32(w.Now(a)))>>n)), a)))
	case 0b00011:
		a, b := at(3), imm(in>>6&7)
		if in>>10&1 == 0 {
			b = at(6)
		}
		if in>>9&1 == 0 {
			w.set(in&7, w.add(a, b, w.Const(1, 0)))
		} else {
			w.set(in&7, w.subtract(a, b, w.Const(1, 0)))
		}
	case 0b00100:
		w.set(in>>8&7, w.logic(imm(in&0xff)))
	case 0b00101:
		w.subtract(at(8), imm(in&0xff), w.Const(1, 0))
	case 0b00110:
		w.set(in>>8&7, w.add(at(8), imm(in&0xff), w.Const(1, 0)))
	case 0b00111:
		w.set(in>>8&7, w.subtract(at(8), imm(in&0xff), w.Const(1, 0)))
	case 0b01000:
		if in>>10&1 == 1 {
			return w.high(in)
		}
		if !w.process16(in) {
			return false
		}
	case 0b01001:
		w.set(in>>8&7, w.load(pc&^3+4+in&0xff<<2, 4))
		l.Cycle++
	case 0b01010, 0b01011:
		address := uint32(w.Known(at(3))) + uint32(w.Known(at(6)))
		l.Cycle += c.extra(address)
		switch in >> 9 & 7 {
		case 0:
			w.store(address, 4, at(0))
		case 1:
			w.store(address, 2, at(0))
		case 2:
			w.store(address, 1, at(0))
		case 3:
			v := w.load(address, 1)
			w.set(in&7, w.Make(32, uint64(uint32(int8(w.Now(v)))), v))
		case 4:
			w.set(in&7, w.load(address, 4))
		case 5:
			w.set(in&7, w.load(address, 2))
		case 6:
			w.set(in&7, w.load(address, 1))
		case 7:
			v := w.load(address, 2)
			w.set(in&7, w.Make(32, uint64(uint32(int16(w.Now(v)))), v))
		}
	case 0b01100, 0b01101, 0b01110, 0b01111, 0b10000, 0b10001, 0b10010, 0b10011:
		w.transfer(in)
	case 0b10100:
		w.set(in>>8&7, imm(pc&^3+4+in&0xff<<2))
	case 0b10101:
		v, _ := w.Add(w.reg(13), imm(in&0xff<<2), w.Const(1, 0))
		w.set(in>>8&7, v)
	case 0b10110, 0b10111:
		if next, ok := w.various(in); !next {
			return ok
		}
	case 0b11000, 0b11001:
		w.multiple(in)
	case 0b11010, 0b11011:
		condition := in >> 8 & 15
		if condition >= 14 {
			return false
		}
		if w.holds(condition) {
			l.PC = pc + 4 + uint32(int32(int8(in)))<<1
			l.Cycle += w.c.variant.Branch
			return true
		}
	case 0b11100:
		l.PC = pc + 4 + uint32(int32(in<<21)>>20)
		l.Cycle += w.c.variant.Branch
		return true
	case 0b11110:
		return w.long(in)
	default:
		return false
	}
	l.PC += 2
	l.Cycle++
	return true
}

// code is half a word of a program.
func (w walk) code(address uint32) (uint32, bool) {
	m, i := &w.c.Memories[address>>28], address&0x0fff_ffff
	if m.Writable || uint64(i)+2 > uint64(len(m.Data)) { // a program in RAM may change itself
		return 0, false
	}
	return uint32(m.Data[i]) | uint32(m.Data[i+1])<<8, true
}

func (w walk) reg(n uint32) loops.Value { return w.Get(loops.Place(n), 32) }

func (w walk) set(n uint32, v loops.Value) { w.Set(loops.Place(n), v) }

// wide fills a value up to 32 bits with zeros.
func (w walk) wide(v loops.Value) loops.Value {
	if n := w.Bits(v); n < 32 {
		return w.Join(v, w.Const(32-n, 0))
	}
	return v
}

// left shifts to the left: doublings.
func (w walk) left(v loops.Value, n uint8) loops.Value {
	for range n {
		v, _ = w.Add(v, v, w.Const(1, 0))
	}
	return v
}

// logic gives a result its N and Z.
func (w walk) logic(v loops.Value) loops.Value {
	n := w.Slice(v, 31, 1)
	w.Set(placeN, n)
	w.Set(placeZ, w.Zero(v))
	over := w.Get(placeV, 1)
	w.Set(placeLess, w.Make(1, w.Now(n)^w.Now(over), n, over))
	return v
}

func (w walk) add(a, b, carry loops.Value) loops.Value {
	v, out := w.Add(a, b, carry)
	x, y, r := w.Now(a), w.Now(b), w.Now(v)
	w.Set(placeC, out)
	w.Set(placeV, w.Make(1, (x^r)&(y^r)>>31&1, a, b, carry))
	return w.logic(v)
}

func (w walk) subtract(a, b, borrow loops.Value) loops.Value {
	v, out := w.Subtract(a, b, borrow)
	x, y, r := w.Now(a), w.Now(b), w.Now(v)
	w.Set(placeC, w.Not(out))
	w.Set(placeV, w.Make(1, (x^y)&(x^r)>>31&1, a, b, borrow))
	w.logic(v)
	if less, ok := w.LessSigned(out); ok {
		w.Set(placeLess, less)
	}
	return v
}

func (w walk) holds(condition uint32) bool {
	flag := func(p loops.Place) bool { return w.Decide(w.Get(p, 1)) }
	v := false
	switch condition >> 1 {
	case 0:
		v = flag(placeZ)
	case 1:
		v = flag(placeC)
	case 2:
		v = flag(placeN)
	case 3:
		v = flag(placeV)
	case 4:
		v = flag(placeC) && !flag(placeZ)
	case 5:
		v = !flag(placeLess)
	case 6:
		v = !flag(placeLess) && !flag(placeZ)
	}
	return v != (condition&1 == 1)
}

func (w walk) process16(in uint32) bool {
	d := in & 7
	a, b := w.reg(d), w.reg(in>>3&7)
	x, y := uint32(w.Now(a)), uint32(w.Now(b))
	zero := w.Const(32, 0)
	made := func(v uint32) { w.set(d, w.logic(w.Make(32, uint64(v), a, b))) }
	and := func() loops.Value {
		if k, ok := w.Fixed(b); ok {
			return w.And(a, k)
		}
		if k, ok := w.Fixed(a); ok {
			return w.And(b, k)
		}
		return w.Make(32, uint64(x&y), a, b)
	}
	switch in >> 6 & 15 {
	case 0:
		w.set(d, w.logic(and()))
	case 1:
		w.set(d, w.logic(w.either(a, b, x^y)))
	case 2, 3, 4, 7: // shifts by a register
		n, ok := w.Fixed(b)
		if !ok {
			n = w.Known(b)
		}
		n &= 0xff
		if n == 0 || n > 31 || in>>6&15 == 7 {
			return false
		}
		switch in >> 6 & 15 {
		case 2:
			w.Set(placeC, w.Slice(a, uint8(32-n), 1))
			w.set(d, w.logic(w.left(a, uint8(n))))
		case 3:
			w.Set(placeC, w.Slice(a, uint8(n-1), 1))
			w.set(d, w.logic(w.wide(w.Slice(a, uint8(n), uint8(32-n)))))
		default:
			w.Set(placeC, w.Slice(a, uint8(n-1), 1))
			w.set(d, w.logic(w.Make(32, uint64(uint32(int32(x)>>n)), a)))
		}
	case 5:
		w.set(d, w.add(a, b, w.Get(placeC, 1)))
	case 6:
		w.set(d, w.subtract(a, b, w.Not(w.Get(placeC, 1))))
	case 8:
		w.logic(and())
	case 9:
		w.set(d, w.subtract(zero, b, w.Const(1, 0)))
	case 10:
		w.subtract(a, b, w.Const(1, 0))
	case 11:
		w.add(a, b, w.Const(1, 0))
	case 12:
		w.set(d, w.logic(w.either(a, b, x|y)))
	case 13:
		made(x * y)
	case 14:
		if k, ok := w.Fixed(b); ok {
			w.set(d, w.logic(w.And(a, uint64(^uint32(k)))))
			break
		}
		made(x &^ y)
	case 15:
		v, _ := w.Subtract(w.Const(32, 0xffff_ffff), b, w.Const(1, 0))
		w.set(d, w.logic(v))
	}
	return true
}

// either is an OR of two values: v, or the one where the other is nothing.
func (w walk) either(a, b loops.Value, v uint32) loops.Value {
	if k, ok := w.Fixed(a); ok && k == 0 {
		return b
	}
	if k, ok := w.Fixed(b); ok && k == 0 {
		return a
	}
	return w.Make(32, uint64(v), a, b)
}

func (w walk) high(in uint32) bool {
	d, n := in&7|in>>4&8, in>>3&15
	v := w.Const(32, uint64(w.PC+4))
	if n != 15 {
		v = w.reg(n)
	}
	switch in >> 8 & 3 {
	case 0:
		if d == 15 {
			return false
		}
		v, _ = w.Add(w.reg(d), v, w.Const(1, 0))
	case 1:
		if d == 15 {
			return false
		}
		w.subtract(w.reg(d), v, w.Const(1, 0))
		d = 16
	case 3:
		to := uint32(w.Known(v))
		if to&1 == 0 || to>>28 == 15 {
			return false
		}
		if in>>7&1 == 1 {
			w.set(14, w.Const(32, uint64(w.PC+2|1)))
		}
		w.PC = to &^ 1
		w.Cycle += w.c.variant.Branch
		return true
	}
	switch {
	case d == 15:
		w.PC = uint32(w.Known(v)) &^ 1
		w.Cycle += w.c.variant.Branch
		return true
	case d == 13:
		w.set(13, w.And(v, 0xffff_fffc))
	case d < 16:
		w.set(d, v)
	}
	w.PC += 2
	w.Cycle++
	return true
}

func (w walk) transfer(in uint32) {
	t, base, offset, size := operands(in)
	address := uint32(w.Known(w.reg(base))) + offset
	w.Cycle += w.c.extra(address)
	if in>>11&1 == 1 {
		w.set(t, w.load(address, size))
	} else {
		w.store(address, size, w.reg(t))
	}
}

// various are the instructions of A5.2.5: next where the program goes on behind it, ok where it was followed at all.
func (w walk) various(in uint32) (next, ok bool) {
	v := w.reg(in >> 3 & 7)
	x := uint32(w.Now(v))
	switch in >> 8 & 15 {
	case 0:
		k := w.Const(32, uint64(in&0x7f<<2))
		sp, _ := w.Add(w.reg(13), k, w.Const(1, 0))
		if in>>7&1 == 1 {
			sp, _ = w.Subtract(w.reg(13), k, w.Const(1, 0))
		}
		w.set(13, sp)
	case 2:
		switch in >> 6 & 3 {
		case 0:
			v = w.Make(32, uint64(uint32(int16(x))), w.Slice(v, 0, 16))
		case 1:
			v = w.Make(32, uint64(uint32(int8(x))), w.Slice(v, 0, 8))
		case 2:
			v = w.wide(w.Slice(v, 0, 16))
		case 3:
			v = w.wide(w.Slice(v, 0, 8))
		}
		w.set(in&7, v)
	case 4, 5:
		list := in&0xff | in>>8&1<<14
		n := uint32(bits.OnesCount32(list))
		at := uint32(w.Known(w.reg(13))) - 4*n
		w.set(13, w.Const(32, uint64(at)))
		for ; list != 0; list &= list - 1 {
			w.store(at, 4, w.reg(uint32(bits.TrailingZeros32(list))))
			at += 4
		}
		w.Cycle += int64(n)
	case 6:
		if in&0xffef != 0xb662 {
			return false, false
		}
		w.Set(placePrimask, w.Const(1, uint64(in>>4&1)))
	case 12, 13:
		at := uint32(w.Known(w.reg(13)))
		for list := in & 0xff; list != 0; list &= list - 1 {
			w.set(uint32(bits.TrailingZeros32(list)), w.load(at, 4))
			at += 4
		}
		w.Cycle += int64(bits.OnesCount32(in & 0xff))
		if in>>8&1 == 1 {
			to := uint32(w.Known(w.load(at, 4)))
			w.set(13, w.Const(32, uint64(at+4)))
			w.Cycle += w.c.variant.Return + 1
			w.PC = to &^ 1
			return false, to&1 == 1 && to>>28 != 15
		}
		w.set(13, w.Const(32, uint64(at)))
	case 15:
		return in>>4&15 < 2, false // NOP, YIELD
	default:
		return false, false
	}
	return true, true
}

func (w walk) multiple(in uint32) {
	base := in >> 8 & 7
	at, list := uint32(w.Known(w.reg(base))), in&0xff
	load := in>>11&1 == 1
	n := uint32(bits.OnesCount32(list))
	end := at + 4*n
	for rest := list; rest != 0; rest &= rest - 1 {
		if t := uint32(bits.TrailingZeros32(rest)); load {
			w.set(t, w.load(at, 4))
		} else {
			w.store(at, 4, w.reg(t))
		}
		at += 4
	}
	if !load || list>>base&1 == 0 {
		w.set(base, w.Const(32, uint64(end)))
	}
	w.Cycle += int64(n)
}

func (w walk) long(in uint32) bool {
	next, ok := w.code(w.PC + 2)
	if !ok {
		return false
	}
	switch {
	case next>>14 == 3 && next>>12&1 == 1:
		w.set(14, w.Const(32, uint64(w.PC+4|1)))
		w.PC += 4 + branchOffset(in, next)
		w.Cycle += w.c.variant.Link
		return true
	case in == 0xf3bf && next&0xffc0 == 0x8f40:
	case in&0xfff0 == 0xf380 && next == 0x8810: // MSR PRIMASK
		w.Set(placePrimask, w.Slice(w.reg(in&15), 0, 1))
	case in == 0xf3ef && next&0xf0ff == 0x8010: // MRS PRIMASK
		w.set(next>>8&15, w.wide(w.Get(placePrimask, 1)))
	default:
		return false
	}
	w.PC += 4
	w.Cycle += w.c.variant.Special
	return true
}

// load reads memory or a register of a peripheral.
func (w walk) load(address uint32, size int) loops.Value {
	if address&uint32(size-1) != 0 {
		return w.nothing()
	}
	bits, from := uint8(8*size), uint8(8*(address&3))
	m, i := &w.c.Memories[address>>28], address&^3&0x0fff_ffff
	switch {
	case uint64(i)+4 <= uint64(len(m.Data)) && !m.Writable:
		v, _ := w.c.Look(loops.Place(address &^ 3))
		return w.Const(32, v>>from&(1<<bits-1))
	case uint64(i)+4 <= uint64(len(m.Data)):
		w.Cycle += m.Wait
		return w.wide(w.Slice(w.Get(loops.Place(address&^3), 32), from, bits))
	case size != 4:
		return w.nothing()
	case address == regCVR && w.c.tick.runs():
		v, _ := w.Subtract(w.Const(24, uint64(w.c.tick.reload)), w.Slice(w.Walk.Count(SysTickCount, 32), 0, 24),
			w.Const(1, 0))
		return w.wide(v)
	}
	if id, bits, from, ok := w.t.TimeAt(address); ok {
		return w.Slice(w.Walk.Count(id, bits), from, 32)
	}
	return w.Input(loops.Place(address), 32)
}

func (w walk) nothing() loops.Value {
	w.Fail()
	return w.Const(32, 0)
}

// store writes memory; peripherals act.
func (w walk) store(address uint32, size int, v loops.Value) {
	m, i := &w.c.Memories[address>>28], address&^3&0x0fff_ffff
	if address&uint32(size-1) != 0 || !m.Writable || uint64(i)+4 > uint64(len(m.Data)) {
		register, idle := w.t.Idle(address, uint32(w.Known(v)))
		if !idle || size != 4 {
			w.Fail()
			return
		}
		w.Known(w.Input(loops.Place(register), 32))
		return
	}
	w.Cycle += m.Wait
	if size == 4 {
		w.Set(loops.Place(address), v)
		return
	}
	mask := (uint64(1)<<(8*size) - 1) << (8 * (address & 3))
	old := w.Get(loops.Place(address&^3), 32)
	part := w.Slice(v, 0, uint8(8*size))
	w.Set(loops.Place(address&^3), w.Make(32, w.Now(old)&^mask|w.Now(part)<<(8*(address&3)), w.And(old, ^mask), part))
}
