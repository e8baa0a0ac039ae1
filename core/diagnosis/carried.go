package diagnosis

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/judge"
)

// carried are the signs of numbers side by side that are carried into each other, as hours, minutes and seconds are:
// each goes round by itself.
var carried = []symptom{
	{finding.Entry{Code: "carry", Order: 8, Sure: true}, notCarried},
	{finding.Entry{Code: "limit-round", Order: 8, Sure: true, Subsumes: []finding.Code{"goes-on", "extra-step", "limit"},
		Doc:   "hours, minutes or seconds go on beyond the end of their round",
		Catch: "let the clock pass the end of the round"}, roundMissed},
}

// notCarried looks for numbers beside each other of which the last begins again, and the one before it, which is to go
// on by one then, stays.
func notCarried(v *view) (string, clock.Time, bool) {
	for _, t := range v.texts() {
		want, a := t.want.integers()
		seen, b := t.seen.integers()
		if !a || !b || !t.wrong || !slices.Equal(t.want.around[1:], t.seen.around[1:]) {
			continue
		}
		k, here := onlyPlace(want, seen), v.track.At(t.at)
		if k < 0 || k+1 == len(want) || here == nil || len(t.want.around[k+1]) != 1 { // they stand apart
			continue
		}
		last := v.before(here.From)
		if last == nil {
			continue
		}
		before := phraseOf(v.read(*last))
		was, ok := before.integers()
		if !ok || len(was) != len(seen) || !slices.Equal(before.around, t.seen.around) || want[k] != was[k]+1 ||
			seen[k] != was[k] || slices.ContainsFunc(seen[k+1:], func(n int) bool { return n != 0 }) || was[k+1] == 0 {
			continue
		}
		return fmt.Sprintf("Nothing is carried on %s: after %s it shows %s, where %s is expected.", v.track.Display,
			v.track.Short(*last), v.track.Short(here.State), t.want), t.at, true
	}
	return "", 0, false
}

// roundMissed looks for the first state that is wrong, in which one of several numbers with colons between them goes on
// by one, beyond all that is ever expected of it, where it should begin again with 0.
func roundMissed(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		i := slices.IndexFunc(x.Alignment, func(l judge.Pair) bool {
			return l.Operation != judge.Right && l.Operation != judge.Mistimed && l.Operation != judge.Ignored
		})
		if i < 0 || x.Alignment[i].Seen == nil || x.Alignment[i].Seen.State == nil {
			continue
		}
		seen, next := x.Alignment[i].Seen, slices.IndexFunc(x.Alignment[i:], asks)
		last := v.before(seen.From)
		if next < 0 || last == nil || x.Alignment[i+next].Expected.State == nil {
			continue
		}
		here := phraseOf(v.read(*seen.State))
		is, a := here.integers()
		was, b := phraseOf(v.read(*last)).integers()
		want, c := phraseOf(v.read(*x.Alignment[i+next].Expected.State)).integers()
		most := v.mostAsked(len(is))
		if !a || !b || !c || len(is) != len(was) || len(is) != len(want) {
			continue
		}
		for k := range is {
			beside := k > 0 && here.around[k] == ":" || k+1 < len(is) && here.around[k+1] == ":"
			if beside && is[k] == was[k]+1 && is[k] > most[k] && want[k] == 0 {
				return fmt.Sprintf("%s goes on from %s to %s: %d stands where that number should begin again with 0.",
					v.track.Display, v.track.Short(*last), v.track.Short(*seen.State), is[k]), seen.From, true
			}
		}
	}
	return "", 0, false
}

// mostAsked gives the largest number that is ever expected at each place of a text with so many, in any trial.
func (v *view) mostAsked(places int) []int {
	most := make([]int, places)
	for _, x := range slices.Concat(v.all, v.others) {
		for _, l := range x.Alignment {
			if x.Display != v.track.Display || l.Expected == nil || l.Expected.State == nil {
				continue
			}
			all, ok := phraseOf(v.read(*l.Expected.State)).integers()
			for k := 0; ok && len(all) == places && k < places; k++ {
				most[k] = max(most[k], all[k])
			}
		}
	}
	return most
}
