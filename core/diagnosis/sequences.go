package diagnosis

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

// sequences are the signs that states give by the order in which they come, beside those that were expected.
var sequences = []symptom{
	{finding.Entry{Code: "limit", Order: 7, Sure: true, Subsumes: []finding.Code{"goes-on"},
		Doc:   "a count goes one step too far before it restarts or stops",
		Catch: "go on for one more step behind the last one"}, goesOn},
	{finding.Entry{Code: "goes-on", Order: 8, Sure: true, Seen: true, Subsumes: []finding.Code{"length"},
		Doc:   "a state goes on where another one should follow, or a count where it should begin again",
		Catch: "read the display at the end, and give `shows` its times"}, takesOver},
	{finding.Entry{Code: "order", Order: 8, Sure: true, Subsumes: []finding.Code{"texts-swapped", "pattern"},
		Doc:   "the states of a sequence come in another order, or begin again before its end",
		Catch: "write the whole sequence with `shows`"}, inOtherOrder("order")},
	{finding.Entry{Code: "limit", Order: 8, Sure: true, Subsumes: []finding.Code{"goes-on"},
		Doc: "a count goes one step too far, or not far enough, before it restarts or stops"}, inOtherOrder("limit")},
	{finding.Entry{Code: "direction", Order: 8, Sure: true,
		Doc: "a number goes the other way: it counts down where it should count up"}, inOtherOrder("direction")},
	{finding.Entry{Code: "dark-until", Order: 8, Sure: true, Subsumes: []finding.Code{"dark", "pattern"},
		Doc:   "a display stays dark, or empty, until an input is used",
		Catch: "read the display before the first input"}, darkUntil},
	{finding.Entry{Code: "stays-lit", Order: 8, Sure: true,
		Doc:   "what was lit before stays lit when the next state comes",
		Catch: "write the states of all lights in the frames of `shows`"}, staysLit},
	{finding.Entry{Code: "never-clears", Order: 8, Sure: true, Seen: true, Subsumes: []finding.Code{"lamp-stuck", "pattern"},
		Doc: "a lamp or a tone never goes off again"}, memberStays},
	{finding.Entry{Code: "dark", Order: 9, Sure: true, Seen: true, Subsumes: []finding.Code{"pattern"},
		Doc: "a display stays dark from beginning to end"}, lampDark},
	{finding.Entry{Code: "lamp-stuck", Order: 9, Sure: true, Seen: true, Subsumes: []finding.Code{"pattern"},
		Doc: "one lamp is lit in states that it does not belong to"}, lampStays},
	{finding.Entry{Code: "no-blink", Order: 8, Sure: true, Subsumes: []finding.Code{"lamp-stuck", "never-clears", "length"},
		Doc:   "a lamp, or a tone, is on without a break where it should go on and off",
		Catch: "write the states in the frames of `shows`, with their times"}, noBlink},
	{finding.Entry{Code: "length", Order: 9, Sure: true,
		Doc:   "some states last too long or too short, every time",
		Catch: "give `shows` its times with `each` or `for`"}, oddLength},
	{finding.Entry{Code: "length-each", Order: 9, Sure: true, Subsumes: []finding.Code{"limit", "goes-on", "goes-dark"},
		Doc:   "all states of a sequence last too long, or too short, by the same time",
		Catch: "give `shows` its times with `each` or `for`"}, eachTooLong},
	{finding.Entry{Code: "step-missing", Order: 9, Sure: true,
		Doc:   "one step of a sequence, or several in a row, are left out",
		Catch: "write the whole sequence with `shows`"}, leftOut},
	{finding.Entry{Code: "extra-step-times", Order: 8, Sure: true, Seen: true,
		Doc:   "a lamp, or a tone, comes on more often than it should",
		Catch: "write all that it does in the frames of `shows`"}, tooOften},
	{finding.Entry{Code: "step-missing-times", Order: 8, Sure: true, Seen: true,
		Doc:   "a lamp, or a tone, comes on less often than it should",
		Catch: "write all that it does in the frames of `shows`"}, tooSeldom},
	{finding.Entry{Code: "words", Order: 9}, otherLine},
	{finding.Entry{Code: "line-ending-inside", Order: 8, Sure: true, Subsumes: []finding.Code{"words", "cut", "step-missing"},
		Doc:   "a line is ended before all of it was sent: the rest of it comes on a line of its own",
		Catch: "write whole lines with `says`"}, brokenLines},
	{finding.Entry{Code: "carry", Order: 8, Sure: true, Subsumes: []finding.Code{"dark", "goes-on"}}, noCarry},
	{finding.Entry{Code: "count-scaled", Order: 9, Sure: true}, timesOver},
	{finding.Entry{Code: "adds-up", Order: 8, Sure: true, Subsumes: []finding.Code{"goes-on", "never-clears"},
		Doc:   "a number that should be counted anew each time goes on from the one before it",
		Catch: "let it be counted at least twice, with different numbers"}, addsUp},
	{finding.Entry{Code: "replaced", Order: 8, Sure: true,
		Doc: "each figure that is entered replaces the ones before it, which should move on"}, replaced},
	{finding.Entry{Code: "lag", Order: 9, Sure: true,
		Doc: "a display changes some time later than it should, every time"}, follows},
}

