package rtl

import (
	"math/big"

	"hemble/core/netlist"
)

// op is what a cell computes (yosys manual, chapter "Internal cell library").
type op uint8

const (
	opNone op = iota
	opNot
	opPos
	opNeg
	opReduceAnd
	opReduceOr
	opReduceXor
	opReduceXnor
	opLogicNot
	opAnd
	opOr
	opXor
	opXnor
	opShl
	opShr
	opSshl
	opSshr
	opShift
	opShiftx
	opLt
	opLe
	opEq
	opNe
	opGe
	opGt
	opAdd
	opSub
	opMul
	opDiv
	opMod
	opDivFloor
	opModFloor
	opPow
	opLogicAnd
	opLogicOr
	opMux
	opPmux
	opBmux
	opDemux
	opRead  // of a memory
	opThree // of several drivers that may let go
)

var kinds = map[string]op{"$not": opNot, "$pos": opPos, "$neg": opNeg, "$reduce_and": opReduceAnd,
	"$reduce_or": opReduceOr, "$reduce_bool": opReduceOr, "$reduce_xor": opReduceXor, "$reduce_xnor": opReduceXnor,
	"$logic_not": opLogicNot, "$and": opAnd, "$or": opOr, "$xor": opXor, "$xnor": opXnor, "$shl": opShl, "$shr": opShr,
	"$sshl": opSshl, "$sshr": opSshr, "$shift": opShift, "$shiftx": opShiftx, "$lt": opLt, "$le": opLe, "$eq": opEq,
	"$eqx": opEq, "$ne": opNe, "$nex": opNe, "$ge": opGe, "$gt": opGt, "$add": opAdd, "$sub": opSub, "$mul": opMul,
	"$div": opDiv, "$mod": opMod, "$divfloor": opDivFloor, "$modfloor": opModFloor, "$pow": opPow,
	"$logic_and": opLogicAnd, "$logic_or": opLogicOr, "$mux": opMux, "$pmux": opPmux, "$bmux": opBmux, "$demux": opDemux}

// ignored are cells that say something to tools, and compute nothing that a board shows.
var ignored = map[string]bool{"$assert": true, "$assume": true, "$live": true, "$fair": true, "$cover": true,
	"$print": true, "$check": true, "$specify2": true, "$specify3": true, "$specrule": true, "$scopeinfo": true}

// cell computes a word from others.
type cell struct {
	op       op
	signed   bool // of the first operand; where both have a sign, of the comparison
	signedB  bool
	narrow   bool // all values have at most 64 bits
	cost     int64
	index    int32
	y        int32
	width    int // of the result
	a, b, s  wide
	memory   *memory
	drivers  []driver
	external place // of three states: what is at the pin; word -1 for nothing
}

// addCell adds a cell that computes.
func (c *compiler) addCell(of *netlist.Cell) {
	reads := map[int32]bool{}
	p := of.Ports
	x := cell{op: kinds[of.Type], index: c.index(of), width: len(p["Y"]), signed: of.Flag("A_SIGNED"),
		signedB: of.Flag("B_SIGNED"), a: c.wide(p["A"], reads), b: c.wide(p["B"], reads), s: c.wide(p["S"], reads),
		y: c.standsIn(p["Y"])}
	x.narrow = x.width <= 64 && x.a.width <= 64 && (x.b.width <= 64 || x.op == opPmux) && x.s.width <= 64
	switch x.op {
	case opPmux:
		if x.b.width != x.width*x.s.width {
			c.fail(of, "a choice has %d bits for %d of %d", x.b.width, x.s.width, x.width)
			return
		}
		x.narrow = x.narrow && x.width <= 64
		x.b = wide{width: x.b.width}
		for i := range x.s.width { // one operand for each choice
			x.b.limbs = append(x.b.limbs, c.wide(p["B"][i*x.width:(i+1)*x.width], reads).limbs...)
		}
	case opMux:
		if x.a.width != x.width || x.b.width != x.width || x.s.width != 1 {
			c.fail(of, "a choice of two has other widths than its result")
		}
	case opPow:
		if !x.narrow {
			c.fail(of, "a power of more than 64 bits is not modelled")
		}
		x.narrow = false
	case opBmux:
		if x.s.width > 12 || x.a.width != x.width<<x.s.width {
			c.fail(of, "a choice by number has %d bits for %d of %d", x.a.width, x.s.width, x.width)
		}
		x.narrow = false
	case opDemux:
		if x.s.width > 12 || x.width != x.a.width<<x.s.width {
			c.fail(of, "a distribution by number has %d bits for %d of %d", x.width, x.s.width, x.a.width)
		}
		x.narrow = false
	}
	if x.width == 0 {
		return
	}
	x.cost = x.effort()
	c.cells = append(c.cells, x)
	c.depends = append(c.depends, reads)
}

