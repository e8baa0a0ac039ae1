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
	all, _ := s.shownKeys()
	add := func(text string, bench func(*exercise.Exercise), taken func(row, column int) [2]int) {
		wrong, fits := false, true // by the figures that came up
		for _, k := range all {
			wrong = wrong || k.pressed != k.shown
			fits = fits && taken(k.pressed[0], k.pressed[1]) == k.shown
		}
		out = append(out, Size{Text: fmt.Sprintf(text, s.Part.Name), Likely: wrong && fits, Bench: bench})
	}
	if len(rows) == len(columns) {
		add("The rows and the columns of %s are exchanged.",
			s.rewired(slices.Concat(rows, columns), slices.Concat(columns, rows)),
			func(row, column int) [2]int { return [2]int{column, row} })
	}
	add("The rows of %s are in reverse order.", s.rewired(rows, turned(rows)),
		func(row, column int) [2]int { return [2]int{len(rows) - 1 - row, column} })
	add("The columns of %s are in reverse order.", s.rewired(columns, turned(columns)),
		func(row, column int) [2]int { return [2]int{row, len(columns) - 1 - column} })
	return out
}

// shownKey is a key that was pressed, and the one whose figure came up: their rows and columns, counted from 0.
type shownKey struct {
	pressed, shown [2]int
	wrong          bool // the figure was to be seen, and was not
}

// shownKeys are those of a keypad of which the figure that was pressed should be the last one of a number; ok is false
// where its keys are not known.
func (s *Subject) shownKeys() (out []shownKey, ok bool) {
	rows, columns := s.keyLines()
	keys, n := strings.Fields(s.Part.Settings.Text("keys")), len(columns)
	if s.Verdicts == nil || n < 2 || len(keys) != len(rows)*n {
		return nil, false
	}
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			t := s.Reels[trial].Track(v.Display)
			for _, l := range v.Alignment {
				if l.Expected == nil || l.Seen == nil || l.Expected.State == nil || l.Seen.State == nil || t == nil {
					continue
				}
				pressed, at := lastKey(s.Reels[trial], s.Part.Name, l.Expected.From)
				for nth := range Several { // the first number that it is the last figure of
					want, a := ReadNumber(t, *l.Expected.State, nth)
					seen, b := ReadNumber(t, *l.Seen.State, nth)
					if !a || !b || fmt.Sprint(want%10) != pressed {
						continue
					}
					p, q := slices.Index(keys, pressed), slices.Index(keys, fmt.Sprint(seen%10))
					if came := l.Seen.From >= at; came && p >= 0 && q >= 0 { // it was not there before
						wrong := l.Operation == judge.Wrong
						out = append(out, shownKey{[2]int{p / n, p % n}, [2]int{q / n, q % n}, wrong})
					}
					break
				}
			}
		}
	}
	return out, true
}

// linesExchanged takes one row of a keypad for another, or one column: where the figure that comes up for each key is
// the one that was pressed, but for those of two lines.
func (s *Subject) linesExchanged() []Size {
	rows, columns := s.keyLines()
	all, ok := s.shownKeys()
	if !ok {
		return nil
	}
	exchanged := map[bool]map[[2]int]bool{true: {}, false: {}} // of rows, of columns
	right := map[bool]map[int]bool{true: {}, false: {}}
	for _, k := range all {
		p, q := k.pressed, k.shown
		switch {
		case p == q:
			right[true][p[0]], right[false][p[1]] = true, true
		case !k.wrong:
		case p[1] == q[1]:
			exchanged[true][[2]int{min(p[0], q[0]), max(p[0], q[0])}] = true
		case p[0] == q[0]:
			exchanged[false][[2]int{min(p[1], q[1]), max(p[1], q[1])}] = true
		default:
			return nil
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
				return s.keysExchanged(all)
			}
			a, b := list[pair[0]], list[pair[1]]
			return []Size{{Text: fmt.Sprintf("Two %s of %s are exchanged: %d and %d.", what, s.Part.Name, pair[0]+1, pair[1]+1),
				Likely: true, Bench: s.rewired([]int{a, b}, []int{b, a})}}
		}
	}
	return nil
}

// keysExchanged takes one key of a keypad for another, where the figure of the one comes up for the other, and all
// other figures are those that were pressed.
func (s *Subject) keysExchanged(all []shownKey) []Size {
	_, columns := s.keyLines()
	keys := strings.Fields(s.Part.Settings.Text("keys"))
	name := func(at [2]int) string { return keys[at[0]*len(columns)+at[1]] }
	var a, b string
	for _, k := range all {
		p, q := name(k.pressed), name(k.shown)
		switch {
		case p == q || !k.wrong:
		case a == "":
			a, b = p, q
		case p != a && p != b || q != a && q != b:
			return nil
		}
	}
	if a == "" {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("The keys %s and %s of %s are exchanged.", min(a, b), max(a, b), s.Part.Name),
		Likely: true, Bench: func(x *exercise.Exercise) {
			for t := range x.Trials {
				for i := range x.Trials[t].Cues {
					if c := &x.Trials[t].Cues[i]; c.Part == s.Part.Name && c.Key == a {
						c.Key = b
					} else if c.Part == s.Part.Name && c.Key == b {
						c.Key = a
					}
				}
			}
		}}}
}

// lastKey is the key of a part that was pressed last by a time, and when it was.
func lastKey(r *reel.Reel, name string, by clock.Time) (key string, at clock.Time) {
	for _, c := range r.Cues {
		if c.Part == name && c.Start <= by && c.Key != "" {
			key, at = c.Key, c.Start
		}
	}
	return key, at
}
