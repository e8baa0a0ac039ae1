package loops

import "slices"

// Value is something computed in a round: a number of some bits, as a formula.
type Value int32

// node is what is known of a value. v is what it is in the round that is walked.
type node struct {
	kind  nodeKind
	bits  uint8
	lo    uint8    // of a part: its lowest bit in the form
	from  uint8    // how many of those in of it comes from
	of    [3]Value // of a mask or what is made: what it comes from
	more  int32    // of a part: its form; of a verdict: its test; of a row: where its bits are
	stamp int32    // of a search
	atom  int32    // of what is not followed: the atom that stands for it in forms, and 1
	mask  uint64   // of a masked one
	v     uint64
	held  uint64 // the bits that are checked to stay as they are
}

type nodeKind uint8

const (
	constant nodeKind = iota
	part              // the highest bits of a form
	masked            // some bits of another value, the others 0
	row               // bits of other values side by side, the lowest first
	verdict           // a bit that a test of forms gives
	opaque            // computed from others in a way that is not followed
)

// Walk is a round of a loop on paper. Cores build values with it.
type Walk struct {
	PC    uint32
	Cycle int64 // since the head

	core   Core
	head   int64
	steps  int64
	nodes  []node
	forms  []form
	tests  []test
	rows   []Value
	terms  []term // of forms, one after the other
	atoms  []atom
	places []kept
	index  placeIndex
	counts []reading
	guards []Place
	bits   []bitCheck
	checks []check
	failed bool
	stamp  int32
}

// kept is a place that was touched: what it held at the head, and now.
type kept struct {
	place      Place
	bits       uint8
	entry, now Value
	atom       int32
}

// reading is a reading of a count, some cycles behind the head.
type reading struct {
	id uint8
	at int64
}

// Bounds of a walk.
const (
	maxSteps  = 400
	maxNodes  = 4000
	maxCounts = 8
)

// start forgets what was walked before.
func (w *Walk) start(core Core, pc uint32, cycle int64) {
	w.index.clear()
	w.PC, w.Cycle, w.core, w.head, w.steps, w.failed, w.stamp = pc, 0, core, cycle, 0, false, 0
	w.nodes, w.forms, w.tests, w.rows, w.terms = w.nodes[:0], w.forms[:0], w.tests[:0], w.rows[:0], w.terms[:0]
	w.atoms, w.places, w.counts, w.guards = w.atoms[:0], w.places[:0], w.counts[:0], w.guards[:0]
	w.bits, w.checks = w.bits[:0], w.checks[:0]
}

// round walks the loop whose head is at pc and gives its summary, nil where it has none.
func (l *Walk) round(core Core, pc uint32, cycle int64) *Summary {
	l.start(core, pc, cycle)
	for l.steps < maxSteps && len(l.nodes) < maxNodes {
		l.steps++
		if !core.Follow(l) || l.failed {
			return nil
		}
		if l.PC == pc {
			return l.close()
		}
	}
	return nil
}

// Fail says that the round cannot be followed.
func (w *Walk) Fail() Value {
	w.failed = true
	return w.Const(8, 0)
}

func (w *Walk) add(n node) Value {
	w.nodes = append(w.nodes, n)
	return Value(len(w.nodes) - 1)
}

// Now is what a value is in the round that is walked. It may be another in other rounds.
func (w *Walk) Now(v Value) uint64 { return w.nodes[v].v }

// Const is a number of so many bits.
func (w *Walk) Const(bits uint8, v uint64) Value {
	return w.add(node{bits: bits, v: v & ones(bits)})
}

// Get is what a place holds.
func (w *Walk) Get(p Place, bits uint8) Value { return w.places[w.touch(p, bits)].now }

// Input is what a place holds that is not the program's own: a register of a peripheral.
func (w *Walk) Input(p Place, bits uint8) Value {
	if !slices.Contains(w.guards, p) {
		w.guards = append(w.guards, p)
	}
	return w.Get(p, bits)
}

// Set changes a place.
func (w *Walk) Set(p Place, v Value) {
	w.places[w.touch(p, w.nodes[v].bits)].now = v
}

func (w *Walk) touch(p Place, bits uint8) int32 {
	i, ok := w.index.find(p, int32(len(w.places)))
	if ok {
		if w.places[i].bits != bits {
			w.failed = true
		}
		return i
	}
	v, _, ok := w.core.Look(p, 0)
	if !ok {
		w.failed = true
	}
	a := w.newAtom(atom{kind: entry, bits: bits, place: p, v: v & ones(bits)})
	e := w.part(w.single(a, bits), 0)
	w.places = append(w.places, kept{p, bits, e, e, a})
	return i
}

