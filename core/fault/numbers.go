package fault

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "count-offset", Price: finding.Constant,
		Doc:   "a number is too large or too small by a constant",
		Catch: "read the number at a time that it is known for", Vague: true,
		Subsumes: []finding.Code{"count-start"}}, Sizes: countOffset})
	register(&Fault{Entry: finding.Entry{Code: "count-start", Price: finding.Constant,
		Doc:   "a number, or a round of states, begins with another one than it should, and is right once it has been set, or goes on from there",
		Catch: "read the number before anything sets it, and behind that", Vague: true}, Once: true, Sizes: either(countStart, (*Subject).beginsElsewhere)})
	register(&Fault{Entry: finding.Entry{Code: "count-scaled", Price: finding.Behaviour,
		Doc:   "a number changes by several steps where one is expected, or the reverse",
		Catch: "read the number after several steps", Vague: true}, Sizes: countScaled})
	register(&Fault{Entry: finding.Entry{Code: "sets-other", Price: finding.Constant, Vague: true,
		Doc:   "an input sets a number to another one than it should",
		Catch: "count, use the input, and read the number behind it"}, Once: true, Sizes: either(drivenSets.sizes, (*Subject).setsOther)})
	register(&Fault{Entry: display.Hexadecimal, Sizes: hexadecimal})
	register(&Fault{Entry: finding.Entry{Code: "scale", Price: finding.Wiring, Vague: true,
		Doc:   "a value of a sensor is shown in the wrong unit, or by the wrong scale",
		Catch: "set the sensor to several values", Subsumes: []finding.Code{"edge"}}, Sizes: shownScaled})
	register(&Fault{Entry: finding.Entry{Code: "underflow", Explains: true, Price: finding.Constant,
		Doc:   "a number goes below 0 and wraps to a large one",
		Vague: true, Subsumes: []finding.Code{"limit"}}, Once: true, Sizes: underflow})
}

func countOffset(s *Subject) (out []Size) {
	for _, by := range s.offsets() {
		want, ok := s.expectedFirst()
		begins, shown := s.begins()
		how := "too small"
		if by < 0 {
			how = "too large"
		}
		if s.single() && by > 5 {
			how, by = "too large", by-10
		}
		change := throughout(s, func(n int) (int, bool) {
			if s.single() { // a decimal counter of one digit goes round
				return (n + by + 10) % 10, true
			}
			return n + by, n+by >= 0
		})
		if s.Exercise.Senses() {
			change = s.endsAtNought(by, change)
		}
		out = append(out, Size{Text: fmt.Sprintf("The number on %s is %s by %d throughout.", s.Part.Name, how, abs(by)),
			Effect: fmt.Sprintf("the number is off by %+d", by), Against: ok && shown && want == begins, Reel: change})
	}
	return out
}

// endsAtNought has numbers come right that are 0 because none is below, where a value of a sensor is too small by so
// much.
func (s *Subject) endsAtNought(by int, change func(*reel.Reel) *reel.Reel) func(*reel.Reel) *reel.Reel {
	return s.where(change, func(p display.Pair) bool {
		want, a := s.number(p.Want)
		seen, b := s.number(p.Seen)
		return a && b && seen == 0 && 0 <= want && want < by
	})
}

// where is a change after which some of the states that were wrong are as they should be: those that are never right.
func (s *Subject) where(change func(*reel.Reel) *reel.Reel,
	also func(display.Pair) bool) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		before, out := r.Track(s.Part.Name), change(r)
		if out == r { // it does not hold throughout
			return r
		}
		t := out.Track(s.Part.Name)
		for _, p := range s.shown.Pairs {
			f := before.At(p.At)
			right := func(q display.Pair) bool { return !q.Wrong && q.On == p.On && before.At(q.At) == f }
			if f != nil && p.Wrong && p.On == before && also(p) && !slices.ContainsFunc(s.shown.Pairs, right) {
				t.At(p.At).State = p.Want
			}
		}
		out.Regather(s.Part.Name)
		return out
	}
}

