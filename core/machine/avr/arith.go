package avr

// Arithmetic of a walk. A program computes with wide numbers byte by byte, from the lowest on, and carries
// between; here the bytes of a wide number that depends on a count stay bytes of one form, and a carry between
// them is a test of the form so far, which nobody has to decide. Only a branch decides.

// above gives the form of an operand as the next byte above a chain: it continues with the chain's form, or it is
// known and stands above it, which holds for as long as the form below does not wrap.
func (w *summary) above(lower wide, v value) (wide, bool) {
	if lower.n+8 > maxBits {
		return wide{}, false
	}
	switch v.kind {
	case formed:
		return v.wide, v.wide.extends(lower)
	case known:
		w.within(lower, lower.wrap())
		return wide{lower.count, lower.n + 8, lower.q, lower.r | uint64(v.v)<<lower.n}, true
	}
	return wide{}, false
}

// subtract is a - b, with the borrow and Z of the bytes below where it continues with them.
func (w *summary) subtract(a, b value, goesOn bool) value {
	a, b = w.calm(a), w.calm(b)
	borrow := goesOn && w.sreg&flagC != 0
	index := uint(a.v)<<8 | uint(b.v)
	if borrow {
		index |= 1 << 16
	}
	result := value{v: a.v - b.v}
	if borrow {
		result.v--
	}
	sreg := subFlags[index]
	if goesOn && w.sreg&flagZ == 0 {
		sreg &^= flagZ
	}
	if a.kind == known && b.kind == known && (!goesOn || w.open&(flagC|flagZ) == 0) {
		w.set(arithmetic, sreg)
		return result
	}
	if f, c, ok := w.subtraction(a, b, goesOn); ok {
		z, zKind, wasZero := w.flags[indexZ], w.kindOf(indexZ), w.sreg&flagZ != 0
		difference := f
		difference.r = (f.r - c) & (size(f.n) - 1)
		result.kind, result.wide = formed, difference
		w.lose(arithmetic, fresh, sreg)
		w.follow(indexC, test{less, f, c})
		w.follow(indexN, test{high, difference, 0})
		below := test{zero, difference.mod(max(8, f.n-8)), 0}
		switch {
		case !goesOn, zKind == formed && z.test == below, zKind == known && wasZero && f.n == 8:
			w.follow(indexZ, test{zero, difference, 0})
		case zKind == known && !wasZero:
			w.set(flagZ, 0)
		}
		return result
	}
	k := known
	for _, v := range []value{a, b} {
		if v.kind != known && v.kind != formed {
			k = w.worst(k, v)
		}
	}
	if goesOn {
		if f := w.kindOf(indexC); f == fresh || f == stale {
			k = either(k, f)
		}
		if z := w.kindOf(indexZ); k == known && (z == fresh || z == stale) { // Z only is not followed
			w.freezeAll(a, b, goesOn, false)
			w.set(arithmetic, sreg)
			if result.v == 0 {
				w.lose(flagZ, z, sreg)
			}
			return result
		}
	}
	if k != known {
		result.kind = k
		w.lose(arithmetic, k, sreg)
		return result
	}
	w.freezeAll(a, b, goesOn, goesOn)
	w.set(arithmetic, sreg)
	return result
}

// calm makes a noisy value known for as long as the noise stays.
func (w *summary) calm(v value) value {
	if v.kind == noisy {
		return w.freeze(v)
	}
	return v
}

// worst is what comes of a kind and a value that is not followed.
func (w *summary) worst(k kind, v value) kind {
	if v.kind == saved {
		k = either(k, fresh)
		if w.holdsStale(v) {
			return stale
		}
		return k
	}
	return either(k, v.kind)
}

// freezeAll makes the operands of an instruction known, and its carry and Z where they count.
func (w *summary) freezeAll(a, b value, carries, zeros bool) {
	w.freeze(a)
	w.freeze(b)
	if carries {
		w.decide(indexC)
	}
	if zeros {
		w.decide(indexZ)
	}
}

