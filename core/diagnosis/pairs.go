package diagnosis

import (
	"cmp"
	"slices"

	"hemble/core/fault"
	"hemble/core/judge"
	"hemble/core/reel"
)

// second looks for two causes together: on top of the best single ones, and where a single one brings nothing, on top
// of those that may hide another.
func (s *search) second(first []candidate, reels []*reel.Reel, verdicts [][]judge.Verdict) ([]candidate, error) {
	tops := ordered(first)
	tops = tops[:min(maxSecond, len(tops))]
	if len(tops) == 0 || tops[0].marks.Cmp(s.part(2)) < 0 {
		tops = append(tops, s.hiding(reels, verdicts)...)
	}
	var both []candidate
	for _, top := range tops {
		if s.judged > maxJudged {
			s.cutOff = true
			break
		}
		next := make([][]judge.Verdict, len(s.seen))
		for i := range s.seen {
			for _, e := range s.x.Trials[i].Expect {
				next[i] = append(next[i], e.Judge(top.reels[i]))
			}
		}
		more, err := s.try(top.reels, next, top.marks, &top)
		if err != nil {
			return nil, err
		}
		if b := best(more); len(b) > 0 && !s.trace(b[0], top) && (both == nil || b[0].marks.Cmp(both[1].marks) > 0) {
			both = []candidate{top, b[0]}
		}
		if both != nil && both[1].marks.Cmp(s.full) >= 0 {
			break
		}
	}
	return both, nil
}

// trace reports whether a second repair may well be what the first cause brings about besides: it changes numbers or
// texts of the same display, as many causes do, and leaves something.
func (s *search) trace(second, first candidate) bool {
	return !second.certain() && second.part == first.part && !s.rounded(second.marks)
}

// hiding lists repairs of faults behind which another may hide.
func (s *search) hiding(reels []*reel.Reel, verdicts [][]judge.Verdict) (out []candidate) {
	faults := fault.All()
	hidden := slices.DeleteFunc(slices.Clone(faults), func(f *fault.Fault) bool { return f.Hides == 0 })
	slices.SortStableFunc(hidden, func(a, b *fault.Fault) int { return cmp.Compare(a.Hides, b.Hides) })
	for _, p := range s.x.Subjects() {
		if p.Kind.Geometry == nil || !s.concerns(verdicts, p.Name) {
			continue
		}
		subject := fault.NewSubject(s.x, p, reels, verdicts)
		for _, f := range hidden {
			for _, size := range f.Sizes(subject) {
				if size.Rare {
					continue
				}
				c := candidate{fault: f, size: size, part: p.Name, order: slices.Index(faults, f), marks: s.marks,
					tier: OnReel}
				for _, r := range reels {
					c.reels = append(c.reels, size.Reel(r))
				}
				out = append(out, c)
			}
		}
	}
	return out[:min(len(out), maxHidden)]
}