// countStart is an offset that ends where the number is set to what it should have begun with. Where nothing ever sets
// it, that is an offset like any other.
func countStart(s *Subject) []Size {
	if _, ok := s.counting(); !ok || s.Verdicts == nil {
		return nil
	}
	if out := drivenStart.sizes(s); out != nil {
		return out
	}
	want, ok := s.expectedFirst()
	begins, shown := s.begins()
	if !ok || !shown || want == begins {
		return nil
	}
	set := func(t *display.Track) int { // the first frame that is right
		for i, f := range t.Frames {
			if n, ok := s.number(f.State); ok && n == want && i > 0 {
				return i
			}
		}
		return len(t.Frames)
	}
	if !slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool {
		t := r.Track(s.Part.Name)
		return set(t) < len(t.Frames)
	}) {
		return s.startsElsewhere()
	}
	return []Size{{Text: fmt.Sprintf("The number on %s begins with %d where %d is expected; once it is set to %d, it is right.",
		s.Part.Name, begins, want, want),
		Reel: frames(s.Part.Name, func(_ string, t *display.Track) []display.Frame {
			out := slices.Clone(t.Frames)
			for i := range set(t) {
				if n, ok := s.read(t, out[i].State); ok && n+want-begins >= 0 {
					out[i].State = s.write(t, out[i].State, n+want-begins)
				}
			}
			return out
		})}}
}

// expectedFirst is the number that a sequence of states begins with.
func (s *Subject) expectedFirst() (int, bool) {
	for _, all := range s.Verdicts {
		for _, v := range all {
			first := slices.IndexFunc(v.Alignment, func(l judge.Pair) bool { return l.Expected != nil })
			if v.Display == s.Part.Name && first >= 0 && len(v.Alignment) > first+1 &&
				v.Alignment[first].Expected.State != nil {
				return s.number(*v.Alignment[first].Expected.State)
			}
		}
	}
	return 0, false
}

// begins is the number that is seen first, where all trials begin with the same.
func (s *Subject) begins() (first int, ok bool) {
	for i, t := range s.shown.Tracks {
		n, found := 0, false
		for _, f := range t.Frames {
			if n, found = s.number(f.State); found {
				break
			}
		}
		if !found || i > 0 && n != first {
			return 0, false
		}
		first = n
	}
	return first, len(s.shown.Tracks) > 0
}

func countScaled(s *Subject) (out []Size) {
	if _, ok := s.counting(); !ok {
		return nil
	}
	one := s.Verdicts != nil && s.stepsByItself()
	for _, k := range []int{2, 4, 10} {
		if !one {
			out = append(out, Size{Text: fmt.Sprintf(
				"The number on %s is %d times what it should be: each step counts %d times.", s.Part.Name, k, k),
				Effect: fmt.Sprintf("the number is divided by %d", k), Reel: s.beyond(float64(k), s.scaled(1, k))})
		}
		out = append(out,
			Size{Text: fmt.Sprintf("The number on %s is a %s of what it should be.", s.Part.Name,
				map[int]string{2: "half", 4: "quarter", 10: "tenth"}[k]),
				Effect: fmt.Sprintf("the number is multiplied by %d", k),
				Reel:   s.scaled(k, 1)})
	}
	steps := drivenSteps.sizes(s)
	if steps == nil {
		steps = addsOther(s)
	}
	return append(out, steps...)
}

// byItself is how many steps with no input in between tell that a number goes on by itself.
const byItself = 5

// stepsByItself reports whether the number was seen to go on by one, again and again, with no input in between: what
// makes it too large is its pace then.
func (s *Subject) stepsByItself() bool {
	steps := 0
	for i, t := range s.shown.Tracks {
		was, from, read := 0, clock.Time(0), false
		for _, f := range t.Frames {
			n, ok := s.number(f.State)
			if !ok {
				continue
			}
			if read && abs(n-was) == 1 && lastUsed(s.Reels[i].Cues, f.From) < from {
				steps++
			}
			was, from, read = n, f.From, true
		}
	}
	return steps >= byItself
}

func hexadecimal(s *Subject) []Size {
	if _, ok := s.counting(); !ok || s.single() {
		return nil
	}
	base := func(from, to int) func(*reel.Reel) *reel.Reel {
		return renumbered(s, func(n int) (int, bool) {
			v, err := strconv.ParseInt(strconv.FormatInt(int64(n), to), from, 0)
			return int(v), err == nil
		})
	}
	return []Size{
		{Text: fmt.Sprintf("%s shows its number in hexadecimal places: 10 for 16.", s.Part.Name),
			Effect: "a hexadecimal number is shown in decimal places", Reel: base(16, 10)},
		{Text: fmt.Sprintf("%s shows its number as if its places were hexadecimal: 16 for 10.", s.Part.Name),
			Effect: "a number is shown in hexadecimal places", Reel: base(10, 16)},
	}
}

