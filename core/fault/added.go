package fault

import (
	"fmt"
	"maps"
	"slices"

	"hemble/core/display"
	"hemble/core/reel"
)

// addsOther looks for an input that adds something else than it should to a number that goes on by itself as well, such
// as the time that is left: what it adds is seen where it alone was used, once, since the answer before.
func addsOther(s *Subject) []Size {
	type adds struct{ want, seen int }
	by, uneven, times := map[input]adds{}, map[input]bool{}, map[input]int{}
	for _, all := range s.drivenAnswers(false) {
		for i := 1; i < len(all); i++ {
			a, before := all[i], all[i-1]
			if len(a.inputs) != 1 || a.inputs[0].by != 1 || !a.readable || !before.readable {
				continue
			}
			of, x := a.inputs[0].input, adds{a.want - before.want, a.seen - before.seen}
			if was, ok := by[of]; ok && was != x {
				uneven[of] = true
			}
			by[of] = x
			times[of]++
		}
	}
	for _, of := range slices.SortedFunc(maps.Keys(by), byName) {
		x := by[of]
		if uneven[of] || times[of] < 2 || x.want == x.seen || x.want == 0 || x.seen == 0 {
			continue
		}
		return []Size{{Text: fmt.Sprintf("The number on %s changes by %d with each use of %s, where %d is expected.",
			s.Part.Name, abs(x.seen), of, abs(x.want)), Reel: func(r *reel.Reel) *reel.Reel {
			return frames(s.Part.Name, func(_ string, t *display.Track) []display.Frame {
				out := slices.Clone(t.Frames)
				for i := range out {
					used := 0
					for _, c := range r.Cues {
						if c.Start < out[i].From && c.Part == of.part && c.Verb == of.verb && c.Key == of.key {
							used++
						}
					}
					if n, ok := s.read(t, out[i].State); ok && used > 0 {
						out[i].State = s.write(t, out[i].State, max(0, n-used*(x.seen-x.want)))
					}
				}
				return out
			})(r)
		}}}
	}
	return nil
}
