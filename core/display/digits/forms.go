package digits

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
	"hemble/core/glyph"
)

// Mistakes in the form of a number: its zeros, its colon, its point, what is left of the one before.

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
		if at := c.Geometry.Colon; at > 1 && at < n && c.Judged && c.Parted() {
			ends = append(ends, at-1)
		}
		for _, last := range ends {
			out = append(out,
				display.Size{Text: fmt.Sprintf("%s shows leading zeros where blanks are expected.", c.Name),
					Effect: "leading zeros are missing", State: swap(last, zero, blank)},
				display.Size{Text: fmt.Sprintf("%s leaves out leading zeros where they are expected.", c.Name),
					Effect: "leading zeros are shown where blanks are expected", State: swap(last, blank, zero)})
		}
		if at := c.Geometry.Colon; at < n-1 && c.Parted() {
			out = append(out, display.Size{Text: fmt.Sprintf("%s leaves out the zero behind its colon: 1: 5 for 1:05.",
				c.Name), Effect: "the place behind the colon is dark where it should show 0",
				State: lights.Relit(func(l display.Lights) { exchange(l, at, zero, blank) })})
		}
		if dark := darkInside(c); len(dark) > 0 {
			out = append(out, display.Size{Text: fmt.Sprintf("%s shows zeros in places that should be dark.", c.Name),
				State: lights.Relit(func(l display.Lights) {
					for _, d := range dark {
						if pattern(l, d) == zero {
							put(l, d, blank)
						}
					}
				})})
		}
		out = append(out, besides(c)...)
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

// besides are the mistakes with zeros of numbers that stand side by side, each of which ends where a figure is always
// expected.
func besides(c *display.Case) []display.Size {
	always := func(d int) bool {
		return d < c.Geometry.Digits() && !slices.ContainsFunc(c.Pairs, func(p display.Pair) bool {
			return pattern(p.Want.Lights, d) == 0
		})
	}
	var ends []int
	ever := make([]bool, c.Geometry.Digits()) // a figure is expected there at times
	for d := range ever {
		if len(c.Pairs) > 0 && always(d) && !always(d+1) {
			ends = append(ends, d)
		}
		ever[d] = slices.ContainsFunc(c.Pairs, func(p display.Pair) bool { return pattern(p.Want.Lights, d) != 0 })
	}
	if len(ends) < 2 || c.Parted() {
		return nil
	}
	zero, blank := glyph.Seven('0')[0], glyph.Pattern(0)
	each := func(change func(l display.Lights, from, end int)) func(*display.Track, display.State) display.State {
		return lights.Relit(func(l display.Lights) {
			from := 0
			for _, end := range ends {
				change(l, from, end)
				from = end + 1
			}
		})
	}
	swap := func(from, to glyph.Pattern) func(*display.Track, display.State) display.State {
		return each(func(l display.Lights, d, end int) {
			for ; d < end && (to == zero && !ever[d] || pattern(l, d) == from); d++ {
				if to == blank || ever[d] {
					put(l, d, to)
				}
			}
		})
	}
	return []display.Size{
		{Text: fmt.Sprintf("The numbers on %s show leading zeros where blanks are expected.", c.Name), State: swap(zero, blank)},
		{Text: fmt.Sprintf("The numbers on %s leave out leading zeros where they are expected.", c.Name),
			State: swap(blank, zero)},
		{Text: fmt.Sprintf("A single 0 stays dark on %s, beside another number: all zeros are taken for leading ones.", c.Name),
			State: each(func(l display.Lights, from, end int) {
				for d := from; d <= end; d++ {
					if pattern(l, d) != blank {
						return
					}
				}
				put(l, end, zero)
			})},
	}
}

// otherEnd has numbers stand at the other end of the display.
var otherEnd = &display.Mistake{
	Entry: finding.Entry{Code: "columns", Price: finding.Form, Doc: "text is shifted to the right or left"},
	Sizes: func(c *display.Case) (out []display.Size) {
		if c.Geometry.Digits() < 2 || c.Parted() {
			return nil
		}
		for _, end := range []struct {
			is, meant string
			right     bool
		}{{"left", "right", true}, {"right", "left", false}} {
			out = append(out, display.Size{
				Text:   fmt.Sprintf("Numbers on %s stand at the %s end, where the %s one is meant.", c.Name, end.is, end.meant),
				Effect: fmt.Sprintf("numbers stand at the %s end", end.meant),
				State:  lights.Relit(func(l display.Lights) { toEnd(l, c.Geometry.Digits(), end.right) })})
		}
		return out
	},
}