// goesOn looks for the first thing that is wrong: a state that should stay, after an input that should do nothing, and
// does not.
func goesOn(v *view) (string, clock.Time, bool) {
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met {
			continue
		}
		answers := v.trial().Expect[k].Kind == "answers"
		for i, l := range x.Alignment {
			if l.Operation == judge.Right || l.Operation == judge.Mistimed {
				continue
			}
			if stay, ok := v.leaves(x.Alignment, i); ok {
				return fmt.Sprintf("%s goes on to %s where it should stay at %s: the end of the count is not kept.",
					v.track.Display, l.Seen.Text, stay), l.Seen.From, true
			}
			if l.Expected == nil || l.Seen == nil || l.Seen.State.Unlit() || !v.shouldStay(x.Alignment, i, answers) {
				break
			}
			return fmt.Sprintf("%s goes on to %s where it should stay at %s: a limit is not kept, or an input counts that should do nothing.",
				v.track.Display, l.Seen.Text, l.Expected.Text), l.Seen.From, true
		}
		if text, at := v.wrapsLate(x); text != "" {
			return text, at, true
		}
		if text, at := v.stopsShort(x); text != "" {
			return text, at, true
		}
	}
	return "", 0, false
}

// leaves reports whether the first thing that is wrong, times included, is a number behind the last one that is
// expected, where it counts by itself, and which one that is.
func (v *view) leaves(all []judge.Pair, i int) (stay string, ok bool) {
	mistimed := func(p judge.Pair) bool { return p.Operation == judge.Mistimed }
	if i < 2 || slices.ContainsFunc(all[:i], mistimed) || slices.ContainsFunc(v.reel.Cues, isInput) ||
		all[i].Operation != judge.Extra || all[i].Seen.State == nil || all[i-1].Expected.State == nil ||
		slices.ContainsFunc(all[i:], asks) {
		return "", false
	}
	_, a := v.number(*all[i-1].Expected.State)
	_, b := v.number(*all[i].Seen.State)
	return all[i-1].Expected.Text, a && b
}

// shouldStay reports whether the state that is expected is the one that was there before: by the expected state before
// it or, for the first answer of several, by what is read before the input, and is right.
func (v *view) shouldStay(all []judge.Pair, i int, answers bool) bool {
	l := all[i]
	if i > 0 {
		before := all[i-1]
		return before.Expected != nil && l.Expected.Text == before.Expected.Text && before.Operation == judge.Right &&
			before.Seen.From != l.Seen.From
	}
	was, last := v.before(l.Seen.From), lastBefore(v.reel.Cues, l.Seen.From)
	if !answers || was == nil || last < 0 || l.Expected.State == nil || !v.track.Alike(*was, *l.Expected.State) ||
		l.Seen.From > v.reel.Cues[last].End+tardy {
		return false
	}
	return slices.ContainsFunc(fault.Pairs(v.reel, v.track.Display, v.all), func(p display.Pair) bool {
		return !p.Wrong && p.Used < v.reel.Cues[last].Start && v.track.Alike(p.Want, *l.Expected.State)
	})
}

