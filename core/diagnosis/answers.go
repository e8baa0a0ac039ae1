package diagnosis

import (
	"fmt"
	"maps"
	"regexp"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// answers are the signs of displays that should follow what is done at the inputs.
var answers = []symptom{
	{finding.Entry{Code: "replaced", Order: 4, Sure: true,
		Doc:      "each figure that is entered replaces the ones before it, or each press sets a number where it should add to it",
		Subsumes: []finding.Code{"missed", "goes-on"}},
		setAgain},
	{finding.Entry{Code: "replaced-display", Order: 4, Sure: true,
		Doc:      "a display shows throughout what another one shows",
		Subsumes: []finding.Code{"missed", ignoredKey, "lag-input", "count-offset", "sets-other", "goes-on"}}, sameAsAnother},
	{finding.Entry{Code: "lag-input", Order: 4, Sure: true, Input: true,
		Doc:      "a display shows after an input what it should have shown before that: it is drawn first, and changed then",
		Catch:    "ask with `answers` behind inputs of both directions",
		Subsumes: []finding.Code{"missed", ignoredKey, "count-offset"}}, oneBehind},
	{finding.Entry{Code: "missed", Order: 5, Input: true, Doc: "short presses are missed"}, unanswered},
	{finding.Entry{Code: "direction", Order: 5, Sure: true,
		Doc: "a number goes the other way: it counts down where it should count up"}, oneWay},
	{finding.Entry{Code: ignoredKey, Order: 8, Sure: true, Input: true,
		Doc: "a button, or a key, is never answered"}, onlyOnce},
	{finding.Entry{Code: "scale", Order: 9, Sure: true,
		Doc: "a value of a sensor is shown in the wrong unit, or by the wrong scale"}, slightly},
	{finding.Entry{Code: "lag", Order: 15,
		Doc: "a display changes some time later than it should, every time"}, late},
	{finding.Entry{Code: "goes-on", Order: 15}, stays},
}

// row is what was expected of a display behind one input, beside what it showed.
type row struct {
	right      bool
	want, seen judge.Span
}

// answered are the rows of each expectation about the display, not met, that names an input for each.
func (v *view) answered() (out [][]row) {
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met || v.trial().Expect[k].Kind != "answers" {
			continue
		}
		var rows []row
		for _, l := range x.Alignment {
			if l.Expected != nil && l.Expected.State != nil && l.Seen != nil && l.Seen.State != nil {
				rows = append(rows, row{l.Operation == judge.Right, *l.Expected, *l.Seen})
			}
		}
		if len(rows) == len(x.Alignment) {
			out = append(out, rows)
		}
	}
	return out
}

// setAgain looks for a number that is the same behind each input, where it should grow from one to the next.
func setAgain(v *view) (string, clock.Time, bool) {
	for _, all := range v.answered() {
		if len(all) < 3 || !all[0].right {
			continue
		}
		same := true
		for i := 1; i < len(all); i++ {
			same = same && !all[i].right && v.track.Alike(*all[i].seen.State, *all[0].seen.State) &&
				all[i].want.Text != all[i-1].want.Text && all[i].want.Text != all[0].want.Text
		}
		if same {
			return fmt.Sprintf("%s shows %s after each input, as after the first: it is set anew each time, where it should go on from what it shows.",
				v.track.Display, v.track.Short(*all[0].seen.State)), all[1].seen.From, true
		}
	}
	return "", 0, false
}

// sameAsAnother looks for a display that shows at all times what another one shows, which is right, where they should
// differ again and again.
func sameAsAnother(v *view) (string, clock.Time, bool) {
	const apart = 2
	if _, counts := display.As[display.Counting](v.track.Geometry); !counts {
		return "", 0, false
	}
	wrong, first := map[string]bool{}, clock.Time(0)
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		if p.Wrong {
			if len(wrong) == 0 {
				first = p.At
			}
			wrong[v.track.Short(p.Want)+"|"+v.track.Short(p.Seen)] = true
		}
	}
	if len(wrong) < apart {
		return "", 0, false
	}
	for k := range v.reel.Tracks {
		other := &v.reel.Tracks[k]
		if other.Display != v.track.Display && len(other.Of) == 0 && v.rightThroughout(other.Display) &&
			follow(v.track, other) && follow(other, v.track) {
			return fmt.Sprintf("%s shows throughout what %s shows.", v.track.Display, other.Display), first, true
		}
	}
	return "", 0, false
}

