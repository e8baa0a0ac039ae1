package digits

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
	"hemble/core/glyph"
)

func (digits) Mistakes() []*display.Mistake {
	return []*display.Mistake{inverted, bitOrder, swapped, order, wrongPattern, stuck, leadingZeros, plainSeconds,
		leftovers, colon, point, scanGaps}
}

var inverted = &display.Mistake{
	Entry: finding.Entry{Code: "segments-inverted", Price: finding.Wiring,
		Doc: "lit and dark segments are inverted: the patterns are for the other polarity", Hides: 1},
	Sizes: func(c *display.Case) (out []display.Size) {
		n, wired := c.Geometry.Digits(), wired(c)
		without := wired
		without[per-1] = false // the point is often left alone
		for i, w := range [][per]bool{wired, without, without} {
			colon := i == 2 && c.Geometry.Colon > 0
			out = append(out,
				display.Size{Text: fmt.Sprintf("The segments of %s are inverted: lit and dark are exchanged. The patterns are for the other polarity.", c.Name),
					State: lights.Relit(func(l display.Lights) {
						for i := range l {
							if i/per < n && w[i%per] || i/per == n && colon {
								l[i] = l[i].Flip()
							}
						}
					})})
		}
		return out
	},
}

var bitOrder = &display.Mistake{
	Entry: finding.Entry{Code: "bit-order", Price: finding.Wiring,
		Doc: "the segments are in reverse bit order", Hides: 2,
		Catch: "write `strict: yes`, or show a number whose pattern is another one in reverse"},
	Sizes: func(c *display.Case) (out []display.Size) {
		for _, n := range []int{per, per - 1} {
			order := make([]int, per)
			for i := range order {
				if order[i] = i; i < n {
					order[i] = n - 1 - i
				}
			}
			out = append(out,
				permuted(c, order,
					fmt.Sprintf("The segments of %s are in reverse order: the bits are sent in the wrong direction (lowest or highest first).", c.Name)))
		}
		return out
	},
}

var swapped = &display.Mistake{
	Entry: finding.Entry{Code: "segments-swapped", Price: finding.Wiring, Doc: "some segments are exchanged", Hides: 5,
		Catch: "let all segments be needed: show more different symbols"},
	Sizes: func(c *display.Case) (out []display.Size) {
		if c.Judged {
			order := suggestedOrder(c)
			if order == nil {
				return nil
			}
			var moved []string
			for i, k := range order {
				if i != k {
					moved = append(moved, glyph.Segments[i])
				}
			}
			return []display.Size{permuted(c, order, fmt.Sprintf("Segments %s of %s are exchanged.", listed(moved),
				c.Name))}
		}
		wired := wired(c)
		for a := 0; a < per; a++ {
			for b := a + 1; b < per; b++ {
				if !wired[a] || !wired[b] {
					continue
				}
				order := []int{0, 1, 2, 3, 4, 5, 6, 7}
				order[a], order[b] = b, a
				out = append(out,
					permuted(c, order, fmt.Sprintf("Segments %s and %s of %s are exchanged.", glyph.Segments[a],
						glyph.Segments[b], c.Name)))
			}
		}
		return out
	},
}

var order = &display.Mistake{
	Entry: finding.Entry{Code: "digits-order", Price: finding.Wiring, Doc: "the digits are in a different order",
		Hides: 6},
	Sizes: func(c *display.Case) (out []display.Size) {
		n := c.Geometry.Digits()
		if n < 2 {
			return nil
		}
		if n > 2 {
			out = append(out,
				display.Size{Text: fmt.Sprintf("The figures of the number on %s are in reverse order: the first one stands last.",
					c.Name), Rare: true, State: lights.Relit(func(l display.Lights) {
					first, last := 0, n-1
					for first < n && pattern(l, first) == 0 {
						first++
					}
					for last > first && pattern(l, last) == 0 {
						last--
					}
					was := slices.Clone(l)
					for d := first; d <= last; d++ {
						put(l, d, pattern(was, first+last-d))
					}
				})})
		}
		for _, order := range orders(n) {
			if slices.IsSorted(order) {
				continue
			}
			how, mirrored := "the wrong", true
			for i, k := range order {
				mirrored = mirrored && k == n-1-i
			}
			if mirrored {
				how = "reverse"
			}
			out = append(out, display.Size{Text: fmt.Sprintf("The digits of %s are in %s order.", c.Name, how),
				Rare: !mirrored, State: lights.Relit(func(l display.Lights) {
					was := slices.Clone(l)
					for i, k := range order {
						put(l, i, pattern(was, k))
					}
				})})
		}
		return out
	},
}

