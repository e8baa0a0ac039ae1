package fault

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Code: "count-offset", Doc: "a number is too large or too small by the same amount everywhere", Sizes: func(s *Subject) (out []Size) {
		for _, by := range s.offsets() {
			how := "too small"
			if by < 0 {
				how = "too large"
			}
			if s.digits() == 1 && by > 5 {
				how, by = "too large", by-10
			}
			out = append(out, Size{Text: fmt.Sprintf("The number on %s is %s by %d throughout.", s.Part.Name, how, abs(by)), Makes: fmt.Sprintf("the number is off by %+d", by),
				Reel: renumbered(s, func(n int) (int, bool) {
					if s.digits() == 1 { // a decimal counter of one digit goes round
						return (n + by + 10) % 10, true
					}
					return n + by, n+by >= 0
				})})
		}
		return out
	}})
	register(&Fault{Code: "count-scaled", Doc: "a number goes several steps where one is meant, or the other way round", Sizes: func(s *Subject) (out []Size) {
		if !s.counts() {
			return nil
		}
		for _, k := range []int{2, 4, 10} {
			out = append(out,
				Size{Text: fmt.Sprintf("The number on %s is %d times what it should be: each step counts %d times.", s.Part.Name, k, k), Makes: fmt.Sprintf("the number is divided by %d", k),
					Reel: s.scaled(1, k)},
				Size{Text: fmt.Sprintf("The number on %s is a %s of what it should be.", s.Part.Name, map[int]string{2: "half", 4: "quarter", 10: "tenth"}[k]), Makes: fmt.Sprintf("the number is multiplied by %d", k),
					Reel: s.scaled(k, 1)})
		}
		return out
	}})
	register(&Fault{Code: "underflow", Once: true, Doc: "a number goes on below 0 and comes out large", Sizes: func(s *Subject) (out []Size) {
		if !s.counts() {
			return nil
		}
		for _, p := range s.pairs() {
			want, ok := s.number(p.want)
			seen, shown := s.number(p.seen)
			if !ok || want != 0 || blank(p.seen) || shown && (seen < 50 && !(s.digits() == 1 && seen == 9)) {
				continue
			}
			return []Size{{Text: fmt.Sprintf("%s goes on below 0: the number wraps round and comes out large.", s.Part.Name),
				Reel: sights(s.Part.Name, func(t *display.Track, x display.State) display.State {
					if n, ok := ReadNumber(t, x); !ok && !blank(x) || ok && n >= 50 {
						return p.want
					}
					return x
				})}}
		}
		return nil
	}})
}

// scaled makes d steps of the number n, counted from what it shows first.
func (s *Subject) scaled(n, d int) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		base := 0
		for _, f := range r.Track(s.Part.Name).Frames {
			if first, ok := s.number(f.State); ok {
				base = first
				break
			}
		}
		return renumbered(s, func(x int) (int, bool) { return base + (x-base)*n/d, base+(x-base)*n/d >= 0 })(r)
	}
}

// counts tells whether the part can show numbers.
func (s *Subject) counts() bool {
	f := s.form()
	return f == display.FormDigits || f == display.FormText || f == display.FormLines
}

func abs(n int) int { return max(n, -n) }

// offsets are ±1, ±2 and what the sights suggest.
func (s *Subject) offsets() []int {
	if !s.counts() {
		return nil
	}
	by := []int{1, -1, 2, -2}
	if s.digits() == 1 && s.Verdicts != nil {
		return []int{1, 2, 3, 4, 5, 6, 7, 8, 9}
	}
	votes := map[int]int{}
	for _, p := range s.pairs() {
		want, a := s.number(p.want)
		seen, b := s.number(p.seen)
		if a && b && abs(want-seen) > 2 {
			votes[want-seen]++
		}
	}
	best, most := 0, 1
	for _, k := range slices.Sorted(maps.Keys(votes)) {
		n := votes[k]
		if n > most || n == most && most > 1 && abs(k) < abs(best) {
			best, most = k, n
		}
	}
	if best != 0 {
		by = append(by, best, -best)
	}
	return by
}