// toEnd moves what is lit to one end of so many digits, with the blanks that are inside.
func toEnd(l display.Lights, n int, right bool) {
	var all []glyph.Pattern
	first, last := n, -1
	for d := range n {
		p := pattern(l, d)
		if all = append(all, p); p != 0 {
			first, last = min(first, d), d
		}
	}
	by := -first
	if right {
		by = n - 1 - last
	}
	for d := range n {
		p := glyph.Pattern(0)
		if from := d - by; last >= 0 && from >= first && from <= last {
			p = all[from]
		}
		put(l, d, p)
	}
}

// darkInside are the digits that should be dark whatever is shown; none where all of them stand before what is lit.
func darkInside(c *display.Case) (out []int) {
	inside := false
	for d := range c.Geometry.Digits() {
		if len(c.Pairs) > 0 && !slices.ContainsFunc(c.Pairs, func(p display.Pair) bool {
			return pattern(p.Want.Lights, d) != 0
		}) {
			out = append(out, d)
		} else {
			inside = inside || len(out) > 0 && out[0] > 0
		}
	}
	if !inside {
		return nil
	}
	return out
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
		if !c.Parted() || c.Geometry.Colon != c.Geometry.Digits()-2 {
			return nil
		}
		plain := func(n int) int { return n/100*60 + n%100 }
		for _, form := range []struct {
			text       string
			made, back func(n int) int
		}{
			{"%s shows a plain number where minutes and seconds are expected: 65 for 1:05.", plain,
				func(n int) int { return n/60*100 + n%60 }},
			{"%s shows all seconds behind the colon, where those of the minute are expected: 1:65 for 1:05.",
				func(n int) int { return n/100*100 + plain(n)%100 },
				func(n int) int { return n/100*100 + ((n%100-n/100*60)%100+100)%100 }},
		} {
			beyond := false // a minute: below it both look alike
			for _, p := range c.Pairs {
				seen, ok := digits{}.ReadNumber(c.Track(), p.Seen, 0)
				want, is := digits{}.ReadNumber(c.Track(), p.Want, 0)
				if p.Wrong && (!ok || !is || form.made(want) != seen) {
					beyond = false
					break
				}
				beyond = beyond || p.Wrong && want >= 100
			}
			if !beyond {
				continue
			}
			return []display.Size{{Text: fmt.Sprintf(form.text, c.Name),
				State: func(t *display.Track, s display.State) display.State {
					n, ok := digits{}.ReadNumber(t, s, 0)
					if !ok {
						return s
					}
					s = digits{}.WriteNumber(t, s, 0, form.back(n))
					s.Lights[per*t.Geometry.Digits()] = display.Lit
					return s
				}}}
		}
		return nil
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

// pointsInverted reports whether every point is lit where it should be dark, and dark where it should be lit, both of
// them somewhere, and nothing else is wrong.
func pointsInverted(c *display.Case) bool {
	lit, dark := false, false
	for _, p := range c.Pairs {
		for d := range c.Geometry.Digits() {
			want, seen := pattern(p.Want.Lights, d), pattern(p.Seen.Lights, d)
			if want^seen != glyph.DP {
				return false
			}
			lit, dark = lit || seen&glyph.DP != 0, dark || seen&glyph.DP == 0
		}
	}
	return lit && dark
}

var point = &display.Mistake{
	Entry: finding.Entry{Code: "point", Price: finding.Form,
		Doc:   "a decimal point is missing, or at another digit, or one too many",
		Catch: "write the point in the expected text"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		if pointsInverted(c) {
			return []display.Size{{Text: fmt.Sprintf("The decimal points of %s are the other way round: lit where none is expected, and dark where one is.",
				c.Name), State: lights.Relit(func(l display.Lights) {
				for d := range c.Geometry.Digits() {
					put(l, d, pattern(l, d)^glyph.DP)
				}
			})}}
		}
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
				case missing[d] && figure(p&^glyph.DP):
					put(l, d, p|glyph.DP)
				case extra[d]:
					put(l, d, p&^glyph.DP)
				}
			}
		})}}
	},
}