// effort is what computing a cell costs, where the usual one with few pieces costs 1.
func (c *cell) effort() int64 {
	pieces, limbs := 0, (c.width+63)/64
	for _, w := range []wide{c.a, c.b, c.s} {
		limbs = max(limbs, len(w.limbs))
		for i := range w.limbs {
			pieces += len(w.limbs[i].pieces)
		}
	}
	cost := int64(1 + pieces/8)
	if c.narrow {
		return cost
	}
	switch c.op {
	case opMul, opDiv, opMod, opDivFloor, opModFloor:
		return cost + 20 + int64(limbs)*int64(limbs)/4
	case opPow:
		return cost + 100
	}
	return cost + 20 + int64(limbs)
}

// standsIn is the word that bits stand in as a whole; they were put there by newWord.
func (c *compiler) standsIn(of []netlist.Bit) int32 {
	for _, b := range of {
		if p, ok := c.at[b]; ok && b >= 0 {
			return p.word
		}
	}
	w := int32(len(c.words)) // nobody looks at it
	c.words = append(c.words, word{limb: int32(c.limbs), width: len(of)})
	c.limbs += (len(of) + 63) / 64
	return w
}

// compute gives the value of a cell of at most 64 bits.
func (c *cell) compute(arena []uint64) uint64 {
	var a, b uint64
	if len(c.a.limbs) > 0 {
		a = c.a.limbs[0].get(arena)
	}
	if len(c.b.limbs) > 0 && c.op != opPmux {
		b = c.b.limbs[0].get(arena)
	}
	return c.combine(a, b, arena)
}

// combine is compute for operands that are gathered.
func (c *cell) combine(a, b uint64, arena []uint64) uint64 {
	mask := ones(c.width)
	sa, sb := a, b
	if c.signed {
		sa = signed(a, c.a.width)
	}
	if c.signedB {
		sb = signed(b, c.b.width)
	}
	switch c.op {
	case opNot:
		return ^sa & mask
	case opPos:
		return sa & mask
	case opNeg:
		return -sa & mask
	case opReduceAnd:
		return truth(a == ones(c.a.width))
	case opReduceOr:
		return truth(a != 0)
	case opReduceXor:
		return parity(a)
	case opReduceXnor:
		return parity(a) ^ 1
	case opLogicNot:
		return truth(a == 0)
	case opAnd:
		return sa & sb & mask
	case opOr:
		return (sa | sb) & mask
	case opXor:
		return (sa ^ sb) & mask
	case opXnor:
		return ^(sa ^ sb) & mask
	case opLogicAnd:
		return truth(a != 0 && b != 0)
	case opLogicOr:
		return truth(a != 0 || b != 0)
	case opEq:
		return truth(sa == sb)
	case opNe:
		return truth(sa != sb)
	case opLt, opLe, opGe, opGt:
		return truth(c.compare(sa, sb))
	case opAdd:
		return (sa + sb) & mask
	case opSub:
		return (sa - sb) & mask
	case opMul:
		return sa * sb & mask
	case opDiv, opMod, opDivFloor, opModFloor:
		return c.divide(sa, sb) & mask
	case opShl, opSshl:
		if b >= 64 {
			return 0
		}
		return sa << b & mask
	case opShr:
		return right(sa&ones(max(c.width, c.a.width)), b, false) & mask
	case opSshr:
		return right(sa, b, c.signed) & mask
	case opShift, opShiftx:
		if c.signedB && int64(sb) < 0 {
			if n := -sb; n < 64 {
				return sa << n & mask
			}
			return 0
		}
		return right(sa&ones(max(c.width, c.a.width)), b, false) & mask
	case opMux:
		if c.s.limbs[0].get(arena) != 0 {
			return b
		}
		return a
	case opPmux:
		for s, i := c.s.limbs[0].get(arena), 0; i < c.s.width; i++ {
			if s>>i&1 == 1 {
				return c.b.limbs[i].get(arena)
			}
		}
		return a
	case opRead:
		return c.memory.word(a)
	case opThree:
		v, _ := c.three(arena)
		return v
	}
	return 0
}

