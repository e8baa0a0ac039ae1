package fault

import (
	"fmt"
	"strings"

	"hemble/core/display"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Code: "rows", Doc: "text stands in another row", Sizes: func(s *Subject) (out []Size) {
		if s.form() != display.FormText {
			return nil
		}
		n := s.look.Grid.Rows
		if n < 2 {
			return nil
		}
		for _, order := range permutations(n) {
			moved := -1
			for i, k := range order {
				if i != k && moved < 0 {
					moved = i
				}
			}
			if moved < 0 {
				continue
			}
			out = append(out, Size{Text: fmt.Sprintf("Text of %s stands in the wrong row: what belongs in row %d came in row %d.", s.Part.Name, moved+1, order[moved]+1),
				Reel: cells(s.Part.Name, func(t *display.Track, c []display.Cell) []display.Cell {
					w := t.Geometry.Grid.Columns
					moved := make([]display.Cell, 0, len(c))
					for _, k := range order {
						moved = append(moved, c[k*w:(k+1)*w]...)
					}
					return moved
				})})
		}
		return out
	}})
	register(&Fault{Code: "columns", Doc: "text stands some places too far to the right or left", Sizes: func(s *Subject) (out []Size) {
		if s.form() != display.FormText {
			return nil
		}
		rows := s.look.Grid.Rows
		for i := range 8 * (rows + 1) {
			by, row := []int{1, -1, 2, -2, 3, -3, 4, -4}[i%8], i/8-1 // row -1 is all of them
			side, which := "right", "Text"
			if row >= 0 {
				which = fmt.Sprintf("Row %d", row+1)
			}
			if by < 0 {
				side = "left"
			}
			out = append(out, Size{Text: fmt.Sprintf("%s of %s stands %d places too far to the %s.", which, s.Part.Name, abs(by), side), Makes: fmt.Sprintf("text stands off by %d places", abs(by)),
				Reel: cells(s.Part.Name, func(t *display.Track, c []display.Cell) []display.Cell {
					w := t.Geometry.Grid.Columns
					moved := make([]display.Cell, len(c))
					for i := range moved {
						moved[i] = ' '
						if row >= 0 && i/w != row {
							moved[i] = c[i]
							continue
						}
						if from := i%w + by; from >= 0 && from < w {
							moved[i] = c[i/w*w+from]
						}
					}
					return moved
				})})
		}
		return out
	}})
	register(&Fault{Code: "leftovers", Once: true, Doc: "the end of a longer text stays behind a shorter one", Sizes: func(s *Subject) []Size {
		if s.form() != display.FormText {
			return nil
		}
		t := &display.Track{Geometry: *s.look}
		what := ""
		tails := map[string]string{} // rows by what is seen
		for _, p := range s.pairs() {
			want, seen := t.Rows(p.want), t.Rows(p.seen)
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
		return []Size{{Text: fmt.Sprintf("The end of a longer text stays behind on %s: %s. A shorter text must overwrite all of it.", s.Part.Name, what),
			Reel: sights(s.Part.Name, func(t *display.Track, x display.State) display.State {
				rows := t.Rows(x)
				for i := range rows {
					if to, ok := tails[rows[i]]; ok {
						rows[i] = to
					}
				}
				return withRows(t, x, rows)
			})}}
	}})
	register(&Fault{Code: "words", Once: true, Doc: "a text is written otherwise: letters in the other case, or a few characters different", Sizes: func(s *Subject) []Size {
		if f := s.form(); f != display.FormText && f != display.FormLines {
			return nil
		}
		t := &display.Track{Geometry: *s.look}
		lines := map[string]string{}
		what, only := "", true
		for _, p := range s.pairs() {
			want, seen := []string{p.want.Line}, []string{p.seen.Line}
			if t.Geometry.Form == display.FormText {
				want, seen = t.Rows(p.want), t.Rows(p.seen)
			}
			for i := range want {
				if want[i] == seen[i] || strings.TrimSpace(want[i]) == "" || !alike(want[i], seen[i]) {
					continue
				}
				lines[seen[i]] = want[i]
				only = only && strings.EqualFold(strings.ReplaceAll(want[i], " ", ""), strings.ReplaceAll(seen[i], " ", ""))
				if what == "" {
					what = fmt.Sprintf("%q for %q", strings.TrimRight(seen[i], " "), strings.TrimRight(want[i], " "))
				}
			}
		}
		if len(lines) == 0 {
			return nil
		}
		how := "otherwise than asked"
		if only {
			how = "with other capitals or spaces than asked"
		}
		return []Size{{Text: fmt.Sprintf("%s writes its text %s: %s.", s.Part.Name, how, what),
			Reel: sights(s.Part.Name, func(t *display.Track, x display.State) display.State {
				if t.Geometry.Form == display.FormLines {
					if to, ok := lines[x.Line]; ok {
						x.Line = to
					}
					return x
				}
				rows := t.Rows(x)
				for i := range rows {
					if to, ok := lines[rows[i]]; ok {
						rows[i] = to
					}
				}
				return withRows(t, x, rows)
			})}}
	}})
}

// alike tells whether two texts are nearly the same: at most a quarter of the characters to change, numbers equal.
func alike(a, b string) bool {
	if strings.Join(number.FindAllString(a, -1), " ") != strings.Join(number.FindAllString(b, -1), " ") {
		return false
	}
	x, y := []rune(strings.ToLower(strings.TrimSpace(a))), []rune(strings.ToLower(strings.TrimSpace(b)))
	row := make([]int, len(y)+1)
	for i := range row {
		row[i] = i
	}
	for i := range x {
		diagonal := row[0]
		row[0] = i + 1
		for k := range y {
			cost := diagonal
			if x[i] != y[k] {
				cost++
			}
			diagonal = row[k+1]
			row[k+1] = min(cost, row[k]+1, row[k+1]+1)
		}
	}
	return row[len(y)]*4 <= max(len(x), len(y))
}

// cells transforms the characters of every sight.
func cells(name string, f func(*display.Track, []display.Cell) []display.Cell) func(*reel.Reel) *reel.Reel {
	return sights(name, func(t *display.Track, s display.State) display.State {
		s.Cells = f(t, s.Cells)
		return s
	})
}
