package display

import (
	"fmt"
	"slices"
	"strings"

	"github.com/agnivade/levenshtein"

	"hemble/core/finding"
)

// Reworded is the mistake of text that is written otherwise than it was asked for.
var Reworded = &Mistake{
	Entry: finding.Entry{Code: "words", Explains: true, Price: finding.Constant,
		Doc: "a text is spelt differently: letters in the other case, or a few different characters", Vague: true},
	Once: true,
	Sizes: func(c *Case) []Size {
		lettered, _ := As[Lettered](c.Geometry)
		meant, what, only := map[string]string{}, "", true
		for _, p := range c.Pairs {
			want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
			for i := range want {
				if want[i] == seen[i] || strings.TrimSpace(want[i]) == "" || !nearlySame(want[i], seen[i]) {
					continue
				}
				meant[seen[i]] = want[i]
				only = only && strings.EqualFold(strings.ReplaceAll(want[i], " ", ""),
					strings.ReplaceAll(seen[i], " ", ""))
				if what == "" {
					what = fmt.Sprintf("%q for %q", strings.TrimRight(seen[i], " "), strings.TrimRight(want[i], " "))
				}
			}
		}
		if len(meant) == 0 {
			return anotherText(c)
		}
		how := "otherwise than asked"
		if only {
			how = "with other capitals or spaces than asked"
		}
		return []Size{{Text: fmt.Sprintf("%s writes its text %s: %s.", c.Name, how, what), Given: len(meant),
			State: InRows(meant)}}
	},
}

// anotherText is a text that always stands where another one is asked for, where most others are right.
func anotherText(c *Case) []Size {
	wrong, asked := c.Instead()
	lettered, _ := As[Lettered](c.Geometry)
	var p Pair
	size := Size{}
	switch one, mended := c.Misstep(); {
	case len(wrong) == 1 && asked >= 3:
		p, size.State = wrong[0], c.Restored(wrong)
	case one != nil:
		p, size.Frames = *one, mended
	default:
		return nil
	}
	want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
	for i := range want {
		if want[i] == seen[i] {
			continue
		}
		// a number that is wrong, or nothing at all
		if shown := worded(seen[i]); shown == "" || shown == worded(want[i]) {
			return nil
		}
	}
	size.Text = fmt.Sprintf("%s shows another text than asked: %s for %s.", c.Name, p.On.Short(p.Seen), p.On.Short(p.Want))
	return []Size{size}
}

// worded is a row of text without its numbers.
func worded(row string) string { return strings.TrimSpace(Number.ReplaceAllString(row, "")) }

// InRows puts some rows of text in the place of others.
func InRows(meant map[string]string) func(*Track, State) State {
	return func(t *Track, s State) State {
		lettered, _ := As[Lettered](t.Geometry)
		rows := lettered.Rows(t, s)
		for i := range rows {
			if to, ok := meant[rows[i]]; ok {
				rows[i] = to
			}
		}
		return lettered.WithRows(t, s, rows)
	}
}

// nearlySame reports whether two texts are nearly the same: at most a quarter of the characters to change, numbers
// equal.
func nearlySame(a, b string) bool {
	if strings.Join(signed.FindAllString(a, -1), " ") != strings.Join(signed.FindAllString(b, -1), " ") {
		return false
	}
	once := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	x, y := once(a), once(b)
	return levenshtein.ComputeDistance(x, y)*4 <= max(len([]rune(x)), len([]rune(y)))
}

// OneWord is the mistake of one word that is written otherwise wherever it stands: what one text tells of it mends the
// others.
var OneWord = &Mistake{
	Entry: finding.Entry{Code: "word", Price: finding.Constant, Order: 9, Subsumes: []finding.Code{"words", "cut"},
		Doc: "one word is spelt differently, in several texts"},
	Once: true,
	Sizes: func(c *Case) []Size {
		lettered, _ := As[Lettered](c.Geometry)
		var rule *[2]string
		mends := map[string]bool{} // texts, by what was written
		for _, p := range c.Pairs {
			want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
			for i := range want {
				if want[i] == seen[i] || strings.TrimSpace(want[i]) == "" {
					continue
				}
				if rule == nil {
					rule = differs(seen[i], want[i])
				}
				if rule == nil || withWord(seen[i], *rule) != want[i] {
					return append(sameRow(c), sameForm(c)...)
				}
				mends[seen[i]] = true
			}
		}
		if len(mends) < 2 {
			return append(sameRow(c), sameForm(c)...)
		}
		return []Size{{Text: fmt.Sprintf("%s writes %q where %q is expected, each time.", c.Name, rule[0], rule[1]),
			State: func(t *Track, s State) State {
				lettered, _ := As[Lettered](t.Geometry)
				rows := lettered.Rows(t, s)
				for i := range rows {
					rows[i] = withWord(rows[i], *rule)
				}
				return lettered.WithRows(t, s, rows)
			}}}
	},
}