// follow reports whether one display shows what another one shows, whenever that stands for a while.
func follow(a, b *display.Track) bool {
	const lasts = 100 * clock.Millisecond
	for _, f := range b.Frames {
		if f.Length() < lasts {
			continue
		}
		if g := a.At(f.From + f.Length()/2); g == nil || a.Short(g.State) != b.Short(f.State) {
			return false
		}
	}
	return true
}

// rightThroughout reports whether something is asked of a display, and all of that is met.
func (v *view) rightThroughout(name string) bool {
	asked := false
	for _, x := range v.all {
		if x.Display == name {
			if x.Outcome != judge.Met {
				return false
			}
			asked = true
		}
	}
	return asked
}

// oneBehind looks for an input after which a display shows each time what it should have shown before, where it catches
// up after another one: so it is not that a press does not count.
func oneBehind(v *view) (string, clock.Time, bool) {
	for _, all := range v.answered() {
		behind, moved, caught := 0, 0, false
		var first, cue reel.Fired
		for i, r := range all {
			used := lastBefore(v.reel.Cues, r.want.From)
			if i == 0 || used < 0 || r.want.Text == all[i-1].want.Text {
				continue
			}
			if cue = v.reel.Cues[used]; r.right {
				caught = caught || behind > 0 && !sameControl(cue, first)
				continue
			}
			if behind == 0 {
				first = cue
			}
			if !v.track.Alike(*r.seen.State, *all[i-1].want.State) || !sameControl(cue, first) {
				return "", 0, false
			}
			if behind++; !v.track.Alike(*r.seen.State, *all[i-1].seen.State) {
				moved++
			}
		}
		least := 2
		if v.track.Geometry.Type().Traits().Single { // what is wrong of a lamp is always what came before
			least = 3
		}
		if behind >= least && moved >= least-1 && caught {
			return fmt.Sprintf("After each use of %s, %s shows what it should have shown before that: it is drawn first, and changed then.",
				named(first), v.track.Display), first.Start, true
		}
	}
	return "", 0, false
}

// sameControl reports whether two inputs are uses of the same button, or of the same key.
func sameControl(a, b reel.Fired) bool { return a.Part == b.Part && a.Key == b.Key }

// oneWay looks for a number that goes the same way for inputs of both directions, and is right in one of them.
func oneWay(v *view) (string, clock.Time, bool) {
	for _, all := range v.answered() {
		up, down, turned, at := 0, 0, 0, clock.Time(0)
		for i := 1; i < len(all); i++ {
			want, a := v.number(*all[i].want.State)
			seen, b := v.number(*all[i].seen.State)
			wanted, c := v.number(*all[i-1].want.State)
			saw, d := v.number(*all[i-1].seen.State)
			if !a || !b || !c || !d || below(all[i].want.Text) || below(all[i].seen.Text) {
				return "", 0, false
			}
			step, did := want-wanted, seen-saw
			switch {
			case step == 0:
			case did == step && step > 0:
				up++
			case did == step:
				down++
			case did == -step:
				if turned++; at == 0 {
					at = all[i].seen.From
				}
			case did*step < 0:
				return "", 0, false
			}
		}
		if turned > 0 && (up >= 2 && down == 0 || down >= 2 && up == 0) {
			return fmt.Sprintf("%s counts the same way for both directions, where one of them should count the other way.",
				v.track.Display), at, true
		}
	}
	return "", 0, false
}

// below reports whether a text has a number with a sign, which is read without it.
func below(text string) bool { return negative.MatchString(text) }

var negative = regexp.MustCompile(`(?:^|[^0-9A-Za-z])-[0-9]`)

// onlyOnce looks for an input that is answered, and whose last use nothing follows any more, while the rest of what is
// expected never comes.
func onlyOnce(v *view) (string, clock.Time, bool) {
	waits := false // the end of a sequence is missing
	for _, x := range v.verdicts {
		n := len(x.Alignment)
		waits = waits || n > 2 && x.Alignment[n-1].Operation == judge.Missing
	}
	if !waits || len(v.reel.Cues) < 2 || !v.readable() {
		return "", 0, false
	}
	changes := func(from, to clock.Time) bool {
		return slices.ContainsFunc(v.reel.Tracks, func(t display.Track) bool { return begun(&t, from, to) > 0 })
	}
	last := v.reel.Cues[len(v.reel.Cues)-1]
	before := slices.IndexFunc(v.reel.Cues, func(c reel.Fired) bool {
		return c.Part == last.Part && c.Key == last.Key && c.Verb == last.Verb && c.To == last.To &&
			(c.Verb != part.Turn || c.Text == last.Text)
	})
	first := v.reel.Cues[before]
	previous := v.reel.Cues[len(v.reel.Cues)-2] // what nothing follows either may be what this one waits for
	if first.Start == last.Start || !changes(first.Start, first.Start+tardy) || changes(last.Start, v.reel.Length) ||
		!changes(previous.Start, last.Start) || v.reel.Length-last.Start < clock.Second {
		return "", 0, false
	}
	if _, dark, out := goesOut(v); out && dark < last.Start { // that is what is wrong, whatever is used then
		return "", 0, false
	}
	return fmt.Sprintf("Nothing follows when %s is used at %s, as it does the first time: the program does not come back to look at it.",
		last.Part, last.Start), last.Start, true
}

