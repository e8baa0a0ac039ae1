package diagnosis

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

// fields are the signs of single numbers and words of a text, or of a row of figures, that go wrong beside others that
// are right. They are looked for where nothing else is found, and say what stands where.
var fields = []symptom{
	{finding.Entry{Code: "texts-swapped"}, exchangedNumbers},
	{finding.Entry{Code: "sets-other"}, otherField},
	{finding.Entry{Code: "sets-other"}, setAlike},
	{finding.Entry{Code: "count-scaled"}, otherStep},
	{finding.Entry{Code: "goes-on-halted",
		Doc:   "a count goes on unseen while it is halted, and catches up when it goes on",
		Catch: "halt it for several steps, let it go on, and read the next number"}, catchesUp},
	{finding.Entry{Code: "scale"}, wholeOnly},
	{finding.Entry{Code: "time"}, otherPace},
	{finding.Entry{Code: "rows"}, movedText},
	{finding.Entry{Code: "row-overwritten"}, writtenOver},
	{finding.Entry{Code: "goes-on"}, rowStays},
	{finding.Entry{Code: "limit"}, notCaught},
	{finding.Entry{Code: "leftovers"}, tailStays},
	{finding.Entry{Code: "words"}, otherWords},
	{finding.Entry{Code: "words"}, otherSymbols},
}

// onlyPlace is the one in which two lists of numbers differ; -1 where there is none, or several.
func onlyPlace(a, b []int) (place int) {
	place = -1
	for i := range a {
		if a[i] == b[i] {
			continue
		}
		if place >= 0 {
			return -1
		}
		place = i
	}
	return place
}

// otherField looks for an input by which one number of several should change, and another one does.
func otherField(v *view) (string, clock.Time, bool) {
	var after []judge.Verdict // of what is expected behind an input
	for k, x := range v.all {
		if kind := v.trial().Expect[k].Kind; kind == "reads" || kind == "answers" {
			after = append(after, x)
		}
	}
	for _, t := range v.textsOf(after) {
		want, a := t.want.integers()
		seen, b := t.seen.integers()
		last := lastBefore(v.reel.Cues, t.at)
		if !a || !b || !t.wrong || len(want) < 2 || last < 0 || !t.sameWords() {
			continue
		}
		cue := v.reel.Cues[last]
		f := v.track.At(cue.Start - 1)
		if f == nil {
			continue
		}
		was, ok := phraseOf(v.read(f.State)).integers()
		if !ok || len(was) != len(seen) {
			continue
		}
		meant, does := onlyPlace(was, want), onlyPlace(was, seen)
		if meant >= 0 && does >= 0 && meant != does && t.at <= cue.End+tardy {
			return fmt.Sprintf("After %s at %s, %s shows %s where %s is expected: another number is changed than the one that it is for.",
				done(cue), cue.Start, v.track.Display, t.seen, t.want), t.at, true
		}
	}
	return "", 0, false
}

// setAlike looks for an input, that of the first text that is wrong, behind which one number of several is always the
// same, where it should now be this, now that.
func setAlike(v *view) (string, clock.Time, bool) {
	var first textPair
	var by reel.Fired
	place, wants := -1, map[int]bool{}
	for _, t := range v.texts() {
		want, a := t.want.integers()
		seen, b := t.seen.integers()
		last := lastBefore(v.reel.Cues, t.at)
		if !a || !b || len(want) < 2 || !t.sameWords() || last < 0 || t.at > v.reel.Cues[last].End+tardy {
			if t.wrong && place < 0 {
				return "", 0, false
			}
			continue
		}
		switch cue := v.reel.Cues[last]; {
		case place < 0 && t.wrong:
			first, by = t, cue
			if place = onlyPlace(want, seen); place < 0 {
				return "", 0, false
			}
			wants[want[place]] = true
		case place >= 0 && cue.Text == by.Text:
			if was, _ := first.seen.integers(); seen[place] != was[place] {
				return "", 0, false
			}
			wants[want[place]] = true
		}
	}
	if len(wants) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("After %s one number on %s is always the same, whatever it was: %s where %s is expected.", done(by),
		v.track.Display, first.seen, first.want), first.at, true
}

