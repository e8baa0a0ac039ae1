package characters

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
)

func (characters) Mistakes() []*display.Mistake {
	return append([]*display.Mistake{otherRow, otherColumn, leftovers, cutOff, washedOut, redrawnGlyph,
		display.Reworded, display.OneWord},
		display.TextForms...)
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
		what, tails := "", map[string]string{} // rows by what is seen
		whole := map[string][]string{}         // all rows, by what is seen
		for _, p := range c.Pairs {
			if p.Cleared {
				continue
			}
			want, seen := Rows(p.On, p.Want), Rows(p.On, p.Seen)
			if row := keptRow(p, want, seen); p.Wrong && row >= 0 {
				whole[strings.Join(seen, "\n")] = want
				if what == "" {
					what = fmt.Sprintf("%q in row %d, which should be empty", strings.TrimSpace(seen[row]), row+1)
				}
			}
			for i := range want {
				meant, got := strings.TrimRight(want[i], " "), strings.TrimRight(seen[i], " ")
				if meant != "" && len(got) > len(meant) && strings.HasPrefix(got, meant) &&
					stoodBefore(p, i, len([]rune(meant)), []rune(got)) {
					tails[seen[i]] = want[i]
					if what == "" {
						what = fmt.Sprintf("%q stayed behind %q", got[len(meant):], meant)
					}
				}
			}
		}
		switch {
		case len(tails) > 0:
			return []display.Size{{Text: fmt.Sprintf("The end of a longer text remains on %s: %s. A shorter text must overwrite all of it.",
				c.Name, what), Frames: shortened(c, tails)}}
		case len(whole) > 0:
			return []display.Size{{Text: fmt.Sprintf("A text from before remains on %s: %s.", c.Name, what),
				State: func(t *display.Track, s display.State) display.State {
					if rows, ok := whole[strings.Join(Rows(t, s), "\n")]; ok {
						return characters{}.WithRows(t, s, rows)
					}
					return s
				}}}
		}
		return nil
	},
}

// shortened puts rows in the place of longer ones: wherever they stand, or, where the longer one is meant elsewhere, in
// the frames in which it is not.
func shortened(c *display.Case, tails map[string]string) func(trial string, t *display.Track) []display.Frame {
	everywhere := maps.Clone(tails)
	for _, p := range c.Pairs {
		for _, row := range Rows(p.On, p.Want) {
			delete(everywhere, row)
		}
	}
	change, here := display.InRows(everywhere), display.InRows(tails)
	return func(trial string, t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		for i := range out {
			f := &out[i]
			wrong := slices.ContainsFunc(c.Pairs, func(p display.Pair) bool {
				return p.Wrong && p.Trial == trial && p.At == f.From
			})
			if wrong {
				f.State = here(t, f.State)
			} else {
				f.State = change(t, f.State)
			}
		}
		return out
	}
}

// keptRow is the row that should be empty and still has the text of the state before, where all others are right; -1
// where there is none.
func keptRow(p display.Pair, want, seen []string) (row int) {
	row = -1
	for i := range want {
		switch {
		case want[i] == seen[i]:
		case row < 0 && strings.TrimSpace(want[i]) == "":
			row = i
		default:
			return -1
		}
	}
	if row >= 0 && slices.ContainsFunc(earlier(p), func(f display.Frame) bool {
		// it may have been written in several steps
		before := Rows(p.On, f.State)
		return before[row] == seen[row] && !slices.Equal(before, seen)
	}) {
		return row
	}
	return -1
}

// stoodBefore reports whether what a row ends with, from a column on, stood there before that state came, or before the
// last input.
func stoodBefore(p display.Pair, row, from int, seen []rune) bool {
	return p.At < p.Used || slices.ContainsFunc(earlier(p), func(f display.Frame) bool {
		before := []rune(Rows(p.On, f.State)[row])
		return len(before) >= len(seen) && slices.Equal(before[from:len(seen)], seen[from:])
	})
}

// earlier are the frames before the one that a pair is of: a reading begins later than the frame that it reads.
func earlier(p display.Pair) []display.Frame {
	i := len(p.On.Frames) - 1
	for i > 0 && p.On.Frames[i].From > p.At {
		i--
	}
	return p.On.Frames[:max(i, 0)]
}

