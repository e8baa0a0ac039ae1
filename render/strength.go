package render

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/author"
	"hemble/core/display"
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
	return b.String()
}
