package characters

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
)

func (characters) Mistakes() []*display.Mistake {
	return []*display.Mistake{otherRow, otherColumn, leftovers, redrawnGlyph, display.Reworded}
}

var otherRow = &display.Mistake{
	Entry: finding.Entry{Code: "rows", Price: finding.Wiring, Doc: "text is in the wrong row", Hides: 4,
		Catch: "read every row, not one of them", Subsumes: []finding.Code{"row-empty", "row-address"}},
	Sizes: func(c *display.Case) (out []display.Size) {
		w := c.Geometry.Grid.Columns
		for _, order := range display.Permutations(c.Geometry.Grid.Rows) {
			moved := firstMoved(order)
			if moved < 0 {
				continue
			}
			out = append(out,
				display.Size{Text: fmt.Sprintf("Text on %s is in the wrong row: the text for row %d is in row %d.",
					c.Name, moved+1, order[moved]+1),
					State: changed(func(cells []display.Cell) (moved []display.Cell) {
						for _, k := range order {
							moved = append(moved, cells[k*w:(k+1)*w]...)
						}
						return moved
					})})
		}
		return out
	},
}

// firstMoved is the first place of an order that is not its own, -1 where there is none.
func firstMoved(order []int) int {
	for i, k := range order {
		if i != k {
			return i
		}
	}
	return -1
}

var otherColumn = &display.Mistake{
	Entry: finding.Entry{Code: "columns", Price: finding.Form, Doc: "text is shifted to the right or left",
		Catch: "read the whole row", Subsumes: []finding.Code{"row-address"}},
	Sizes: func(c *display.Case) (out []display.Size) {
		w := c.Geometry.Grid.Columns
		for i := range 8 * (c.Geometry.Grid.Rows + 1) {
			by, row := []int{1, -1, 2, -2, 3, -3, 4, -4}[i%8], i/8-1 // row -1 is all of them
			side, which := "right", "Text"
			if row >= 0 {
				which = fmt.Sprintf("Row %d", row+1)
			}
			if by < 0 {
				side = "left"
			}
			places := max(by, -by)
			out = append(out,
				display.Size{Text: fmt.Sprintf("%s of %s is shifted %d places to the %s.", which, c.Name, places,
					side), Effect: fmt.Sprintf("text is shifted by %d places", places),
					State: changed(func(cells []display.Cell) []display.Cell {
						moved := make([]display.Cell, len(cells))
						for i := range moved {
							moved[i] = ' '
							if row >= 0 && i/w != row {
								moved[i] = cells[i]
								continue
							}
							if from := i%w + by; from >= 0 && from < w {
								moved[i] = cells[i/w*w+from]
							}
						}
						return moved
					})})
		}
		return out
	},
}

// changed is a change of the cells of a state.
func changed(f func([]display.Cell) []display.Cell) func(*display.Track, display.State) display.State {
	return func(_ *display.Track, s display.State) display.State {
		s.Cells = f(s.Cells)
		return s
	}
}

var leftovers = &display.Mistake{
	Entry: finding.Entry{Code: "leftovers", Price: finding.Form,
		Doc: "the end of a longer text remains after a shorter one"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		t, what, tails := c.Track(), "", map[string]string{} // rows by what is seen
		for _, p := range c.Pairs {
			want, seen := Rows(t, p.Want), Rows(t, p.Seen)
			for i := range want {
				meant, got := strings.TrimRight(want[i], " "), strings.TrimRight(seen[i], " ")
				if meant != "" && len(got) > len(meant) && strings.HasPrefix(got, meant) {
					tails[seen[i]] = want[i]
					if what == "" {
						what = fmt.Sprintf("%q stayed behind %q", got[len(meant):], meant)
					}
				}
			}
		}
		if len(tails) == 0 {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("The end of a longer text remains on %s: %s. A shorter text must overwrite all of it.",
			c.Name, what), State: display.InRows(tails)}}
	},
}

func (characters) Symptoms() []*display.Symptom {
	return []*display.Symptom{notShown, rowEmpty, rowAddress}
}

var notShown = &display.Symptom{
	Entry: finding.Entry{Code: "not-shown",
		Doc: "no character is ever shown: the display was not initialised, or nothing that was sent arrived", Order: 12,
		Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		if len(v.Frames) == 0 {
			return "", 0, false
		}
		for _, f := range v.Frames {
			if strings.Trim(strings.Join(Rows(v.Track, f.State), ""), " ░█") != "" {
				return "", 0, false
			}
		}
		return fmt.Sprintf("%s never shows a character: it was not initialised, or nothing that was sent reached it.",
			v.Display), 0, true
	},
}

// busy is the display's note that it was sent more while it was busy: what is missing may be that.
const busy = "lcd-busy"

var rowEmpty = &display.Symptom{
	Entry: finding.Entry{Code: "row-empty", Doc: "a row stays empty: its text goes to an address that is not shown",
		Order: 13, Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		if v.Noted(busy) {
			return "", 0, false
		}
		any := slices.ContainsFunc(v.Frames, func(f display.Frame) bool {
			return strings.Trim(strings.Join(Rows(v.Track, f.State), ""), " ░█") != ""
		})
		for row := range v.Geometry.Grid.Rows {
			if !any { // that is said of the whole display
				break
			}
			asked, shown := false, false
			for _, s := range v.Asked {
				asked = asked || written(v.Track, s, row)
			}
			for _, f := range v.Frames {
				shown = shown || written(v.Track, f.State, row)
			}
			if asked && !shown {
				return fmt.Sprintf("Row %d of %s stays empty: its text is written to an address that the display does not show.",
					row+1, v.Display), 0, true
			}
		}
		return "", 0, false
	},
}

// written reports whether a row has text.
func written(t *display.Track, s display.State, row int) bool {
	return strings.TrimSpace(Rows(t, s)[row]) != ""
}

var rowAddress = &display.Symptom{
	Entry: finding.Entry{Code: "row-address",
		Doc: "a row shows only the end of its text: it is written to an address before the row", Order: 14, Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		if v.Noted(busy) {
			return "", 0, false
		}
		for _, p := range v.Pairs {
			want, seen := Rows(v.Track, p.Want), Rows(v.Track, p.Seen)
			for i := range want {
				meant, got := strings.TrimSpace(want[i]), strings.TrimRight(seen[i], " ")
				if got != "" && len(got) < len(meant) && strings.HasSuffix(meant, strings.TrimLeft(got, " ")) &&
					want[i][0] != seen[i][0] {
					return fmt.Sprintf("Row %d of %s shows only the end of its text: it is written to an address before the row.",
						i+1, v.Display), p.At, true
				}
			}
		}
		return "", 0, false
	},
}
