package judge

import (
	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/spec"
)

// expected is one frame of a sequence with its length: 0 for untimed, anyLength for as long as it
// likes.
type expected struct {
	want   want
	length clock.Time
	place  spec.Pos
}

// Costs of the alignment, in thousandths. A wrong frame costs no more than a missing one, so that a
// wrong pattern stays one wrong frame even where extra frames are free; a missing frame between
// right ones costs less than two wrong ones.
const (
	costMissing = 1000
	costExtra   = 800
	costIgnored = 500 // an extra frame between expected ones where extra ones are allowed
	costWrong   = 800
	costOff     = 60  // on top of costWrong, for a sight that has nothing in common
	costTime    = 400 // at most, for a right sight of the wrong length
)

// seen is one frame of a track; frames that look alike to the expectation are one.
type seen struct {
	reel.Frame
	clipped bool // the run ended within it
}

// aligner finds the cheapest way to lay a track beside the expected frames (Needleman and Wunsch,
// J. Mol. Biol. 48, 1970), so that one frame more or less does not spoil the rest.
type aligner struct {
	track     *reel.Track
	want      []expected
	seen      []seen
	tolerance func(clock.Time) clock.Time
	anchored  bool // the first expected frame is the first seen one
	ignore    bool // extra frames do no harm
}

// pairing is one step of the result: indexes, or -1.
type pairing struct {
	step Step
	e, s int
}

func (a *aligner) inTime(e expected, s seen) bool {
	if e.length <= 0 {
		return true
	}
	tolerance, off := a.tolerance(e.length), s.Length()-e.length
	if s.clipped {
		return off <= tolerance
	}
	return off <= tolerance && off >= -tolerance
}

func (a *aligner) cost(e expected, s seen) int {
	ok, off := e.want.shows(a.track, s.Sight)
	if !ok {
		return costWrong + costOff*off/1000
	}
	if a.inTime(e, s) {
		return 0
	}
	wrong := s.Length() - e.length
	if wrong < 0 {
		wrong = -wrong
	}
	return min(costTime, int(float64(costTime)*float64(wrong)/float64(e.length)))
}

// extraCost is that of seen frame s after e expected ones.
func (a *aligner) extraCost(e int) int {
	switch {
	case e == 0 && a.anchored:
		return costExtra // something else came first
	case e == 0:
		return 0 // before the sequence begins
	case e == len(a.want) && a.ignore:
		return 0
	case a.ignore:
		return costIgnored
	}
	return costExtra
}

// align gives the steps in order.
func (a *aligner) align() []pairing {
	n, m := len(a.want), len(a.seen)
	best := make([][]int32, n+1)
	for e := range best {
		best[e] = make([]int32, m+1)
		for s := range best[e] {
			if e == 0 && s == 0 {
				continue
			}
			v := int32(1 << 30)
			if e > 0 {
				v = min(v, best[e-1][s]+costMissing)
			}
			if s > 0 {
				v = min(v, best[e][s-1]+int32(a.extraCost(e)))
			}
			if e > 0 && s > 0 {
				v = min(v, best[e-1][s-1]+int32(a.cost(a.want[e-1], a.seen[s-1])))
			}
			best[e][s] = v
		}
	}
	var steps []pairing
	for e, s := n, m; e > 0 || s > 0; {
		here := best[e][s]
		switch {
		case e > 0 && here == best[e-1][s]+costMissing: // of equal ways the one that matches early
			e--
			steps = append(steps, pairing{Missing, e, -1})
		case e > 0 && s > 0 && here == best[e-1][s-1]+int32(a.cost(a.want[e-1], a.seen[s-1])):
			e--
			s--
			step := Wrong
			if ok, _ := a.want[e].want.shows(a.track, a.seen[s].Sight); ok {
				if step = Mistimed; a.inTime(a.want[e], a.seen[s]) {
					step = Right
				}
			}
			steps = append(steps, pairing{step, e, s})
		default:
			s--
			step := Extra
			if a.extraCost(e) < costExtra {
				step = Ignored
			}
			steps = append(steps, pairing{step, -1, s})
		}
	}
	for i, j := 0, len(steps)-1; i < j; i, j = i+1, j-1 {
		steps[i], steps[j] = steps[j], steps[i]
	}
	return steps
}
