package fault

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/judge"
	"hemble/core/reel"
)

const segments = len(glyph.Segments)

func init() {
	register(&Fault{Code: "segments-inverted", Doc: "lit and dark segments are exchanged: the patterns are for the other polarity", Sizes: func(s *Subject) (out []Size) {
		if s.digits() == 0 {
			return nil
		}
		wired := s.wired()
		without := wired
		without[segments-1] = false // the point is often left alone
		for i, w := range [][segments]bool{wired, without, without} {
			colon := i == 2 && s.look.Colon > 0
			out = append(out, Size{Text: fmt.Sprintf("The segments of %s are inverted: what should be lit is dark, and the other way round. The patterns are for the other polarity.", s.Part.Name),
				Reel: lights(s.Part.Name, func(l display.Lights) {
					for i := range l {
						if i/segments < s.digits() && w[i%segments] || i/segments == s.digits() && colon {
							l[i] = flip(l[i])
						}
					}
				})})
		}
		return out
	}})
	register(&Fault{Code: "lamp-inverted", Doc: "a lamp is on when it should be off, and the other way round", Sizes: func(s *Subject) []Size {
		if f := s.form(); f != display.FormLamp && f != display.FormBar {
			return nil
		}
		changes := false
		for _, r := range s.Reels {
			changes = changes || len(r.Track(s.Part.Name).Frames) > 1
		}
		if !changes { // always dark, or always lit: something else is wrong
			return nil
		}
		return []Size{{Text: fmt.Sprintf("%s is inverted: lit when it should be dark, and the other way round.", s.Part.Name),
			Reel: lights(s.Part.Name, func(l display.Lights) {
				for i := range l {
					l[i] = flip(l[i])
				}
			})}}
	}})
	register(&Fault{Code: "bit-order", Doc: "the segments come in reverse order: the highest bit where the lowest is meant", Sizes: func(s *Subject) (out []Size) {
		if s.digits() == 0 {
			return nil
		}
		for _, n := range []int{segments, segments - 1} {
			order := make([]int, segments)
			for i := range order {
				if order[i] = i; i < n {
					order[i] = n - 1 - i
				}
			}
			out = append(out, s.permuted(order, fmt.Sprintf("The segments of %s stand in reverse order: bits go out lowest first where highest first is meant, or the other way round.", s.Part.Name)))
		}
		return out
	}})
	register(&Fault{Code: "segments-swapped", Doc: "some segments are exchanged", Sizes: func(s *Subject) (out []Size) {
		if s.digits() == 0 {
			return nil
		}
		if s.Verdicts != nil {
			order := s.suggestedOrder()
			if order == nil {
				return nil
			}
			var moved []string
			for i, k := range order {
				if i != k {
					moved = append(moved, glyph.Segments[i])
				}
			}
			return []Size{s.permuted(order, fmt.Sprintf("Segments %s of %s are exchanged.", listed(moved), s.Part.Name))}
		}
		wired := s.wired()
		for a := 0; a < segments; a++ {
			for b := a + 1; b < segments; b++ {
				if !wired[a] || !wired[b] {
					continue
				}
				order := []int{0, 1, 2, 3, 4, 5, 6, 7}
				order[a], order[b] = b, a
				out = append(out, s.permuted(order, fmt.Sprintf("Segments %s and %s of %s are exchanged.", glyph.Segments[a], glyph.Segments[b], s.Part.Name)))
			}
		}
		return out
	}})
	register(&Fault{Code: "digits-order", Doc: "the digits stand in another order", Sizes: digitOrders})
	register(&Fault{Code: "pattern", Once: true, Doc: "the pattern of one symbol is wrong", Sizes: func(s *Subject) []Size {
		changes := s.patterns()
		if size := s.mistaken(); size != nil && len(changes) == 0 {
			return []Size{*size}
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
			return []Size{{Text: fmt.Sprintf("One pattern of %s is wrong: for %s it lights %s, which differs in %s.", s.Part.Name, want.Symbol(), litOrNothing(seen), what),
				Reel: s.repatterned(changes)}}
		}
		return nil
	}})
	register(&Fault{Code: "segment-stuck", Once: true, Doc: "a segment never lights, or always does", Sizes: func(s *Subject) (out []Size) {
		changes := s.patterns()
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
		return []Size{{Text: fmt.Sprintf("Segment %s of %s %s.", differ.Lit(), s.Part.Name, how), Reel: s.repatterned(changes)}}
	}})
	register(&Fault{Code: "leading-zeros", Doc: "zeros stand before a number where nothing is meant, or the other way round", Sizes: func(s *Subject) []Size {
		n := s.digits()
		if n < 2 {
			return nil
		}
		zero, blank := glyph.Seven('0')[0], glyph.Pattern(0)
		swap := func(from, to glyph.Pattern) func(*reel.Reel) *reel.Reel {
			return lights(s.Part.Name, func(l display.Lights) {
				for d := 0; d < n-1 && pattern(l, d) == from; d++ {
					put(l, d, to)
				}
			})
		}
		return []Size{
			{Text: fmt.Sprintf("%s shows leading zeros where the places before a number should be dark.", s.Part.Name), Makes: "leading zeros are missing", Reel: swap(zero, blank)},
			{Text: fmt.Sprintf("%s leaves the places before a number dark where leading zeros are meant.", s.Part.Name), Makes: "leading zeros stand where nothing is meant", Reel: swap(blank, zero)},
		}
	}})
	register(&Fault{Code: "colon", Doc: "the colon is dark where it should be lit, or the other way round", Sizes: func(s *Subject) []Size {
		n := s.digits()
		if n == 0 || s.look.Colon == 0 {
			return nil
		}
		set := func(to display.Light) func(*reel.Reel) *reel.Reel {
			return lights(s.Part.Name, func(l display.Lights) { l[segments*n] = to })
		}
		missing := Size{Text: fmt.Sprintf("The colon of %s is missing.", s.Part.Name), Makes: "the colon is always lit", Reel: set(display.Lit)}
		lit := Size{Text: fmt.Sprintf("The colon of %s is lit where it should be dark.", s.Part.Name), Makes: "the colon is missing", Reel: set(display.Dark)}
		if s.Verdicts == nil {
			return []Size{missing, lit}
		}
		switch dark, shines := s.colons(); {
		case dark > 0 && shines == 0:
			return []Size{missing}
		case shines > 0 && dark == 0:
			return []Size{lit}
		}
		return nil
	}})
}

