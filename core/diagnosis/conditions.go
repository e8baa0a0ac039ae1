package diagnosis

import (
	"fmt"
	"math"
	"math/big"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// conditions are the signs of displays that follow something else.
var conditions = []symptom{
	{finding.Entry{Code: "edge", Order: 5, Sure: true, Subsumes: []finding.Code{"pattern", "lamp-stuck", "limit", "never-clears",
		"words", "word"},
		Doc:   "the edge of a condition is elsewhere: a limit is included that should not be, or the reverse",
		Catch: "set the input to values just beside the limit, and join the display to it with `together`"}, edge},
	{finding.Entry{Code: "lamp-inverted", Order: 5, Sure: true,
		Doc:      "a lamp is on when it should be off, and the reverse",
		Subsumes: []finding.Code{"never-clears", "too-early", "lag"}}, opposite},
	{finding.Entry{Code: "length"}, endsTooSoon},
	{finding.Entry{Code: "lag"}, beginsTooLate},
	{finding.Entry{Code: "lamp-inverted", Order: 6, Sure: true, Doc: "a lamp is bright when it should be dim, and the reverse"},
		brightForDim},
	{finding.Entry{Code: "glow", Order: 6, Sure: true,
		Doc:   "a lamp is not dimmed at all, or is as many times too bright, or too dark, each time",
		Catch: "ask with `glows` for several levels"}, otherGlow},
	{finding.Entry{Code: "glow-one", Order: 12, Sure: true, Seen: true,
		Doc:   "one of the brightnesses of a lamp is another one than it should be",
		Catch: "ask with `glows` for each level"}, oneGlow},
}

// glow is how bright a lamp should be in a window, and how bright it is, in percent.
type glow struct {
	want, seen int
	wrong      bool
	at         clock.Time // of what is wrong
}

// glows are those of the display.
func (v *view) glows() (out []glow) {
	for k, x := range v.all {
		g, ok := v.trial().Expect[k].Expectation.(judge.Glowing)
		if !ok || x.Display != v.track.Display {
			continue
		}
		one := glow{wrong: x.Outcome != judge.Met}
		if one.want, one.seen = g.Brightness(v.reel); x.First != nil {
			one.at = x.First.At
		}
		out = append(out, one)
	}
	return out
}

// otherGlow looks for a lamp that is fully lit wherever it should be dimmed, or by the same factor too bright or too
// dark each time.
func otherGlow(v *view) (string, clock.Time, bool) {
	const fully, dark, least, apart = 95, 5, 15, 12 // percent
	var wrong []glow
	full, low, high, wants := true, math.Inf(1), 0.0, map[int]bool{}
	for _, g := range v.glows() {
		if g.want < least { // too little to tell a factor by
			full = full && g.seen <= dark
			continue
		}
		wants[g.want] = true
		full = full && g.seen >= fully
		factor := float64(g.seen) / float64(g.want)
		low, high = min(low, factor), max(high, factor)
		if g.wrong {
			wrong = append(wrong, g)
		}
	}
	switch {
	case len(wrong) < 2 || len(wants) < 2:
	case full:
		return fmt.Sprintf("%s is never dimmed: it is fully lit where %d %% is expected, and so on.", v.track.Display,
			wrong[0].want), wrong[0].at, true
	case high <= low*(100+apart)/100:
		return fmt.Sprintf("%s is %.2g times as bright as it should be, each time: %d %% where %d %% is expected.",
			v.track.Display, (low+high)/2, wrong[0].seen, wrong[0].want), wrong[0].at, true
	}
	return "", 0, false
}

// oneGlow looks for one level that is another one, and no other level of the lamp, where all others are right.
func oneGlow(v *view) (string, clock.Time, bool) {
	const about = 3 // percent
	var odd *glow
	right := map[int]bool{}
	all := v.glows()
	for i, g := range all {
		if !g.wrong {
			right[g.want] = true
		} else if odd == nil {
			odd = &all[i]
		} else if g.want != odd.want || max(g.seen-odd.seen, odd.seen-g.seen) > about {
			return "", 0, false
		}
	}
	if odd == nil || right[odd.want] || len(right) < 2 || slices.ContainsFunc(all, func(g glow) bool {
		return g.want != odd.want && max(g.want-odd.seen, odd.seen-g.want) <= about
	}) {
		return "", 0, false
	}
	return fmt.Sprintf("%s is lit to %d %% where %d %% is expected; its other brightnesses are right.", v.track.Display,
		odd.seen, odd.want), odd.at, true
}

// brightForDim looks for a lamp that is as dark as it should be bright, each time.
func brightForDim(v *view) (string, clock.Time, bool) {
	const about = 10 // percent
	turned, wrong, at := true, 0, clock.Time(0)
	wants := map[int]bool{}
	for _, g := range v.glows() {
		wants[g.want] = true
		off := g.seen - (100 - g.want)
		turned = turned && max(off, -off) <= about
		if g.wrong {
			if wrong++; wrong == 1 {
				at = g.at
			}
		}
	}
	return fmt.Sprintf("%s is the brighter the darker it should be: its pulses are the other way round.", v.track.Display),
		at, turned && wrong >= 2 && len(wants) >= 2
}

// opposite looks for a tone that sounds where it should not, and not where it should: it cannot be turned round.
func opposite(v *view) (string, clock.Time, bool) {
	if !v.track.Geometry.Type().Traits().Tone {
		return "", 0, false
	}
	for k, x := range v.all {
		c, ok := v.trial().Expect[k].Expectation.(judge.Conditional)
		if x.Display != v.track.Display || x.Outcome == judge.Met || !ok {
			continue
		}
		all := c.Standings(v.reel)
		holds := map[bool]bool{}
		for _, s := range all {
			share, _ := s.Shown.Float64()
			holds[s.Holds] = true
			if s.Holds && share > 0.1 || !s.Holds && share < 0.9 {
				all = nil
			}
		}
		if len(all) >= 3 && holds[true] && holds[false] {
			what, _, _ := strings.Cut(x.Text, " while ")
			return fmt.Sprintf("%s the other way round: where it should not, and not where it should.", what), all[0].From, true
		}
	}
	return "", 0, false
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
		if text, at := misplaced(what, c.Standings(v.reel), v.set()); text != "" {
			return text, at, true
		}
	}
	if text, at, ok := v.memberEdge(); ok {
		return text, at, true
	}
	if text, at := v.wordEdge(); text != "" {
		return text, at, true
	}
	if text, at := v.valueEdge(); text != "" {
		return text, at, true
	}
	return v.numberEdge()
}

