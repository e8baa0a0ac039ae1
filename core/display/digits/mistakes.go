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
	return []*display.Mistake{inverted, bitOrder, swapped, order, wrongPattern, stuck, leadingZeros, otherEnd,
		plainSeconds, leftovers, colon, point, scanGaps, hexadecimal, uncarried}
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
			if figure(seen) && shownRight(c, want) {
				return nil
			}
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
		if dark != 0 { // what lights in another symbol is missing in these alone
			if differ = dark &^ litIn(c.Tracks); differ == 0 {
				return nil
			}
			for seen, want := range changes {
				changes[seen] = seen | want&differ
			}
		}
		names := strings.Fields(differ.Lit())
		text := map[bool]string{true: "Segment %s of %s never lights.", false: "Segments %s of %s never light."}
		if dark == 0 {
			text = map[bool]string{true: "Segment %s of %s lights all the time.",
				false: "Segments %s of %s light all the time."}
		}
		return []display.Size{{Text: fmt.Sprintf(text[len(names) == 1], listed(names), c.Name),
			State: repatterned(c, changes)}}
	},
}

// litIn are the segments that light anywhere for longer than a moment.
func litIn(tracks []*display.Track) (lit glyph.Pattern) {
	for _, t := range tracks {
		for _, f := range t.Frames {
			for d := 0; d < t.Geometry.Digits() && f.Length() >= moment; d++ {
				lit |= pattern(f.State.Lights, d)
			}
		}
	}
	return lit
}

// moment is how short a state of digits may be that is none of the program's.
const moment = 80 * clock.Millisecond

var scanGaps = &display.Mistake{
	Entry: finding.Entry{Code: "scan-gaps", Price: finding.Behaviour, Fact: true,
		Doc: "the display goes dark, or shows part of its content, while the program waits"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		if c.Geometry.Digits() < 2 || !c.Judged || !slices.ContainsFunc(c.Tracks, hasGaps) ||
			!slices.ContainsFunc(c.Tracks, scanned) {
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

// scanned reports whether the program lit one digit after another: modules do that by themselves.
func scanned(t *display.Track) bool { return t.Quality != nil && t.Quality.Refresh > 0 }

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
// of all segments that were used; nil where there is none, or it is the right one, or as many figures stand where
// others are expected that no order makes of them: then it is the number that is wrong. Nor is one told by a single
// symbol where it moves more than two segments: then it is the pattern.
func suggestedOrder(c *display.Case) []int {
	type column struct{ want, seen uint64 }
	var of [per]column
	n := 0
	made, others := map[glyph.Pattern]bool{}, map[glyph.Pattern]bool{} // what is expected, where something else stands
	for _, p := range c.Pairs {
		for d := range c.Geometry.Digits() {
			if n == 64 {
				break
			}
			want, seen := pattern(p.Want.Lights, d), pattern(p.Seen.Lights, d)
			if glyph.Distance(want, 0) != glyph.Distance(seen, 0) {
				if p.Wrong && figure(seen) {
					others[want] = true
				}
				continue // not a permutation: another frame stands here
			}
			if want != seen {
				made[want] = true
			}
			for i := range per {
				of[i].want |= uint64(want>>i&1) << n
				of[i].seen |= uint64(seen>>i&1) << n
			}
			n++
		}
	}
	if len(others) >= len(made) {
		return nil
	}
	order := make([]int, per)
	taken := [per]bool{}
	for i := range order { // those that are right stay
		order[i] = -1
		if of[i].want == of[i].seen {
			order[i], taken[i] = i, true
		}
	}
	moved := 0
	for i := range order {
		for k := 0; order[i] < 0 && k < per; k++ {
			if !taken[k] && of[i].want == of[k].seen {
				order[i], taken[k] = k, true
				moved++
			}
		}
		if order[i] < 0 {
			return nil
		}
	}
	if moved == 0 || len(made) == 1 && moved > 2 {
		return nil
	}
	return order
}

// figure reports whether a pattern is that of a figure.
func figure(p glyph.Pattern) bool {
	for f := '0'; f <= '9'; f++ {
		if slices.Contains(glyph.Seven(f), p) {
			return true
		}
	}
	return false
}

// shownRight reports whether a pattern is shown anywhere where it belongs: then another figure in its place is no wrong
// pattern, but another number.
func shownRight(c *display.Case, want glyph.Pattern) bool {
	for _, p := range c.Pairs {
		for d := range c.Geometry.Digits() {
			if pattern(p.Want.Lights, d) == want && pattern(p.Seen.Lights, d) == want {
				return true
			}
		}
	}
	return false
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
	wrong := map[onset]display.State{}
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
			if a^b == glyph.DP { // which is no matter of a pattern
				return nil
			}
			// a digit that is dark has no pattern
			if len(wrong) > 0 && (a != seen || b != want) || glyph.Distance(a, b) > 3 || b == 0 {
				return nil
			}
			seen, want = a, b
			wrong[onset{p.Trial, p.At}] = p.Want
		}
	}
	if len(wrong) == 0 || shownRight(c, want) || len(wrong) == 1 &&
		slices.ContainsFunc(c.Pairs, func(p display.Pair) bool { return goesOn(p) || beginsAgain(p) }) {
		return nil
	}
	return &display.Size{Text: fmt.Sprintf("One pattern of %s is wrong: for %s it lights %s, as for %s.", c.Name,
		want.Symbol(), litOrNothing(seen), symbolOrBlank(seen)),
		Frames: instead(wrong)}
}

// beginsAgain reports whether a wrong number is the one with which all began, where the next one is wanted: it was
// counted to an end that comes too soon.
func beginsAgain(p display.Pair) bool {
	i := slices.IndexFunc(p.On.Frames, func(f display.Frame) bool { return f.From == p.At })
	if i <= 1 || !p.Wrong {
		return false
	}
	number := func(s display.State) int {
		n, ok := digits{}.ReadNumber(p.On, s, 0)
		if !ok {
			return -1
		}
		return n
	}
	want, was := number(p.Want), number(p.On.Frames[i-1].State)
	return want >= 0 && was >= 0 && want == was+1 && number(p.Seen) == number(p.On.Frames[0].State)
}

// goesOn reports whether a wrong number is next to the one before it, and the wanted one is not: it was counted on
// where it should begin again.
func goesOn(p display.Pair) bool {
	i := slices.IndexFunc(p.On.Frames, func(f display.Frame) bool { return f.From == p.At })
	if i <= 0 || !p.Wrong {
		return false
	}
	next := func(s display.State) (is, ok bool) {
		n, a := digits{}.ReadNumber(p.On, s, 0)
		was, b := digits{}.ReadNumber(p.On, p.On.Frames[i-1].State, 0)
		return n == was+1 || n == was-1, a && b
	}
	seen, a := next(p.Seen)
	wanted, b := next(p.Want)
	return a && b && seen && !wanted
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