var cutOff = &display.Mistake{
	Entry: finding.Entry{Code: "cut", Price: finding.Form, Vague: true, Subsumes: []finding.Code{"carry"},
		Doc: "the end of a text is missing: it is written to too few places, or past the end of a row"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		what, whole, ends := "", map[string]string{}, rowEnds(c)
		words := map[string]bool{} // those of which more than the end of a word is gone
		for _, p := range c.Pairs {
			want, seen := Rows(p.On, p.Want), Rows(p.On, p.Seen)
			for i := range want {
				meant, got := strings.TrimRight(want[i], " "), strings.TrimRight(seen[i], " ")
				if gone, ok := strings.CutPrefix(meant, got); ok && len(got) > 2 && gone != "" &&
					len([]rune(got)) >= ends[i] { // no text goes on there
					if whole[seen[i]] = want[i]; what == "" {
						what = fmt.Sprintf("%q for %q", strings.TrimSpace(got), strings.TrimSpace(meant))
					}
					if strings.ContainsRune(gone, ' ') {
						words[seen[i]] = true
					}
				}
			}
		}
		if len(whole) == 0 || len(words) == 1 { // one text that ends sooner may be another text
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("The end of a text is missing on %s: %s.", c.Name, what),
			State: display.InRows(whole)}}
	},
}

// rowEnds are the last columns, counted from 1, at which anything was seen in each row.
func rowEnds(c *display.Case) map[int]int {
	ends := map[int]int{}
	for _, t := range c.Tracks {
		for k := range t.Frames {
			for i, row := range Rows(t, t.Frames[k].State) {
				ends[i] = max(ends[i], len([]rune(strings.TrimRight(row, " "))))
			}
		}
	}
	return ends
}

// blink is how long a display may be empty for it to be taken for clearing and writing anew.
const blink = 300 * clock.Millisecond

func blank(t *display.Track, s display.State) bool {
	return strings.TrimSpace(strings.Join(Rows(t, s), "")) == ""
}

var washedOut = &display.Mistake{
	Entry: finding.Entry{Code: "washed-out", Price: finding.Behaviour,
		Doc:   "a text is cleared before it is written anew, and is seen to go away",
		Catch: "give `shows` its times, or ask for `steady`"},
	Once: true,
	Sizes: func(c *display.Case) []display.Size {
		empty := func(t *display.Track, i int) bool {
			return i > 0 && i+1 < len(t.Frames) && t.Frames[i].Length() < blink && blank(t, t.Frames[i].State) &&
				!blank(t, t.Frames[i-1].State) && !blank(t, t.Frames[i+1].State)
		}
		times := 0
		for _, t := range c.Tracks {
			for i := range t.Frames {
				if empty(t, i) {
					times++
				}
			}
		}
		if times < 2 {
			return nil
		}
		return []display.Size{{Text: fmt.Sprintf("%s is cleared before its text is written anew, and is seen empty for a moment each time: write over the old text instead.", c.Name),
			Frames: func(_ string, t *display.Track) (out []display.Frame) {
				for i, f := range t.Frames {
					switch n := len(out); {
					case empty(t, i), n > 0 && t.Alike(out[n-1].State, f.State):
						out[n-1].To = f.To
					default:
						out = append(out, f)
					}
				}
				return out
			}}}
	},
}

func (characters) Symptoms() []*display.Symptom {
	return []*display.Symptom{notShown, rowEmpty, rowAddress}
}

var notShown = &display.Symptom{
	Entry: finding.Entry{Code: "not-shown",
		Doc: "no text is ever shown: the display was not initialised or switched on, or what was sent did not arrive", Order: 12,
		Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		if len(v.Frames) == 0 {
			return "", 0, false
		}
		for _, f := range v.Frames {
			letters, all := 0, 0 // what stands in no text are boxes, and what the controller makes of other bits
			for _, r := range strings.Join(Rows(v.Track, f.State), "") {
				if r != ' ' {
					all++
				}
				if unicode.IsLetter(r) && r < unicode.MaxASCII || unicode.IsDigit(r) {
					letters++
				}
			}
			if letters*2 > all {
				return "", 0, false
			}
			for _, asked := range v.Asked {
				if shares(v.Track, asked, f.State) {
					return "", 0, false
				}
			}
		}
		return fmt.Sprintf("%s never shows a text: it was not initialised, or what was sent did not reach it as it is meant.",
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
			asked, shown, other := false, false, false // other: another row shows what it should
			for _, s := range v.Asked {
				asked = asked || written(v.Track, s, row)
				for _, f := range v.Frames {
					other = other || shares(v.Track, s, f.State)
				}
			}
			for _, f := range v.Frames {
				shown = shown || written(v.Track, f.State, row)
			}
			if asked && !shown && other {
				return fmt.Sprintf("Row %d of %s stays empty: its text is never written, or to an address that the display does not show.",
					row+1, v.Display), 0, true
			}
		}
		return "", 0, false
	},
}

// shares reports whether some row of text is the same in two states.
func shares(t *display.Track, a, b display.State) bool {
	x, y := Rows(t, a), Rows(t, b)
	for row := range x {
		if x[row] == y[row] && strings.TrimSpace(x[row]) != "" {
			return true
		}
	}
	return false
}

// written reports whether a row has text.
func written(t *display.Track, s display.State, row int) bool {
	return strings.TrimSpace(Rows(t, s)[row]) != ""
}

var rowAddress = &display.Symptom{
	Entry: finding.Entry{Code: "row-address", Order: 14, Sure: true},
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
