package diagnosis

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
)

// written are the signs of texts and numbers that are wrong in the same way wherever they stand: in several places of a
// display, in a log. They go before other signs where no repair helps.
var written = []symptom{
	{finding.Entry{Code: "word", Doc: "one word is wrong"}, otherWord},
	{finding.Entry{Code: "point", Doc: "the decimal point is missing, or in another place"}, otherPoint},
	{finding.Entry{Code: "scale", Doc: "a value of a sensor is shown in the wrong unit, or by the wrong scale"}, otherUnit},
	{finding.Entry{Code: "scale", Doc: "a value of a sensor is shown in the wrong unit, or by the wrong scale"}, inProportion},
	{finding.Entry{Code: "direction", Doc: "a number goes the other way: it falls where it should rise"}, otherWay},
	{finding.Entry{Code: "place-missing", Order: 5, Sure: true, Doc: "a place of a number in a text is never written",
		Catch: "show a number that needs all its places"}, placeMissing},
	{finding.Entry{Code: "digits-order", Subsumes: []finding.Code{"overflow"}, Doc: "the figures of numbers come in reverse order"},
		backwards},
	{finding.Entry{Code: "overflow",
		Doc: "numbers from a sensor are far too small, and in no proportion to what they should be"}, noProportion},
}

// backwards looks for numbers whose figures all come in reverse order.
func backwards(v *view) (string, clock.Time, bool) {
	var first *textPair
	different := map[string]bool{}
	for _, t := range v.texts() {
		if !t.sameWords() && t.wrong {
			return "", 0, false
		}
		for k, want := range t.want.figures {
			turned := []byte(want)
			slices.Reverse(turned)
			if t.seen.figures[k] != string(turned) {
				return "", 0, false
			}
			if string(turned) != want {
				different[want] = true
				if first == nil {
					first = &t
				}
			}
		}
	}
	if len(different) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("The figures of the numbers on %s come in reverse order: it shows %s where %s is expected.",
		v.track.Display, first.seen, first.want), first.at, true
}

// phrase is a text as the words around its numbers, and the numbers.
type phrase struct {
	around  []string
	figures []string
}

var figure = regexp.MustCompile(`-?\d+(?:\.\d+)?`)

func phraseOf(text string) (p phrase) {
	at := 0
	for _, m := range figure.FindAllStringIndex(text, -1) {
		p.around, p.figures = append(p.around, text[at:m[0]]), append(p.figures, text[m[0]:m[1]])
		at = m[1]
	}
	p.around = append(p.around, text[at:])
	return p
}

// integers are the numbers of a text; ok is false where one of them is none.
func (p phrase) integers() (out []int, ok bool) {
	for _, f := range p.figures {
		n, err := strconv.Atoi(f)
		if err != nil {
			return nil, false
		}
		out = append(out, n)
	}
	return out, true
}

// String is the text in one line.
func (p phrase) String() string {
	var b strings.Builder
	for i, w := range p.around {
		b.WriteString(w)
		if i < len(p.figures) {
			b.WriteString(p.figures[i])
		}
	}
	rows := slices.DeleteFunc(strings.Split(b.String(), "\n"), func(row string) bool { return row == "" })
	return strconv.Quote(strings.Trim(strings.Join(rows, " / "), `"`))
}

// textPair is what was expected beside what was seen.
type textPair struct {
	want, seen phrase
	wrong      bool
	at         clock.Time
}

// read is the text of a state, with its rows one below the other; empty where the display shows neither text nor
// numbers.
func (v *view) read(s display.State) string {
	if lettered, ok := display.As[display.Lettered](v.track.Geometry); ok {
		var rows []string
		for _, row := range lettered.Rows(v.track, s) {
			rows = append(rows, strings.TrimRight(row, " "))
		}
		return strings.Join(rows, "\n")
	}
	if v.track.Geometry.Type().Traits().Lines {
		return s.Line
	}
	if _, ok := display.As[display.Counting](v.track.Geometry); ok {
		return v.track.Short(s)
	}
	return ""
}

// sameWords reports whether all but the numbers is as it should be, whatever room they take.
func (t textPair) sameWords() bool {
	return slices.EqualFunc(t.want.around, t.seen.around, func(a, b string) bool {
		return strings.TrimSpace(a) == strings.TrimSpace(b)
	})
}

// texts are those of all that was expected of a display that shows text or numbers, by pairs with as many numbers.
func (v *view) texts() []textPair { return v.textsOf(v.all) }

// textsOf are those of some verdicts.
func (v *view) textsOf(verdicts []judge.Verdict) (out []textPair) {
	for _, p := range fault.Meant(v.reel, v.track.Display, verdicts) {
		t := textPair{phraseOf(v.read(p.Want)), phraseOf(v.read(p.Seen)), p.Wrong, p.At}
		if len(t.want.figures) == len(t.seen.figures) {
			out = append(out, t)
		} else if p.Wrong {
			return nil
		}
	}
	return out
}

