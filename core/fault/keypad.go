package fault

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
)

// keyLines are the terminals of a keypad's rows and columns that are wired.
func (s *Subject) keyLines() (rows, columns []int) {
	for i, t := range s.Part.Kind.Pins {
		switch {
		case s.Part.Wired[i] == "":
		case strings.HasPrefix(t.Name, "row"):
			rows = append(rows, i)
		case strings.HasPrefix(t.Name, "column"):
			columns = append(columns, i)
		}
	}
	return rows, columns
}

// rewired is the bench with the wires of some terminals at others.
func (s *Subject) rewired(to, from []int) func(*exercise.Exercise) {
	return func(x *exercise.Exercise) {
		w := x.Part(s.Part.Name).Wired
		was := slices.Clone(w)
		for i := range to {
			w[to[i]] = was[from[i]]
		}
	}
}

// linesTurned takes the rows of a keypad for its columns, or either from the other end.
func (s *Subject) linesTurned() (out []Size) {
	rows, columns := s.keyLines()
	if len(rows) < 2 || len(columns) < 2 {
		return nil
	}
	turned := func(list []int) []int {
		back := slices.Clone(list)
		slices.Reverse(back)
		return back
	}
	if len(rows) == len(columns) {
		both, other := slices.Concat(rows, columns), slices.Concat(columns, rows)
		out = append(out, Size{Text: fmt.Sprintf("The rows and the columns of %s are exchanged.", s.Part.Name),
			Bench: s.rewired(both, other)})
	}
	return append(out,
		Size{Text: fmt.Sprintf("The rows of %s are in reverse order.", s.Part.Name), Bench: s.rewired(rows, turned(rows))},
		Size{Text: fmt.Sprintf("The columns of %s are in reverse order.", s.Part.Name),
			Bench: s.rewired(columns, turned(columns))})
}

// linesExchanged takes one row of a keypad for another, or one column: where the figure that comes up for each key is
// the one that was pressed, but for those of two lines.
func (s *Subject) linesExchanged() []Size {
	rows, columns := s.keyLines()
	keys := strings.Fields(s.Part.Settings.Text("keys"))
	if s.Verdicts == nil || len(columns) < 2 || len(keys) != len(rows)*len(columns) {
		return nil
	}
	exchanged := map[bool]map[[2]int]bool{true: {}, false: {}} // of rows, of columns
	right := map[bool]map[int]bool{true: {}, false: {}}
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for _, l := range v.Alignment {
				if l.Expected == nil || l.Seen == nil || l.Expected.State == nil || l.Seen.State == nil ||
					s.Reels[trial].Track(v.Display) == nil {
					continue
				}
				t := s.Reels[trial].Track(v.Display)
				want, a := ReadNumber(t, *l.Expected.State, 0)
				seen, b := ReadNumber(t, *l.Seen.State, 0)
				pressed := lastKey(s.Reels[trial], s.Part.Name, l.Expected.From)
				p, q := slices.Index(keys, pressed), slices.Index(keys, fmt.Sprint(seen%10))
				if !a || !b || fmt.Sprint(want%10) != pressed || p < 0 || q < 0 {
					continue
				}
				n := len(columns)
				switch {
				case p == q:
					right[true][p/n], right[false][p%n] = true, true
				case l.Operation != judge.Wrong:
				case p%n == q%n:
					exchanged[true][[2]int{min(p/n, q/n), max(p/n, q/n)}] = true
				case p/n == q/n:
					exchanged[false][[2]int{min(p%n, q%n), max(p%n, q%n)}] = true
				default:
					return nil
				}
			}
		}
	}
	if len(exchanged[true])+len(exchanged[false]) != 1 {
		return nil
	}
	for of, pairs := range exchanged {
		for pair := range pairs {
			what, list := "columns", columns
			if of {
				what, list = "rows", rows
			}
			if right[of][pair[0]] || right[of][pair[1]] {
				return nil
			}
			a, b := list[pair[0]], list[pair[1]]
			return []Size{{Text: fmt.Sprintf("Two %s of %s are exchanged: %d and %d.", what, s.Part.Name, pair[0]+1, pair[1]+1),
				Likely: true, Bench: s.rewired([]int{a, b}, []int{b, a})}}
		}
	}
	return nil
}

// lastKey is the key of a part that was pressed last by a time.
func lastKey(r *reel.Reel, name string, at clock.Time) (key string) {
	for _, c := range r.Cues {
		if c.Part == name && c.Start <= at && c.Key != "" {
			key = c.Key
		}
	}
	return key
}
