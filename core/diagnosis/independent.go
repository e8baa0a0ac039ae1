package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/judge"
)

// independent leaves out signs that may follow from what is told first: another cause is told where it is repaired,
// is a fact of the chip's pins, or went wrong sooner. The same on other displays is told of each.
func (s *search) independent(found []Finding) (out []Finding) {
	for i, f := range found {
		if i == 0 || f.Fidelity != BySymptoms || f.Code == found[0].Code || finding.Of(f.Code).Fact ||
			s.sooner(f.Part, found[0].Part) {
			out = append(out, f)
		}
	}
	return out
}

// follows reports whether what a chain of repairs is about may well follow from what a sign tells: many causes could
// bring it about, and it leaves more than a little.
func (s *search) follows(chain []candidate) bool {
	return len(chain) > 0 && !s.nearly(chain[len(chain)-1].marks) && !slices.ContainsFunc(chain, candidate.certain)
}

// sooner reports whether a display went wrong in some trial a good while before another one did, or without it.
func (s *search) sooner(display, other string) bool {
	return slices.ContainsFunc(s.seen, func(t Seen) bool {
		first := map[string]clock.Time{display: clock.Never, other: clock.Never}
		for _, v := range t.Verdicts {
			if v.Outcome != judge.Met && v.First != nil {
				first[v.Display] = min(first[v.Display], shows(v))
			}
		}
		return first[display] != clock.Never && first[display] < first[other]-soon
	})
}
