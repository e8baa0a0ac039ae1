package fault

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

// Numbers of lines and sequences, one after the other, which a rule of their neighbours makes of those that are wanted.

func init() {
	register(&Fault{Entry: finding.Entry{Code: "replaced", Price: finding.Behaviour, Vague: true,
		Doc:   "each input sets a number where it should add to it",
		Catch: "write several of the numbers, one after the other"}, Once: true, Sizes: addsNothing})
	register(&Fault{Entry: finding.Entry{Code: "not-reset", Price: finding.Behaviour, Vague: true,
		Doc:   "a number that should begin anew each time adds up",
		Catch: "write several of the numbers, one after the other"}, Once: true, Sizes: addsUp})
	register(&Fault{Entry: finding.Entry{Code: "count-offset", Price: finding.Constant, Vague: true,
		Doc:   "a number is too large or too small by a constant",
		Catch: "read the number at a time that it is known for"}, Once: true, Sizes: countedLate})
}

// fewInSeries is how many numbers it takes to tell a rule.
const fewInSeries = 4

// series gives the numbers that are wanted, and those that were seen, of each trial with a sequence; ok is false where
// there is none, or where it is too short.
func (s *Subject) series() (want, seen [][]int, ok bool) {
	if _, counts := s.counting(); !counts || s.Verdicts == nil {
		return nil, nil, false
	}
	ok = true
	s.sequences(func(trial int, v judge.Verdict) {
		var wanted, shown []int
		for _, l := range v.Alignment {
			if l.Expected == nil || l.Operation == judge.Extra {
				continue
			}
			if l.Expected.State == nil {
				ok = false
				continue
			}
			if n, is := s.number(*l.Expected.State); is { // others stand between
				wanted = append(wanted, n)
			}
		}
		for _, f := range s.Reels[trial].Track(s.Part.Name).Frames {
			if n, is := s.number(f.State); is {
				shown = append(shown, n)
			}
		}
		ok = ok && len(wanted) >= fewInSeries && len(shown) >= len(wanted)
		want, seen = append(want, wanted), append(seen, shown)
	})
	return want, seen, ok && len(want) > 0
}

// ruled makes a size of a rule: what it makes of the numbers that are wanted must be what was seen. Back gives the
// wanted number of the nth one that was seen, the one seen before it, and the one that was wanted there.
func (s *Subject) ruled(text string, rule func(want []int, i int) int, back func(i, n, before, wanted int) int) []Size {
	want, seen, ok := s.series()
	if !ok {
		return nil
	}
	for k, wanted := range want {
		wrong := 0
		for i := range wanted {
			if seen[k][i] != rule(wanted, i) {
				return nil
			}
			if seen[k][i] != wanted[i] {
				wrong++
			}
		}
		if wrong < 2 {
			return nil
		}
	}
	return []Size{{Text: text, Certain: true, Reel: func(r *reel.Reel) *reel.Reel {
		return frames(s.Part.Name, func(_ string, t *display.Track) []display.Frame {
			out := slices.Clone(t.Frames)
			i, before, wanted := 0, 0, 0
			for k := range out {
				if n, is := s.read(t, out[k].State); is {
					if wanted = back(i, n, before, wanted); wanted >= 0 {
						out[k].State = s.write(t, out[k].State, wanted)
					}
					i, before = i+1, n
				}
			}
			return out
		})(r)
	}}}
}

// addsUp looks for numbers that are the sums of those that should be shown.
func addsUp(s *Subject) []Size {
	return s.ruled(fmt.Sprintf("The number on %s adds up: it is not set back to 0 once it was shown.", s.Part.Name),
		func(want []int, i int) (sum int) {
			for _, n := range want[:i+1] {
				sum += n
			}
			return sum
		},
		func(_, n, before, _ int) int { return n - before })
}

// addsNothing looks for numbers that should be sums, and are what is added to them.
func addsNothing(s *Subject) []Size {
	return s.ruled(fmt.Sprintf("The number on %s is set anew each time, where it should be added to.", s.Part.Name),
		func(want []int, i int) int {
			if i == 0 || want[i] < want[i-1] {
				return want[i]
			}
			return want[i] - want[i-1]
		},
		func(_, n, _, sum int) int {
			if n == 0 {
				return 0
			}
			return sum + n
		})
}

// countedLate looks for numbers that are too small by one from the second on: each is shown before it is counted.
func countedLate(s *Subject) []Size {
	return s.ruled(fmt.Sprintf("The number on %s is too small by 1 from the second one on: it is shown before it is counted on.",
		s.Part.Name),
		func(want []int, i int) int { return want[i] - min(i, 1) },
		func(i, n, _, _ int) int { return n + min(i, 1) })
}