func (s *Subject) number(x display.State) (int, bool) {
	t := display.Track{Geometry: *s.look}
	return ReadNumber(&t, x)
}

var number = regexp.MustCompile(`[0-9]+`)

// ReadNumber reads the first number that a sight shows; ok is false where there is none.
func ReadNumber(t *display.Track, s display.State) (n int, ok bool) {
	text := ""
	switch t.Geometry.Form {
	case display.FormDigits:
		if text = glyph.Digits(s.Lights.Bits(), min(8, t.Geometry.Digits())).Symbols(); strings.ContainsAny(strings.TrimLeft(text, " "), " ?") {
			return 0, false
		}
		if text = strings.TrimLeft(text, " "); strings.Trim(text, "0123456789") != "" {
			return 0, false
		}
	case display.FormText:
		text = strings.Join(t.Rows(s), "\n")
	case display.FormLines:
		text = s.Line
	}
	text = number.FindString(text)
	n, err := strconv.Atoi(text)
	return n, err == nil
}

func blank(s display.State) bool {
	for _, l := range s.Lights {
		if l != display.Dark {
			return false
		}
	}
	return true
}

// renumbered changes the first number of every sight; a result that is not ok leaves the sight alone.
func renumbered(s *Subject, f func(int) (int, bool)) func(*reel.Reel) *reel.Reel {
	return sights(s.Part.Name, func(t *display.Track, x display.State) display.State {
		n, ok := ReadNumber(t, x)
		if !ok {
			return x
		}
		if n, ok = f(n); !ok {
			return x
		}
		return writeNumber(t, x, n)
	})
}

// writeNumber puts a number in place of the first one of a sight, as wide as that where it had leading zeros.
func writeNumber(t *display.Track, s display.State, n int) display.State {
	text := strconv.Itoa(n)
	switch t.Geometry.Form {
	case display.FormDigits:
		width := t.Geometry.Digits()
		padded := width > 1 && pattern(s.Lights, 0) == glyph.Seven('0')[0]
		s.Lights = append(display.Lights(nil), s.Lights...)
		if padded {
			text = fmt.Sprintf("%0*d", width, n)
		}
		text = text[max(0, len(text)-width):]
		for d := range width {
			p := glyph.Pattern(0)
			if i := d - (width - len(text)); i >= 0 {
				p = glyph.Seven(rune(text[i]))[0]
			}
			put(s.Lights, d, p|pattern(s.Lights, d)&glyph.DP)
		}
	case display.FormText:
		rows := t.Rows(s)
		for r, row := range rows {
			at := number.FindStringIndex(row)
			if at == nil {
				continue
			}
			if row[at[0]] == '0' {
				text = fmt.Sprintf("%0*d", at[1]-at[0], n)
			}
			changed := []rune(row[:at[0]] + text + row[at[1]:])
			for len(changed) < t.Geometry.Grid.Columns {
				changed = append(changed, ' ')
			}
			rows[r] = string(changed[:t.Geometry.Grid.Columns])
			return withRows(t, s, rows)
		}
	case display.FormLines:
		if at := number.FindStringIndex(s.Line); at != nil {
			s.Line = s.Line[:at[0]] + text + s.Line[at[1]:]
		}
	}
	return s
}

// withRows puts text into a sight of a character display. A character that is the same as before keeps its cell.
func withRows(t *display.Track, s display.State, rows []string) display.State {
	before := t.Rows(s)
	cells := append([]display.Cell(nil), s.Cells...)
	for r, row := range rows {
		was := []rune(before[r])
		for c, x := range []rune(row) {
			if x == was[c] {
				continue
			}
			cell, ok := t.Geometry.Grid.Cell(x)
			if !ok {
				cell = display.AnyCustom
			}
			cells[r*t.Geometry.Grid.Columns+c] = cell
		}
	}
	s.Cells = cells
	return s
}
