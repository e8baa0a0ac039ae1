// Package style checks the sources for habits that no formatter knows.
package style

import (
	"regexp"
	"strings"
	"unicode/utf8"
)

// widest is how many columns a line may have, a tab taking four of them.
const widest = 120

var strung = regexp.MustCompile("\"(?:\\\\.|[^\"\\\\])*\"|`[^`]*`")

// long lists the lines of a Go file that are too wide, counted from 1. What is in a string is not broken up: it may
// be as long as it is.
func long(text string) (out []int) {
	raw := false
	for i, line := range strings.Split(text, "\n") {
		inside := raw
		if strings.Count(line, "`")%2 == 1 {
			raw = !raw
		}
		line = strings.ReplaceAll(line, "\t", "    ")
		if utf8.RuneCountInString(line) <= widest || inside || raw {
			continue
		}
		if rest := strung.ReplaceAllString(line, `""`); rest == line || utf8.RuneCountInString(rest) > widest {
			out = append(out, i+1)
		}
	}
	return out
}