// endsTooSoon looks for a state that ends before what it should be there with, each time by the same part of it.
func endsTooSoon(v *view) (string, clock.Time, bool) {
	return v.partly("ends too soon", func(first, last, out display.State) bool {
		return !v.track.Alike(first, out) && v.track.Alike(last, out)
	})
}

// beginsTooLate looks for one that begins so much later.
func beginsTooLate(v *view) (string, clock.Time, bool) {
	return v.partly("begins too late", func(first, last, out display.State) bool {
		return v.track.Alike(first, out) && !v.track.Alike(last, out)
	})
}

// Shares, in percent, of a stretch for which a state is there.
const (
	leastPart = 15 // at least, and so much less than all of it at most
	samePart  = 12 // by which those of several stretches differ
)

// partly looks for a state that is there for the same part of each stretch in which it should be, and not outside: what
// is there at first and at last, and outside, tells how.
func (v *view) partly(how string, is func(first, last, out display.State) bool) (string, clock.Time, bool) {
	for k, x := range v.all {
		c, ok := v.trial().Expect[k].Expectation.(judge.Conditional)
		if x.Display != v.track.Display || x.Outcome == judge.Met || !ok {
			continue
		}
		var inside, outside []judge.Standing
		least, most := 100, 0
		for _, s := range c.Standings(v.reel) {
			share, _ := s.Shown.Float64()
			percent := int(100 * share)
			switch {
			case !s.Holds && percent > leastPart:
				return "", 0, false
			case !s.Holds:
				outside = append(outside, s)
			case s.To < v.reel.Length: // to its end
				inside = append(inside, s)
				least, most = min(least, percent), max(most, percent)
			}
		}
		if len(inside) < 2 || len(outside) == 0 || least < leastPart || most > 100-leastPart || most-least > samePart {
			continue
		}
		at := func(t clock.Time) display.State {
			if f := v.track.At(t); f != nil {
				return f.State
			}
			return display.State{}
		}
		out := at((outside[0].From + outside[0].To) / 2)
		if slices.ContainsFunc(inside, func(s judge.Standing) bool {
			return !is(at(s.From), at(s.To-(s.To-s.From)/20), out)
		}) {
			continue
		}
		what, while, _ := strings.Cut(x.Text, " while ")
		return fmt.Sprintf("%s for a part of the time only while %s, each time: it %s.", what, while, how), inside[0].From, true
	}
	return "", 0, false
}