// wrapsLate looks for a number that counts up and should begin again, and takes one step more before it does.
func (v *view) wrapsLate(x judge.Verdict) (string, clock.Time) {
	var want, seen []*judge.Span
	for _, l := range x.Alignment {
		if l.Expected != nil && l.Expected.State != nil {
			want = append(want, l.Expected)
		}
		if l.Seen != nil && l.Seen.State != nil && len(want) > 0 { // not what was there before
			seen = append(seen, l.Seen)
		}
	}
	for nth := range fault.Several {
		number := func(list []*judge.Span, i int) (int, bool) {
			if i >= len(list) {
				return 0, false
			}
			return fault.ReadNumber(v.track, *list[i].State, nth)
		}
		first, wanted := number(want, 0)
		if begun, known := number(seen, 0); wanted && (!known || begun != first) {
			continue // it is another one from the start
		}
		most := 0
		for i := 2; i < min(len(want), len(seen)); i++ {
			before, a := number(want, i-2)
			last, b := number(want, i-1)
			again, c := number(want, i)
			one, d := number(seen, i-1)
			more, e := number(seen, i)
			if !a || !b || !c || !d || !e || one != last {
				break
			}
			if most = max(most, before); more == again {
				continue
			}
			if most > last { // it went further before: something else should begin it again here
				break
			}
			then, f := number(seen, i+1)
			step := last - before
			back := again == last-step && again != first // a step the other way, and no new round
			if again < last && step > 0 && more == last+step && (!f || then == again) && !back {
				return fmt.Sprintf("%s goes on to %s before it begins again with %s: its limit is a step too high.",
					v.track.Display, seen[i].Text, want[i].Text), seen[i].From
			}
			break
		}
	}
	return "", 0
}

// reaches reports whether a number is ever shown, in any trial.
func (v *view) reaches(number int) bool {
	return slices.ContainsFunc(v.reels, func(r *reel.Reel) bool {
		t := r.Track(v.track.Display)
		return t != nil && slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
			n, ok := fault.ReadNumber(t, f.State, v.nth)
			return ok && n == number
		})
	})
}

// stopsShort looks for a number that goes with its inputs, and stays one step before the last number on its side.
func (v *view) stopsShort(x judge.Verdict) (string, clock.Time) {
	last, known := 0, false
	lowest, highest := math.MaxInt, math.MinInt
	for _, l := range x.Alignment {
		if l.Expected != nil && l.Expected.State != nil {
			if n, ok := v.number(*l.Expected.State); ok {
				lowest, highest = min(lowest, n), max(highest, n)
			}
		}
	}
	steps := 0
	for i, l := range x.Alignment {
		if l.Expected == nil || l.Seen == nil || l.Expected.State == nil || l.Seen.State == nil {
			return "", 0
		}
		want, a := v.number(*l.Expected.State)
		seen, b := v.number(*l.Seen.State)
		if !a || !b {
			return "", 0
		}
		if want != seen {
			// the last press of all may have been missed
			if known && steps >= 1 && i+1 < len(x.Alignment) && seen == last && max(want-last, last-want) == 1 &&
				(want == lowest || want == highest) && !v.reaches(want) {
				return fmt.Sprintf("%s stays at %s where it should go on to %s: its limit is a step too soon.",
					v.track.Display, l.Seen.Text, l.Expected.Text), l.Seen.From
			}
			return "", 0
		}
		if known && want != last {
			steps++
		}
		last, known = want, true
	}
	return "", 0
}

// place is a state of a sequence.
type place struct {
	key, text string // what tells it apart, and what it is called
	at        clock.Time
}

// laid gives the states of a sequence, the k-th that is expected in the trial, as they were expected and as they were
// seen: of the part of the display that it is about.
func (v *view) laid(k int, x judge.Verdict) (want, seen []place) {
	of := func(s *judge.Span) place {
		t := *v.track
		t.Frames = []display.Frame{{State: *s.State}}
		if parted, ok := v.trial().Expect[k].Expectation.(judge.Parted); ok {
			t = *parted.Cut(&t)
		}
		return place{strings.Join(t.Geometry.Type().Spell(&t, t.Frames[0].State), " "), s.Text, s.From}
	}
	for _, l := range x.Alignment {
		if l.Expected != nil && l.Expected.State != nil {
			want = append(want, of(l.Expected))
		}
		if l.Seen != nil && l.Seen.State != nil && !(l.Operation == judge.Ignored && len(want) == 0) {
			seen = append(seen, of(l.Seen))
		}
	}
	return want, seen
}

