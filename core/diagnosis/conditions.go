package diagnosis

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/judge"
)

// conditions are the signs of displays that follow something else.
var conditions = []symptom{
	{finding.Entry{Code: "edge", Order: 5, Sure: true,
		Doc:   "the edge of a condition is elsewhere: a limit is included that should not be, or the reverse",
		Catch: "set the input to values just beside the limit, and join the display to it with `together`"}, edge},
}

// edge looks for a display that is on and off by the value of something else, as it should be, but for values beside
// the limit.
func edge(v *view) (string, clock.Time, bool) {
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met {
			continue
		}
		c, ok := v.trial().Expect[k].Expectation.(judge.Conditional)
		if !ok {
			continue
		}
		what, _, _ := strings.Cut(x.Text, " while ")
		if text, at := misplaced(what, c.Standings(v.reel)); text != "" {
			return text, at, true
		}
	}
	return "", 0, false
}

// misplaced tells of a limit that is elsewhere; text is empty where the state does not depend on the value alone, or
// where no limit does it. What says what the display should do, as in "heater shows on".
func misplaced(what string, all []judge.Standing) (text string, at clock.Time) {
	type level struct {
		judge.Standing
		shown bool
	}
	var levels []level
	for _, s := range all {
		share, _ := s.Shown.Float64()
		if s.Number == nil || share > 0.1 && share < 0.9 {
			return "", 0
		}
		for _, l := range levels {
			if l.Number.Cmp(s.Number) == 0 && l.shown != (share > 0.5) {
				return "", 0
			}
		}
		levels = append(levels, level{s, share > 0.5})
	}
	slices.SortStableFunc(levels, func(a, b level) int { return a.Number.Cmp(b.Number) })
	levels = slices.CompactFunc(levels, func(a, b level) bool { return a.Number.Cmp(b.Number) == 0 })
	// as many changes from value to value as there should be, each beside the place where it should be
	var seen, want []int
	right := map[bool]bool{} // the state is right somewhere, and its absence is
	var wrong []level
	for i, l := range levels {
		if l.shown == l.Holds {
			right[l.Holds] = true
		} else {
			wrong = append(wrong, l)
		}
		if i > 0 && levels[i-1].shown != l.shown {
			seen = append(seen, i)
		}
		if i > 0 && levels[i-1].Holds != l.Holds {
			want = append(want, i)
		}
	}
	if len(wrong) == 0 || len(seen) != len(want) || !right[false] || !right[true] && len(want) < 2 {
		return "", 0
	}
	for i := range seen {
		if d := seen[i] - want[i]; d > 1 || d < -1 {
			return "", 0
		}
	}
	at = wrong[0].From
	var on, off []string
	for _, l := range wrong {
		at = min(at, l.From)
		if l.shown {
			on = append(on, l.Value)
		} else {
			off = append(off, l.Value)
		}
	}
	var words []string
	if on != nil {
		words = append(words, fmt.Sprintf("at %s, where it should not", strings.Join(on, ", ")))
	}
	if off != nil {
		words = append(words, fmt.Sprintf("not at %s, where it should", strings.Join(off, ", ")))
	}
	return fmt.Sprintf("The limit is in another place: %s %s.", what, strings.Join(words, ", and ")), at
}