// valueEdge looks for a lamp of which a sequence of states is expected while one input is set to several values, and
// which is lit by that value, and dark again, but from another one on.
func (v *view) valueEdge() (string, clock.Time) {
	sets := slices.DeleteFunc(slices.Clone(v.reel.Cues), func(c reel.Fired) bool { return c.Verb != part.Set })
	if !v.track.Geometry.Type().Traits().Single || !v.litAndDark() || len(sets) < 3 ||
		slices.ContainsFunc(sets, func(c reel.Fired) bool { return c.Part != sets[0].Part }) {
		return "", 0
	}
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met || !judge.IsSequence(v.trial().Expect[k].Kind) {
			continue
		}
		var all []judge.Standing
		for i, c := range sets {
			at := v.reel.Length - 1
			if i+1 < len(sets) {
				at = sets[i+1].Start - 1
			}
			want, shown := (*judge.Span)(nil), new(big.Rat)
			for _, l := range x.Alignment { // a state that should be over is followed by the next one
				if asks(l) && (l.Expected.From <= at || want != nil && want.To <= at) {
					want = l.Expected
				}
			}
			n, ok := judge.Quantity(c.To)
			f := v.track.At(at)
			if !ok || f == nil || want == nil || want.State == nil {
				return "", 0
			}
			if !f.State.Unlit() {
				shown.SetInt64(1)
			}
			all = append(all,
				judge.Standing{From: c.Start, Value: c.To, Number: n, Holds: !want.State.Unlit(), Shown: shown})
		}
		if text, at := misplaced(v.track.Display+" is lit", all, true); text != "" {
			return text, at
		}
	}
	return "", 0
}

// litAndDark reports whether the display is ever dark again after it was lit.
func (v *view) litAndDark() bool {
	lit := slices.IndexFunc(v.track.Frames, func(f display.Frame) bool { return !f.State.Unlit() })
	return lit >= 0 && slices.ContainsFunc(v.track.Frames[lit:], func(f display.Frame) bool { return f.State.Unlit() })
}

// numberEdge looks for a lamp that is on from a number on, or up to one, which another display shows as it should,
// where it is asked for from another number on.
func (v *view) numberEdge() (string, clock.Time, bool) {
	if !v.track.Geometry.Type().Traits().Single {
		return "", 0, false
	}
	for _, other := range v.reel.Tracks {
		if other.Display == v.track.Display || !v.rightThroughout(other.Display) {
			continue
		}
		if text, at := v.litByNumber(&other); text != "" {
			return text, at, true
		}
	}
	return "", 0, false
}