var wrongPattern = &display.Mistake{
	Entry: finding.Entry{Code: "pattern", Price: finding.Single, Doc: "the pattern of one symbol is wrong",
		Vague: true},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		changes := patterns(c)
		if size := mistaken(c); size != nil && len(changes) == 0 {
			return []display.Size{*size}
		}
		if len(changes) == 2 {
			for a, b := range changes {
				if changes[b] == a && a < b {
					return []display.Size{{Text: fmt.Sprintf("Two patterns of %s are exchanged: those of %s and %s.",
						c.Name, symbolOrBlank(a), symbolOrBlank(b)), State: repatterned(c, changes)}}
				}
			}
		}
		if len(changes) != 1 {
			return nil
		}
		for seen, want := range changes {
			differ := seen ^ want
			what := fmt.Sprintf("segment %s", differ.Lit())
			if glyph.Distance(seen, want) > 1 {
				what = "segments " + differ.Lit()
			}
			return []display.Size{{Text: fmt.Sprintf("One pattern of %s is wrong: for %s it lights %s, which differs in %s.",
				c.Name, want.Symbol(), litOrNothing(seen), what),
				State: repatterned(c, changes)}}
		}
		return nil
	},
}

var stuck = &display.Mistake{
	Entry: finding.Entry{Code: "segment-stuck", Price: finding.Wiring, Doc: "a segment never lights, or always does",
		Subsumes: []finding.Code{"pattern"}},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		changes := patterns(c)
		if len(changes) < 2 {
			return nil
		}
		differ, dark := glyph.Pattern(0), glyph.Pattern(0)
		for seen, want := range changes {
			differ |= seen ^ want
			dark |= want &^ seen
		}
		if glyph.Distance(differ, 0) > 2 || dark != differ && dark != 0 {
			return nil
		}
		how := "never lights"
		if dark == 0 {
			how = "lights all the time"
		}
		return []display.Size{{Text: fmt.Sprintf("Segment %s of %s %s.", differ.Lit(), c.Name, how),
			State: repatterned(c, changes)}}
	},
}

var leadingZeros = &display.Mistake{
	Entry: finding.Entry{Code: "leading-zeros", Price: finding.Form,
		Doc: "leading zeros are shown where blanks are expected, or the reverse", Hides: 3,
		Catch: "show a number that does not fill the display"},
	Sizes: func(c *display.Case) (out []display.Size) {
		n := c.Geometry.Digits()
		if n < 2 || c.Judged && !slices.ContainsFunc(c.Tracks, everLit) {
			return nil
		}
		zero, blank := glyph.Seven('0')[0], glyph.Pattern(0)
		swap := func(last int, from, to glyph.Pattern) func(*display.Track, display.State) display.State {
			return lights.Relit(func(l display.Lights) {
				for d := 0; d < last && pattern(l, d) == from; d++ {
					put(l, d, to)
				}
			})
		}
		ends := []int{n - 1} // the place that shows a 0 in any case
		if at := c.Geometry.Colon; at > 1 && at < n && c.Judged {
			ends = append(ends, at-1)
		}
		for _, last := range ends {
			out = append(out,
				display.Size{Text: fmt.Sprintf("%s shows leading zeros where blanks are expected.", c.Name),
					Effect: "leading zeros are missing", State: swap(last, zero, blank)},
				display.Size{Text: fmt.Sprintf("%s leaves out leading zeros where they are expected.", c.Name),
					Effect: "leading zeros are shown where blanks are expected", State: swap(last, blank, zero)})
		}
		if at := c.Geometry.Colon; at > 0 && at < n-1 {
			out = append(out, display.Size{Text: fmt.Sprintf("%s leaves out the zero behind its colon: 1: 5 for 1:05.",
				c.Name), Effect: "the place behind the colon is dark where it should show 0",
				State: lights.Relit(func(l display.Lights) { exchange(l, at, zero, blank) })})
		}
		if c.Judged && !slices.ContainsFunc(c.Tracks, goesDark) {
			return out
		}
		out = append(out, display.Size{
			Text: fmt.Sprintf("%s stays dark where a single 0 is expected: all zeros are taken for leading ones.",
				c.Name), Effect: "a 0 stands where all is dark", State: lights.Relit(func(l display.Lights) {
				for d := range n - 1 {
					if pattern(l, d) != blank {
						return
					}
				}
				exchange(l, n-1, zero, blank)
			})})
		return out
	},
}

// goesDark reports whether all is dark at some time after something was lit.
func goesDark(t *display.Track) bool {
	lit := false
	return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
		lit = lit || !f.State.Unlit()
		return lit && f.State.Unlit()
	})
}

