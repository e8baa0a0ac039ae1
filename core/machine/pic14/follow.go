package pic14

import "hemble/core/machine/loops"

// The effect of each instruction on values, for the walks of package loops.

// walk is the walk of a machine's loop.
type walk struct {
	*loops.Walk
	m *Machine
}

// Bits of STATUS by their number.
const (
	indexC  = 0
	indexDC = 1
	indexZ  = 2
)

// Follow walks one instruction.
func (m *Machine) Follow(l *loops.Walk) bool {
	w := walk{l, m}
	pc := uint16(l.PC) & m.mask
	in := m.plain[pc]
	skip := false
	switch in.op {
	case opNOP:
	case opCLRWDT:
		if m.dog.on(m) { // when it was cleared last would have to be kept
			return false
		}
		w.setFlag(3, w.Const(1, 1))
		w.setFlag(4, w.Const(1, 1))
	case opMOVLW:
		w.setW(w.byte(uint8(in.k)))
	case opMOVWF:
		w.store(in, w.w())
	case opCLRW:
		w.setW(w.zero(w.byte(0)))
	case opCLRF:
		w.store(in, w.zero(w.byte(0)))
	case opMOVF:
		w.result(in, w.zero(w.load(in)))
	case opADDWF:
		w.result(in, w.add(w.load(in), w.w()))
	case opADDLW:
		w.setW(w.add(w.w(), w.byte(uint8(in.k))))
	case opSUBWF:
		w.result(in, w.subtract(w.load(in), w.w()))
	case opSUBLW:
		w.setW(w.subtract(w.byte(uint8(in.k)), w.w()))
	case opINCF, opINCFSZ, opDECF, opDECFSZ:
		one := uint8(1)
		if in.op == opDECF || in.op == opDECFSZ {
			one = 0xff
		}
		r, _ := w.Add(w.load(in), w.byte(one), w.Const(1, 0))
		if in.op == opINCF || in.op == opDECF {
			w.zero(r)
		}
		w.result(in, r)
		skip = (in.op == opINCFSZ || in.op == opDECFSZ) && w.Decide(w.Zero(r))
	case opANDLW:
		w.setW(w.zero(w.And(w.w(), uint64(in.k))))
	case opIORLW, opXORLW:
		w.setW(w.zero(w.bitwise(in.op, w.w(), w.byte(uint8(in.k)))))
	case opANDWF, opIORWF, opXORWF:
		w.result(in, w.zero(w.bitwise(in.op, w.load(in), w.w())))
	case opCOMF:
		r, _ := w.Subtract(w.byte(0xff), w.load(in), w.Const(1, 0))
		w.result(in, w.zero(r))
	case opSWAPF:
		all := w.bits(w.load(in))
		w.result(in, w.Row(append(all[4:], all[:4]...)...))
	case opRRF:
		all := w.bits(w.load(in))
		r := w.Row(append(all[1:], w.flag(indexC))...)
		w.setFlag(indexC, all[0])
		w.result(in, r)
	case opRLF:
		all := w.bits(w.load(in))
		r := w.Row(append([]loops.Value{w.flag(indexC)}, all[:7]...)...)
		w.setFlag(indexC, all[7])
		w.result(in, r)
	case opBCF, opBSF:
		w.writeBit(in)
	case opBTFSC, opBTFSS:
		skip = w.Decide(w.bit(in)) == (in.op == opBTFSS)
	case opGOTO:
		l.PC = w.target(in.k)
		l.Cycle += 2
		return true
	case opCALL:
		depth := w.depth()
		if depth >= 8 {
			return false
		}
		w.Set(placeStack+loops.Place(depth), w.Const(16, uint64((pc+1)&m.mask)))
		w.Set(placeDepth, w.Const(8, depth+1))
		l.PC = w.target(in.k)
		l.Cycle += 2
		return true
	case opRETURN, opRETLW:
		depth := w.depth()
		if depth == 0 {
			return false
		}
		if in.op == opRETLW {
			w.setW(w.byte(uint8(in.k)))
		}
		w.Set(placeDepth, w.Const(8, depth-1))
		l.PC = uint32(w.Known(w.Get(placeStack+loops.Place(depth-1), 16))) & uint32(m.mask)
		l.Cycle += 2
		return true
	default: // what acts on more than registers and memory
		return false
	}
	l.Cycle++
	l.PC = uint32(pc+1) & uint32(m.mask)
	if skip {
		l.Cycle++
		l.PC = uint32(pc+2) & uint32(m.mask)
	}
	return true
}

func (w walk) byte(v uint8) loops.Value { return w.Const(8, uint64(v)) }

func (w walk) w() loops.Value { return w.Get(placeW, 8) }

func (w walk) setW(v loops.Value) { w.Set(placeW, v) }

func (w walk) flag(i uint8) loops.Value { return w.Get(placeBits+loops.Place(i), 1) }

func (w walk) setFlag(i uint8, v loops.Value) { w.Set(placeBits+loops.Place(i), v) }

func (w walk) depth() uint64 { return w.Known(w.Get(placeDepth, 8)) }