// inOtherOrder looks for a sequence of the right states that begins again too soon, goes backwards, or is mixed up: of
// one that counts the first two have names of their own.
func inOtherOrder(code finding.Code) func(*view) (string, clock.Time, bool) {
	return func(v *view) (string, clock.Time, bool) {
		is, text, at := v.otherOrder()
		return text, at, is == code
	}
}

// goesBack reports whether a sequence takes some of its steps back.
func goesBack(all []place) bool {
	taken := steps(all)
	for step := range taken {
		if taken[[2]string{step[1], step[0]}] {
			return true
		}
	}
	return false
}

func (v *view) otherOrder() (finding.Code, string, clock.Time) {
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met || !judge.IsSequence(v.trial().Expect[k].Kind) {
			continue
		}
		want, seen := v.laid(k, x)
		if len(want) < 4 || len(seen) < 4 {
			continue
		}
		same := alike(want, seen)
		if same == len(seen) || same == len(want) {
			continue
		}
		again, backwards := finding.Code("order"), finding.Code("order")
		if v.numbered(x) {
			again, backwards = "limit", "direction"
		}
		if j := beginsLater(want, seen); same == 0 && j > 0 && seen[0].at < soon && !v.numbered(x) {
			return "order", fmt.Sprintf("%s begins with %s, where %s should come first: the sequence does not start at its beginning.",
				v.track.Display, seen[0].text, want[0].text), 0
		}
		anew := alike(want, seen[same:])
		bothWays := v.numbered(x) && goesBack(want) // as a lift goes: it has no beginning to come to again
		switch {
		case bothWays:
		case same > 2 && anew >= 2 && anew >= min(3, len(seen)-same) || same == 2 && rounds(seen, 2):
			return again, fmt.Sprintf("%s begins again with %s where %s should come: the rest of the sequence is left out.",
				v.track.Display, want[0].text, want[same].text), seen[same].at
		}
		if i := exchanged(want, seen, same); i > 0 {
			return "order", fmt.Sprintf("%s shows %s before %s, where it should come behind it: two steps are exchanged.",
				v.track.Display, seen[i-1].text, seen[i].text), seen[i-1].at
		}
		wants, sees := steps(want), steps(seen)
		back := 0
		for step := range sees {
			if !wants[step] && wants[[2]string{step[1], step[0]}] {
				back++
			}
		}
		// a round of three that goes the other way is one of two states exchanged
		if back == len(sees) && back > 3 || v.countsDown(x) {
			return backwards, fmt.Sprintf("%s goes the other way round: what should come first comes last.",
				v.track.Display), seen[1].at
		}
	}
	return "", "", 0
}

// numbered reports whether the states that were expected are numbers.
func (v *view) numbered(x judge.Verdict) bool {
	for _, l := range x.Alignment {
		if l.Expected != nil && l.Expected.State != nil {
			_, ok := v.number(*l.Expected.State)
			return ok
		}
	}
	return false
}

// beginsLater is the place of a sequence of three states or more at which what is seen begins, and goes on from there;
// 0 for none but the first.
func beginsLater(want, seen []place) int {
	kinds := map[string]bool{}
	for _, p := range want {
		kinds[p.key] = true
	}
	if len(kinds) < 3 {
		return 0
	}
	for j := 1; j+2 < len(want); j++ {
		if n := alike(want[j:], seen); n > 2 && n >= min(len(want)-j, len(seen)) {
			return j
		}
	}
	return 0
}

// rounds reports whether states are the first n over and over, at least two rounds of them.
func rounds(seen []place, n int) bool {
	for i := n; i < len(seen); i++ {
		if seen[i].key != seen[i-n].key {
			return false
		}
	}
	return len(seen) >= 2*n
}

// exchanged gives the second of two states that stand in each other's place, where all others stand in their own, one
// of the two elsewhere, too, and the first is at a place; 0 where there are none.
func exchanged(want, seen []place, first int) int {
	at := 0
	for i := first; i < min(len(want), len(seen)); i++ {
		if want[i].key == seen[i].key {
			continue
		}
		if i+1 >= min(len(want), len(seen)) || want[i].key != seen[i+1].key || want[i+1].key != seen[i].key {
			return 0
		}
		if at == 0 {
			at = i + 1
		}
		i++
	}
	for i := range min(len(want), len(seen)) { // exchanged wherever they stand: their states are, not the steps
		if at > 0 && want[i].key == seen[i].key && (want[i].key == seen[at].key || want[i].key == seen[at-1].key) {
			return at
		}
	}
	return 0
}

