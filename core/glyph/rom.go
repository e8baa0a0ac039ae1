package glyph

import (
	_ "embed"
	"strings"
)

// Dots is a character cell: eight rows of five dots, the leftmost dot in bit 4.
type Dots [8]uint8

//go:embed font.txt
var fontText string

// font is drawn by hand for the characters of ROM code A00 (Hitachi HD44780U datasheet, table 4). Where a
// code shows something other than its ASCII character, it is drawn so: 0x5C is a yen sign, 0x7E and 0x7F are
// arrows, 0xDF is a degree sign, 0xFF a full block. In the file each block of characters is a line of their
// names and eight rows of dots.
var font = readFont(fontText)

// named are the codes of characters whose name in the file is not their ASCII character or katakana. The full-width
// letters stand for the ones with descenders.
var named = map[rune]byte{'°': 0xdf, '÷': 0xfd, 'Ω': 0xf4, '█': 0xff, '␡': 0x7f, 'α': 0xe0, 'ä': 0xe1, 'ß': 0xe2,
	'ε': 0xe3, 'µ': 0xe4,
	'σ': 0xe5, 'ρ': 0xe6, 'ｇ': 0xe7, '√': 0xe8, '⁻': 0xe9, 'ｊ': 0xea, 'ˣ': 0xeb, '¢': 0xec, '£': 0xed, 'ñ': 0xee,
	'ö': 0xef, 'ｐ': 0xf0,
	'ｑ': 0xf1, 'θ': 0xf2, '∞': 0xf3, 'ü': 0xf5, 'Σ': 0xf6, 'π': 0xf7, 'ｘ': 0xf8, 'ｙ': 0xf9, '千': 0xfa, '万': 0xfb,
	'円': 0xfc}

// Half-width katakana are in the ROM in the order of JIS X 0201, and so of Unicode.
const (
	firstKana     = 0xa1
	firstKanaRune = 0xff61
	lastKanaRune  = 0xff9f
)

func readFont(text string) map[byte]Dots {
	const rows = len(Dots{})
	m := map[byte]Dots{}
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	for i := 0; i+rows < len(lines); i += rows + 1 {
		for k, r := range []rune(lines[i]) {
			code, ok := named[r]
			switch {
			case ok:
			case r >= firstKanaRune && r <= lastKanaRune:
				code = firstKana + byte(r-firstKanaRune)
			default:
				code = byte(r)
			}
			var d Dots
			for row := range d {
				for dot, c := range strings.Fields(lines[i+1+row])[k] {
					if c == '#' {
						d[row] |= 0x10 >> dot
					}
				}
			}
			m[code] = d
		}
	}
	return m
}

// ROM gives the dots of a character code; those that the ROM leaves out are blank.
func ROM(code byte) Dots { return font[code] }

// shown is how people read a code of the ROM where that is not its ASCII character or katakana.
var shown = func() map[byte]rune {
	m := map[byte]rune{0x5c: '¥', 0x7e: '→', 0x7f: '←', 0xa5: '·'}
	for r, code := range named {
		m[code] = r
	}
	m[0x7f] = '←'
	for code, r := range map[byte]rune{0xe7: 'g', 0xea: 'j', 0xf0: 'p', 0xf1: 'q', 0xf8: 'x', 0xf9: 'y'} {
		m[code] = r
	}
	return m
}()

// Rune is how a character code reads: as the ROM shows it, not as the program may have meant it.
func Rune(code byte) rune { return runes[code] }

// runes are those of all codes.
var runes = func() (out [256]rune) {
	for i := range out {
		code := byte(i)
		out[i] = ' '
		switch r, ok := shown[code]; {
		case ok:
			out[i] = r
		case code >= 0x20 && code < 0x7e:
			out[i] = rune(code)
		case code >= firstKana && code < 0xe0:
			out[i] = firstKanaRune + rune(code-firstKana)
		}
	}
	return out
}()

// Code gives the character code that shows a rune, if one does.
func Code(r rune) (byte, bool) {
	if r >= 0x20 && r < 0x7e && r != '\\' {
		return byte(r), true
	}
	if r >= firstKanaRune && r <= lastKanaRune {
		return firstKana + byte(r-firstKanaRune), true
	}
	for code, s := range shown {
		if s == r {
			return code, true
		}
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
