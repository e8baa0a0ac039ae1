package report

import (
	"fmt"
	"strings"

	"hemble/core/author"
)

// Strength writes which faulty variants of a reference the expectations caught: those that slipped through first, and
// with all the others too.
func Strength(st Style, title string, variants []author.Variant, all bool) string {
	caught := 0
	for _, v := range variants {
		if v.Caught {
			caught++
		}
	}
	var b strings.Builder
	head(&b, st, title, fmt.Sprintf("%d of %d faults caught", caught, len(variants)))
	b.WriteString(strings.Repeat("─", st.Width) + "\n")
	for _, slipped := range []bool{true, false} {
		if !slipped && !all {
			break
		}
		for _, v := range variants {
			if v.Caught == slipped {
				continue
			}
			line := fmt.Sprintf("%-17s %-12s %s", v.Fault, v.Part, v.Makes)
			marks := v.Marks + " / " + v.Of
			line = fit(line, st.Width-len(marks)-4) + "  " + marks
			if slipped {
				b.WriteString(st.missed("✗ "+line) + "\n")
				if v.Add != "" {
					b.WriteString("    " + st.second("to catch it: "+v.Add) + "\n")
				}
			} else {
				b.WriteString(st.met("✓ "+line) + "\n")
			}
		}
	}
	if caught == len(variants) {
		b.WriteString("Nothing slipped through.\n")
	}
	return b.String()
}