// shownScaled looks for one ratio between the numbers that are seen and those that are expected, of a bench with a
// sensor: a raw reading, or another unit. Both are whole numbers, cut off or else rounded, so that each wrong pair of
// them bounds the ratio; where one ratio is within the bounds of all, it is their middle.
func shownScaled(s *Subject) []Size {
	if _, ok := s.counting(); !ok || s.Verdicts == nil || !s.Exercise.Senses() {
		return nil
	}
	type pair struct{ want, seen float64 }
	distinct, fahrenheit := map[pair]bool{}, true
	meant := map[int]int{} // wanted numbers, by those seen
	for _, p := range s.shown.Pairs {
		want, a := s.number(p.Want)
		seen, b := s.number(p.Seen)
		if !a || !b || want <= 0 || !p.Wrong || want == seen {
			continue
		}
		distinct[pair{float64(want), float64(seen)}] = true
		meant[seen] = want
		fahrenheit = fahrenheit && abs(seen*5-want*9-160) <= 10
	}
	if len(distinct) < 2 {
		return nil
	}
	if fahrenheit {
		return []Size{{Text: fmt.Sprintf("The number on %s is in degrees Fahrenheit where Celsius is expected.",
			s.Part.Name),
			Reel: renumbered(s, func(n int) (int, bool) { return (10*(n-32) + 9) / 18, n >= 32 })}} // rounded
	}
	low, high := 0.0, math.Inf(1)
	for p := range distinct {
		low, high = max(low, p.seen/(p.want+1)), min(high, (p.seen+1)/p.want)
	}
	if low >= high && len(distinct) > 2 { // both are rounded
		low, high = 0, math.Inf(1)
		for p := range distinct {
			low, high = max(low, (p.seen-0.5)/(p.want+0.5)), min(high, (p.seen+0.5)/(p.want-0.5))
		}
	}
	ratio := (low + high) / 2
	if low >= high || low <= 1 && high >= 1 || s.rightBesides(ratio) {
		return nil
	}
	told := ratio
	if n, d, ok := Simplest(low, high); ok {
		told = float64(n) / float64(d)
	}
	return []Size{{Text: fmt.Sprintf("The number on %s is %.3g times what it should be: a raw reading of the sensor, or another unit or scale.",
		s.Part.Name, told),
		Reel: s.beyond(ratio, s.besides(func(n int) (int, bool) {
			if want, ok := meant[n]; ok { // where several numbers are cut off to one, this is it
				return want, true
			}
			return int(float64(n) / ratio), true
		}))}}
}

// beyond has states come right, too, that are beyond what the display can show, or should be, where numbers are that
// many times as large: two are seen to be, at least.
func (s *Subject) beyond(ratio float64, change func(*reel.Reel) *reel.Reel) func(*reel.Reel) *reel.Reel {
	largest, most, such := 0.0, 0.0, map[int]bool{} // seen, and wanted
	for _, p := range s.shown.Pairs {
		want, a := s.number(p.Want)
		seen, b := s.number(p.Seen)
		if a {
			most = max(most, float64(want))
		}
		if b && a {
			largest = max(largest, float64(seen))
		}
		if off := float64(seen) - ratio*float64(want); a && b && want > 0 && math.Abs(off) < max(1, ratio) {
			such[want] = true
		}
	}
	if len(such) < 2 {
		return change
	}
	return s.where(change, func(p display.Pair) bool {
		want, a := s.number(p.Want)
		seen, b := s.number(p.Seen)
		over := a && !b && !blank(p.Seen) && float64(want)*ratio > largest
		under := b && !a && !blank(p.Want) && float64(seen)/ratio > most
		return over || under
	})
}

// rightBesides reports whether a number is right that could not be if all were that many times as large. Where there
// are letters around it, it may be in another unit.
func (s *Subject) rightBesides(ratio float64) bool {
	if _, lettered := display.As[display.Lettered](s.shown.Geometry); lettered {
		return false
	}
	return slices.ContainsFunc(s.shown.Pairs, func(p display.Pair) bool {
		want, asked := s.number(p.Want)
		seen, shown := s.number(p.Seen)
		return asked && shown && !p.Wrong && want == seen && int(float64(want)*ratio) != seen
	})
}