// Count reads a count of so many bits that goes on by itself.
func (w *Walk) Count(id uint8, bits uint8) Value {
	c, ok := w.core.Count(id, w.head+w.Cycle)
	if !ok || len(w.counts) == maxCounts {
		return w.Fail()
	}
	w.counts = append(w.counts, reading{id, w.Cycle})
	a := w.newAtom(atom{kind: counted, bits: bits, count: uint8(len(w.counts) - 1), v: c.Value & ones(bits)})
	return w.part(w.single(a, bits), 0)
}

// part is the value of a form from bit lo on.
func (w *Walk) part(f form, lo uint8) Value {
	if len(f.terms) == 0 {
		return w.Const(f.n-lo, f.c>>lo)
	}
	w.forms = append(w.forms, f)
	return w.add(node{kind: part, bits: f.n - lo, lo: lo, more: int32(len(w.forms) - 1), v: w.value(f) >> lo})
}

// formOf is a value as a form of so many bits.
func (w *Walk) formOf(v Value, bits uint8) form {
	x := &w.nodes[v]
	switch {
	case x.kind == constant:
		return form{n: bits, c: x.v & ones(bits)}
	case x.kind == part && x.lo == 0:
		return w.mod(w.forms[x.more], bits)
	case x.atom == 0:
		a := w.newAtom(atom{kind: made, bits: x.bits, node: v, v: x.v})
		x.atom = a + 1
	}
	return w.single(x.atom-1, bits)
}

// Make is a value that is computed from up to three others in a way that is not followed; v is what it is now.
func (w *Walk) Make(bits uint8, v uint64, of ...Value) Value {
	for _, o := range of {
		if w.nodes[o].kind != constant {
			n := node{kind: opaque, bits: bits, v: v & ones(bits), from: uint8(len(of))}
			copy(n.of[:], of)
			return w.add(n)
		}
	}
	return w.Const(bits, v)
}

// Slice is some bits of a value, from lo on.
func (w *Walk) Slice(v Value, lo, bits uint8) Value {
	x := w.nodes[v]
	now := x.v >> lo & ones(bits)
	switch {
	case lo == 0 && bits == x.bits:
		return v
	case x.kind == constant:
		return w.Const(bits, now)
	case x.kind == part:
		return w.part(w.mod(w.forms[x.more], x.lo+lo+bits), x.lo+lo)
	case x.kind == masked && x.mask>>lo&ones(bits) == 0:
		return w.Const(bits, 0)
	case x.kind == masked && x.mask>>lo&ones(bits) == ones(bits):
		return w.Slice(x.of[0], lo, bits)
	case x.kind == row && bits == 1:
		return w.rows[x.more+int32(lo)]
	}
	return w.Make(bits, now, w.And(v, ones(bits)<<lo))
}

// And is those bits of a value that are in a mask.
func (w *Walk) And(v Value, mask uint64) Value {
	x := w.nodes[v]
	mask &= ones(x.bits)
	switch {
	case mask == ones(x.bits):
		return v
	case mask == 0 || x.kind == constant:
		return w.Const(x.bits, x.v&mask)
	case x.kind == masked:
		return w.And(x.of[0], x.mask&mask)
	}
	return w.add(node{kind: masked, bits: x.bits, v: x.v & mask, from: 1, of: [3]Value{v}, mask: mask})
}

// Row puts single bits side by side, the lowest first.
func (w *Walk) Row(of ...Value) Value {
	v, fixed := uint64(0), true
	for i, o := range of {
		v |= w.nodes[o].v << i
		fixed = fixed && w.nodes[o].kind == constant
	}
	if fixed {
		return w.Const(uint8(len(of)), v)
	}
	w.rows = append(w.rows, of...)
	return w.add(node{kind: row, bits: uint8(len(of)), v: v, more: int32(len(w.rows) - len(of))})
}

// Join puts a value above another one.
func (w *Walk) Join(low, high Value) Value {
	l, h := w.nodes[low].bits, w.nodes[high].bits
	f, ok := w.above(w.formOf(low, l), high, h)
	if !ok {
		return w.Fail()
	}
	return w.part(f, 0)
}

