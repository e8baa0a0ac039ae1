package digits

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/glyph"
)

func (digits) Symptoms() []*display.Symptom {
	return []*display.Symptom{scanSlow, alike, darkDigit, stuckDigit}
}

// ofNumbers are what single digits, or digits that are all alike, look like where a number of several is meant.
var ofNumbers = []finding.Code{"leading-zeros", "underflow", "limit", "carry", "pattern", "count-offset", "count-start",
	"count-scaled", "digits-order", "step-missing", "extra-step", "overflow", "replaced"}

var scanSlow = &display.Symptom{
	Entry: finding.Entry{Code: "scan-slow", Doc: "digits are scanned so slowly that they are seen one after another",
		Order: 2, Sure: true, Fact: true,
		Subsumes: ofNumbers},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		walking, long, at, last, lasted := 0, 0, clock.Time(0), -1, clock.Time(0)
		for _, f := range v.Frames {
			if v.Geometry.Digits() < 2 || f.Length() > 2*clock.Second {
				continue
			}
			d := lone(v.Geometry, f.State)
			if f.State.Unlit() {
				d = v.Geometry.Digits() // as another digit: places before a number are dark
			}
			if d < 0 {
				continue
			}
			even := max(f.Length(), lasted)-min(f.Length(), lasted) <= lasted/10
			lasted = f.Length()
			switch {
			case last < 0 || d == last:
			case f.Length() <= 500*clock.Millisecond:
				if walking++; walking == 1 {
					at = f.From
				}
			case even && max(d, last) < v.Geometry.Digits(): // each digit for as long as the one before
				if long++; long == 1 {
					at = f.From
				}
			}
			last = d
		}
		if walking < 12 && long < 5 {
			return "", 0, false
		}
		return fmt.Sprintf("%s is scanned too slowly: its digits are seen one after another.", v.Display), at, true
	},
}

// lone is the one digit that is lit, -1 where it is not one.
func lone(g display.Geometry, s display.State) int {
	lit := -1
	for d := range g.Digits() {
		if pattern(s.Lights, d) == 0 {
			continue
		}
		if lit >= 0 {
			return -1
		}
		lit = d
	}
	return lit
}

// nought is the pattern of 0: what stands still at 0000 shows no more than that.
const nought glyph.Pattern = 0x3f

var alike = &display.Symptom{
	Entry: finding.Entry{Code: "digits-alike", Order: 5, Sure: true, Fact: true,
		Doc:      "all digits show the same: they are all selected at once, or given the same pattern",
		Subsumes: ofNumbers},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		const passing = 60 * clock.Millisecond // while segments change, a digit may be seen a moment sooner than others
		n, alike := v.Geometry.Digits(), 0
		if n < 2 {
			return "", 0, false
		}
		for _, f := range v.Frames {
			asked := slices.ContainsFunc(v.Asked, func(want display.State) bool {
				return slices.Equal(want.Lights, f.State.Lights) // what is expected is no sign
			})
			if asked || f.State.Unlit() || f.Length() < passing || pattern(f.State.Lights, 0) == nought {
				continue
			}
			first := f.State.Lights[:per]
			for d := 1; d < n; d++ {
				for i := range first {
					if f.State.Lights[d*per+i] != first[i] {
						return "", 0, false
					}
				}
			}
			alike++
		}
		return fmt.Sprintf("All digits of %s show the same: they are all selected at the same time, or each is "+
			"given the same pattern.", v.Display), 0, alike > 0
	},
}

// lonely is the one digit in which all wrong states differ from what was asked for, -1 where it is not one.
func lonely(v *display.Sighting) int {
	one := -1
	for _, p := range v.Pairs {
		for d := range v.Geometry.Digits() {
			if !p.Wrong || pattern(p.Want.Lights, d) == pattern(p.Seen.Lights, d) {
				continue
			}
			if one >= 0 && one != d {
				return -1
			}
			one = d
		}
	}
	return one
}

// patternsOf are those that a digit shows over a trial, and those that are asked of it.
func patternsOf(v *display.Sighting, digit int) (shown, asked map[glyph.Pattern]bool) {
	shown, asked = map[glyph.Pattern]bool{}, map[glyph.Pattern]bool{}
	for _, f := range v.Frames {
		if !f.State.Unlit() {
			shown[pattern(f.State.Lights, digit)] = true
		}
	}
	for _, s := range v.Asked {
		asked[pattern(s.Lights, digit)] = true
	}
	return shown, asked
}

var darkDigit = &display.Symptom{
	Entry: finding.Entry{Code: "dark", Doc: "a display stays dark from beginning to end", Order: 9, Sure: true,
		Subsumes: []finding.Code{"leading-zeros", "pattern"}},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		d, dark, asked := still(v)
		return fmt.Sprintf("Digit %d of %s stays dark throughout; all others are right.", d+1, v.Display), 0,
			dark && asked > 1
	},
}

var stuckDigit = &display.Symptom{
	Entry: finding.Entry{Code: "never-changes", Doc: "a display shows the same from beginning to end", Order: 9,
		Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		d, dark, asked := still(v)
		return fmt.Sprintf("Digit %d of %s never changes; all others are right.", d+1, v.Display), 0,
			!dark && asked > 2
	},
}

// still is the one digit that is wrong, if it always shows the same, perhaps nothing, and how many patterns were asked
// of it; else 0.
func still(v *display.Sighting) (digit int, dark bool, asked int) {
	if digit = lonely(v); v.Geometry.Digits() < 2 || digit < 0 {
		return 0, false, 0
	}
	shown, wanted := patternsOf(v, digit)
	if len(shown) != 1 {
		return 0, false, 0
	}
	return digit, shown[0], len(wanted)
}