// besides is renumbered but for what is right with another text around the number: a value in another unit, which the
// mistake does not concern.
func (s *Subject) besides(f func(int) (int, bool)) func(*reel.Reel) *reel.Reel {
	c, _ := s.counting()
	around := func(t *display.Track, x display.State) string {
		if _, ok := c.ReadNumber(t, x, s.nth); !ok {
			return ""
		}
		return fmt.Sprint(c.WriteNumber(t, x, s.nth, 0))
	}
	right, wrong := map[string]bool{}, map[string]bool{}
	for _, p := range s.shown.Pairs {
		of := right
		if p.Wrong {
			of = wrong
		}
		of[around(p.On, p.Seen)] = true
	}
	change := renumbered(s, f)
	return func(r *reel.Reel) *reel.Reel {
		before := r.Track(s.Part.Name)
		out := change(r)
		t := out.Track(s.Part.Name)
		for i, x := range before.Frames {
			if form := around(before, x.State); right[form] && !wrong[form] {
				t.Frames[i].State = x.State
			}
		}
		out.Regather(s.Part.Name)
		return out
	}
}

func underflow(s *Subject) (out []Size) {
	if _, ok := s.counting(); !ok {
		return nil
	}
	if !slices.ContainsFunc(s.shown.Pairs, func(p display.Pair) bool { return !p.Wrong }) {
		return nil // it never came down to 0
	}
	for _, p := range s.shown.Pairs {
		want, ok := s.number(p.Want)
		seen, shown := s.number(p.Seen)
		below := shown && (belowNought(seen) || s.single() && seen == 9) ||
			!shown && !s.reported() && s.counted(p.On, p.At)
		if !ok || want != 0 || blank(p.Seen) || !below {
			continue
		}
		return []Size{{Text: fmt.Sprintf("%s counts below 0: the number wraps around to a large one.",
			s.Part.Name),
			Reel: states(s.Part.Name, func(t *display.Track, x display.State) display.State {
				if n, ok := s.read(t, x); !ok && !blank(x) || ok && belowNought(n) {
					return p.Want
				}
				return x
			})}}
	}
	return nil
}

// counted reports whether a number was ever shown before a time.
func (s *Subject) counted(t *display.Track, before clock.Time) bool {
	return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
		_, ok := s.read(t, f.State)
		return ok && f.From < before
	})
}

// belowNought reports whether a number is a little below where figures or bytes end: what is left of one below 0.
func belowNought(n int) bool {
	return slices.ContainsFunc([]int{100, 1000, 10_000, 1 << 8, 1 << 16, 1 << 32}, func(end int) bool {
		return n < end && n >= end-9
	})
}

// scaled makes d steps of the number n, counted from what it shows first where that is right, and else from 0.
func (s *Subject) scaled(n, d int) func(*reel.Reel) *reel.Reel {
	right := func(of *display.Track, at clock.Time) bool {
		return s.Verdicts == nil || slices.ContainsFunc(s.shown.Pairs, func(p display.Pair) bool {
			return !p.Wrong && p.On == of && of.At(p.At) == of.At(at)
		})
	}
	return func(r *reel.Reel) *reel.Reel {
		base, t := 0, r.Track(s.Part.Name)
		for _, f := range t.Frames {
			if first, ok := s.number(f.State); ok {
				if right(t, f.From) {
					base = first
				}
				break
			}
		}
		return renumbered(s, func(x int) (int, bool) { // numbers between the steps speak against it
			return base + (x-base)*n/d, base+(x-base)*n/d >= 0 && (x-base)*n%d == 0
		})(r)
	}
}

// counting is the ability of the part to show numbers; ok is false where it has none.
func (s *Subject) counting() (c display.Counting, ok bool) {
	if s.shown == nil {
		return nil, false
	}
	return display.As[display.Counting](s.shown.Geometry)
}

// single reports whether it shows a single figure: a decimal counter of one digit goes round.
func (s *Subject) single() bool {
	c, ok := s.counting()
	return ok && c.Figures(s.shown.Geometry) == 1
}

// figures reports whether all it shows are figures, and nothing else.
func (s *Subject) figures() bool {
	c, ok := s.counting()
	return ok && c.Figures(s.shown.Geometry) > 0
}

// sameWords reports whether two states of a text differ in their numbers alone: what is counted wrong shows in all of
// them.
func (s *Subject) sameWords(t *display.Track, a, b display.State) bool {
	lettered, ok := display.As[display.Lettered](t.Geometry)
	if !ok {
		return false
	}
	return display.Unnumbered(lettered.Rows(t, a)) == display.Unnumbered(lettered.Rows(t, b))
}

func abs(n int) int { return max(n, -n) }

