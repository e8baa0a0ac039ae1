package matrix

import (
	"fmt"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
)

func (matrix) Mistakes() []*display.Mistake {
	return []*display.Mistake{lights.Inverted, lights.Pattern, turned}
}

var turned = &display.Mistake{
	Entry: finding.Entry{Code: "turned", Price: finding.Wiring, Doc: "a picture is upside down, mirrored or turned",
		Hides: 2},
	Sizes: func(c *display.Case) (out []display.Size) {
		at := map[[2]int]int{} // lights by column and row
		columns, rows := 0, 0
		next := map[int]int{}
		for i, x := range c.Geometry.Shapes {
			column := next[x.Digit]
			next[x.Digit]++
			at[[2]int{column, x.Digit}] = i
			columns, rows = max(columns, column+1), max(rows, x.Digit+1)
		}
		for _, turn := range display.Turns {
			if turn.Square && columns != rows {
				continue
			}
			out = append(out, display.Size{Text: fmt.Sprintf(turn.Text, c.Name),
				State: lights.Relit(func(l display.Lights) {
					was := append(display.Lights(nil), l...)
					for place, i := range at {
						x, y := turn.To(place[0], place[1], columns, rows)
						if k, ok := at[[2]int{x, y}]; ok {
							l[k] = was[i]
						}
					}
				})})
		}
		return out
	},
}
