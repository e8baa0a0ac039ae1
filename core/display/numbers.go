package display

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Number finds the numbers of a text.
var Number = regexp.MustCompile(`[0-9]+`)

// NumberIn reads the nth number of rows of text, counted from 0; ok is false where there is none.
func NumberIn(rows []string, nth int) (n int, ok bool) {
	all := Number.FindAllString(strings.Join(rows, "\n"), nth+1)
	if len(all) <= nth {
		return 0, false
	}
	n, err := strconv.Atoi(all[nth])
	return n, err == nil
}

// Renumbered puts another number in the place of the nth one: as wide as that where it had leading zeros, and up to
// the same column where spaces before it say that it stands at the right.
func Renumbered(rows []string, nth, n int) []string {
	text := strings.Join(rows, "\n")
	all := Number.FindAllStringIndex(text, nth+1)
	if len(all) <= nth {
		return rows
	}
	from, to := all[nth][0], all[nth][1]
	number := strconv.Itoa(n)
	if text[from] == '0' {
		number = fmt.Sprintf("%0*d", to-from, n)
	}
	before := text[:from]
	if strings.HasSuffix(before, "  ") {
		for len(number) > to-len(before) && strings.HasSuffix(before, "  ") {
			before = before[:len(before)-1]
		}
		number = fmt.Sprintf("%*s", to-len(before), number)
	}
	return strings.Split(before+number+text[to:], "\n")
}