// offsets are ±1, ±2 and what the states suggest.
func (s *Subject) offsets() []int {
	if _, ok := s.counting(); !ok {
		return nil
	}
	by := []int{1, -1, 2, -2}
	if s.single() && s.Verdicts != nil {
		return []int{1, 2, 3, 4, 5, 6, 7, 8, 9}
	}
	votes := map[int]int{}
	for _, p := range s.shown.Pairs {
		want, a := s.number(p.Want)
		seen, b := s.number(p.Seen)
		if a && b && abs(want-seen) > 2 {
			votes[want-seen]++
		}
	}
	best, most := 0, 1
	for _, k := range slices.Sorted(maps.Keys(votes)) {
		n := votes[k]
		if n > most || n == most && most > 1 && abs(k) < abs(best) {
			best, most = k, n
		}
	}
	if best != 0 {
		by = append(by, best, -best)
	}
	return by
}

// number is the one that what was seen differs in: of several on one display, the one that is wrong.
func (s *Subject) number(x display.State) (int, bool) { return s.read(s.shown.Track(), x) }

// read is the number of a state, in seconds where it is in minutes and seconds.
func (s *Subject) read(t *display.Track, x display.State) (int, bool) {
	n, ok := ReadNumber(t, x, s.nth)
	if ok && s.sixty {
		n = n/100*60 + n%100
	}
	return n, ok
}

// write puts a number, as read reads it, in the place of the one that a state shows. In a text, one that has more
// figures, or fewer, begins where it does in what is wanted.
func (s *Subject) write(t *display.Track, x display.State, n int) display.State {
	c, _ := s.counting()
	if s.sixty {
		return c.WriteNumber(t, x, s.nth, n/60*100+n%60)
	}
	out := c.WriteNumber(t, x, s.nth, n)
	lettered, ok := display.As[display.Lettered](t.Geometry)
	if was, _ := s.read(t, x); !ok || len(strconv.Itoa(was)) == len(strconv.Itoa(n)) {
		return out
	}
	words := func(x display.State) string {
		return strings.Join(strings.Fields(strings.Join(lettered.Rows(t, x), "\n")), " ")
	}
	for _, p := range s.shown.Pairs {
		if !p.Wrong {
			continue
		}
		if want, ok := s.read(t, p.Want); ok && want == n && words(p.Want) == words(out) {
			return lettered.WithRows(t, x, lettered.Rows(t, p.Want))
		}
	}
	return out
}

// ReadNumber reads the nth number that a state shows; ok is false where there is none.
func ReadNumber(t *display.Track, s display.State, nth int) (n int, ok bool) {
	c, ok := display.As[display.Counting](t.Geometry)
	if !ok {
		return 0, false
	}
	return c.ReadNumber(t, s, nth)
}

// Several is how many numbers of a display are looked at.
const Several = 6

// Which is the number that is wrong most often, of those on a display: the first one where none is.
func Which(t *display.Track, pairs []display.Pair) (nth int) {
	var wrong [Several]int
	for _, p := range pairs {
		for i := range wrong {
			want, ok := ReadNumber(t, p.Want, i)
			seen, shown := ReadNumber(t, p.Seen, i)
			if p.Wrong && ok && shown && want != seen {
				wrong[i]++
			}
		}
	}
	for i, n := range wrong {
		if n > wrong[nth] {
			nth = i
		}
	}
	return nth
}

// blank reports whether no light shines, not even dimly.
func blank(s display.State) bool {
	for _, l := range s.Lights {
		if l != display.Dark {
			return false
		}
	}
	return true
}

// throughout is renumbered where every number can be another; else nothing is changed.
func throughout(s *Subject, f func(int) (int, bool)) func(*reel.Reel) *reel.Reel {
	change := renumbered(s, f)
	return func(r *reel.Reel) *reel.Reel {
		for i := range r.Tracks {
			t := &r.Tracks[i]
			for _, frame := range t.Frames {
				if n, ok := s.read(t, frame.State); ok && t.Display == s.Part.Name {
					if _, ok = f(n); !ok {
						return r
					}
				}
			}
		}
		return change(r)
	}
}

// renumbered changes the first number of every state; a result that is not ok leaves the state alone.
func renumbered(s *Subject, f func(int) (int, bool)) func(*reel.Reel) *reel.Reel {
	return states(s.Part.Name, func(t *display.Track, x display.State) display.State {
		n, ok := s.read(t, x)
		if !ok {
			return x
		}
		if n, ok = f(n); !ok {
			return x
		}
		return s.write(t, x, n)
	})
}