func truth(b bool) uint64 {
	if b {
		return 1
	}
	return 0
}

func right(v, n uint64, sign bool) uint64 {
	switch {
	case sign:
		return uint64(int64(v) >> min(n, 63))
	case n >= 64:
		return 0
	}
	return v >> n
}

func (c *cell) compare(a, b uint64) bool {
	if c.signed && c.signedB {
		a, b = a^1<<63, b^1<<63
	}
	switch c.op {
	case opLt:
		return a < b
	case opLe:
		return a <= b
	case opGe:
		return a >= b
	}
	return a > b
}

// divide gives 0 for a division by 0: nothing is promised of it.
func (c *cell) divide(a, b uint64) uint64 {
	if b == 0 {
		return 0
	}
	if !c.signed || !c.signedB {
		if c.op == opMod || c.op == opModFloor {
			return a % b
		}
		return a / b
	}
	x, y := int64(a), int64(b)
	if y == -1 {
		if c.op == opMod || c.op == opModFloor {
			return 0
		}
		return -a
	}
	q, r := x/y, x%y
	floor := c.op == opDivFloor || c.op == opModFloor
	if floor && r != 0 && (r < 0) != (y < 0) {
		q, r = q-1, r+y
	}
	if c.op == opMod || c.op == opModFloor {
		return uint64(r)
	}
	return uint64(q)
}

// big gathers a value of any width, with its sign.
func (w *wide) big(arena []uint64, sign bool) *big.Int {
	v := new(big.Int)
	for i := len(w.limbs) - 1; i >= 0; i-- {
		v.Lsh(v, uint(w.limbs[i].width))
		v.Or(v, new(big.Int).SetUint64(w.limbs[i].get(arena)))
	}
	if sign && w.width > 0 && v.Bit(w.width-1) == 1 {
		v.Sub(v, new(big.Int).Lsh(big.NewInt(1), uint(w.width)))
	}
	return v
}

// maxShift bounds what a number is shifted by to the left.
const maxShift = 1 << 17