// subtraction gives a - b as a form and what is known to be taken from it; ok is false where it is not followed.
func (w *summary) subtraction(a, b value, goesOn bool) (f wide, c uint64, ok bool) {
	if b.kind != known {
		return f, 0, false
	}
	carried, kind := w.flags[indexC], w.kindOf(indexC)
	switch {
	case !goesOn:
		return a.wide, uint64(b.v), a.kind == formed && a.wide.n == 8
	case kind == formed && carried.test.what == less:
		f, ok = w.above(carried.test.wide, a)
		return f, carried.test.c | uint64(b.v)<<carried.test.wide.n, ok
	case kind == known && w.sreg&flagC == 0:
		return a.wide, uint64(b.v), a.kind == formed && a.wide.n == 8
	}
	return f, 0, false
}

// add is d + r, with the carry of the bytes below where it continues with them.
func (w *summary) add(in *instruction, goesOn bool) value {
	a, b := w.calm(w.regs[in.d]), w.calm(w.regs[in.r])
	if a.kind == known && b.kind == formed {
		a, b = b, a
	}
	carried := goesOn && w.sreg&flagC != 0
	index := uint(w.regs[in.d].v)<<8 | uint(w.regs[in.r].v)
	result := value{v: a.v + b.v}
	if carried {
		index |= 1 << 16
		result.v++
	}
	sreg := addFlags[index]
	if a.kind == known && b.kind == known && (!goesOn || w.open&flagC == 0) {
		w.set(arithmetic, sreg)
		return result
	}
	if f, t, ok := w.addition(a, b, in.d == in.r, goesOn); ok {
		result.kind, result.wide = formed, f
		w.lose(arithmetic, fresh, sreg)
		w.follow(indexC, t)
		w.follow(indexN, test{high, f, 0})
		if f.n == 8 {
			w.follow(indexZ, test{zero, f, 0})
		}
		return result
	}
	k := known
	for _, v := range []value{a, b} {
		if v.kind != known && v.kind != formed {
			k = w.worst(k, v)
		}
	}
	if f := w.kindOf(indexC); goesOn && (f == fresh || f == stale) {
		k = either(k, f)
	}
	if k != known {
		result.kind = k
		w.lose(arithmetic, k, sreg)
		return result
	}
	w.freezeAll(a, b, goesOn, false)
	w.set(arithmetic, sreg)
	return result
}

// addition gives a + b as a form, and the test that its carry is.
func (w *summary) addition(a, b value, same, goesOn bool) (f wide, t test, ok bool) {
	carried, kind := w.flags[indexC], w.kindOf(indexC)
	first := !goesOn || kind == known && w.sreg&flagC == 0
	switch {
	case same && first:
		if a.kind != formed || a.wide.n != 8 {
			return f, t, false
		}
		f = a.wide
		return double(f), test{doubled, f, 0}, true
	case same:
		if kind != formed || carried.test.what != doubled {
			return f, t, false
		}
		if f, ok = w.above(carried.test.wide, a); !ok {
			return f, t, false
		}
		return double(f), test{doubled, f, 0}, true
	case b.kind != known:
		return f, t, false
	case first:
		if a.kind != formed || a.wide.n != 8 {
			return f, t, false
		}
		return plus(a.wide, uint64(b.v)), test{carry, a.wide, uint64(b.v)}, true
	case kind == formed && carried.test.what == carry:
		below := carried.test
		if f, ok = w.above(below.wide, a); !ok {
			return f, t, false
		}
		c := below.c | uint64(b.v)<<below.wide.n
		return plus(f, c), test{carry, f, c}, true
	}
	return f, t, false
}

func double(f wide) wide {
	f.q, f.r = 2*f.q, 2*f.r
	return f.mod(f.n)
}

func plus(f wide, c uint64) wide {
	f.r += c
	return f.mod(f.n)
}

