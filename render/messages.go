package render

import (
	"strings"

	"hemble/core/sheet"
)

// Messages writes what a compiler said, each with the line it is about.
func Messages(st Style, list []sheet.Message) string {
	var b strings.Builder
	for _, m := range list {
		text := m.String()
		switch m.Kind {
		case "error":
			text = st.missed("✗ " + text)
		case "warning":
			text = st.partly("≈ " + text)
		default:
			text = st.second("· " + text)
		}
		b.WriteString(text + "\n")
		if m.Code == "" {
			continue
		}
		code := strings.ReplaceAll(m.Code, "\t", "    ")
		b.WriteString("    " + code + "\n")
		if m.Column > 0 && m.Column <= len(m.Code) {
			at := len([]rune(strings.ReplaceAll(m.Code[:m.Column-1], "\t", "    ")))
			b.WriteString("    " + strings.Repeat(" ", at) + "^\n")
		}
	}
	return b.String()
}