// colons counts the wrong frames whose colon is dark where it should be lit, and lit where it should be dark: what is wrong in
// a frame may be its digits alone.
func (s *Subject) colons() (dark, lit int) {
	at := segments * s.digits()
	for _, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for _, l := range v.Lanes {
				if v.Display != s.Part.Name || l.Step != judge.Wrong || l.Expected == nil || l.Seen == nil || l.Expected.State == nil || l.Seen.State == nil {
					continue
				}
				a, b := l.Seen.State.Lights, l.Expected.State.Lights
				switch {
				case len(a) <= at || len(b) <= at:
				case a[at] != display.Lit && b[at] == display.Lit:
					dark++
				case a[at] == display.Lit && b[at] != display.Lit:
					lit++
				}
			}
		}
	}
	return dark, lit
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

// lights transforms the lights of every sight; the levels follow.
func lights(name string, f func(display.Lights)) func(*reel.Reel) *reel.Reel {
	return sights(name, func(_ *display.Track, s display.State) display.State {
		s.Lights, s.Levels = slices.Clone(s.Lights), slices.Clone(s.Levels)
		was := slices.Clone(s.Lights)
		f(s.Lights)
		for i, l := range s.Lights {
			if l != was[i] && i < len(s.Levels) {
				s.Levels[i] = map[bool]int{true: 255, false: 0}[l == display.Lit]
			}
		}
		return s
	})
}

func flip(s display.Light) display.Light {
	if s == display.Lit {
		return display.Dark
	}
	return display.Lit
}

func pattern(l display.Lights, digit int) (p glyph.Pattern) {
	for i, x := range l[digit*segments : (digit+1)*segments] {
		if x == display.Lit {
			p |= 1 << i
		}
	}
	return p
}

func put(l display.Lights, digit int, p glyph.Pattern) {
	for i := range segments {
		l[digit*segments+i] = display.Light(p >> i & 1)
	}
}

// wired tells which segments can light at all: for a bare display those with a wire, otherwise all.
func (s *Subject) wired() (out [segments]bool) {
	for i, name := range glyph.Segments {
		k := s.Part.Kind.Terminal(name)
		out[i] = k < 0 || s.Part.Wired[k] != ""
	}
	return out
}

