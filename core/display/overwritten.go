package display

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/finding"
)

// overwritten is a row of text that never changes, and that another row stands in the place of.
var overwritten = &Mistake{
	Entry: finding.Entry{Code: "row-overwritten", Price: finding.Wiring, Doc: "one row of text is written over another one",
		Catch: "read every row, not one of them", Subsumes: []finding.Code{"row-empty", "row-address"}},
	Once: true,
	Sizes: func(c *Case) []Size {
		lettered, _ := As[Lettered](c.Geometry)
		var wants, seen [][]string
		for _, p := range c.Pairs {
			wants = append(wants, lettered.Rows(p.On, p.Want))
			if seen = append(seen, lettered.Rows(p.On, p.Seen)); len(wants[0]) != len(seen[0]) || !p.Wrong {
				return nil
			}
		}
		if len(seen) < 2 || len(wants[0]) < 2 {
			return nil
		}
		for fixed := range wants[0] {
			for other := range wants[0] {
				if text := wants[0][fixed]; fixed != other && stands(wants, seen, fixed, other) {
					return []Size{{Text: fmt.Sprintf("%s shows %s where %s should stand, and nothing in its own row: %[3]s is written over, or never written.",
						c.Name, Quoted(strings.TrimSpace(seen[0][fixed])), Quoted(strings.TrimSpace(text))),
						State: func(t *Track, s State) State {
							rows := slices.Clone(lettered.Rows(t, s))
							if strings.TrimSpace(rows[fixed]) == "" || strings.TrimSpace(rows[other]) != "" {
								return s
							}
							rows[fixed], rows[other] = text, without(rows[fixed], text)
							return lettered.WithRows(t, s, rows)
						}}}
				}
			}
		}
		return nil
	},
}

// stands reports whether a row that should always be the same has what belongs in another one, which is empty.
func stands(wants, seen [][]string, fixed, other int) bool {
	changes := false
	for i, w := range wants {
		text := strings.TrimSpace(w[other])
		if w[fixed] != wants[0][fixed] || strings.TrimSpace(w[fixed]) == "" || text == "" ||
			strings.TrimSpace(seen[i][other]) != "" || strings.TrimSpace(without(seen[i][fixed], w[fixed])) != text {
			return false
		}
		changes = changes || w[other] != wants[0][other]
	}
	return changes
}

// without is a row without what is left at its end of a text that it was written over.
func without(row, under string) string {
	r, u := []rune(row), []rune(under)
	for i := min(len(r), len(u)) - 1; i >= 0 && (r[i] == u[i] || r[i] == ' '); i-- {
		r[i] = ' '
	}
	return string(r)
}
