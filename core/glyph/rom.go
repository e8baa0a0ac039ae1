package glyph

import (
	_ "embed"
	"strings"
)

// Dots is a character cell: eight rows of five dots, the leftmost dot in bit 4.
type Dots [8]uint8

//go:embed font.txt
var fontText string

// font is drawn by hand for the characters of ROM code A00 that exercises use (Hitachi HD44780U
// datasheet, table 4: where a code shows something other than its ASCII character, it is drawn so:
// 0x5C is a yen sign, 0x7E and 0x7F are arrows, 0xDF is a degree sign, 0xFF a full block).
var font = readFont(fontText)

var extra = map[rune]byte{'°': 0xdf, '÷': 0xfd, 'Ω': 0xf4, '█': 0xff, '␡': 0x7f}

func readFont(text string) map[byte]Dots {
	m := map[byte]Dots{}
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	for i := 0; i+7 < len(lines); i += 8 {
		for k, r := range []rune(lines[i]) {
			code, special := extra[r]
			if !special {
				code = byte(r)
			}
			var d Dots
			for row := 0; row < 7; row++ {
				for dot, c := range strings.Fields(lines[i+1+row])[k] {
					if c == '#' {
						d[row] |= 0x10 >> dot
					}
				}
			}
			if code == 0xff {
				d[7] = 0x1f
			}
			m[code] = d
		}
	}
	return m
}

// ROM gives the dots of a character code. Codes that are not drawn yet show as a hollow box.
func ROM(code byte) Dots {
	if d, ok := font[code]; ok {
		return d
	}
	if code >= 0x80 && code < 0xa1 || code == 0x10 {
		return Dots{} // unassigned codes are blank
	}
	return Dots{0x1f, 0x11, 0x11, 0x11, 0x11, 0x11, 0x1f}
}

// shown is how people read a code of the ROM where that is not its ASCII character.
var shown = map[byte]rune{0x5c: '¥', 0x7e: '→', 0x7f: '←', 0xdf: '°', 0xfd: '÷', 0xf4: 'Ω', 0xff: '█', 0xe4: 'µ', 0xe0: 'α', 0xe1: 'ä', 0xe2: 'ß', 0xef: 'ö', 0xf5: 'ü', 0xf7: 'π', 0xa5: '·', 0xb0: '-'}

// Rune is how a character code reads: as the ROM shows it, not as the program may have meant it.
func Rune(code byte) rune {
	if r, ok := shown[code]; ok {
		return r
	}
	switch {
	case code >= 0x20 && code < 0x7e:
		return rune(code)
	case code >= 0xa1:
		return 0xff61 + rune(code-0xa1) // half-width katakana, in the order of JIS X 0201
	}
	return ' '
}

// Code gives the character code that shows a rune, if one does.
func Code(r rune) (byte, bool) {
	for code, s := range shown {
		if s == r && code != 0xb0 {
			return code, true
		}
	}
	if r >= 0x20 && r < 0x7e && r != '\\' {
		return byte(r), true
	}
	return 0, false
}

// Table gives the dots of all 256 codes, as numbers for those who draw.
func Table() (table [256][8]int) {
	for code := range table {
		for row, dots := range ROM(byte(code)) {
			table[code][row] = int(dots)
		}
	}
	return table
}
