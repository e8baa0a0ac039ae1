package loops

import "math/bits"

// test is a question about forms of the same modulus 2^n.
type test struct {
	op   testOp
	not  bool // the answer is turned round
	x, y form // y of less and carries only
	lo   uint8
}

type testOp uint8

const (
	less    testOp = iota // x < y
	carries               // x + y is 2^n or more
	zero                  // x is 0
	stays                 // x has, from bit lo on, what it had when it was walked
	inside                // x has not come to its modulus: always so at first
)

// answer is what a test says of two numbers; of stays and inside it is so where they were walked.
func (t testOp) answer(x, y uint64, n uint8) bool {
	switch t {
	case less:
		return x < y
	case carries:
		if n == 64 {
			_, c := bits.Add64(x, y, 0)
			return c != 0
		}
		return x+y > ones(n)
	case zero:
		return x == 0
	}
	return true
}

func (w *Walk) outcome(t test) bool {
	y := uint64(0)
	if t.op == less || t.op == carries {
		y = w.value(t.y)
	}
	return t.op.answer(w.value(t.x), y, t.x.n) != t.not
}

// span is the numbers from and to, both included, between which x may move, with y where it is, or y with x where it
// is, for a test to answer as it does. It contains the moving one.
func (t testOp) span(x, y uint64, n, lo uint8, movesY bool) (from, to uint64) {
	most := ones(n)
	yes := t.answer(x, y, n)
	switch {
	case t == less && !movesY && yes:
		return 0, y - 1
	case t == less && !movesY:
		return y, most
	case t == less && yes:
		return x + 1, most
	case t == less:
		return 0, x
	case t == carries:
		if movesY {
			y = x
		}
		if yes {
			return most - y + 1, most
		}
		return 0, most - y
	case t == zero && yes:
		return 0, 0
	case t == zero:
		return 1, most
	case t == stays:
		return x >> lo << lo, x>>lo<<lo | (uint64(1)<<lo - 1)
	}
	return 0, most
}

// steps is how many steps of s, modulo 2^n and not 0, a number takes until it leaves a span, at the latest.
func steps(v, from, to, s uint64, n uint8) int64 {
	const most = 1 << 40
	if half := ones(n)>>1 + 1; s <= half {
		return int64(min((to-v)/s, most-1)) + 1
	}
	return int64(min((v-from)/(ones(n)-s+1), most-1)) + 1
}
