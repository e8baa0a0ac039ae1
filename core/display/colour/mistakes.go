package colour

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/finding"
)

func (colour) Mistakes() []*display.Mistake { return []*display.Mistake{inverted, exchanged} }

// channels are the lights in their order.
var channels = []string{"red", "green", "blue"}

var inverted = &display.Mistake{
	Entry: finding.Entry{Code: "lamp-inverted", Price: finding.Wiring,
		Doc:      "a lamp is on when it should be off, and the reverse",
		Subsumes: []finding.Code{"dark", "goes-dark"}},
	Sizes: func(c *display.Case) []display.Size {
		return []display.Size{{Text: c.Name +
			" is inverted: each of its colours is lit when it should be dark, and dark when it should be lit.",
			State: func(_ *display.Track, s display.State) display.State {
				return s.Relit(func(l display.Lights) {
					for i := range l {
						l[i] = l[i].Flip()
					}
				})
			}}}
	},
}

var exchanged = &display.Mistake{
	Entry: finding.Entry{Code: "colours-swapped", Price: finding.Wiring,
		Doc: "the red, green and blue lights of a lamp are exchanged"},
	Sizes: func(c *display.Case) (out []display.Size) {
		for _, order := range display.Permutations(len(channels)) {
			if slices.IsSorted(order) {
				continue
			}
			text := "The colours of " + c.Name + " are exchanged, each for the next one."
			for i, k := range order {
				if i < k && order[k] == i {
					text = fmt.Sprintf("%s and %s of %s are exchanged.", channels[i], channels[k], c.Name)
				}
			}
			out = append(out, display.Size{Text: text, State: func(_ *display.Track, s display.State) display.State {
				lights, levels := s.Lights, s.Levels
				s.Lights, s.Levels = slices.Clone(lights), slices.Clone(levels)
				for i, k := range order {
					s.Lights[i], s.Levels[i] = lights[k], levels[k]
				}
				return s
			}})
		}
		return out
	},
}
