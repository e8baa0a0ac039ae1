package render

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/author"
	"hemble/core/display"
	"hemble/core/finding"
)

// variants are those of one fault of one part that came out alike.
type variants struct {
	author.Variant
	makes []string
	count int
}

// Strength writes which faulty variants of a reference the expectations caught: those that slipped through first, and
// with all the others too, those of one fault together.
func Strength(st Style, title string, tried []author.Variant, all bool) string {
	caught := 0
	var groups []variants
	for _, v := range tried {
		if v.Caught {
			caught++
		}
		i := slices.IndexFunc(groups,
			func(g variants) bool { return g.Fault == v.Fault && g.Part == v.Part && g.Caught == v.Caught })
		if i < 0 {
			i = len(groups)
			groups = append(groups, variants{Variant: v})
		}
		g := &groups[i]
		if g.count++; !slices.Contains(g.makes, v.Effect) {
			g.makes = append(g.makes, v.Effect)
		}
	}
	var b strings.Builder
	head(&b, st, title, fmt.Sprintf("%d of %d faults caught", caught, len(tried)))
	b.WriteString(strings.Repeat("─", st.Width) + "\n")
	for _, slipped := range []bool{true, false} {
		for _, g := range groups {
			if g.Caught == slipped || !slipped && !all {
				continue
			}
			line := fmt.Sprintf("%-17s %-10s %3d × %s", g.Fault, g.Part, g.count, g.makes[0])
			if n := len(g.makes) - 1; n > 0 && !slipped {
				line += fmt.Sprintf(", and %d more", n)
			}
			if !slipped {
				b.WriteString(st.met(strings.TrimRight(display.Fit("✓ "+line, st.Width), " ")) + "\n")
				continue
			}
			b.WriteString(st.missed(strings.TrimRight(display.Fit("✗ "+line, st.Width), " ")) + "\n")
			for _, m := range g.makes[1:] {
				b.WriteString(strings.TrimRight(display.Fit(strings.Repeat(" ", 38)+m, st.Width), " ") + "\n")
			}
			if g.Add != "" {
				b.WriteString("    " + st.second("→ "+g.Add) + "\n")
			}
		}
	}
	if caught == len(tried) {
		b.WriteString("Nothing slipped through.\n")
	}
	given(&b, st, tried)
	return b.String()
}

// given writes the marks that a program with one such mistake would get, from the least on.
func given(b *strings.Builder, st Style, tried []author.Variant) {
	type row struct {
		fault       string
		least, most float64
	}
	var rows []row
	for _, v := range tried {
		marks, err := strconv.ParseFloat(v.Marks, 64)
		if err != nil || !v.Caught {
			continue
		}
		i := slices.IndexFunc(rows, func(r row) bool { return r.fault == v.Fault })
		if i < 0 {
			i = len(rows)
			rows = append(rows, row{v.Fault, marks, marks})
		}
		rows[i].least, rows[i].most = min(rows[i].least, marks), max(rows[i].most, marks)
	}
	if len(rows) == 0 {
		return
	}
	slices.SortStableFunc(rows, func(a, b row) int { return cmp.Compare(a.least, b.least) })
	b.WriteString("\n" + st.title("What one such mistake leaves, of "+strings.TrimSuffix(tried[0].Of, ".0")) + "\n")
	for _, r := range rows {
		marks := fmt.Sprintf("%g", r.least)
		if r.most > r.least {
			marks += fmt.Sprintf(" to %g", r.most)
		}
		line := fmt.Sprintf("  %-17s %-12s %s", r.fault, marks, finding.Of(finding.Code(r.fault)).Doc)
		b.WriteString(strings.TrimRight(display.Fit(line, st.Width), " ") + "\n")
	}
}