// sameRow is a row that is always the same wrong one where always the same is asked for, beside other rows that change
// and are right: what one state tells of it mends the others.
func sameRow(c *Case) []Size {
	lettered, _ := As[Lettered](c.Geometry)
	row, from, to := -1, "", ""
	beside := map[string]bool{} // what the other rows show
	for _, p := range c.Pairs {
		want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
		for i := range want {
			switch {
			case want[i] == seen[i]:
				continue
			case row < 0 && worded(want[i]) != "" && strings.TrimSpace(seen[i]) != "":
				row, from, to = i, seen[i], want[i]
			case i != row || seen[i] != from || want[i] != to:
				return nil
			}
			beside[strings.Join(slices.Delete(slices.Clone(seen), i, i+1), "\n")] = true
		}
	}
	if row < 0 || len(beside) < 3 || !nearlySame(to, from) || slices.ContainsFunc(c.Pairs, func(p Pair) bool {
		return lettered.Rows(p.On, p.Seen)[row] == to // it is right at times
	}) {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("Row %d of %s is always %q where %q is expected.", row+1, c.Name,
		strings.TrimRight(from, " "), strings.TrimRight(to, " ")), State: InRows(map[string]string{from: to})}}
}

// sameForm is what stands between the numbers of a text where it is always the same wrong thing, in texts of several
// numbers: what one of them tells mends the others.
func sameForm(c *Case) []Size {
	lettered, _ := As[Lettered](c.Geometry)
	var from, to []string
	what := ""
	mends := map[string]bool{}
	for _, p := range c.Pairs {
		want, seen := lettered.Rows(p.On, p.Want), lettered.Rows(p.On, p.Seen)
		for i := range want {
			w, s := strings.TrimRight(want[i], " "), strings.TrimRight(seen[i], " ")
			if w == s {
				continue
			}
			a, b := Number.Split(s, -1), Number.Split(w, -1)
			if len(a) < 2 || slices.Equal(a, b) ||
				!slices.Equal(Number.FindAllString(s, -1), Number.FindAllString(w, -1)) ||
				from != nil && !(slices.Equal(from, a) && slices.Equal(to, b)) {
				return nil
			}
			from, to = a, b
			if mends[s] = true; what == "" {
				what = fmt.Sprintf("%q for %q", s, w)
			}
		}
	}
	if len(mends) < 2 {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("%s writes something else around its numbers, each time: %s.", c.Name, what),
		State: func(t *Track, s State) State {
			rows := lettered.Rows(t, s)
			for i, row := range rows {
				text := strings.TrimRight(row, " ")
				if slices.Equal(Number.Split(text, -1), from) {
					out := to[0]
					for k, n := range Number.FindAllString(text, -1) {
						out += n + to[k+1]
					}
					rows[i] = Fit(out, max(len([]rune(out)), len([]rune(row))))
				}
			}
			return lettered.WithRows(t, s, rows)
		}}}
}

// differs is the one word in which two texts differ, as it is and as it should be; nil where there is not one, or it is
// a number.
func differs(a, b string) *[2]string {
	x, y := strings.Fields(a), strings.Fields(b)
	if len(x) != len(y) {
		return nil
	}
	var out *[2]string
	for i := range x {
		if x[i] == y[i] {
			continue
		}
		if out != nil || Number.MatchString(x[i]) || Number.MatchString(y[i]) {
			return nil
		}
		out = &[2]string{x[i], y[i]}
	}
	return out
}

// withWord is a row of text with a word in the place of another one, as wide as before.
func withWord(row string, rule [2]string) string {
	width := len([]rune(row))
	out := " " + row + " "
	out = strings.ReplaceAll(out, " "+rule[0]+" ", " "+rule[1]+" ")
	text := []rune(strings.TrimRight(out[1:], " "))
	for len(text) < width {
		text = append(text, ' ')
	}
	return string(text[:width])
}