// computeWide gives the value of a cell of any width.
func (c *cell) computeWide(arena []uint64) *big.Int {
	if c.op == opPmux {
		n := (c.width + 63) / 64
		s := c.s.big(arena, false)
		for i := range c.s.width {
			if s.Bit(i) == 1 {
				w := wide{c.b.limbs[i*n : (i+1)*n], c.width}
				return w.big(arena, false)
			}
		}
		return c.a.big(arena, false)
	}
	a, b := c.a.big(arena, c.signed), c.b.big(arena, c.signedB)
	one := big.NewInt(1)
	r := new(big.Int)
	yes := func(is bool) *big.Int {
		if is {
			return one
		}
		return r
	}
	switch c.op {
	case opNot:
		r.Not(a)
	case opPos:
		r = a
	case opNeg:
		r.Neg(a)
	case opReduceAnd:
		all := new(big.Int).Sub(new(big.Int).Lsh(one, uint(c.a.width)), one)
		return yes(c.a.big(arena, false).Cmp(all) == 0)
	case opReduceOr:
		return yes(a.Sign() != 0)
	case opReduceXor, opReduceXnor:
		n := 0
		for _, limb := range c.a.big(arena, false).Bits() {
			n += int(parity(uint64(limb)))
		}
		return yes((n&1 == 1) == (c.op == opReduceXor))
	case opLogicNot:
		return yes(a.Sign() == 0)
	case opAnd:
		r.And(a, b)
	case opOr:
		r.Or(a, b)
	case opXor:
		r.Xor(a, b)
	case opXnor:
		r.Not(r.Xor(a, b))
	case opLogicAnd:
		return yes(a.Sign() != 0 && b.Sign() != 0)
	case opLogicOr:
		return yes(a.Sign() != 0 || b.Sign() != 0)
	case opEq:
		return yes(a.Cmp(b) == 0)
	case opNe:
		return yes(a.Cmp(b) != 0)
	case opLt:
		return yes(a.Cmp(b) < 0)
	case opLe:
		return yes(a.Cmp(b) <= 0)
	case opGe:
		return yes(a.Cmp(b) >= 0)
	case opGt:
		return yes(a.Cmp(b) > 0)
	case opAdd:
		r.Add(a, b)
	case opSub:
		r.Sub(a, b)
	case opMul:
		r.Mul(a, b)
	case opDiv, opMod, opDivFloor, opModFloor:
		r = c.divideWide(a, b)
	case opShl, opSshl:
		if n := amount(b); n < maxShift {
			r.Lsh(a, uint(n))
		}
	case opShr, opSshr, opShift, opShiftx:
		if c.op != opSshr {
			a = limited(a, max(c.width, c.a.width))
		}
		if b.Sign() < 0 {
			if n := amount(new(big.Int).Neg(b)); n < maxShift {
				r.Lsh(a, uint(n))
			}
			break
		}
		r.Rsh(a, uint(amount(b)))
	case opMux:
		if r = a; c.s.limbs[0].get(arena) != 0 {
			r = b
		}
	case opBmux:
		n := amount(c.s.big(arena, false))
		r.Rsh(c.a.big(arena, false), uint(n*c.width))
	case opDemux:
		n := amount(c.s.big(arena, false))
		r.Lsh(c.a.big(arena, false), uint(n*c.a.width))
	case opPow:
		if b.Sign() < 0 { // a fraction, but for 1 and -1
			return limited(fraction(a, b), c.width)
		}
		r.Exp(a, b, new(big.Int).Lsh(one, uint(min(c.width, 4096))))
	case opRead:
		return c.memory.big(amount(a))
	}
	return limited(r, c.width)
}

// fraction is a to a power less than 0: 1 and -1 stay whole, others are 0.
func fraction(a, b *big.Int) *big.Int {
	switch {
	case a.Cmp(big.NewInt(1)) == 0, a.Cmp(big.NewInt(-1)) == 0 && b.Bit(0) == 0:
		return big.NewInt(1)
	case a.Cmp(big.NewInt(-1)) == 0:
		return big.NewInt(-1)
	}
	return new(big.Int)
}

// limited is a value modulo 2^width.
func limited(v *big.Int, width int) *big.Int {
	m := new(big.Int).Sub(new(big.Int).Lsh(big.NewInt(1), uint(width)), big.NewInt(1))
	return m.And(m, v)
}

// amount is a number as a distance; a large one stands for all that are too large.
func amount(v *big.Int) int {
	if v.IsInt64() && v.Int64() < maxShift {
		return int(v.Int64())
	}
	return maxShift
}

func (c *cell) divideWide(a, b *big.Int) *big.Int {
	if b.Sign() == 0 {
		return new(big.Int)
	}
	q, r := new(big.Int).QuoRem(a, b, new(big.Int))
	if (c.op == opDivFloor || c.op == opModFloor) && r.Sign() != 0 && (r.Sign() < 0) != (b.Sign() < 0) {
		q.Sub(q, big.NewInt(1))
		r.Add(r, b)
	}
	if c.op == opMod || c.op == opModFloor {
		return r
	}
	return q
}