func (w walk) target(k uint16) uint32 {
	high := uint16(w.Known(w.And(w.Get(regPCLATH, 8), 0x18)))
	return uint32((k | high<<8) & w.m.mask)
}

// address is that of a file register.
func (w walk) address(in instruction) uint16 {
	if in.f == regINDF {
		low := uint16(w.Known(w.Get(regFSR, 8)))
		return w.m.v.at[low|uint16(w.Known(w.flag(7)))<<8]
	}
	bank := uint16(w.Known(w.flag(5)))<<7 | uint16(w.Known(w.flag(6)))<<8
	return w.m.v.at[bank|uint16(in.f)]
}

// load reads a file register.
func (w walk) load(in instruction) loops.Value { return w.loadAt(w.address(in)) }

func (w walk) loadAt(a uint16) loops.Value {
	v := w.m.v
	switch {
	case a == regSTATUS:
		var all []loops.Value
		for i := range uint8(8) {
			all = append(all, w.flag(i))
		}
		return w.Row(all...)
	case a == regTMR0:
		return w.Count(countTimer0, 8)
	case a == regTMR1L:
		return w.Slice(w.Count(countTimer1, 16), 0, 8)
	case a == regTMR1H:
		return w.Slice(w.Count(countTimer1, 16), 8, 8)
	case a == regTMR2:
		return w.Count(countTimer2, 8)
	case v.readable[a] == 0:
		return w.Input(loops.Place(a), 8)
	case v.registers.name[a] != "" && a != regFSR && a != regPCLATH: // a register of a peripheral
		return w.Input(loops.Place(a), 8)
	}
	return w.Get(loops.Place(a), 8)
}

// store writes a file register. Of those that act, the latches of ports may be written with what is there already.
func (w walk) store(in instruction, v loops.Value) {
	a := w.address(in)
	m := w.m
	switch {
	case m.v.written[a] != 0 && (m.v.registers.name[a] == "" || a == regFSR):
		w.Set(loops.Place(a), v)
	case a == regPCLATH:
		w.Set(regPCLATH, w.And(v, 0x1f))
	case a == regSTATUS:
		for _, i := range []uint8{0, 1, 2, 5, 6, 7} {
			if affected[in.op]>>i&1 == 0 {
				w.setFlag(i, w.Slice(v, i, 1))
			}
		}
	default:
		w.Fail()
	}
}

func (w walk) result(in instruction, v loops.Value) {
	if !in.toF {
		w.setW(v)
		return
	}
	w.store(in, v)
}

// bit is the one that a skip looks at.
func (w walk) bit(in instruction) loops.Value {
	n := uint8(bit(in.mask))
	a := w.address(in)
	if a == regSTATUS {
		return w.flag(n)
	}
	return w.Slice(w.loadAt(a), n, 1)
}

// writeBit is BCF and BSF.
func (w walk) writeBit(in instruction) {
	a := w.address(in)
	n, on := uint8(bit(in.mask)), uint64(0)
	if in.op == opBSF {
		on = 1
	}
	if a == regSTATUS {
		if n != 3 && n != 4 {
			w.setFlag(n, w.Const(1, on))
		}
		return
	}
	if w.m.v.written[a] == 0 && a != regPCLATH {
		w.Fail()
		return
	}
	all := w.bits(w.loadAt(a))
	all[n] = w.Const(1, on)
	w.store(in, w.Row(all[:]...))
}

// bits are those of a byte, the lowest first.
func (w walk) bits(v loops.Value) (all [8]loops.Value) {
	for i := range all {
		all[i] = w.Slice(v, uint8(i), 1)
	}
	return all
}

func (w walk) zero(r loops.Value) loops.Value {
	w.setFlag(indexZ, w.Zero(r))
	return r
}

func (w walk) add(a, b loops.Value) loops.Value {
	sum, carry := w.Add(a, b, w.Const(1, 0))
	w.setFlag(indexC, carry)
	w.setFlag(indexDC, w.Make(1, (w.Now(a)&15+w.Now(b)&15)>>4&1, a, b))
	return w.zero(sum)
}

func (w walk) subtract(a, b loops.Value) loops.Value {
	d, borrow := w.Subtract(a, b, w.Const(1, 0))
	w.setFlag(indexC, w.Not(borrow))
	half := uint64(0)
	if w.Now(a)&15 >= w.Now(b)&15 {
		half = 1
	}
	w.setFlag(indexDC, w.Make(1, half, a, b))
	return w.zero(d)
}

// bitwise is a logic operation.
func (w walk) bitwise(o op, a, b loops.Value) loops.Value {
	x, y := w.Now(a), w.Now(b)
	k, fixed := w.Fixed(b)
	if !fixed {
		a, b = b, a
		k, fixed = w.Fixed(b)
	}
	switch o {
	case opANDWF:
		if fixed {
			return w.And(a, k)
		}
		return w.Make(8, x&y, a, b)
	case opXORWF, opXORLW:
		if fixed && k == 0 {
			return a
		}
		return w.Make(8, x^y, a, b)
	}
	if fixed && k == 0 {
		return a
	}
	return w.Make(8, x|y, a, b)
}