// slightly looks for numbers that are right while they are small, and a little off where they are large, all to the
// same side.
func slightly(v *view) (string, clock.Time, bool) {
	all, ok := v.numbers()
	wrong := map[int]int{} // seen, by wanted
	side, largest, at := 0, -1, clock.Time(0)
	for _, n := range all {
		off := n.seen - n.want
		if !n.wrong {
			largest = max(largest, n.want)
			continue
		}
		if off == 0 || off*side < 0 || off*off > 1+n.want*n.want/900 {
			return "", 0, false
		}
		if side = off; at == 0 {
			at = n.at
		}
		wrong[n.want] = n.seen
	}
	if !ok || len(wrong) < 2 || !v.set() {
		return "", 0, false
	}
	smallest, biggest := slices.Min(slices.Collect(maps.Keys(wrong))), slices.Max(slices.Collect(maps.Keys(wrong)))
	how := map[bool]string{true: "small", false: "large"}[side < 0]
	return fmt.Sprintf("Large numbers on %s are a little too %s (%d for %d, %d for %d), small ones are right: the scale is slightly off, or cut off where it should be rounded.",
			v.track.Display, how, wrong[smallest], smallest, wrong[biggest], biggest), at,
		largest >= 0 && largest < smallest
}

// unanswered looks for presses that nothing follows, while others of the same input are answered.
func unanswered(v *view) (string, clock.Time, bool) {
	for _, all := range v.answered() {
		if !slices.ContainsFunc(all, func(r row) bool { return r.right }) || !v.tooFew(all) {
			continue
		}
		type input struct{ part, key string }
		answered, missed := map[input]int{}, map[input]int{}
		first := map[input]clock.Time{}
		for i, c := range v.reel.Cues {
			if c.Verb != part.Press {
				continue
			}
			end := c.End + 400*clock.Millisecond
			if i+1 < len(v.reel.Cues) {
				end = min(end, v.reel.Cues[i+1].Start)
			}
			k := input{c.Part, c.Key}
			switch { // a press that should change nothing tells nothing
			case begun(v.track, c.Start, end) > 0:
				answered[k]++
			case v.expected(c.Start, end) || missed[k] > 0:
				if missed[k]++; missed[k] == 1 {
					first[k] = c.Start
				}
			}
		}
		for _, c := range v.reel.Cues {
			k := input{c.Part, c.Key}
			if missed[k] > 0 && answered[k] > 0 && missed[k] <= answered[k]*2 {
				return fmt.Sprintf("Some presses of %s are missed: nothing follows %d of %d. The program looks at it too seldom, or waits for something else meanwhile.",
					k.part, missed[k], missed[k]+answered[k]), first[k], true
			}
		}
	}
	return "", 0, false
}

// tooFew reports whether a number that should grow is behind wherever it is wrong.
func (v *view) tooFew(all []row) bool {
	last := 0
	for _, r := range all {
		want, a := v.number(*r.want.State)
		seen, b := v.number(*r.seen.State)
		if !a || !b || want < last || seen > want {
			return false
		}
		last = want
	}
	return true
}

// tardy is how long after an input a display may change.
const tardy = 500 * clock.Millisecond

