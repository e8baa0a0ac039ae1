package display

import (
	"fmt"
	"strings"
)

// Plural counts things in words: 1 row, 2 rows.
func Plural(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

// Quoted writes a text as a YAML scalar in double quotes.
func Quoted(text string) string { return `"` + quotes.Replace(text) + `"` }

var quotes = strings.NewReplacer(`\`, `\\`, `"`, `\"`)

// QuotedList writes texts as the items of a YAML list.
func QuotedList(rows []string) string {
	out := make([]string, len(rows))
	for i, r := range rows {
		out[i] = Quoted(r)
	}
	return strings.Join(out, ", ")
}

// Rows tells rows of text, blank for none at all.
func Rows(rows []string) string {
	blank := true
	out := make([]string, len(rows))
	for i, r := range rows {
		blank = blank && strings.TrimSpace(r) == ""
		out[i] = `"` + r + `"`
	}
	if blank {
		return "blank"
	}
	return strings.Join(out, " / ")
}

// Fit cuts or pads a text to a width in characters.
func Fit(s string, width int) string {
	r := []rune(s)
	if len(r) > width {
		return string(r[:width-1]) + "…"
	}
	return s + strings.Repeat(" ", width-len(r))
}

// Width is that of the longest line, in characters.
func Width(lines []string) (w int) {
	for _, l := range lines {
		w = max(w, len([]rune(l)))
	}
	return w
}

// SameText reports whether rows of text are the same but for spaces, rows, capitals, and zeros before a number. Figures
// that spaces set apart are other numbers.
func SameText(a, b []string) bool { return squeezed(a) == squeezed(b) }

// squeezed is text without spaces, but for those between two figures, and without zeros before numbers.
func squeezed(rows []string) string {
	out := ""
	for _, w := range strings.Fields(strings.ToLower(strings.Join(rows, " "))) {
		if out != "" && figure(out, len(out)-1) && figure(w, 0) {
			out += " "
		}
		out += w
	}
	return unpadded(out, "")
}

func figure(s string, at int) bool { return s[at] >= '0' && s[at] <= '9' }

// unpadded is a text with something else for each zero before a number, or before the seconds of a time, not for those
// behind a decimal point.
func unpadded(s, filler string) string {
	var out strings.Builder
	number := false // of which there was more than zeros
	for i := range len(s) {
		if s[i] == '0' && !number && i+1 < len(s) && figure(s, i+1) {
			out.WriteString(filler)
			continue
		}
		out.WriteByte(s[i])
		number = figure(s, i) || s[i] == '.' || s[i] == ','
	}
	return out.String()
}