// exchangedNumbers looks for two numbers of a text of which each stands in the other's place, in several texts, where
// all others are right.
func exchangedNumbers(v *view) (string, clock.Time, bool) {
	var first *textPair
	different := map[string]bool{}
	for _, t := range v.texts() {
		want, seen := t.want.figures, t.seen.figures
		if t.wrong && !t.sameWords() {
			return "", 0, false
		}
		if slices.Equal(want, seen) {
			continue
		}
		var at []int
		for i := range want {
			if want[i] != seen[i] {
				at = append(at, i)
			}
		}
		if len(at) != 2 || want[at[0]] != seen[at[1]] || want[at[1]] != seen[at[0]] {
			return "", 0, false
		}
		if different[strings.Join(want, " ")] = true; first == nil {
			first = &t
		}
	}
	if len(different) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("Two numbers on %s are exchanged: it shows %s where %s is expected, and so on.", v.track.Display,
		first.seen, first.want), first.at, true
}

// wholeOnly looks for numbers with places behind the point that are always zeros where they should not be, and whose
// whole part is right.
func wholeOnly(v *view) (string, clock.Time, bool) {
	first := -1
	all, wrong := v.texts(), map[string]bool{}
	for i, t := range all {
		if !t.wrong {
			continue
		}
		for k, w := range t.want.figures {
			s := t.seen.figures[k]
			if w == s {
				continue
			}
			whole, rest, point := strings.Cut(s, ".")
			meant, _, _ := strings.Cut(w, ".")
			if !point || strings.Trim(rest, "0") != "" || whole != meant {
				return "", 0, false
			}
			if wrong[s] = true; first < 0 {
				first = i
			}
		}
	}
	if len(wrong) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("%s shows %s where %s is expected, and so on: what is behind the point is always 0, the value is cut off to a whole number.",
		v.track.Display, all[first].seen, all[first].want), all[first].at, true
}

// leastPace is how many numbers tell by how much a count of time goes too fast or too slowly.
const leastPace = 2

// otherPace looks for a number that changes by itself, and is as many times too large, or too small, whenever it is
// looked at.
func otherPace(v *view) (string, clock.Time, bool) {
	low, high, wanted := 0.0, math.Inf(1), map[float64]bool{}
	var first *textPair
	for _, t := range v.texts() {
		if len(t.want.figures) != 1 {
			return "", 0, false
		}
		want, step := reckoned(t.want.figures[0])
		seen, finest := reckoned(t.seen.figures[0])
		if want == 0 && seen == 0 {
			continue
		}
		if want <= 0 || seen <= 0 || !t.wrong {
			return "", 0, false
		}
		low, high = max(low, (seen-finest)/(want+step)), min(high, (seen+finest)/max(want-step, step))
		wanted[want] = true
		if first == nil {
			first = &t
		}
	}
	if len(wanted) < leastPace || low > high || low < 1.1 && high > 0.9 || !v.runs() || v.x.Senses() {
		return "", 0, false
	}
	how := "too fast"
	if high < 1 {
		how = "too slowly"
	}
	return fmt.Sprintf("The number on %s goes on %s: it shows %s where %s is expected, and so on in proportion.",
		v.track.Display, how, first.seen, first.want), first.at, true
}

// runs reports whether the display changes several times without any input between.
func (v *view) runs() bool {
	edges := []clock.Time{0}
	for _, c := range v.reel.Cues {
		edges = append(edges, c.Start, c.End)
	}
	edges = append(edges, v.reel.Length)
	for i := range edges[1:] {
		if begun(v.track, edges[i]+tardy, edges[i+1]) > 2 {
			return true
		}
	}
	return false
}

// movedText looks for one piece of a text that always stands in another row than it should, in the same other place,
// while all else is right.
func movedText(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok {
		return "", 0, false
	}
	type move struct{ from, to [2]int } // row and column
	var moves []move
	var at clock.Time
	var what string
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		if !p.Wrong {
			continue
		}
		want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
		meant, more := onlyIn(want, seen)
		shown, also := onlyIn(seen, want)
		if more || also || meant.text == "" || meant.text != shown.text || meant.row == shown.row {
			return "", 0, false
		}
		if moves == nil {
			at, what = p.At, meant.text
		}
		moves = append(moves, move{[2]int{meant.row, meant.column}, [2]int{shown.row, shown.column}})
	}
	if len(moves) < 2 || slices.ContainsFunc(moves, func(m move) bool { return m != moves[0] }) {
		return "", 0, false
	}
	m := moves[0]
	return fmt.Sprintf("Part of the text on %s stands in row %d, from column %d on, where it should stand in row %d, from column %d on: %q.",
		v.track.Display, m.to[0]+1, m.to[1]+1, m.from[0]+1, m.from[1]+1, what), at, true
}