func everLit(t *display.Track) bool {
	return slices.ContainsFunc(t.Frames, func(f display.Frame) bool { return !f.State.Unlit() })
}

// exchange puts one pattern of a digit in the place of another, and the reverse.
func exchange(l display.Lights, d int, a, b glyph.Pattern) {
	switch pattern(l, d) {
	case a:
		put(l, d, b)
	case b:
		put(l, d, a)
	}
}

var plainSeconds = &display.Mistake{
	Entry: finding.Entry{Code: "plain-seconds", Price: finding.Constant, Vague: true,
		Doc:   "a time is shown as a plain number of seconds, or minutes, where m:ss is expected",
		Catch: "show a time of more than a minute"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		if c.Geometry.Colon == 0 || c.Geometry.Colon != c.Geometry.Digits()-2 {
			return nil
		}
		beyond := false // a minute: below it both look alike
		for _, p := range c.Pairs {
			seen, ok := digits{}.ReadNumber(c.Track(), p.Seen, 0)
			want, is := digits{}.ReadNumber(c.Track(), p.Want, 0)
			if p.Wrong && (!ok || !is || want/100*60+want%100 != seen) {
				return nil
			}
			beyond = beyond || p.Wrong && want >= 100
		}
		if !beyond {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("%s shows a plain number where minutes and seconds are expected: 65 for 1:05.",
			c.Name), State: func(t *display.Track, s display.State) display.State {
			n, ok := digits{}.ReadNumber(t, s, 0)
			if !ok {
				return s
			}
			s = digits{}.WriteNumber(t, s, 0, n/60*100+n%60)
			s.Lights[per*t.Geometry.Digits()] = display.Lit
			return s
		}}}
	},
}

var leftovers = &display.Mistake{
	Entry: finding.Entry{Code: "leftovers", Price: finding.Form,
		Doc: "the end of a longer text remains after a shorter one, or digits that should go dark stay lit"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		n, t := c.Geometry.Digits(), c.Track()
		meant, what := map[string]display.State{}, ""
		for _, p := range c.Pairs {
			if !p.Wrong {
				continue
			}
			left := false
			for d := range n {
				switch want, seen := pattern(p.Want.Lights, d), pattern(p.Seen.Lights, d); {
				case want == seen:
				case want == 0 && stayed(p, d): // zeros alone may be leading ones
					left = left || seen != glyph.Seven('0')[0]
				default:
					return nil
				}
			}
			if !left {
				return nil
			}
			if meant[t.Short(p.Seen)] = p.Want; what == "" {
				what = fmt.Sprintf("%s for %s", t.Short(p.Seen), t.Short(p.Want))
			}
		}
		if len(meant) < 2 {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("Digits of %s that should go dark keep what they showed before: %s.",
			c.Name, what),
			State: func(t *display.Track, s display.State) display.State {
				if to, ok := meant[t.Short(s)]; ok {
					return to
				}
				return s
			}}}
	},
}

// stayed reports whether a digit shows what it did just before, where a track tells that.
func stayed(p display.Pair, digit int) bool {
	for i := len(p.On.Frames) - 1; i >= 0; i-- {
		if f := p.On.Frames[i]; f.From < p.At && !f.State.Unlit() {
			return pattern(f.State.Lights, digit) == pattern(p.Seen.Lights, digit)
		}
	}
	return len(p.On.Frames) == 0
}

var colon = &display.Mistake{
	Entry: finding.Entry{Code: "colon", Price: finding.Form,
		Doc:   "the colon is dark where it should be lit, or the reverse",
		Catch: "write the colon in the expected text"},
	Sizes: func(c *display.Case) []display.Size {
		if c.Geometry.Colon == 0 {
			return nil
		}
		at := per * c.Geometry.Digits()
		set := func(to display.Light) func(*display.Track, display.State) display.State {
			return lights.Relit(func(l display.Lights) { l[at] = to })
		}
		missing := display.Size{Text: fmt.Sprintf("The colon of %s is missing.", c.Name),
			Effect: "the colon is always lit", State: set(display.Lit)}
		lit := display.Size{Text: fmt.Sprintf("The colon of %s is lit where it should be dark.", c.Name),
			Effect: "the colon is missing", State: set(display.Dark)}
		if !c.Judged {
			return []display.Size{missing, lit}
		}
		dark, shines := 0, 0 // of the wrong frames: what is wrong in one may be its digits alone
		for _, p := range c.Pairs {
			a, b := p.Seen.Lights, p.Want.Lights
			switch {
			case !p.Wrong || len(a) <= at || len(b) <= at:
			case a[at] != display.Lit && b[at] == display.Lit:
				dark++
			case a[at] == display.Lit && b[at] != display.Lit:
				shines++
			}
		}
		switch {
		case dark > 0 && shines == 0:
			return []display.Size{missing}
		case shines > 0 && dark == 0:
			return []display.Size{lit}
		}
		return nil
	},
}

