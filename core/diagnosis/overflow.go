package diagnosis

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/finding"
)

// overflows are the signs of numbers that do not fit into what the program keeps them in.
var overflows = []symptom{
	{finding.Entry{Code: "overflow", Order: 5, Sure: true,
		Doc:   "large numbers are too small by always the same, or negative: an intermediate result does not fit into its type",
		Catch: "show the largest number there is"}, overflow},
}

// overflow looks for numbers that are right below a power of two, and above it what is left of them by it.
func overflow(v *view) (string, clock.Time, bool) {
	all, ok := v.numbers()
	if !ok {
		return "", 0, false
	}
	for size := 8; size <= 1<<16; size *= 2 {
		wrong, first := map[int]bool{}, -1
		right, fits := 0, true
		for i, n := range all {
			switch {
			case n.wrong:
				fits = fits && n.want >= size && n.seen == n.want%size
				if wrong[n.want] = true; first < 0 {
					first = i
				}
			case n.want >= size:
				fits = false
			default:
				right++
			}
		}
		if fits && right > 0 && (len(wrong) >= 2 || len(wrong) == 1 && (size == 1<<8 || size == 1<<16)) {
			n := all[first]
			return fmt.Sprintf("Numbers from %d on are too small on %s (%d for %d), smaller ones are right: an intermediate result does not fit into its type.",
				size, v.track.Display, n.seen, n.want), n.at, true
		}
	}
	return "", 0, false
}