// permuted moves the light of segment order[i] to segment i, in every digit.
func (s *Subject) permuted(order []int, text string) Size {
	n := s.digits()
	return Size{Text: text, Reel: lights(s.Part.Name, func(l display.Lights) {
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
func (s *Subject) suggestedOrder() []int {
	type column struct{ want, seen uint64 }
	var of [segments]column
	n := 0
	for _, p := range s.pairs() {
		for d := range s.digits() {
			if n == 64 {
				break
			}
			want, seen := pattern(p.want.Lights, d), pattern(p.seen.Lights, d)
			if glyph.Distance(want, 0) != glyph.Distance(seen, 0) {
				continue // not a permutation: another frame stands here
			}
			for i := range segments {
				of[i].want |= uint64(want>>i&1) << n
				of[i].seen |= uint64(seen>>i&1) << n
			}
			n++
		}
	}
	order := make([]int, segments)
	taken := [segments]bool{}
	for i := range order { // those that are right stay
		order[i] = -1
		if of[i].want == of[i].seen {
			order[i], taken[i] = i, true
		}
	}
	moved := false
	for i := range order {
		for k := 0; order[i] < 0 && k < segments; k++ {
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

// patterns lists the seen patterns that stand for another one each, by the aligned sights: nil where one stands for
// several.
func (s *Subject) patterns() map[glyph.Pattern]glyph.Pattern {
	meant := map[glyph.Pattern]map[glyph.Pattern]int{}
	for _, p := range s.pairs() {
		for d := range s.digits() {
			seen, want := pattern(p.seen.Lights, d), pattern(p.want.Lights, d)
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

// mistaken mends one symbol that is shown as another one, where the other one is right elsewhere: by the moments at which
// it stands. Nil where more is wrong.
func (s *Subject) mistaken() *Size {
	type moment struct {
		trial string
		at    clock.Time
	}
	wrong := map[moment]display.State{}
	var seen, want glyph.Pattern
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for _, l := range v.Lanes {
				if v.Display != s.Part.Name || l.Step != judge.Wrong || l.Expected == nil || l.Seen == nil || l.Expected.State == nil {
					continue
				}
				for d := range s.digits() {
					a, b := pattern(l.Seen.State.Lights, d), pattern(l.Expected.State.Lights, d)
					if a == b {
						continue
					}
					if len(wrong) > 0 && (a != seen || b != want) || glyph.Distance(a, b) > 3 || b == 0 { // a digit that is dark has no pattern
						return nil
					}
					seen, want = a, b
					wrong[moment{s.Reels[trial].Trial, l.Seen.From}] = *l.Expected.State
				}
			}
		}
	}
	if len(wrong) == 0 {
		return nil
	}
	return &Size{Text: fmt.Sprintf("One pattern of %s is wrong: for %s it lights %s, as for %s.", s.Part.Name, want.Symbol(), litOrNothing(seen), symbolOrBlank(seen)),
		Reel: func(r *reel.Reel) *reel.Reel {
			return frames(s.Part.Name, func(t *display.Track) []display.Frame {
				out := slices.Clone(t.Frames)
				for i := range out {
					if to, ok := wrong[moment{r.Trial, out[i].From}]; ok {
						out[i].State = to
					}
				}
				return out
			})(r)
		}}
}

// repatterned puts one pattern in place of another.
func (s *Subject) repatterned(changes map[glyph.Pattern]glyph.Pattern) func(*reel.Reel) *reel.Reel {
	n := s.digits()
	return lights(s.Part.Name, func(l display.Lights) {
		for d := range n {
			if to, ok := changes[pattern(l, d)]; ok {
				put(l, d, to)
			}
		}
	})
}

// digitOrders are all orders of up to four digits, and reversing and turning round of more.
func digitOrders(s *Subject) (out []Size) {
	n := s.digits()
	if n < 2 {
		return nil
	}
	var orders [][]int
	if n <= 4 {
		orders = permutations(n)
	} else {
		reverse := make([]int, n)
		for turn := 1; turn < n; turn++ {
			order := make([]int, n)
			for i := range order {
				order[i] = (i + turn) % n
			}
			orders = append(orders, order)
		}
		for i := range reverse {
			reverse[i] = n - 1 - i
		}
		orders = append(orders, reverse)
		for a := 0; a < n; a++ {
			for b := a + 1; b < n; b++ {
				order := slices.Clone(reverse)
				slices.Sort(order)
				order[a], order[b] = b, a
				orders = append(orders, order)
			}
		}
	}
	for _, order := range orders {
		if slices.IsSorted(order) {
			continue
		}
		text := fmt.Sprintf("The digits of %s stand in the wrong order.", s.Part.Name)
		mirrored := true
		for i, k := range order {
			mirrored = mirrored && k == n-1-i
		}
		if mirrored {
			text = fmt.Sprintf("The digits of %s stand in reverse order.", s.Part.Name)
		}
		out = append(out, Size{Text: text, Reel: lights(s.Part.Name, func(l display.Lights) {
			was := slices.Clone(l)
			for i, k := range order {
				put(l, i, pattern(was, k))
			}
		})})
	}
	return out
}

func permutations(n int) (out [][]int) {
	if n == 0 {
		return [][]int{nil}
	}
	for _, p := range permutations(n - 1) {
		for at := 0; at < n; at++ {
			out = append(out, slices.Insert(slices.Clone(p), at, n-1))
		}
	}
	return out
}
