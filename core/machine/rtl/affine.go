package rtl

import "math"

// proof follows a design over edges of the oscillator to come on paper. Each word is at + by·k in the k-th round to
// come, as a whole number that does not wrap, for all k up to a bound that the cells it goes through set. Words of more
// than 64 bits may not move.
type proof struct {
	*program
	arena   []uint64 // what words are at for k = 0
	by      []int64  // by how much they move in a round ...
	first0  []int64  // ... at its beginning
	dirty   []uint64
	was     []bool // of the groups' clocks
	pending []next
	bound   int64 // the last round for which all this holds
	work    int64

	aside   []int32 // words of registers that are set aside
	unknown []bool  // words that depend on them
	flows   []flow
}

const forEver = math.MaxInt64

// until sets a bound.
func (p *proof) until(k int64) { p.bound = min(p.bound, max(k, -1)) }

// within sets the bound for which at + by·k stays from low to high.
func (p *proof) within(at, low, high uint64, by int64) {
	switch {
	case at < low || at > high:
		p.until(-1)
	case by > 0:
		p.until(int64(min((high-at)/uint64(by), forEver)))
	case by < 0:
		p.until(int64(min((at-low)/uint64(-by), forEver)))
	}
}

// take is some bits of a limb.
func (p *proof) take(x piece) (at uint64, by int64) {
	w := p.wordOf[x.limb]
	if w >= 0 && p.unknown[w] { // whoever can do without has asked before
		p.until(-1)
	}
	if w < 0 || p.by[w] == 0 {
		return p.arena[x.limb] >> x.shift & ones(int(x.width)), 0
	}
	return p.slice(p.arena[x.limb], p.by[w], int(x.shift), int(x.width))
}

// slice is some bits of a value that moves: the lower ones move with it until they would wrap, higher ones stand until
// a carry comes.
func (p *proof) slice(v uint64, d int64, shift, width int) (at uint64, by int64) {
	at = v >> shift & ones(width)
	if d == 0 {
		return at, 0
	}
	below := ones(shift)
	if shift == 0 {
		below = 0
	}
	if uint64(d)&below == 0 {
		by = d >> shift
		p.within(at, 0, ones(width), by)
		return at, by
	}
	p.within(v&below, 0, below, d)
	return at, 0
}

// get gathers an operand.
func (p *proof) get(o *operand) (at uint64, by int64) {
	at = o.fixed
	for _, x := range o.pieces {
		v, d := p.take(x)
		at |= v << x.to
		by += d << x.to
	}
	return at, by
}

// fixed gathers an operand that must not move.
func (p *proof) fixed(o *operand) uint64 {
	at, by := p.get(o)
	if by != 0 {
		p.until(0)
	}
	return at
}

// active is whether a line is at its level, which must not change.
func (p *proof) active(l line) bool {
	if !l.used || l.at.limb < 0 {
		return l.active(p.arena)
	}
	at, by := p.take(piece{limb: l.at.limb, shift: l.at.shift, width: 1})
	if by != 0 {
		p.until(0)
	}
	return (at == 1) == l.high
}

// first is the first limb of a value, extended by its sign where it has one, as a number that may be less than 0.
func (p *proof) first(w *wide, sign bool) (at uint64, by int64) {
	if len(w.limbs) == 0 {
		return 0, 0
	}
	at, by = p.get(&w.limbs[0])
	if sign && w.width > 0 && w.width < 64 {
		half := uint64(1) << (w.width - 1)
		if at < half {
			p.within(at, 0, half-1, by)
		} else {
			p.within(at, half, ones(w.width), by)
		}
		at = signed(at, w.width)
	}
	return at, by
}

// result has a value of so many bits, which must not wrap.
func (p *proof) result(at uint64, by int64, width int) (uint64, int64) {
	at &= ones(width)
	if width == 64 && by != 0 { // wrapping is not looked for there
		p.until(0)
	}
	p.within(at, 0, ones(width), by)
	return at, by
}

