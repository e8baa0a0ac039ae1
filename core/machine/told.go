package machine

import (
	"math"
	"slices"
)

// Odd compares the numbers of a program with those that its author was told. The function that it gives tells, for a
// number of which the text says nothing, those of the text that the program has nowhere, as large as comes nearest to
// it: a time may be counted in seconds or in ms.
func (h Hints) Odd(program []int64) func(is int64) []int64 {
	told, has := map[int64]bool{}, map[int64]bool{}
	for _, n := range h.Told {
		told[leading(n)] = true
	}
	for _, n := range program {
		if has[leading(n)] = true; n > 9 { // > 69 is as good as >= 70
			has[leading(n-1)], has[leading(n+1)] = true, true
		}
	}
	var missing []int64
	for n := range told {
		if n > 1 && !has[n] {
			missing = append(missing, n)
		}
	}
	slices.Sort(missing)
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
		return out
	}
}

// leading is a number without the zeros at its end, which say in what unit it is.
func leading(n int64) int64 {
	for n != 0 && n%10 == 0 {
		n /= 10
	}
	return n
}