// Add is a + b + carry, and the carry out. A carry that comes from the parts below makes a and b parts of numbers.
func (w *Walk) Add(a, b, carry Value) (sum, out Value) {
	bits := w.nodes[a].bits
	c := w.nodes[carry]
	wide := w.nodes[a].v + w.nodes[b].v + c.v // a carry out of 64 bits is not seen; nobody computes with so many
	switch {
	case c.kind == constant && c.v == 0:
		x, y := w.formOf(a, bits), w.formOf(b, bits)
		return w.part(w.plus(x, y), 0), w.judge(test{op: carries, x: x, y: y})
	case c.kind == verdict && w.tests[c.more].op == carries && !w.tests[c.more].not:
		t := w.tests[c.more]
		if !w.continues(t.x, a) && !w.continues(t.y, b) && (w.continues(t.x, b) || w.continues(t.y, a)) {
			a, b = b, a
		}
		x, ok := w.above(t.x, a, bits)
		y, also := w.above(t.y, b, bits)
		if ok && also {
			return w.part(w.plus(x, y), t.x.n), w.judge(test{op: carries, x: x, y: y})
		}
	}
	return w.Make(bits, wide, a, b, carry), w.Make(1, wide>>bits&1, a, b, carry)
}

// Subtract is a - b - borrow, and the borrow out, in the same way.
func (w *Walk) Subtract(a, b, borrow Value) (difference, out Value) {
	bits := w.nodes[a].bits
	c := w.nodes[borrow]
	switch {
	case c.kind == constant && c.v == 0:
		x, y := w.formOf(a, bits), w.formOf(b, bits)
		return w.part(w.minus(x, y), 0), w.judge(test{op: less, x: x, y: y})
	case c.kind == verdict && w.tests[c.more].op == less && !w.tests[c.more].not:
		t := w.tests[c.more]
		x, ok := w.above(t.x, a, bits)
		y, also := w.above(t.y, b, bits)
		if ok && also {
			return w.part(w.minus(x, y), t.x.n), w.judge(test{op: less, x: x, y: y})
		}
	}
	now := w.nodes[a].v - w.nodes[b].v - c.v
	under := uint64(0)
	if w.nodes[a].v < w.nodes[b].v+c.v {
		under = 1
	}
	return w.Make(bits, now, a, b, borrow), w.Make(1, under, a, b, borrow)
}

// LessSigned is the verdict of the comparison that gave a borrow, where the numbers have a sign.
func (w *Walk) LessSigned(borrow Value) (Value, bool) {
	c := w.nodes[borrow]
	if c.kind != verdict || w.tests[c.more].op != less || w.tests[c.more].not {
		return 0, false
	}
	t := w.tests[c.more]
	half := ones(t.x.n)>>1 + 1
	t.x.c, t.y.c = (t.x.c+half)&ones(t.x.n), (t.y.c+half)&ones(t.x.n)
	return w.judge(t), true
}

// Zero reports whether a value is 0.
func (w *Walk) Zero(v Value) Value {
	x := w.nodes[v]
	switch {
	case x.kind == part && x.lo == 0:
		return w.judge(test{op: zero, x: w.forms[x.more]})
	case x.v == 0:
		return w.Make(1, 1, v)
	}
	return w.Make(1, 0, v)
}

// AlsoZero reports whether a value is 0 and the parts below were.
func (w *Walk) AlsoZero(below, v Value) Value {
	b := w.nodes[below]
	switch {
	case b.kind == constant && b.v == 0:
		return below
	case b.kind == constant:
		return w.Zero(v)
	case b.kind == verdict && w.tests[b.more].op == zero && !w.tests[b.more].not:
		if f, ok := w.above(w.tests[b.more].x, v, w.nodes[v].bits); ok {
			return w.judge(test{op: zero, x: f})
		}
	}
	now := b.v
	if w.nodes[v].v != 0 {
		now = 0
	}
	return w.Make(1, now, below, v)
}

// Not is the other bit.
func (w *Walk) Not(bit Value) Value {
	x := w.nodes[bit]
	if x.kind == verdict {
		t := w.tests[x.more]
		t.not = !t.not
		return w.judge(t)
	}
	return w.Make(1, 1-x.v, bit)
}

// Known holds a value to what it is, and gives that: an address.
func (w *Walk) Known(v Value) uint64 {
	w.hold(v, ^uint64(0))
	return w.nodes[v].v
}

// Decide holds a bit to what it is: a branch.
func (w *Walk) Decide(v Value) bool { return w.Known(v) != 0 }

// judge is the bit that a test gives.
func (w *Walk) judge(t test) Value {
	v := uint64(0)
	if w.outcome(t) {
		v = 1
	}
	if len(t.x.terms) == 0 && len(t.y.terms) == 0 {
		return w.Const(1, v)
	}
	w.tests = append(w.tests, t)
	return w.add(node{kind: verdict, bits: 1, more: int32(len(w.tests) - 1), v: v})
}

// Fixed gives a value that is the same whatever the places hold.
func (w *Walk) Fixed(v Value) (uint64, bool) {
	x := w.nodes[v]
	return x.v, x.kind == constant
}

// Bits is how many bits a value has.
func (w *Walk) Bits(v Value) uint8 { return w.nodes[v].bits }