// otherWord looks for one word around numbers that are right, wrong wherever it stands, and nothing else.
func otherWord(v *view) (string, clock.Time, bool) {
	var want, seen string
	var first clock.Time
	numbers, right := map[string]bool{}, map[string]bool{}
	for _, t := range v.texts() {
		if !slices.Equal(t.want.figures, t.seen.figures) {
			return "", 0, false
		}
		for i := range t.want.around {
			a, b := strings.TrimRight(t.want.around[i], " "), strings.TrimRight(t.seen.around[i], " ")
			switch {
			case a == b:
				right[a] = true
				continue
			case len(numbers) == 0:
				want, seen, first = a, b, t.at
			case a != want || b != seen:
				return "", 0, false
			}
			numbers[strings.Join(t.want.figures, " ")] = true
		}
	}
	if len(numbers) < 2 || right[want] || right[seen] { // a choice between the two
		return "", 0, false
	}
	return fmt.Sprintf("%s shows %q where %q is expected, beside numbers that are right.", v.track.Display, seen, want),
		first, true
}

// otherPoint looks for numbers with the right figures, and the point elsewhere.
func otherPoint(v *view) (string, clock.Time, bool) {
	if text, at := v.movedPoint(); text != "" {
		return text, at, true
	}
	bare := func(list []string) (out string) {
		for _, f := range list {
			out += strings.TrimLeft(unpointed(f), "0") + " "
		}
		return out
	}
	var first *textPair
	different := map[string]bool{}
	for _, t := range v.texts() {
		if bare(t.want.figures) != bare(t.seen.figures) || !slices.Equal(t.want.around, t.seen.around) {
			return "", 0, false
		}
		if !slices.Equal(t.want.figures, t.seen.figures) {
			if different[bare(t.want.figures)] = true; first == nil {
				first = &t
			}
		}
	}
	if len(different) < 2 {
		return "", 0, false
	}
	return fmt.Sprintf("The decimal point on %s is missing, or in another place: it shows %s where %s is expected.",
		v.track.Display, strings.Join(first.seen.figures, " "), strings.Join(first.want.figures, " ")), first.at, true
}

// movedPoint looks for a point that is always at another figure, with nothing else wrong. One number is enough: a point
// that is missing may stand for something that did not come about, one that is there does not.
func (v *view) movedPoint() (text string, first clock.Time) {
	for _, p := range fault.Meant(v.reel, v.track.Display, v.all) {
		if !p.Wrong {
			continue
		}
		want, seen := v.read(p.Want), v.read(p.Seen)
		if unpointed(want) != unpointed(seen) || !strings.Contains(want, ".") || !strings.Contains(seen, ".") {
			return "", 0
		}
		if text == "" {
			first = p.At
			text = fmt.Sprintf("The point on %s is at another figure: it shows %s where %s is expected.", v.track.Display,
				strings.TrimSpace(seen), strings.TrimSpace(want))
		}
	}
	return text, first
}

func unpointed(text string) string { return strings.ReplaceAll(text, ".", "") }

// value is a number that is wrong.
type value struct {
	want, seen float64
	at         clock.Time
}

// values are the numbers on the display that are wrong, each pair once, where the exercise has a sensor: by their
// places in the text.
func (v *view) values() (out [][]value) {
	if !v.x.Senses() {
		return nil
	}
	for _, t := range v.texts() {
		for i, w := range t.want.figures {
			if i == len(out) {
				out = append(out, nil)
			}
			want, _ := strconv.ParseFloat(w, 64)
			seen, _ := strconv.ParseFloat(t.seen.figures[i], 64)
			known := slices.ContainsFunc(out[i], func(x value) bool { return x.want == want && x.seen == seen })
			if want != seen && !known {
				out[i] = append(out[i], value{want, seen, t.at})
			}
		}
	}
	return out
}

// leastValues is how many numbers tell a unit or a scale.
const leastValues = 3

// otherUnit looks for numbers that are all in degrees Fahrenheit where Celsius is meant.
func otherUnit(v *view) (string, clock.Time, bool) {
	all, wanted := slices.Concat(v.values()...), map[float64]bool{}
	for _, x := range all {
		if math.Abs(x.want*9/5+32-x.seen) > 2 { // both are cut off or rounded
			return "", 0, false
		}
		wanted[x.want] = true
	}
	if len(wanted) < leastValues {
		return "", 0, false
	}
	return fmt.Sprintf("The numbers on %s are in degrees Fahrenheit where Celsius is expected (%g for %g).", v.track.Display,
		all[0].seen, all[0].want), all[0].at, true
}

// inProportion looks for numbers at one place of a text that are all as many times too large, or too small, whatever
// follows from them. They are cut off, so that each bounds the ratio.
func inProportion(v *view) (string, clock.Time, bool) {
	if _, _, ok := otherPoint(v); ok {
		return "", 0, false
	}
	for place, all := range v.values() {
		if len(all) >= leastValues {
			if text, at, ok := v.proportion(place); ok {
				return text, at, true
			}
		}
	}
	return "", 0, false
}

