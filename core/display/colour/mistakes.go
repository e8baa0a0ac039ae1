package colour

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
)

func (colour) Mistakes() []*display.Mistake {
	return []*display.Mistake{lights.Inverted, lights.Pattern, exchanged}
}

// channels are the lights in their order.
var channels = []string{"red", "green", "blue"}

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
				lit, levels := s.Lights, s.Levels
				s.Lights, s.Levels = slices.Clone(lit), slices.Clone(levels)
				for i, k := range order {
					s.Lights[i], s.Levels[i] = lit[k], levels[k]
				}
				return s
			}})
		}
		return out
	},
}
