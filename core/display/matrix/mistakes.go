package matrix

import (
	"fmt"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
)

func (matrix) Mistakes() []*display.Mistake { return []*display.Mistake{lights.Inverted, turned} }

// turns are the ways in which a picture hangs on a grid of n rows with m columns: where a dot at x and y belongs.
var turns = []struct {
	text   string
	square bool // it needs as many rows as columns
	to     func(x, y, m, n int) (int, int)
}{
	{"The picture of %s is mirrored, left and right exchanged: its columns are sent from the other end.", false,
		func(x, y, m, _ int) (int, int) { return m - 1 - x, y }},
	{"The picture of %s is mirrored, top and bottom exchanged: its rows are sent from the other end.", false,
		func(x, y, _, n int) (int, int) { return x, n - 1 - y }},
	{"The picture of %s is upside down: its columns and its rows are both sent from the other end.", false,
		func(x, y, m, n int) (int, int) { return m - 1 - x, n - 1 - y }},
	{"The picture of %s has its rows and its columns exchanged.", true,
		func(x, y, _, _ int) (int, int) { return y, x }},
	{"The picture of %s is turned to the left by a quarter.", true,
		func(x, y, m, _ int) (int, int) { return m - 1 - y, x }},
	{"The picture of %s is turned to the right by a quarter.", true,
		func(x, y, _, n int) (int, int) { return y, n - 1 - x }},
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
		for _, turn := range turns {
			if turn.square && columns != rows {
				continue
			}
			out = append(out, display.Size{Text: fmt.Sprintf(turn.text, c.Name),
				State: lights.Relit(func(l display.Lights) {
					was := append(display.Lights(nil), l...)
					for place, i := range at {
						x, y := turn.to(place[0], place[1], columns, rows)
						if k, ok := at[[2]int{x, y}]; ok {
							l[k] = was[i]
						}
					}
				})})
		}
		return out
	},
}