// writtenOver looks for texts whose row stays empty, and which stand at the beginning of another row each time, over
// what is there.
func writtenOver(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok || v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	texts, in := map[string]bool{}, [2]int{}
	var first display.Pair
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		if !p.Wrong {
			continue
		}
		want, seen := rowsOf(lettered, p.On, p.Want), rowsOf(lettered, p.On, p.Seen)
		own := slices.IndexFunc(want, func(row string) bool { return row != "" && !slices.Contains(seen, row) })
		if own < 0 || seen[own] != "" {
			continue
		}
		other := slices.IndexFunc(seen, func(row string) bool { return strings.HasPrefix(row, want[own]) })
		if other < 0 || len(texts) > 0 && in != [2]int{own, other} {
			return "", 0, false
		}
		if len(texts) == 0 {
			first, in = p, [2]int{own, other}
		}
		texts[want[own]] = true
	}
	if len(texts) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("What belongs in row %d of %s is written over row %d: %q, and row %d stays empty.", in[0]+1,
		v.track.Display, in[1]+1, rowsOf(lettered, first.On, first.Seen)[in[1]], in[0]+1), first.At, true
}

// rowStays looks for the first row that is wrong and stays as it rightly was when an input came, where another row
// changes as it should.
func rowStays(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok || v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	pairs := fault.Pairs(v.reel, v.track.Display, v.all)
	slices.SortStableFunc(pairs, func(a, b display.Pair) int { return int(a.Used - b.Used) })
	first := slices.IndexFunc(pairs, func(p display.Pair) bool { return p.Wrong })
	if first < 0 {
		return "", 0, false
	}
	p := pairs[first]
	before, last := v.track.At(p.Used-1), lastBefore(v.reel.Cues, p.Used)
	if p.Used <= 0 || before == nil || last < 0 || v.reel.Cues[last].Start != p.Used {
		return "", 0, false
	}
	rows := func(s display.State) []string { return rowsOf(lettered, p.On, s) }
	want, seen, was := rows(p.Want), rows(p.Seen), rows(before.State)
	stays, changes := -1, false
	for y := range min(len(want), len(seen), len(was)) {
		switch {
		case want[y] == seen[y]:
			changes = changes || was[y] != seen[y]
		case stays >= 0 || seen[y] != was[y]:
			return "", 0, false
		default:
			stays = y
		}
	}
	right := func(q display.Pair) bool { return !q.Wrong && rows(q.Want)[stays] == was[stays] }
	if stays < 0 || !changes || seen[stays] == "" || !slices.ContainsFunc(pairs[:first], right) {
		return "", 0, false
	}
	return fmt.Sprintf("After %s at %s, row %d of %s still shows %q where %q is expected; the rest of it changes as it should.",
		done(v.reel.Cues[last]), p.Used, stays+1, v.track.Display, seen[stays], want[stays]), p.At, true
}

// notCaught looks for numbers where a sign of another kind should say that they are out of range, and nothing else
// that is wrong.
func notCaught(v *view) (string, clock.Time, bool) {
	var first *display.Pair
	if _, lettered := display.As[display.Lettered](v.track.Geometry); lettered {
		return "", 0, false
	}
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		if !p.Wrong {
			continue
		}
		_, meant := v.number(p.Want)
		_, shown := v.number(p.Seen)
		if meant || !shown || v.track.Nothing(p.Want) {
			return "", 0, false
		}
		if first == nil {
			first = &p
		}
	}
	if first == nil || !v.readable() {
		return "", 0, false
	}
	return fmt.Sprintf("%s shows %s where %s is expected: a number that is out of range is shown all the same.",
		v.track.Display, v.track.Short(first.Seen), v.track.Short(first.Want)), first.At, true
}

