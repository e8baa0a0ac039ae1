package display

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Number finds the numbers of a text.
var Number = regexp.MustCompile(`[0-9]+`)

// signed finds them with the sign that may stand before them.
var signed = regexp.MustCompile(`-?[0-9]+`)

// Unnumbered is the text of rows without its numbers.
func Unnumbered(rows []string) string {
	return strings.Join(strings.Fields(Number.ReplaceAllString(strings.Join(rows, " "), "")), " ")
}

// Decimal finds those that are counted with, of which one with a point is one number.
var Decimal = regexp.MustCompile(`[0-9]+(?:\.[0-9]+)?`)

// NumberIn reads the nth number of rows of text, counted from 0, in units of its last place; ok is false where there is
// none.
func NumberIn(rows []string, nth int) (n int, ok bool) {
	all := Decimal.FindAllString(strings.Join(rows, "\n"), nth+1)
	if len(all) <= nth {
		return 0, false
	}
	n, err := strconv.Atoi(strings.ReplaceAll(all[nth], ".", ""))
	return n, err == nil
}

// Renumbered puts another number in the place of the nth one: with as many places behind its point, as wide as that
// where it had leading zeros, and up to the same column where spaces before it say that it stands at the right.
func Renumbered(rows []string, nth, n int) []string {
	text := strings.Join(rows, "\n")
	all := Decimal.FindAllStringIndex(text, nth+1)
	if len(all) <= nth {
		return rows
	}
	from, to := all[nth][0], all[nth][1]
	whole, behind, _ := strings.Cut(text[from:to], ".")
	number := fmt.Sprintf("%0*d", len(behind)+1, n)
	if whole[0] == '0' && (len(whole) > 1 || behind == "") {
		number = fmt.Sprintf("%0*d", len(whole)+len(behind), n)
	}
	if behind != "" {
		number = number[:len(number)-len(behind)] + "." + number[len(number)-len(behind):]
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
