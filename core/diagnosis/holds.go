package diagnosis

import (
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/fault"
	"hemble/core/judge"
	"hemble/core/reel"
)

// part is the mark with one nth of what was lost.
func (s *search) part(n int64) *big.Rat {
	lost := new(big.Rat).Sub(s.full, s.marks)
	return lost.Add(s.marks, lost.Quo(lost, big.NewRat(n, 1)))
}

// explains reports whether a chain of repairs brings back enough of what was lost, or all of it on the displays that it
// is about. What many causes could bring about must do the latter: it holds in every frame or it is not said.
func (s *search) explains(chain []candidate) bool {
	if len(chain) == 0 {
		return false
	}
	last := chain[len(chain)-1]
	if slices.ContainsFunc(chain, func(c candidate) bool { return c.size.Against }) {
		return false
	}
	if len(chain) == 2 && chain[0].fault.Vague && chain[1].fault.Vague && (chain[0].ruled() || chain[1].ruled()) {
		return false // with two of them almost anything can be brought about
	}
	if len(chain) == 2 && chain[0].fault.Vague && chain[1].fault.Vague &&
		s.amiss(chain[0].reels)-s.amiss(last.reels) < mended {
		return false
	}
	if len(chain) == 2 && chain[1].fault.Vague && chain[0].tier == Rerun && !s.ofDisplay(chain[0]) &&
		chain[0].marks.Cmp(s.part(3)) < 0 {
		return false // running again with other inputs brings back a little by chance
	}
	if last.marks.Cmp(s.full) >= 0 {
		return true
	}
	wrong := func(c candidate) bool { return s.outOfTime(c, last.reels) || s.otherPace(c, last.reels) }
	if s.breaks(chain) || slices.ContainsFunc(chain, wrong) {
		return false
	}
	vague, whole := false, true // a number repaired by a rule must be right throughout
	for _, c := range chain {
		vague = vague || c.ruled()
		for _, name := range append([]string{c.part}, c.more...) {
			whole = whole && s.allMet(last.reels, name)
		}
	}
	least := int64(3)
	if !slices.ContainsFunc(chain, func(c candidate) bool { return c.tier == OnReel }) { // the program itself was asked
		least = 4
	}
	return whole || !vague && last.marks.Cmp(s.part(least)) >= 0
}

// ofDisplay reports whether what is repaired is of a display.
func (s *search) ofDisplay(c candidate) bool {
	p := s.x.Part(c.part)
	return p != nil && p.Kind.Geometry != nil
}

// undisputed is the best repair of a mistake that nothing that was seen speaks against, on any display, where it mends
// all of its own display.
func (s *search) undisputed(first []candidate) []candidate {
	c := best(slices.DeleteFunc(slices.Clone(first), func(c candidate) bool {
		return slices.ContainsFunc(first, func(o candidate) bool { return o.fault == c.fault && o.size.Against })
	}))
	if len(c) > 0 && s.allMet(c[0].reels, c[0].part) {
		return c
	}
	return nil
}

// breaks reports whether a chain of repairs spoils a state that was right before: then what it says does not hold
// throughout. What follows a number in the program does not follow the repaired one.
func (s *search) breaks(chain []candidate) bool {
	for i, r := range chain[len(chain)-1].reels {
		for k, e := range s.x.Trials[i].Expect {
			own := func(c candidate) bool { return c.tier != OnReel || c.part == s.seen[i].Verdicts[k].Display }
			if _, follows := e.Expectation.(judge.Conditional); follows && !slices.ContainsFunc(chain, own) {
				continue
			}
			before, after := states(s.seen[i].Verdicts[k]), states(e.Judge(r))
			for n := range min(len(before), len(after)) {
				if right(before[n]) && !right(after[n]) {
					return true
				}
			}
		}
	}
	return false
}

// outOfTime reports whether a repair of what a lamp shows leaves most of its states wrong in time: on and off come one
// after the other however they come about.
func (s *search) outOfTime(c candidate, reels []*reel.Reel) bool {
	p := s.x.Part(c.part)
	return c.tier == OnReel && s.ofDisplay(c) && p.Kind.Geometry(*p).Type().Traits().Single &&
		s.mistimed(reels, func(_ *reel.Reel, v judge.Verdict, _ judge.Pair) bool { return v.Display == c.part })
}

// otherPace reports whether a repair of time leaves most states whose lengths tell the pace far from their times.
func (s *search) otherPace(c candidate, reels []*reel.Reel) bool {
	return c.fault.Code == "time" && s.mistimed(reels, func(r *reel.Reel, _ judge.Verdict, l judge.Pair) bool {
		if l.Seen == nil || l.Seen.From == 0 || l.Seen.To >= r.Length || fault.Ended(r, l.Seen.To) {
			return false
		}
		return l.Operation == judge.Right || farOff(l.Seen.To-l.Seen.From, l.Expected.To-l.Expected.From)
	})
}

// mistimed reports whether of the expected states that count more are wrong in time than right.
func (s *search) mistimed(reels []*reel.Reel, counts func(*reel.Reel, judge.Verdict, judge.Pair) bool) bool {
	mistimed, right := 0, 0
	for i, r := range reels {
		for _, e := range s.x.Trials[i].Expect {
			v := e.Judge(r)
			for _, l := range v.Alignment {
				switch {
				case !v.Timed || l.Expected == nil || !counts(r, v, l):
				case l.Operation == judge.Mistimed:
					mistimed++
				case l.Operation == judge.Right:
					right++
				}
			}
		}
	}
	return mistimed > right
}

// farOff reports whether a state lasts half as long again as it should, or less than two thirds of that: as where its
// time was right and a pace is undone that it never had.
func farOff(seen, want clock.Time) bool { return 2*seen > 3*want || 3*seen < 2*want }

// states are what became of the states that were expected, in their order.
func states(v judge.Verdict) (out []judge.Operation) {
	for _, l := range v.Alignment {
		if l.Expected != nil {
			out = append(out, l.Operation)
		}
	}
	return out
}

func right(o judge.Operation) bool { return o == judge.Right || o == judge.Mistimed }

// allMet reports whether every expectation about a display, or about a group that it belongs to, is met; of an input,
// every expectation.
func (s *search) allMet(reels []*reel.Reel, name string) bool {
	input := s.x.Part(name) == nil || s.x.Part(name).Kind.Geometry == nil
	for i, r := range reels {
		for _, e := range s.x.Trials[i].Expect {
			if v := e.Judge(r); v.Outcome != judge.Met &&
				(input || v.Display == name || s.x.Holds(v.Display, name)) {
				return false
			}
		}
	}
	return true
}

// mended is how many states a repair that was made from what was expected must set right to count as tested: one of
// them it was made from.
const mended = 2

// amiss counts the states that are not as expected, in what they show or in time.
func (s *search) amiss(reels []*reel.Reel) (n int) {
	for i, r := range reels {
		for _, e := range s.x.Trials[i].Expect {
			for _, l := range e.Judge(r).Alignment {
				if l.Operation != judge.Right && l.Operation != judge.Ignored {
					n++
				}
			}
		}
	}
	return n
}
