package display

import (
	"fmt"
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
			return nil
		}
		how := "otherwise than asked"
		if only {
			how = "with other capitals or spaces than asked"
		}
		return []Size{{Text: fmt.Sprintf("%s writes its text %s: %s.", c.Name, how, what), State: InRows(meant)}}
	},
}

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
	if strings.Join(Number.FindAllString(a, -1), " ") != strings.Join(Number.FindAllString(b, -1), " ") {
		return false
	}
	once := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	x, y := once(a), once(b)
	return levenshtein.ComputeDistance(x, y)*4 <= max(len([]rune(x)), len([]rune(y)))
}