var point = &display.Mistake{
	Entry: finding.Entry{Code: "point", Price: finding.Form,
		Doc:   "a decimal point is missing, or at another digit, or one too many",
		Catch: "write the point in the expected text"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		missing, extra, found := map[int]bool{}, map[int]bool{}, false
		for _, p := range c.Pairs {
			for d := range c.Geometry.Digits() {
				want, seen := pattern(p.Want.Lights, d), pattern(p.Seen.Lights, d)
				switch {
				case want == seen && want&glyph.DP == 0:
				case want == seen && (missing[d] || extra[d]), !p.Wrong && want != seen:
					return nil // it is right at times
				case want&^glyph.DP != seen&^glyph.DP && p.Wrong:
					return nil // more is wrong
				case want&glyph.DP > seen&glyph.DP:
					missing[d], found = true, true
				case want&glyph.DP < seen&glyph.DP:
					extra[d], found = true, true
				}
			}
		}
		if !found || len(missing) > 1 || len(extra) > 1 {
			return nil
		}
		text := "The decimal point of %s is missing."
		switch {
		case len(missing) == 0:
			text = "%s shows a decimal point where none is expected."
		case len(extra) > 0:
			text = "The decimal point of %s is at another digit than expected."
		}
		return []display.Size{{Text: fmt.Sprintf(text, c.Name), State: lights.Relit(func(l display.Lights) {
			for d := range c.Geometry.Digits() {
				switch p := pattern(l, d); {
				case missing[d] && p != 0:
					put(l, d, p|glyph.DP)
				case extra[d]:
					put(l, d, p&^glyph.DP)
				}
			}
		})}}
	},
}

var scanGaps = &display.Mistake{
	Entry: finding.Entry{Code: "scan-gaps", Price: finding.Behaviour,
		Doc: "the display goes dark, or shows part of its content, while the program waits"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		if c.Geometry.Digits() < 2 || !c.Judged || !slices.ContainsFunc(c.Tracks, hasGaps) {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("The scan of %s stops at times: one digit stays lit and the rest is dark. The program waits for something else meanwhile.", c.Name),
			Frames: func(_ string, t *display.Track) (out []display.Frame) {
				for _, f := range t.Frames {
					if n := len(out); n > 0 && gap(out[n-1], f) {
						out[n-1].To = f.To
						continue
					}
					out = append(out, f)
				}
				return out
			}}}
	},
}

// hasGaps reports whether a display shows parts of the state before, for a while.
func hasGaps(t *display.Track) bool {
	for i := 1; i < len(t.Frames); i++ {
		if gap(t.Frames[i-1], t.Frames[i]) {
			return true
		}
	}
	return false
}

// gap reports whether a short frame lights some of the lights of the one before it, and no others.
func gap(before, f display.Frame) bool {
	a, b := f.State.Lights.Bits(), before.State.Lights.Bits()
	return f.Length() < clock.Second && a != b && a&^b == 0
}

// litOrNothing names the segments that a pattern lights.
func litOrNothing(p glyph.Pattern) string {
	if p == 0 {
		return "nothing"
	}
	return p.Lit()
}

// symbolOrBlank names what a pattern looks like.
func symbolOrBlank(p glyph.Pattern) string {
	if p == 0 {
		return "a blank"
	}
	return p.Symbol()
}

// listed joins words as a sentence does.
func listed(words []string) string {
	last := len(words) - 1
	if last < 1 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:last], ", ") + " and " + words[last]
}

// wired returns which segments can light at all: for a bare display those with a wire, otherwise all.
func wired(c *display.Case) (out [per]bool) {
	for i, name := range glyph.Segments {
		wired, known := c.Wired(name)
		out[i] = !known || wired
	}
	return out
}

// permuted moves the light of segment order[i] to segment i, in every digit.
func permuted(c *display.Case, order []int, text string) display.Size {
	n := c.Geometry.Digits()
	return display.Size{Text: text, State: lights.Relit(func(l display.Lights) {
		for d := range n {
			p := pattern(l, d)
			moved := glyph.Pattern(0)
			for i, k := range order {
				moved |= p >> k & 1 << i
			}
			put(l, d, moved)
		}
	})}
}