// litByNumber tells from which number of another display on the lamp is lit, where it should from another one on; text
// is empty where it is not lit by that number, and where that is as it should be.
func (v *view) litByNumber(other *display.Track) (text string, at clock.Time) {
	numbers := map[bool][]int{} // at which it is lit, and dark
	for _, f := range other.Frames {
		n, ok := fault.ReadNumber(other, f.State, 0)
		for _, l := range v.track.Frames {
			if ok && min(f.To, l.To) > max(f.From+settles, l.From) {
				lit := !l.State.Unlit()
				numbers[lit] = append(numbers[lit], n)
			}
		}
	}
	if len(numbers[true]) == 0 || len(numbers[false]) == 0 {
		return "", 0
	}
	is := limit{slices.Min(numbers[true]), false}
	if slices.Min(numbers[true]) <= slices.Max(numbers[false]) {
		if slices.Max(numbers[true]) >= slices.Min(numbers[false]) {
			return "", 0 // it is not by the number
		}
		is = limit{slices.Max(numbers[true]), true}
	}
	asked := map[int]bool{} // of each number, whether it should be lit
	for _, d := range v.dueStates() {
		here := other.At(d.at)
		if here == nil {
			continue
		}
		n, ok := fault.ReadNumber(other, here.State, 0)
		if !ok {
			continue
		}
		if lit, known := asked[n]; known && lit != d.lit {
			return "", 0 // it should not be by the number
		}
		if asked[n] = d.lit; slices.Contains(numbers[!d.lit], n) {
			text = fmt.Sprintf("The limit is in another place: %s is lit %s of what %s shows, which is wrong at %d.",
				v.track.Display, is, other.Display, n)
			at = d.at
		}
	}
	if text != "" {
		return text, at
	}
	return v.litOtherwise(other, is, slices.Concat(numbers[true], numbers[false]))
}

// limit is the number from which on a lamp is lit, or up to which.
type limit struct {
	number int
	upTo   bool
}

func (l limit) lit(n int) bool { return n == l.number || n < l.number == l.upTo }

func (l limit) String() string {
	if l.upTo {
		return fmt.Sprintf("up to %d", l.number)
	}
	return fmt.Sprintf("from %d on", l.number)
}

// litOtherwise tells from which number on, or up to which, the lamp would be as it is asked for.
func (v *view) litOtherwise(other *display.Track, is limit, numbers []int) (text string, at clock.Time) {
	slices.Sort(numbers)
	for _, n := range slices.Compact(numbers) {
		if should := (limit{n, is.upTo}); should != is && v.rightIfLit(other, should.lit) {
			return fmt.Sprintf("The limit is in another place: %s is lit %s of what %s shows, where it should be lit %s.",
				v.track.Display, is, other.Display, should), v.firstWrong(v.mine)
		}
	}
	return "", 0
}

// rightIfLit reports whether all that is asked of the lamp would be met if it were lit at some numbers of another
// display, and dark at all others.
func (v *view) rightIfLit(other *display.Track, lit func(int) bool) bool {
	of := map[bool]display.State{}
	for _, f := range v.track.Frames {
		of[!f.State.Unlit()] = f.State
	}
	would := *v.track
	would.Frames = nil
	for _, f := range other.Frames {
		n, ok := fault.ReadNumber(other, f.State, 0)
		on := ok && lit(n)
		if last := len(would.Frames) - 1; last >= 0 && !would.Frames[last].State.Unlit() == on {
			would.Frames[last].To = f.To
			continue
		}
		would.Frames = append(would.Frames, display.Frame{From: f.From, To: f.To, State: of[on]})
	}
	r := *v.reel
	r.Tracks = slices.Clone(r.Tracks)
	for i := range r.Tracks {
		if r.Tracks[i].Display == would.Display {
			r.Tracks[i] = would
		}
	}
	for k, x := range v.all {
		if x.Display == would.Display && v.trial().Expect[k].Judge(&r).Outcome != judge.Met {
			return false
		}
	}
	return true
}

