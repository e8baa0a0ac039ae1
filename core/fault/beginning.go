package fault

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "dark-until-change", Price: finding.Single, Order: 8,
		Doc:      "a display shows nothing at first, until what it should show changes",
		Catch:    "read the display before anything changes",
		Subsumes: []finding.Code{"dark", "pattern", "dark-until"}}, Once: true, Sizes: shownLate})
}

// shownLate has what a display should show at first there from the beginning, where that alone is missing: it is drawn
// when it changes, and not before.
func shownLate(s *Subject) []Size {
	const least = 50 * clock.Millisecond
	if s.Verdicts == nil || s.shown == nil {
		return nil
	}
	first, right := map[string]display.Pair{}, 0
	text := ""
	for _, p := range s.shown.Pairs {
		begins := p.On != nil && p.On.Frames[0].Length() >= least && p.At == p.On.Frames[0].From
		switch {
		case !p.Wrong:
			right++
		case !begins || !p.On.Nothing(p.Seen) || p.On.Nothing(p.Want) || p.Used >= 0:
			return nil
		default:
			if text == "" {
				text = fmt.Sprintf("%s shows nothing until something changes: %s should be there from the beginning.",
					s.Part.Name, p.On.Called(p.Want))
			}
			first[p.Trial] = p
		}
	}
	if right < 2 || len(first) == 0 {
		return nil
	}
	return []Size{{Text: text, Reel: frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		if p, ok := first[trial]; ok {
			out[0].State = p.Want
		}
		return out
	})}}
}
