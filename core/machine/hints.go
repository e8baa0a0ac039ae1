package machine

import (
	"math"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/firmware"
)

// Hints are what differs first between what was seen and what was expected: they tell what a number of the program may
// have been meant to be.
type Hints struct {
	Shifts []int64     // what was expected less what was seen, of numbers
	Pairs  [][2]int64  // numbers that were expected, and those that were seen in their places
	Wanted []int64     // numbers that were expected
	Texts  [][2]string // what was expected, and what was seen
	Told   []int64     // numbers in what the program's author was told
	Ratios [][2]int64  // the time that something was expected to take, and the time that it took, in ms
	Timing bool        // nothing is wrong but times
	// By is the place of the program behind the first difference; nil where nobody knows.
	By *Place
	// Reached tells when the instruction at a byte address was first carried out: others need not be listed; nil where
	// nobody knows.
	Reached func(address uint32) (at clock.Time, ok bool)
	// Quiet and Since part what was seen of a trial before the first difference: what led to it began at Since, and
	// from Quiet on until then nothing did. Both are 0 where nobody knows.
	Quiet, Since clock.Time
	// Until is when the first difference was there.
	Until clock.Time
	// Recent tells that the instruction at a byte address was carried out between Since and Until, and not between
	// Quiet and Since; nil where nobody knows.
	Recent func(address uint32) bool
	// Compared are the lines on which a change of the compiled program has a comparison take in its limit, or leave it
	// out: their source need not be changed for that.
	Compared map[firmware.Line]bool
}

// Runs reports whether an instruction may have been carried out.
func (h Hints) Runs(address uint32) bool {
	if h.Reached == nil {
		return true
	}
	_, ok := h.Reached(address)
	return ok
}

// Each gives the numbers that one may have been meant to be, with how seldom that is; flips adds those with one bit of
// a byte turned. Some come more than once.
func (h Hints) Each(is int64, flips bool, try func(rare int, to int64)) {
	beside, scaled := 0, Seldom
	if h.Timing {
		beside, scaled = Seldom, 0
	}
	next := int64(1)
	if len(h.Shifts) > 0 && h.Shifts[0] < 0 { // what is seen is too large: so may be what brings it about
		next = -1
	}
	try(beside, is+next)
	try(beside, is-next)
	for _, to := range h.shifted(is) {
		try(0, to)
	}
	for _, to := range h.scaled(is) {
		try(scaled, to)
	}
	for _, to := range h.far(is) {
		try(Seldom, to)
	}
	for bit := 0; flips && bit < 8; bit++ {
		try(Unlikely, is^1<<bit)
	}
}

// near are the numbers that one is likely to have been meant to be.
func (h Hints) near(is int64) []int64 {
	return slices.Concat(h.shifted(is), h.scaled(is), []int64{is + 1, is - 1})
}

// shifted are those that are as far from it as what was expected from what was seen.
func (h Hints) shifted(is int64) (out []int64) {
	for _, s := range h.Shifts {
		out = append(out, is+s, is-s)
	}
	return out
}

// scaled are those that are to it as a time that was expected to the one that was seen.
func (h Hints) scaled(is int64) (out []int64) {
	if is > 3 { // a time
		for _, r := range h.Ratios {
			out = append(out, Rounded((is*r[0]+r[1]/2)/r[1]))
		}
	}
	if is > 99 { // a time in ms, beside another one
		for _, r := range h.Ratios {
			out = append(out, Rounded(is+r[0]-r[1]))
		}
	}
	return out
}

// about is how far from the number that is meant one is, in percent, that comes from a time as it was seen.
const about = 2

// Rounded is the number of two digits that is meant by one, where it is near to one.
func Rounded(n int64) int64 {
	unit := int64(1)
	for n/unit >= 100 {
		unit *= 10
	}
	to := (n + unit/2) / unit * unit
	if off := to - n; 100*max(off, -off) <= about*n {
		return to
	}
	return n
}

// mostStep is the largest number that a program may count by.
const mostStep = 16

// far are those that are less likely.
func (h Hints) far(is int64) []int64 {
	out := slices.Clone(h.Wanted)
	if -mostStep <= is && is <= mostStep { // the other way
		out = append(out, -is)
	}
	return append(out, 2*is, is/2, 10*is, is/10, is+2, is-2, 0, 1)
}

// Telling is the smallest number that stands for few things in a program.
const Telling = 2

// maxSmall is how many of the first differences smaller numbers are looked for of.
const maxSmall = 2

// InPlaceOf gives the numbers that were expected where one was seen: it may stand in the program as it was seen.
func (h Hints) InPlaceOf(seen int64) (out []int64) {
	for k, p := range h.Pairs {
		if p[1] == seen && (seen >= Telling || k < maxSmall) {
			out = append(out, p[0])
		}
	}
	return out
}

// SeenFor reports whether one text was seen somewhere where another one was expected.
func (h Hints) SeenFor(seen, wanted string) bool {
	return slices.ContainsFunc(h.Texts, func(p [2]string) bool {
		return strings.Contains(p[1], seen) && !strings.Contains(p[0], seen) && strings.Contains(p[0], wanted) &&
			!strings.Contains(p[1], wanted)
	})
}

// Odd compares the numbers of a program with those that its author was told. The function that it gives tells, for a
// number of which the text says nothing, those of the text that the program has nowhere, as large as comes nearest to
// it: a time may be counted in seconds or in ms. A large number that it has in another size alone may be missing, too.
func (h Hints) Odd(program []int64) func(is int64) []int64 {
	told, has, same := map[int64]bool{}, map[int64]bool{}, map[int64]bool{}
	for _, n := range h.Told {
		told[leading(n)] = true
	}
	for _, n := range program {
		has[leading(n)], same[n] = true, true
		if n > 9 { // > 69 is as good as >= 70
			has[leading(n-1)], has[leading(n+1)], same[n-1], same[n+1] = true, true, true, true
		}
	}
	var missing []int64
	for n := range told {
		if n > 1 && !has[n] {
			missing = append(missing, n)
		}
	}
	slices.Sort(missing)
	var resized []int64
	for _, n := range h.Told {
		if n >= large && has[leading(n)] && !same[n] && !slices.Contains(resized, n) {
			resized = append(resized, n)
		}
	}
	return func(is int64) (out []int64) {
		if is < 2 || told[leading(is)] || is > 9 && (told[leading(is-1)] || told[leading(is+1)]) {
			return nil
		}
		for _, n := range missing {
			digits := math.Round(math.Log10(float64(is) / float64(n)))
			if to := float64(n) * math.Pow10(int(digits)); to == math.Trunc(to) {
				out = append(out, int64(to))
			}
		}
		for _, n := range resized {
			if is >= large && max(n, is) <= 10*min(n, is) {
				out = append(out, n)
			}
		}
		return out
	}
}

// large is a number that hardly stands for anything but what it was told for.
const large = 100

// leading is a number without the zeros at its end, which say in what unit it is.
func leading(n int64) int64 {
	for n != 0 && n%10 == 0 {
		n /= 10
	}
	return n
}