// proportion is that of the numbers at one place.
func (v *view) proportion(place int) (string, clock.Time, bool) {
	low, high, wanted := 0.0, math.Inf(1), map[float64]bool{}
	var largest value
	for _, t := range v.texts() {
		if len(t.want.figures) <= place {
			return "", 0, false
		}
		want, step := reckoned(t.want.figures[place])
		seen, finest := reckoned(t.seen.figures[place])
		if want == 0 && seen == 0 { // of any ratio
			continue
		}
		if want <= 0 || seen < 0 {
			return "", 0, false
		}
		low, high, wanted[want] = max(low, seen/(want+step)), min(high, (seen+finest)/want), true
		if len(wanted) == 1 || want > largest.want {
			largest = value{want, seen, t.at}
		}
	}
	n, d, ok := fault.Simplest(low, high)
	if times := float64(n) / float64(d); ok && largest.seen > 0 &&
		len(wanted) >= leastValues && (times < 0.9 || times > 1.1) {
		return fmt.Sprintf("The numbers on %s are %.3g times as large as they should be (%g for %g): a scale, a unit, or the number of bits is wrong.",
			v.track.Display, times, largest.seen, largest.want), largest.at, true
	}
	return "", 0, false
}

// otherWay looks for numbers at one place of a text that fall where they should rise: their sum with what they should
// be is always the same.
func otherWay(v *view) (string, clock.Time, bool) {
	for place, all := range v.values() {
		least, most := math.Inf(1), math.Inf(-1)
		lowest, highest, wanted := least, most, map[float64]bool{}
		for _, t := range v.texts() {
			if len(t.want.figures) <= place { // a text without the number
				continue
			}
			want, _ := reckoned(t.want.figures[place])
			seen, _ := reckoned(t.seen.figures[place])
			least, most = min(least, want+seen), max(most, want+seen)
			lowest, highest, wanted[want] = min(lowest, want), max(highest, want), true
		}
		turned := most-least <= 2 && highest-lowest >= 10 // both are cut off or rounded
		if len(all) > 0 && len(wanted) >= leastValues && turned {
			return fmt.Sprintf("The numbers on %s go the other way: they fall where they should rise (%g for %g, %g for %g).",
				v.track.Display, all[0].seen, all[0].want, all[len(all)-1].seen, all[len(all)-1].want), all[0].at, true
		}
	}
	return "", 0, false
}

// reckoned is a number as it is written, and one in its last place.
func reckoned(figure string) (n, step float64) {
	n, _ = strconv.ParseFloat(figure, 64)
	_, places, _ := strings.Cut(figure, ".")
	return n, math.Pow10(-len(places))
}

// placeMissing looks for them in a text: on digits, it is a digit that stays dark.
func placeMissing(v *view) (text string, at clock.Time, ok bool) {
	if _, lettered := display.As[display.Lettered](v.track.Geometry); lettered {
		text, at, ok = lastFigures(v)
	}
	return text, at, ok
}

// lastFigures looks for numbers at one place of which the last figures alone are there.
func lastFigures(v *view) (string, clock.Time, bool) {
	for _, all := range v.values() {
		for _, left := range []struct {
			below float64
			named string
		}{{10, "figure"}, {100, "two figures"}} {
			wanted := map[float64]bool{}
			for _, x := range all {
				if x.want < left.below || x.want != math.Trunc(x.want) || x.seen != math.Mod(x.want, left.below) {
					wanted = nil
					break
				}
				wanted[x.want] = true
			}
			if len(wanted) >= 2 {
				return fmt.Sprintf("The numbers on %s lack what stands before their last %s: %g for %g, %g for %g.",
					v.track.Display, left.named, all[0].seen, all[0].want, all[len(all)-1].seen,
					all[len(all)-1].want), all[0].at, true
			}
		}
	}
	return "", 0, false
}

// noProportion looks for numbers at one place of a text that are less than half of what they should be, some of them
// much less than others, or smaller where they should be larger.
func noProportion(v *view) (string, clock.Time, bool) {
	if _, _, ok := lastFigures(v); ok {
		return "", 0, false
	}
	for _, all := range v.values() {
		if outOfProportion(all) {
			return fmt.Sprintf("The numbers on %s are far too small, and in no proportion to what they should be (%g for %g, %g for %g), as where an intermediate result does not fit into its type.",
				v.track.Display, all[0].seen, all[0].want, all[len(all)-1].seen, all[len(all)-1].want), all[0].at, true
		}
	}
	return "", 0, false
}

func outOfProportion(all []value) bool {
	least, most, falls := math.Inf(1), 0.0, false
	wanted, seen := map[float64]bool{}, map[float64]bool{}
	for _, x := range all {
		if x.want <= 0 || x.seen*2 > x.want {
			return false
		}
		least, most = min(least, x.seen/x.want), max(most, x.seen/x.want)
		wanted[x.want], seen[x.seen] = true, true
		falls = falls || slices.ContainsFunc(all, func(y value) bool { return x.want < y.want && x.seen > y.seen })
	}
	return len(wanted) >= leastValues && len(seen) >= 2 && (falls || most >= 2*least)
}