// piece is a word of a text, and where it begins.
type piece struct {
	text        string
	row, column int
}

// onlyIn is the word that rows have where others have none or another one; more tells of several.
func onlyIn(rows, others []string) (one piece, more bool) {
	for y := range rows {
		row, other := []rune(rows[y]), []rune(strings.Repeat(" ", len(rows[y])))
		if y < len(others) {
			copy(other, []rune(others[y]))
		}
		for x := 0; x < len(row); x++ {
			if row[x] == ' ' || row[x] == other[x] {
				continue
			}
			begin := x
			for x < len(row) && row[x] != ' ' {
				x++
			}
			if one.text != "" {
				return one, true
			}
			one = piece{string(row[begin:x]), y, begin}
		}
	}
	return one, false
}

// tailStays looks for a row that is right but for what stood behind it in the state before.
func tailStays(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok || v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		before := v.before(p.At)
		if !p.Wrong || p.Cleared || before == nil {
			continue
		}
		want, seen, was := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen), lettered.Rows(v.track, *before)
		for y := range want {
			text := strings.TrimRight(want[y], " ")
			tail, begins := strings.CutPrefix(seen[y], text)
			if tail = strings.TrimRight(tail, " "); begins && text != "" && tail != "" && was[y] != seen[y] &&
				strings.HasPrefix(was[y][min(len(was[y]), len(text)):], tail) {
				return fmt.Sprintf("The end of a longer text remains on %s: %q stayed behind %q. A shorter text must overwrite all of it.",
					v.track.Display, strings.TrimSpace(tail), text), p.At, true
			}
		}
	}
	return "", 0, false
}

// otherWords looks for a text that differs from what is expected in more than its numbers, and is expected nowhere: the
// program knows one that is asked for at another time, and comes to it wrongly.
func otherWords(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok || !v.readable() || v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	asked := map[string]bool{}
	for _, x := range slices.Concat(v.all, v.others) {
		for _, l := range x.Alignment {
			if x.Display == v.track.Display && l.Expected != nil && l.Expected.Meant() != nil {
				for _, row := range lettered.Rows(v.track, *l.Expected.Meant()) {
					asked[form(row)] = true
				}
			}
		}
	}
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		if !p.Wrong || v.track.Nothing(p.Seen) || v.track.Nothing(p.Want) {
			continue
		}
		want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
		for y := range want {
			if words := form(want[y]); words != "" && words != "0" && y < len(seen) && !asked[form(seen[y])] {
				return fmt.Sprintf("%s shows another text than asked: %q for %q.", v.track.Display,
					strings.TrimSpace(seen[y]), strings.TrimSpace(want[y])), p.At, true
			}
		}
	}
	return "", 0, false
}

// otherSymbols looks for what a row of digits shows in place of something that is no number, each time, where several
// numbers are right and nothing else is wrong.
func otherSymbols(v *view) (string, clock.Time, bool) {
	if _, ok := display.As[display.Counting](v.track.Geometry); !ok || v.track.Geometry.Digits() < 2 {
		return "", 0, false
	}
	var first *display.Pair
	right := map[int]bool{}
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		n, isNumber := v.number(p.Want)
		switch {
		case !p.Wrong && isNumber:
			right[n] = true
		case !p.Wrong:
		case isNumber || v.track.Nothing(p.Want) || v.track.Nothing(p.Seen):
			return "", 0, false
		case first == nil:
			first = &p
		case !v.track.Alike(p.Want, first.Want) || !v.track.Alike(p.Seen, first.Seen):
			return "", 0, false
		}
	}
	if first == nil || len(right) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("%s shows %s where %s is expected; the numbers are right.", v.track.Display,
		v.track.Short(first.Seen), v.track.Short(first.Want)), first.At, true
}

// form is what a row says apart from its numbers, and from how long a bar of one character in it is; "0" where there is
// nothing else.
func form(row string) string {
	words := display.Unnumbered([]string{bars.ReplaceAllStringFunc(row, func(bar string) string { return bar[:1] })})
	if words == "" && strings.TrimSpace(row) != "" {
		return "0"
	}
	return words
}

// bars are those that a row of text may have.
var bars = regexp.MustCompile(`#+|=+|\*+|-+|\|+|>+`)