// darkUntil looks for a display that shows nothing from power-on to the first input, where it should, and is right
// then.
func darkUntil(v *view) (string, clock.Time, bool) {
	if len(v.reel.Cues) == 0 || len(v.track.Frames) < 2 || v.noted("lcd-busy") { // that may be why
		return "", 0, false
	}
	first, cue := v.track.Frames[0], v.reel.Cues[0]
	if !v.track.Nothing(first.State) || first.To < cue.Start || first.To > cue.End+soon ||
		cue.Start < 100*clock.Millisecond {
		return "", 0, false
	}
	asked := false
	for _, x := range v.verdicts {
		for _, l := range x.Alignment {
			switch {
			case l.Expected == nil || l.Seen == nil || l.Expected.State == nil || l.Operation == judge.Right ||
				l.Operation == judge.Mistimed:
			case l.Seen.From == first.From && l.Expected.From < cue.Start:
				asked = asked || !v.track.Nothing(*l.Expected.State)
			default:
				return "", 0, false
			}
		}
	}
	return fmt.Sprintf("%s shows nothing until %s is used: what should be there from the start is never shown.",
		v.track.Display, cue.Part), first.From, asked
}

// countsDown reports whether all numbers of a sequence go down by one where they should go up, or the reverse.
func (v *view) countsDown(x judge.Verdict) bool {
	steps := func(of func(judge.Pair) *judge.Span) (up, down, all int) {
		last, known := 0, false
		for _, l := range x.Alignment {
			s := of(l)
			if s == nil || s.State == nil {
				continue
			}
			n, ok := v.number(*s.State)
			if ok && known && n != last {
				all++
				switch n - last {
				case 1:
					up++
				case -1:
					down++
				}
			}
			last, known = n, ok
		}
		return up, down, all
	}
	up, down, all := steps(func(l judge.Pair) *judge.Span { return l.Expected })
	risen, fallen, seen := steps(func(l judge.Pair) *judge.Span { return l.Seen })
	most := func(n, of int) bool { return of >= 3 && n*4 >= of*3 }
	return most(up, all) && most(fallen, seen) || most(down, all) && most(risen, seen)
}

// alike is how many of the first states of two sequences are the same.
func alike(a, b []place) (n int) {
	for n < min(len(a), len(b)) && a[n].key == b[n].key {
		n++
	}
	return n
}

// steps are what comes after what.
func steps(all []place) map[[2]string]bool {
	out := map[[2]string]bool{}
	for i := 1; i < len(all); i++ {
		if all[i-1].key != all[i].key {
			out[[2]string{all[i-1].key, all[i].key}] = true
		}
	}
	return out
}

// leftOut looks for a state that comes nowhere between two others where it should, each time.
func leftOut(v *view) (string, clock.Time, bool) {
	if v.track.Geometry.Type().Traits().Lines {
		return v.lineLeftOut()
	}
	type gap struct{ before, gone, after string }
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met || !judge.IsSequence(v.trial().Expect[k].Kind) {
			continue
		}
		times, at := map[gap]int{}, clock.Time(0)
		for i, l := range x.Alignment {
			if l.Operation == judge.Wrong {
				return "", 0, false
			}
			if l.Operation != judge.Missing || i == 0 || i+1 == len(x.Alignment) || x.Alignment[i-1].Seen == nil ||
				x.Alignment[i+1].Seen == nil {
				continue
			}
			if at == 0 {
				at = x.Alignment[i+1].Seen.From
			}
			times[gap{x.Alignment[i-1].Seen.Text, l.Expected.Text, x.Alignment[i+1].Seen.Text}]++
		}
		for g, n := range times {
			if n >= 2 && len(times) == 1 {
				return fmt.Sprintf("%s leaves out %s between %s and %s, each time.", v.track.Display, g.gone, g.before,
					g.after), at, true
			}
		}
	}
	return "", 0, false
}