// logic is a bitwise operation. What it leaves as it is keeps its form: with itself (TST), or with ones or zeros
// that do nothing; neutral is the operand that does, absorbing the one that leaves nothing of the other.
func (w *summary) logic(a, b value, same bool, neutral, absorbing int, f func(a, b uint8) uint8) value {
	if b.kind != known && a.kind == known {
		a, b = b, a
	}
	if absorbing == 0 && a.kind == noisy && b.kind == known && a.copy&b.v == 0 { // AND takes the noise away
		a.kind = known
	}
	a, b = w.calm(a), w.calm(b)
	result := value{v: f(a.v, b.v)}
	if b.kind == known && int(b.v) == absorbing {
		w.set(logic, logicFlags[result.v])
		return result
	}
	if same || b.kind == known && int(b.v) == neutral {
		result = a
	}
	if result.kind == formed && result.wide.n == 8 {
		w.set(flagV, 0)
		w.lose(flagS, fresh, logicFlags[a.v])
		w.set(flagN|flagZ, logicFlags[a.v])
		w.follow(indexN, test{high, a.wide, 0})
		w.follow(indexZ, test{zero, a.wide, 0})
		return result
	}
	k := known
	for _, v := range []value{a, b} {
		if v.kind != known && v.kind != formed {
			k = w.worst(k, v)
		}
	}
	switch {
	case k != known:
		if result.kind == known {
			result.kind = k
		}
		w.lose(logic, k, logicFlags[result.v])
	case result.kind == formed: // the flags of a higher byte
		w.freeze(a)
		w.set(logic, logicFlags[result.v])
	default:
		w.freeze(a)
		w.freeze(b)
		w.set(logic, logicFlags[result.v])
	}
	return result
}

// concrete carries an instruction out on known values by the plain interpreter, and gives its cycles. What it
// works on is frozen; where that cannot be, what it makes is not followed.
func (w *summary) concrete(m *Machine, in *instruction) int64 {
	uses := [4]uint8{in.d, in.d, in.d, in.d}
	makes := uses
	flags := uint8(arithmetic)
	switch in.op {
	case opADIW, opSBIW:
		uses[1], makes[1] = in.d+1, in.d+1
		flags = arithmetic &^ flagH
	case opMUL, opMULS, opMULSU, opFMUL, opFMULS, opFMULSU:
		uses[1] = in.r
		makes = [4]uint8{0, 1, 0, 1}
		flags = flagC | flagZ
	case opINC, opDEC:
		flags = logic
	case opSWAP:
		flags = 0
	case opLSR, opROR, opASR:
		flags = arithmetic &^ flagH
	case opCOM:
		flags = logic | flagC
	}
	k := known
	for _, r := range uses {
		w.regs[r] = w.calm(w.regs[r])
		if v := w.regs[r]; v.kind != known && v.kind != formed {
			k = w.worst(k, v)
		}
	}
	if f := w.kindOf(indexC); in.op == opROR && (f == fresh || f == stale) {
		k = either(k, f)
	}
	if k == known {
		for _, r := range uses {
			w.regs[r] = w.freeze(w.regs[r])
		}
		if in.op == opROR {
			w.decide(indexC)
		}
	}
	// A machine of no more than registers and SREG.
	sreg, pc, cycle := m.sreg, m.pc, m.cycle
	var before [32]uint8
	copy(before[:], m.data[:32])
	for r := range w.regs {
		m.data[r] = w.regs[r].v
	}
	m.sreg = w.sreg
	m.cycle = 0
	m.execute(*in)
	took, after := m.cycle, m.sreg
	for _, r := range makes {
		w.regs[r] = value{kind: k, v: m.data[r]}
	}
	copy(m.data[:32], before[:])
	m.sreg, m.pc, m.cycle = sreg, pc, cycle
	if k == known {
		w.set(flags, after)
	} else {
		w.lose(flags, k, after)
	}
	return took
}
