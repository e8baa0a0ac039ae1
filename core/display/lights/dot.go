package lights

import (
	"math/bits"
	"slices"

	"hemble/core/display"
	"hemble/core/finding"
)

// Dot is the mistake of a row of lights of which one is lit where all up to it should be, or two neighbours, or the
// reverse.
var Dot = &display.Mistake{
	Entry: finding.Entry{Code: "dot", Price: finding.Single,
		Doc: "one light of a row is lit where all up to it should be, or two neighbours, or the reverse"},
	Sizes: func(c *display.Case) []display.Size {
		if g := c.Geometry; len(g.Members) > 0 && len(g.Members) != g.Lights() { // no row of single lamps
			return nil
		}
		sizes := []display.Size{
			{Text: c.Name + " shows one light where all up to it should be lit.",
				State: Relit(func(l display.Lights) {
					for i := len(l) - 2; i >= 0; i-- {
						if l[i+1] == display.Lit {
							l[i] = display.Lit
						}
					}
				})},
			{Text: c.Name + " shows a bar where one light should be lit.",
				State: Relit(func(l display.Lights) {
					for i := range len(l) - 1 {
						if l[i+1] == display.Lit {
							l[i] = display.Dark
						}
					}
				})},
		}
		if !c.Judged {
			return sizes
		}
		sizes = sizes[:1] // a bar in place of a dot: what was lit stays lit, which has a sign of its own
		if !neighbours(c) {
			return sizes
		}
		for _, way := range []int{1, -1} {
			sizes = append(sizes, display.Size{Text: c.Name + " shows one light where two neighbours should be lit.",
				State: Relit(func(l display.Lights) {
					was := slices.Clone(l)
					for i := range l {
						if k := i - way; k >= 0 && k < len(l) && was[k] == display.Lit {
							l[i] = display.Lit
						}
					}
				})})
		}
		return sizes
	},
}

// neighbours reports whether two lights side by side are asked for each time, and mostly one is lit.
func neighbours(c *display.Case) bool {
	for _, p := range c.Pairs {
		if want := p.Want.Lights.Bits(); bits.OnesCount64(want) != 2 || want&(want<<1) == 0 {
			return false
		}
	}
	one, all := 0, 0
	for _, t := range c.Tracks {
		for i := range t.Frames {
			all++
			if bits.OnesCount64(t.Frames[i].State.Lights.Bits()) == 1 {
				one++
			}
		}
	}
	return len(c.Pairs) > 1 && 3*one > 2*all
}
