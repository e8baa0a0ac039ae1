package matrix

import (
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
)

func (matrix) Mistakes() []*display.Mistake {
	return []*display.Mistake{lights.Inverted, lights.Pattern, turned, shifted, lineStuck}
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
			turned := lights.Relit(func(l display.Lights) {
				was := append(display.Lights(nil), l...)
				for place, i := range at {
					x, y := turn.To(place[0], place[1], columns, rows)
					if k, ok := at[[2]int{x, y}]; ok {
						l[k] = was[i]
					}
				}
			})
			text := fmt.Sprintf(turn.Text, c.Name)
			out = append(out, display.Size{Text: text, State: turned})
			if wrong, _ := c.Instead(); inPlace(wrong, turned) {
				text, _, _ = strings.Cut(text, ":")
				out = append(out, display.Size{Text: text + ", around the middle of what it shows.", State: c.Restored(wrong)})
			}
		}
		return out
	},
}

// inPlace reports whether pictures are turned where they stand: the grid turned, they are some places off.
func inPlace(wrong []display.Pair, turned func(*display.Track, display.State) display.State) bool {
	for by := -farthest; by <= farthest; by++ {
		for _, down := range []bool{true, false} {
			if by != 0 && len(wrong) >= 2 && !slices.ContainsFunc(wrong, func(p display.Pair) bool {
				p.Seen = turned(p.On, p.Seen)
				return bits.OnesCount64(p.Want.Lights.Bits()) < leastDots || !moved(p, by, down)
			}) {
				return true
			}
		}
	}
	return false
}

// leastDots is how many make a picture of which one can tell how it is turned.
const leastDots = 4

// farthest is by how many dots a picture may be shifted.
const farthest = 2

var shifted = &display.Mistake{
	Entry: finding.Entry{Code: "shifted", Price: finding.Wiring,
		Doc: "a picture is shifted by a row or a column, or by a few, and its edge is lost"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		wrong, _ := c.Instead()
		if len(wrong) < 2 {
			return nil
		}
		for by := -farthest; by <= farthest; by++ {
			for _, down := range []bool{true, false} {
				if by == 0 || slices.ContainsFunc(wrong, func(p display.Pair) bool { return !moved(p, by, down) }) {
					continue
				}
				where := map[bool][2]string{true: {"down", "up"}, false: {"to the right", "to the left"}}[down]
				side := where[0]
				if by < 0 {
					side = where[1]
				}
				return []display.Size{{Text: fmt.Sprintf("The picture of %s is shifted %s by %s: what is counted from 1 is counted from 0, or the reverse.",
					c.Name, side, display.Plural(max(by, -by), map[bool]string{true: "row", false: "column"}[down])),
					State: c.Restored(wrong)}}
			}
		}
		return nil
	},
}

// moved reports whether what is seen is the wanted picture, so many rows further down or columns to the right, as far
// as it is still on the grid.
func moved(p display.Pair, by int, down bool) bool {
	want, seen := rows(p.On.Geometry, p.Want), rows(p.On.Geometry, p.Seen)
	lit := 0
	for y := range want {
		for x := range want[y] {
			to, at := y, x+by
			if down {
				to, at = y+by, x
			}
			if to < 0 || to >= len(seen) || at < 0 || at >= len(seen[to]) {
				continue
			}
			if want[y][x] != seen[to][at] {
				return false
			}
			if want[y][x] == '#' {
				lit++
			}
		}
	}
	return lit > 0
}

var lineStuck = &display.Mistake{
	Entry: finding.Entry{Code: "line-stuck", Price: finding.Wiring,
		Doc: "a row or a column of a picture always shows the same: it is not written, or not driven"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		wrong, _ := c.Instead()
		if len(wrong) < 2 {
			return nil
		}
		lines := func(p display.Pair, columns bool) (want, seen []string) {
			want, seen = rows(p.On.Geometry, p.Want), rows(p.On.Geometry, p.Seen)
			if columns {
				want, seen = transposed(want), transposed(seen)
			}
			return want, seen
		}
		for _, columns := range []bool{false, true} {
			_, first := lines(wrong[0], columns)
			for k, shows := range first {
				if slices.ContainsFunc(wrong, func(p display.Pair) bool {
					want, seen := lines(p, columns)
					if seen[k] != shows {
						return true
					}
					want[k] = shows
					return !slices.Equal(want, seen)
				}) {
					continue
				}
				return []display.Size{{Text: fmt.Sprintf("%s %d of %s always shows the same: it is not written, or not driven.",
					map[bool]string{false: "Row", true: "Column"}[columns], k+1, c.Name), State: c.Restored(wrong)}}
			}
		}
		return nil
	},
}

// transposed are the columns of rows of the same length.
func transposed(rows []string) (out []string) {
	for x := range rows[0] {
		var column []byte
		for _, r := range rows {
			column = append(column, r[x])
		}
		out = append(out, string(column))
	}
	return out
}