// memberEdge looks for one lamp of a display that is lit by the value that an input is set to, as it should be, but
// from another value on.
func (v *view) memberEdge() (string, clock.Time, bool) {
	beyond, _, more := v.extra()
	light := -1
	if more {
		light = single(beyond)
	}
	inputs := map[string]bool{}
	for _, c := range v.reel.Cues {
		inputs[c.Part] = true
	}
	if light < 0 || len(inputs) != 1 {
		return "", 0, false
	}
	var all []judge.Standing
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		value := v.valueAt(p.At)
		n, ok := judge.Quantity(value)
		if !ok || light >= len(p.Want.Lights) || light >= len(p.Seen.Lights) {
			continue
		}
		shown := new(big.Rat)
		if p.Seen.Lights[light] == display.Lit {
			shown.SetInt64(1)
		}
		all = append(all, judge.Standing{From: p.At, Value: value, Number: n,
			Holds: p.Want.Lights[light] == display.Lit, Shown: shown})
	}
	text, at := misplaced(fmt.Sprintf("light %d of %s is lit", light+1, v.track.Display), all, true)
	return text, at, text != ""
}

// wordEdge looks for words that stand for a number, which is right, and stand there for other numbers, too, up to a
// limit or from it on. text is empty where there are none.
func (v *view) wordEdge() (text string, at clock.Time) {
	words := func(p phrase) string { return strings.TrimSpace(strings.Join(p.around, "…")) }
	all := v.texts()
	i := slices.IndexFunc(all, func(t textPair) bool { return t.wrong })
	if i < 0 {
		return "", 0
	}
	want, seen := words(all[i].want), words(all[i].seen)
	if want == "" || seen == "" || want == seen {
		return "", 0
	}
	var levels []judge.Standing
	for _, t := range all {
		value, a, b := v.valueAt(t.at), words(t.want), words(t.seen)
		if len(t.want.figures) > 0 {
			value = t.want.figures[0]
		}
		n, ok := judge.Quantity(value)
		if !ok || !slices.Equal(t.want.figures, t.seen.figures) || a != want && a != seen || b != want && b != seen {
			return "", 0
		}
		shown := new(big.Rat)
		if b == seen {
			shown.SetInt64(1)
		}
		levels = append(levels, judge.Standing{From: t.at, Value: value, Number: n, Holds: a == seen, Shown: shown})
	}
	text, at = misplaced(fmt.Sprintf("%s shows “%s”", v.track.Display, seen), levels, true)
	return strings.Replace(text, "where it should not", fmt.Sprintf("where “%s” is expected", want), 1), at
}

// valueAt is the value that something was set to last before a moment; "" where nothing was.
func (v *view) valueAt(at clock.Time) (value string) {
	for _, c := range v.reel.Cues {
		if c.Verb == part.Set && c.Start <= at {
			value = c.To
		}
	}
	return value
}

// due is a moment at which a lamp should be lit, or dark.
type due struct {
	at  clock.Time
	lit bool
}

// dueStates are the moments at which something is asked of the lamp: where it comes late, when its time was up.
func (v *view) dueStates() (out []due) {
	for _, x := range v.all {
		for _, l := range x.Alignment {
			if x.Display == v.track.Display && l.Expected != nil && l.Expected.State != nil && l.Seen != nil {
				out = append(out, due{min(max(l.Seen.From, l.Expected.From), l.Expected.To), !l.Expected.State.Unlit()})
			}
		}
	}
	return out
}

// misplaced tells of a limit that is elsewhere; text is empty where the state does not depend on the value alone, or
// where no limit does it. What says what the display should do, as in "heater shows on". Far is for limits that may be
// several values away.
func misplaced(what string, all []judge.Standing, far bool) (text string, at clock.Time) {
	type level struct {
		judge.Standing
		shown bool
	}
	var levels []level
	for _, s := range all {
		share, _ := s.Shown.Float64()
		if s.Number == nil && !s.Holds && share < 0.1 {
			continue // no value, and nothing is made of it
		}
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
		if d := seen[i] - want[i]; !far && (d > 1 || d < -1) {
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
