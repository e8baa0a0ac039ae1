package avr

import "math"

// What a walk knows of a byte or a flag.

// kind is how much is known.
type kind uint8

const (
	known  kind = iota // the same in every round
	formed             // a byte of a wide form
	saved              // a copy of SREG
	noisy              // some bits are those of floating pins: they stay for a while
	fresh              // made anew in each round, in a way that is not followed
	stale              // whatever rounds before have left
)

// wide is q·D + r modulo 2^n, where D is how far a timer's count has come since the same reading in the first round.
// A byte of it is the highest one: n is 8, 16, 24 …
type wide struct {
	count uint8 // which reading
	n     uint8
	q, r  uint64
}

// value is a byte. v is what it is in the first round, whatever is known beyond that.
type value struct {
	kind kind
	v    uint8
	copy uint8 // of a saved SREG: which copy; of a noisy value: which bits
	wide wide
}

// flag is what is known of a flag of SREG that is not known.
type flag struct {
	kind kind
	test test
}

// test is what decides a flag that depends on a count.
type test struct {
	what testKind
	wide wide
	c    uint64
}

type testKind uint8

const (
	less    testKind = iota // the wide form is less than c: the borrow of a subtraction
	carry                   // the wide form and c are 2^n or more: the carry of an addition
	doubled                 // bit n-1 of the wide form: the carry of a doubling
	zero                    // the wide form is 0
	high                    // bit n-1 of the wide form: N
)

// maxBits is how wide a form may become.
const maxBits = 56

func size(n uint8) uint64 { return 1 << n }

func (w wide) mod(n uint8) wide {
	w.n, w.q, w.r = n, w.q&(size(n)-1), w.r&(size(n)-1)
	return w
}

// extends reports whether w agrees with the form of the bytes below it.
func (w wide) extends(lower wide) bool {
	return w.count == lower.count && w.n == lower.n+8 && w.mod(lower.n) == lower
}

// noFlip is how far a count may go where nothing ever changes.
const noFlip = math.MaxInt64

// reach is the first D at which q·D + r comes to a value at or above r.
func (w wide) reach(at uint64) int64 {
	if w.q == 0 {
		return noFlip
	}
	return int64(min((at-w.r+w.q-1)/w.q, math.MaxInt64))
}

// wrap is the first D at which the form passes 2^n.
func (w wide) wrap() int64 { return w.reach(size(w.n)) }

// next is the first D at which bit b of the form, or one above it, changes.
func (w wide) next(b uint8) int64 { return w.reach((w.r>>b + 1) << b) }

// flip is the first D at which a test may come out differently.
func (t test) flip() int64 {
	w := t.wide
	switch t.what {
	case less:
		if w.r < t.c {
			return w.reach(t.c)
		}
	case carry:
		if w.r+t.c < size(w.n) {
			return w.reach(size(w.n) - t.c)
		}
	case doubled, high:
		return w.next(w.n - 1)
	case zero:
		if w.r == 0 {
			return 1
		}
	}
	return w.wrap()
}
