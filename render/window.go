package render

import (
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"hemble/core/bench"
)

// Window prints the moments of a stretch of a run: time and step in µs, what changed, and where in the program.
func Window(out io.Writer, st Style, w *bench.Window) error {
	w.Finish()
	var b strings.Builder
	b.WriteString(st.second(fmt.Sprintf("%16s %14s", "time in µs", "step")) + "  nets; displays as driven\n")
	before := w.From
	for i, r := range w.Moments {
		step := ""
		if i > 0 {
			step = "+" + micro(r.At-before)
		}
		before = r.At
		var parts []string
		for _, name := range slices.Sorted(maps.Keys(r.Nets)) {
			parts = append(parts, name+" "+r.Nets[name])
		}
		line := strings.Join(parts, ", ")
		for _, name := range slices.Sorted(maps.Keys(r.Displays)) {
			line += "   " + st.title(name+" "+r.Displays[name])
		}
		if r.Source != "" {
			line += "   " + st.second(r.Source)
		}
		fmt.Fprintf(&b, "%15s %14s  %s\n", micro(r.At), step, strings.TrimSpace(line))
	}
	if w.Left() > 0 {
		fmt.Fprintf(&b, "… and %d moments more; look at a shorter window\n", w.Left())
	}
	_, err := io.WriteString(out, b.String())
	return err
}