// follow follows a cell of at most 64 bits.
func (p *proof) follow(c *cell) (at uint64, by int64) {
	switch c.op {
	case opMux:
		if p.fixed(&c.s.limbs[0]) != 0 {
			return p.first(&c.b, false)
		}
		return p.first(&c.a, false)
	case opPmux:
		for s, i := p.fixed(&c.s.limbs[0]), 0; i < c.s.width; i++ {
			if s>>i&1 == 1 {
				return p.get(&c.b.limbs[i])
			}
		}
		return p.first(&c.a, false)
	case opThree:
		for i := range c.drivers {
			if d := &c.drivers[i]; p.fixed(&d.enable) != 0 {
				return p.fixed(&d.value), 0
			}
		}
		v, _ := c.three(p.arena)
		return v, 0
	}
	a, da := p.first(&c.a, c.signed)
	b, db := p.first(&c.b, c.signedB)
	if da == 0 && db == 0 {
		if c.signed {
			a &= ones(c.a.width)
		}
		if c.signedB {
			b &= ones(c.b.width)
		}
		return c.combine(a, b, p.arena), 0
	}
	switch c.op {
	case opAdd:
		return p.result(a+b, da+db, c.width)
	case opSub:
		return p.result(a-b, da-db, c.width)
	case opPos:
		return p.result(a, da, c.width)
	case opNeg:
		return p.result(-a, -da, c.width)
	case opNot:
		return p.result(^a, -da, c.width)
	case opMul:
		if da != 0 && db != 0 || abs(da)|abs(db) > 1<<31 || a > 1<<31 || b > 1<<31 {
			break
		}
		return p.result(a*b, da*int64(b)+db*int64(a), c.width)
	case opEq, opNe:
		return truth(p.equal(a, da, b, db) == (c.op == opEq)), 0
	case opLt, opLe, opGe, opGt:
		return truth(p.compare(c, a, da, b, db)), 0
	case opReduceOr:
		return truth(!p.equal(a, da, 0, 0)), 0
	case opLogicNot:
		return truth(p.equal(a, da, 0, 0)), 0
	case opReduceAnd:
		return truth(p.equal(a&ones(c.a.width), da, ones(c.a.width), 0)), 0
	case opLogicAnd:
		x, y := !p.equal(a, da, 0, 0), !p.equal(b, db, 0, 0)
		return truth(x && y), 0
	case opLogicOr:
		x, y := !p.equal(a, da, 0, 0), !p.equal(b, db, 0, 0)
		return truth(x || y), 0
	case opAnd, opOr, opXor, opXnor:
		if c.signed && c.a.width < c.width || c.signedB && c.b.width < c.width {
			break
		}
		switch {
		case db == 0:
			return p.bitwise(c, a, da, b)
		case da == 0:
			return p.bitwise(c, b, db, a)
		}
	case opShl, opSshl:
		if db == 0 && b < 32 && abs(da) < 1<<31 {
			return p.result(a<<b, da<<b, c.width)
		}
	case opShr:
		if db == 0 && b < 64 && !c.signed {
			return p.slice(a, da, int(b), min(c.width, 64-int(b)))
		}
	case opDiv, opMod:
		if db == 0 && b != 0 && !(c.signed && int64(a) < 0) && int64(b) > 0 {
			return p.divide(c, a, da, b)
		}
	}
	p.until(0)
	return c.combine(a, b, p.arena), 0
}

func abs(v int64) uint64 {
	if v < 0 {
		return uint64(-v)
	}
	return uint64(v)
}

// equal is whether two values are, which must not change: they are for good, or become it in a round to come.
func (p *proof) equal(a uint64, da int64, b uint64, db int64) bool {
	d := db - da
	gap := int64(a - b) // zero after gap/d rounds
	switch {
	case gap == 0 && d == 0:
		return true
	case gap == 0:
		p.until(0)
		return true
	case d != 0 && gap%d == 0 && gap/d > 0:
		p.until(gap/d - 1)
	}
	return false
}

// compare is a comparison, whose answer must not change. Both sides are numbers of at most 63 bits and a sign.
func (p *proof) compare(c *cell, a uint64, da int64, b uint64, db int64) bool {
	if !(c.signed && c.signedB) && (a >= 1<<62 || b >= 1<<62) {
		p.until(0)
		return c.compare(a, b)
	}
	gap, d := int64(a-b), da-db // a - b, and how that moves
	if c.op == opLe || c.op == opGt {
		gap--
	}
	below := gap < 0 // a < b, or a <= b
	switch {
	case below && d > 0:
		p.until((-gap - 1) / d)
	case !below && d < 0:
		p.until(gap / -d)
	}
	return below == (c.op == opLt || c.op == opLe)
}

// bitwise is a logic operation of a value that moves and one that does not, run by run of the second one's bits.
func (p *proof) bitwise(c *cell, v uint64, d int64, mask uint64) (at uint64, by int64) {
	for i := 0; i < c.width; {
		one := mask >> i & 1
		n := 1
		for i+n < c.width && mask>>(i+n)&1 == one {
			n++
		}
		keeps := one == 1 == (c.op == opAnd)
		switch {
		case c.op == opXor || c.op == opXnor:
			x, dx := p.slice(v, d, i, n)
			if (one == 1) == (c.op == opXor) {
				x, dx = ^x&ones(n), -dx
			}
			at, by = at|x<<i, by+dx<<i
		case keeps:
			x, dx := p.slice(v, d, i, n)
			at, by = at|x<<i, by+dx<<i
		case c.op == opOr:
			at |= ones(n) << i
		}
		i += n
	}
	return at, by
}

// divide is a division by a number, or what remains of it.
func (p *proof) divide(c *cell, a uint64, da int64, b uint64) (at uint64, by int64) {
	q, r := a/b, a%b
	switch {
	case c.op == opDiv && da%int64(b) == 0:
		return p.result(q, da/int64(b), c.width)
	case c.op == opDiv:
		p.within(r, 0, b-1, da)
		at = q & ones(c.width)
	case da%int64(b) == 0:
		p.within(a, 0, 1<<62, da)
		at = r & ones(c.width)
	default:
		p.within(r, 0, b-1, da)
		return p.result(r, da, c.width)
	}
	return at, 0
}
