package diagnosis

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
)

// ignoring are the signs of inputs that should do nothing at some times.
var ignoring = []symptom{
	{finding.Entry{Code: "not-ignored", Order: 9, Sure: true, Seen: true,
		Subsumes: []finding.Code{"limit", "goes-on", "extra-step"},
		Doc:      "an input acts at times at which it should do nothing",
		Catch:    "use the input at such a time, and read the display behind it"}, alwaysActs},
}

// alwaysActs looks for a display that shows all that it should, and more behind that: each use of an input changes it,
// and more often than it should change. What comes too much is expected elsewhere, so that it is beyond no limit.
func alwaysActs(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		n := slices.IndexFunc(x.Alignment, amiss)
		if n < 2 || slices.ContainsFunc(x.Alignment[n:], func(l judge.Pair) bool {
			return l.Operation != judge.Extra
		}) {
			continue
		}
		first := x.Alignment[n].Seen
		name, uses := v.changedBy(x.Alignment[1].Seen.From)
		if uses != len(x.Alignment)-1 || !v.expectedElsewhere(first.Text) {
			continue
		}
		return fmt.Sprintf("%s goes on to %s: each of the %d presses of %s changes it, where %d should. At some times %s "+
			"should do nothing.", v.track.Display, first.Text, uses, name, n-1, name), first.From, true
	}
	return "", 0, false
}

// changedBy gives the button that is pressed shortly before a time, and how often it is pressed; 0 where one of its
// presses changes nothing on the display, or more than once.
func (v *view) changedBy(at clock.Time) (name string, uses int) {
	cues := v.reel.Cues
	i := lastBefore(cues, at)
	if i < 0 || cues[i].Verb != part.Press || at-cues[i].Start > tardy {
		return "", 0
	}
	for k, c := range cues {
		if c.Part != cues[i].Part || c.Key != cues[i].Key || c.Verb != part.Press {
			continue
		}
		until := v.reel.Length
		if k+1 < len(cues) {
			until = cues[k+1].Start
		}
		if begun(v.track, c.Start, min(until, c.Start+tardy)) != 1 {
			return "", 0
		}
		uses++
	}
	return named(cues[i]), uses
}

// expectedElsewhere reports whether something is expected of the display in another place.
func (v *view) expectedElsewhere(text string) bool {
	return slices.ContainsFunc(slices.Concat(v.all, v.others), func(x judge.Verdict) bool {
		return x.Display == v.track.Display && slices.ContainsFunc(x.Alignment, func(l judge.Pair) bool {
			return l.Expected != nil && l.Expected.Text == text
		})
	})
}
