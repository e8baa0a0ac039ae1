package glyph

import (
	"fmt"
	"strconv"
	"strings"
	"sync"
)

// codes are those of the ROM by how they are drawn; of codes that look the same the first.
var codes = sync.OnceValue(func() map[Dots]byte {
	out := map[Dots]byte{}
	for code := 0xff; code >= ' '; code-- {
		if r := Rune(byte(code)); r != ' ' || code == ' ' {
			out[font[byte(code)]] = byte(code)
		}
	}
	return out
})

// Drawn gives the code of the ROM that is drawn with some dots, if there is one: a custom character with those reads
// the same.
func Drawn(dots Dots) (byte, bool) {
	code, ok := codes()[dots]
	return code, ok
}

// ReadDots reads a character of 5 × 8 dots from rows of # and dots; rows that are not given are dark.
func ReadDots(rows []string) (out Dots, err error) {
	if len(rows) == 0 || len(rows) > len(out) {
		return out, fmt.Errorf("%d rows: a character has 1 to %d", len(rows), len(out))
	}
	for y, row := range rows {
		if len(row) > 5 {
			return out, fmt.Errorf("%q has %d dots: a row of a character has 5", row, len(row))
		}
		for x, r := range row {
			switch r {
			case '#':
				out[y] |= 1 << (4 - x)
			case '.':
			default:
				return out, fmt.Errorf("%q is no dot; write # for lit and . for dark", r)
			}
		}
	}
	return out, nil
}

// HexRows writes rows of dots as a table in a program has them: a hexadecimal number for each, its rightmost dot the
// lowest bit.
func HexRows(rows []string) string {
	var out []string
	for _, row := range rows {
		digits := ""
		for end := len(row); end > 0; end -= 4 {
			n := 0
			for i := max(0, end-4); i < end; i++ {
				if n <<= 1; row[i] == '#' {
					n++
				}
			}
			digits = strconv.FormatInt(int64(n), 16) + digits
		}
		out = append(out, digits)
	}
	return strings.Join(out, " ")
}
