package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/reel"
)

// Times of what may have led to the first difference.
const (
	leads     = 3 * clock.Second         // before it, at most, that something was done which led to it
	together  = 300 * clock.Millisecond  // between what was done that belongs together
	answering = 100 * clock.Millisecond  // that a program takes to answer
	calm      = 1100 * clock.Millisecond // before that, at most, that is looked at: what comes each second is in it
)

// led tells when what led to the first difference began, and from when on until then nothing did that has to do with
// it: a key was pressed, or let go; where nothing was done for a while it began shortly before. It ends where something
// else was done. All are 0 where nothing led to it.
func (a *attempt) led(r *reel.Reel) (quiet, since, until clock.Time) {
	until = a.first + dawdle
	var done []clock.Time
	for _, c := range r.Cues {
		for _, at := range []clock.Time{c.Start, c.End} {
			switch {
			case at <= a.first:
				done = append(done, at)
			default:
				until = min(until, at) // what comes then did not lead to it
			}
		}
	}
	slices.Sort(done)
	if a.begun = starting; len(done) > 0 {
		a.begun = max(starting, done[0])
	}
	n := len(done) - 1
	if n < 0 || done[n] < a.first-leads {
		if a.first < together { // it was so from the beginning
			a.born = !a.overall
			return 0, 0, 0
		}
		since = a.first - answering
		return max(0, since-together), since, until
	}
	for n > 0 && done[n]-done[n-1] < together && a.first-done[n-1] < leads {
		n--
	}
	since = done[n]
	quiet = since - calm
	if n > 0 {
		quiet = max(quiet, done[n-1]+answering)
	}
	return max(0, min(quiet, since-answering/2)), since, until
}