// suggestedOrder is the one order of segments that makes every seen pattern the expected one, where the patterns tell
// of all segments that were used; nil where there is none, or it is the right one.
func suggestedOrder(c *display.Case) []int {
	type column struct{ want, seen uint64 }
	var of [per]column
	n := 0
	for _, p := range c.Pairs {
		for d := range c.Geometry.Digits() {
			if n == 64 {
				break
			}
			want, seen := pattern(p.Want.Lights, d), pattern(p.Seen.Lights, d)
			if glyph.Distance(want, 0) != glyph.Distance(seen, 0) {
				continue // not a permutation: another frame stands here
			}
			for i := range per {
				of[i].want |= uint64(want>>i&1) << n
				of[i].seen |= uint64(seen>>i&1) << n
			}
			n++
		}
	}
	order := make([]int, per)
	taken := [per]bool{}
	for i := range order { // those that are right stay
		order[i] = -1
		if of[i].want == of[i].seen {
			order[i], taken[i] = i, true
		}
	}
	moved := false
	for i := range order {
		for k := 0; order[i] < 0 && k < per; k++ {
			if !taken[k] && of[i].want == of[k].seen {
				order[i], taken[k], moved = k, true, true
			}
		}
		if order[i] < 0 {
			return nil
		}
	}
	if !moved {
		return nil
	}
	return order
}

// patterns lists the seen patterns that stand for another one each, by the aligned states: nil where one stands for
// several.
func patterns(c *display.Case) map[glyph.Pattern]glyph.Pattern {
	meant := map[glyph.Pattern]map[glyph.Pattern]int{}
	for _, p := range c.Pairs {
		for d := range c.Geometry.Digits() {
			seen, want := pattern(p.Seen.Lights, d), pattern(p.Want.Lights, d)
			if meant[seen] == nil {
				meant[seen] = map[glyph.Pattern]int{}
			}
			meant[seen][want]++
		}
	}
	out := map[glyph.Pattern]glyph.Pattern{}
	for seen, wants := range meant {
		if wants[seen] > 0 { // it is right somewhere: what is wrong elsewhere is not its pattern
			continue
		}
		if len(wants) > 1 {
			return nil
		}
		for want := range wants {
			out[seen] = want
		}
	}
	return out
}

// mistaken repairs one symbol that is shown as another one, where the other one is right elsewhere: by the moments at
// which it stands. Nil where more is wrong.
func mistaken(c *display.Case) *display.Size {
	type moment struct {
		trial string
		at    clock.Time
	}
	wrong := map[moment]display.State{}
	var seen, want glyph.Pattern
	for _, p := range c.Pairs {
		if !p.Wrong {
			continue
		}
		for d := range c.Geometry.Digits() {
			a, b := pattern(p.Seen.Lights, d), pattern(p.Want.Lights, d)
			if a == b {
				continue
			}
			// a digit that is dark has no pattern
			if len(wrong) > 0 && (a != seen || b != want) || glyph.Distance(a, b) > 3 || b == 0 {
				return nil
			}
			seen, want = a, b
			wrong[moment{p.Trial, p.At}] = p.Want
		}
	}
	if len(wrong) == 0 {
		return nil
	}
	return &display.Size{Text: fmt.Sprintf("One pattern of %s is wrong: for %s it lights %s, as for %s.", c.Name,
		want.Symbol(), litOrNothing(seen), symbolOrBlank(seen)),
		Frames: func(trial string, t *display.Track) []display.Frame {
			out := slices.Clone(t.Frames)
			for i := range out {
				if to, ok := wrong[moment{trial, out[i].From}]; ok {
					out[i].State = to
				}
			}
			return out
		}}
}

// repatterned puts one pattern in place of another.
func repatterned(c *display.Case, changes map[glyph.Pattern]glyph.Pattern) func(*display.Track,
	display.State) display.State {
	n := c.Geometry.Digits()
	return lights.Relit(func(l display.Lights) {
		for d := range n {
			if to, ok := changes[pattern(l, d)]; ok {
				put(l, d, to)
			}
		}
	})
}

// orders are all orders of up to four digits, and reversing, turning round and exchanging two of more.
func orders(n int) (out [][]int) {
	if n <= 4 {
		return display.Permutations(n)
	}
	reverse := make([]int, n)
	for turn := 1; turn < n; turn++ {
		order := make([]int, n)
		for i := range order {
			order[i] = (i + turn) % n
		}
		out = append(out, order)
	}
	for i := range reverse {
		reverse[i] = n - 1 - i
	}
	out = append(out, reverse)
	for a := 0; a < n; a++ {
		for b := a + 1; b < n; b++ {
			order := slices.Clone(reverse)
			slices.Sort(order)
			order[a], order[b] = b, a
			out = append(out, order)
		}
	}
	return out
}
