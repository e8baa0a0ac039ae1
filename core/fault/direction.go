package fault

import (
	"cmp"
	"slices"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/part"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "direction", Price: finding.Wiring,
		Doc:   "an encoder's direction is reversed",
		Catch: "turn the encoder both ways and read the value behind each", Order: 8}, Sizes: direction})
	register(&Fault{Entry: finding.Entry{Code: "direction", Price: finding.Wiring,
		Doc:   "an input leads the other way: a number down where it should go up, or through states in reverse",
		Catch: "use the input several times and read the display behind each"}, Once: true,
		Sizes: either(drivenTurned.sizes, (*Subject).goesBackwards)})
}

func direction(s *Subject) []Size {
	out := s.cued(part.Turn, "%s counts the wrong way round: clockwise goes down.",
		func(c *exercise.Cue) { c.By = -c.By })
	for i := range out {
		out[i].Likely = s.Verdicts != nil && s.backwards()
	}
	return out
}

// backwards reports whether some number goes down where it should go up, or the reverse, and none goes as it should.
func (s *Subject) backwards() bool {
	against := false
	for trial, verdicts := range s.Verdicts {
		for _, t := range s.Reels[trial].Tracks {
			pairs := Pairs(s.Reels[trial], t.Display, verdicts)
			nth := Which(&t, pairs)
			slices.SortStableFunc(pairs, func(a, b display.Pair) int { return cmp.Compare(a.At, b.At) })
			for i := 1; i < len(pairs); i++ {
				wanted, a := stepped(&t, nth, pairs[i-1].Want, pairs[i].Want)
				seen, b := stepped(&t, nth, pairs[i-1].Seen, pairs[i].Seen)
				if a && b && wanted*seen > 0 {
					return false
				}
				against = against || a && b && wanted*seen < 0
			}
		}
	}
	return against
}

// stepped is by how much a number differs from the one before; ok is false where one of the states has none.
func stepped(t *display.Track, nth int, before, after display.State) (by int, ok bool) {
	a, first := ReadNumber(t, before, nth)
	b, second := ReadNumber(t, after, nth)
	return b - a, first && second
}
