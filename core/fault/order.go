package fault

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "order", Price: finding.Single, Subsumes: []finding.Code{"texts-swapped"},
		Doc:   "the states of a sequence come in another order, or begin again before its end",
		Catch: "write the whole sequence with `shows`"}, Once: true, Sizes: stepsExchanged})
}

// stepsExchanged looks for two neighbours of a sequence that always come the other way round, each with its time.
func stepsExchanged(s *Subject) (out []Size) {
	wanted, seen := map[step]bool{}, map[step]bool{}
	s.sequences(func(trial int, v judge.Verdict) {
		before := ""
		for _, l := range v.Alignment {
			if l.Expected == nil || l.Expected.State == nil {
				continue
			}
			if before != "" {
				wanted[step{before, l.Expected.Text}] = true
			}
			before = l.Expected.Text
		}
		if t := s.Reels[trial].Track(s.Part.Name); t != nil {
			for i := 1; i < len(t.Frames); i++ {
				seen[step{t.Short(t.Frames[i-1].State), t.Short(t.Frames[i].State)}] = true
			}
		}
	})
	for _, w := range slices.SortedFunc(maps.Keys(wanted), func(a, b step) int {
		return strings.Compare(a.before+"|"+a.after, b.before+"|"+b.after)
	}) {
		if turned := (step{w.after, w.before}); wanted[turned] || seen[w] || !seen[turned] || s.counts(w) {
			continue
		}
		out = append(out, s.moved(fmt.Sprintf("%s shows %s before %s, where it should come behind it.", s.Part.Name, w.after,
			w.before), w.turnedBack))
	}
	return out[:min(len(out), 4)]
}

// counts reports whether a step is that of a counter: one that skips to and fro counts as it should, and shows two of
// its figures exchanged.
func (s *Subject) counts(w step) bool {
	if !s.figures() {
		return false
	}
	before, a := strconv.Atoi(strings.TrimSpace(w.before))
	after, b := strconv.Atoi(strings.TrimSpace(w.after))
	return a == nil && b == nil && max(before-after, after-before) == 1
}

// turnedBack has two states the right way round that come the other way round.
func (w step) turnedBack(_ string, t *display.Track) (list []display.Frame, _ clock.Time) {
	list = slices.Clone(t.Frames)
	first := display.Frame{} // the one that should come first, where it came last
	for i := 1; i < len(list); i++ {
		a, b := &list[i-1], &list[i]
		if t.Short(a.State) == w.after && t.Short(b.State) == w.before {
			first = *b
			from, to := a.From, b.To
			*a, *b = *b, *a
			a.From, a.To = from, from+a.Length()
			b.From, b.To = a.To, to
		}
	}
	// the end of the trial came between the two
	if n := len(list); n > 1 && t.Short(list[n-1].State) == w.after &&
		t.Short(list[n-2].State) != w.before && first.To > 0 {
		last := &list[n-1]
		first.From, first.To = last.From, min(last.From+first.Length(), last.To)
		rest := *last
		if *last, rest.From = first, first.To; rest.From < rest.To {
			list = append(list, rest)
		}
	}
	return list, 0
}
