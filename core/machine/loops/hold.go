package loops

// bitCheck is that some bits of a place hold at the head what they held when it was walked.
type bitCheck struct {
	place      Place
	mask, want uint64
}

// check is that a test gives the answer that it gave.
type check struct {
	test test
	want bool
	v    uint64 // of stays: what x was
}

// hold has the bits of a value that are in a mask checked to stay as they are.
func (w *Walk) hold(v Value, mask uint64) {
	x := &w.nodes[v]
	if mask &= ones(x.bits) &^ x.held; mask == 0 || x.kind == constant {
		return
	}
	x.held |= mask
	switch x.kind {
	case part:
		w.holdPart(*x, mask)
	case masked:
		w.hold(x.of[0], mask&x.mask)
	case row:
		for i := range int32(x.bits) {
			w.hold(w.rows[x.more+i], mask>>i&1)
		}
	case verdict:
		w.checks = append(w.checks, check{test: w.tests[x.more], want: x.v == 1})
	case opaque:
		x.held = ones(x.bits)
		for _, o := range x.of[:x.from] {
			w.hold(o, ^uint64(0))
		}
	}
}

func (w *Walk) holdPart(x node, mask uint64) {
	if f := w.forms[x.more]; f.c == 0 && len(f.terms) == 1 && f.terms[0].k == 1 {
		if a := &w.atoms[f.terms[0].atom]; a.kind == entry {
			w.holdBits(a, mask<<x.lo)
			return
		}
	}
	low, high := uint8(0), uint8(63)
	for mask>>low&1 == 0 {
		low++
	}
	for mask>>high&1 == 0 {
		high--
	}
	f := w.mod(w.forms[x.more], x.lo+high+1)
	w.checks = append(w.checks, check{test{op: stays, x: f, lo: x.lo + low}, true, w.value(f)})
}

func (w *Walk) holdBits(a *atom, mask uint64) {
	for i := range w.bits {
		if b := &w.bits[i]; b.place == a.place {
			b.mask |= mask
			b.want = a.v & b.mask
			return
		}
	}
	w.bits = append(w.bits, bitCheck{a.place, mask, a.v & mask})
}
