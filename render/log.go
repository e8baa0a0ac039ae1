package render

import (
	"fmt"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/reel"
)

// Log writes what went over buses and serial lines, an entry a line: when, where, what, and the bytes both as
// numbers and as characters.
func Log(st Style, r *reel.Reel) string {
	var b strings.Builder
	b.WriteString(st.title("Buses · "+r.Trial) + "\n")
	if len(r.Log) == 0 {
		b.WriteString("  nothing went over a bus\n")
	}
	wide := 0
	for _, e := range r.Log {
		wide = max(wide, len([]rune(e.Part)))
	}
	for _, e := range r.Log {
		b.WriteString("  " + st.second(fmt.Sprintf("%12.6f s", e.At.Seconds())) + "  " + display.Fit(e.Part,
			wide) + "  " + Entry(e) + "\n")
	}
	if r.Unlogged > 0 {
		fmt.Fprintf(&b, "  … and %d more that did not fit the log\n", r.Unlogged)
	}
	return b.String()
}

// Entry tells one entry of a log: what happened, and its bytes.
func Entry(e reel.Entry) string {
	if len(e.Data) == 0 {
		return e.What
	}
	var numbers, characters strings.Builder
	for _, v := range e.Data {
		fmt.Fprintf(&numbers, " %02X", v)
		switch {
		case v >= ' ' && v <= '~':
			characters.WriteByte(byte(v))
		default:
			characters.WriteRune('·')
		}
	}
	out := e.What + numbers.String()
	if strings.Trim(characters.String(), "·") != "" {
		out += "  " + characters.String()
	}
	return out
}

// micro writes a time in µs with the digits that a cycle needs.
func micro(t clock.Time) string {
	return fmt.Sprintf("%.4f", float64(t)/float64(clock.Microsecond))
}