// late looks for a display that follows values that are set, each time much later, and shows the one before until then.
func late(v *view) (string, clock.Time, bool) {
	if len(v.track.Frames) == 0 {
		return "", 0, false
	}
	var slowest, never clock.Time
	slow, sets, late := 0, 0, 0
	for i, c := range v.reel.Cues {
		if c.Verb != part.Set {
			return "", 0, false
		}
		end := v.reel.Length
		if i+1 < len(v.reel.Cues) {
			end = v.reel.Cues[i+1].Start
		}
		sets++
		after := v.track.Frames[len(v.track.Frames)-1].To
		for _, f := range v.track.Frames {
			if f.From > c.Start {
				after = f.From
				break
			}
		}
		if delay := min(after, end) - c.Start; delay > tardy {
			slow++
			changes := after < end // and not for the next input
			if changes {
				late++
			}
			if changes || end < v.reel.Length {
				slowest = max(slowest, delay)
			} else {
				never = delay
			}
		}
	}
	pairs := fault.Pairs(v.reel, v.track.Display, v.all)
	slices.SortStableFunc(pairs, func(a, b display.Pair) int { return int(a.At - b.At) })
	shown := false
	for i, p := range pairs {
		before := slices.ContainsFunc(pairs[:i], func(q display.Pair) bool { return v.track.Alike(q.Want, p.Seen) })
		if p.Wrong && !before {
			return "", 0, false
		}
		shown = shown || p.Wrong
	}
	if !shown || sets < 3 || late == 0 || slow*3 < sets*2 || never*4 >= slowest*3 {
		return "", 0, false
	}
	return fmt.Sprintf("%s follows its input late, by up to %s, and shows what was there before until then: the program looks at it too seldom.",
		v.track.Display, slowest.Brief()), v.firstWrong(v.mine), true
}

// comesToRest looks for a sequence that is right up to a state that stays to the end, much longer than it should, where
// others should follow.
func (v *view) comesToRest() (string, clock.Time) {
	for _, x := range v.verdicts {
		var last *judge.Pair
		missing := 0
		for i, l := range x.Alignment {
			switch l.Operation {
			case judge.Right, judge.Mistimed:
				if missing > 0 {
					return "", 0
				}
				last = &x.Alignment[i]
			case judge.Missing:
				missing++
			case judge.Ignored: // before it began
			default:
				return "", 0
			}
		}
		if last == nil || missing == 0 || !x.Timed || last.Seen.To < v.reel.Length {
			continue
		}
		if last.Seen.To-last.Seen.From >= 2*(last.Expected.To-last.Expected.From) {
			return fmt.Sprintf("%s shows %s to the end, from %s on: what should follow does not come, or much too late.",
				v.track.Display, last.Seen.Text, last.Seen.From), last.Seen.From
		}
	}
	return "", 0
}

// stays looks for a state that is right at its time, and stays to the end where others should follow; or for a number
// that is right up to a moment at which it should begin again, and counts on from there.
func stays(v *view) (string, clock.Time, bool) {
	t := v.track
	if traits := t.Geometry.Type().Traits(); traits.Single || traits.Tone || traits.Lines || len(t.Frames) < 2 {
		return "", 0, false
	}
	if text, at := v.comesToRest(); text != "" {
		return text, at, true
	}
	pairs := fault.Pairs(v.reel, t.Display, v.all)
	last := t.Frames[len(t.Frames)-1]
	held, wrong := false, 0
	for _, p := range pairs {
		held = held || !p.Wrong && p.At >= last.From
		if p.Wrong {
			if wrong++; p.At < last.From {
				wrong = -len(pairs) - 1 // something else is wrong, too
			}
		}
	}
	if held && wrong >= 2 && last.Length() > clock.Second {
		return fmt.Sprintf("%s shows %s to the end, from %s on: what should follow never comes.", t.Display,
			t.Short(last.State), last.From), last.From, true
	}
	all, ok := v.numbers()
	at := slices.IndexFunc(all, func(n counted) bool { return n.wrong })
	if !ok || at < 0 || len(all)-at < 2 {
		return "", 0, false
	}
	by := all[at].seen - all[at].want
	for _, n := range all[at:] {
		if n.seen-n.want != by || by <= 0 {
			return "", 0, false
		}
	}
	before, shown := 0, false // what the number had come to, beside the same words
	here := t.At(all[at].at)
	for _, f := range t.Frames {
		if f.From >= all[at].at || here == nil || v.words(f.State) != v.words(here.State) {
			continue
		}
		if n, is := v.number(f.State); is {
			before, shown = n, true
		}
	}
	goesUp := at > 0 && all[at].want > all[at-1].want // nothing begins again then
	if goesUp || !shown || before < by || before > all[at].seen || all[at].want >= before {
		return "", 0, false
	}
	return fmt.Sprintf("The number on %s goes on from %d where it should begin again with %d: it is never set back.",
		t.Display, all[at].seen, all[at].want), all[at].at, true
}
