// Package glyph has the shapes of symbols: seven-segment patterns and their usual variants, the character ROM of
// HD44780 displays, and the distance between two patterns. Patterns are compared as patterns, never as decoded
// letters.
package glyph

import (
	"math/bits"
	"strings"
)

// Pattern is a set of lit segments: a is bit 0, g bit 6, dp bit 7.
type Pattern uint8

// Segments names the bits of a Pattern in order.
var Segments = [8]string{"a", "b", "c", "d", "e", "f", "g", "dp"}

// DP is the decimal point.
const DP Pattern = 1 << 7

func segments(names string) (p Pattern) {
	for _, n := range names {
		p |= 1 << (n - 'a')
	}
	return p
}

// seven lists each symbol's usual pattern first, then the variants in use.
var seven = map[rune][]Pattern{
	'0': {segments("abcdef")},
	'1': {segments("bc"), segments("ef")},
	'2': {segments("abdeg")},
	'3': {segments("abcdg")},
	'4': {segments("bcfg")},
	'5': {segments("acdfg")},
	'6': {segments("acdefg"), segments("cdefg")},
	'7': {segments("abc"), segments("abcf")},
	'8': {segments("abcdefg")},
	'9': {segments("abcdfg"), segments("abcfg")},
	'-': {segments("g")},
	'_': {segments("d")},
	'=': {segments("dg")},
	' ': {0},
	'A': {segments("abcefg")},
	'a': {segments("abcdeg")},
	'b': {segments("cdefg")},
	'C': {segments("adef")},
	'c': {segments("deg")},
	'd': {segments("bcdeg")},
	'E': {segments("adefg")},
	'F': {segments("aefg")},
	'G': {segments("acdef")},
	'H': {segments("bcefg")},
	'h': {segments("cefg")},
	'I': {segments("bc"), segments("ef")},
	'i': {segments("c"), segments("e")},
	'J': {segments("bcde"), segments("bcd")},
	'L': {segments("def")},
	'l': {segments("ef"), segments("bc")},
	'N': {segments("abcef")},
	'n': {segments("ceg")},
	'O': {segments("abcdef")},
	'o': {segments("cdeg")},
	'P': {segments("abefg")},
	'q': {segments("abcfg")},
	'r': {segments("eg")},
	'S': {segments("acdfg")},
	't': {segments("defg")},
	'U': {segments("bcdef")},
	'u': {segments("cde")},
	'y': {segments("bcdfg")},
	'Z': {segments("abdeg")},
	'°': {segments("abfg")},
}

// fallback maps letters to the case that a digit can show.
func fallback(symbol rune) rune {
	for _, other := range []rune{symbol ^ 0x20} {
		if symbol < 128 && len(seven[other]) > 0 {
			return other
		}
	}
	return symbol
}

// Seven gives the patterns that show a symbol, the usual one first; none when a digit cannot.
func Seven(symbol rune) []Pattern {
	if p := seven[symbol]; p != nil {
		return p
	}
	return seven[fallback(symbol)]
}

// Want is one digit as an exercise writes it.
type Want struct {
	Symbol rune    // 0 when given as segments
	Usual  Pattern // with DP where wanted
	Others []Pattern
}

// ParseSeven reads the text of one digit: a symbol and perhaps a point.
func ParseSeven(text string) (Want, bool) {
	dp := Pattern(0)
	body := text
	if strings.HasSuffix(body, ".") {
		dp, body = DP, strings.TrimSuffix(body, ".")
	}
	if body == "" {
		body = " "
	}
	runes := []rune(body)
	if len(runes) != 1 || Seven(runes[0]) == nil {
		return Want{}, false
	}
	patterns := Seven(runes[0])
	w := Want{Symbol: runes[0], Usual: patterns[0] | dp}
	for _, p := range patterns[1:] {
		w.Others = append(w.Others, p|dp)
	}
	return w, true
}

// Shows reports whether a pattern shows the wanted digit. A variant is accepted unless strict, and
// never where it is the usual pattern of another symbol that the same exercise uses.
func (w Want) Shows(p Pattern, strict bool, used []Want) bool {
	if p == w.Usual {
		return true
	}
	if strict {
		return false
	}
	for _, o := range w.Others {
		if p == o {
			for _, u := range used {
				if u.Usual&^DP == p&^DP && u.Usual&^DP != w.Usual&^DP {
					return false
				}
			}
			return true
		}
	}
	return false
}

// Distance is how many segments two patterns differ in.
func Distance(a, b Pattern) int { return bits.OnesCount8(uint8(a ^ b)) }

var names = func() map[Pattern]string {
	m := map[Pattern]string{}
	for _, s := range "0123456789AbCcdEFHhLnoPrtUu-_= yGJ" {
		if _, taken := m[seven[s][0]]; !taken {
			m[seven[s][0]] = string(s)
		}
	}
	for _, s := range "0123456789" {
		for _, p := range seven[s][1:] {
			if _, taken := m[p]; !taken {
				m[p] = string(s)
			}
		}
	}
	return m
}()

// Symbol names a pattern for people: the symbol it shows, or "?" for none.
func (p Pattern) Symbol() string { return symbols[p] }

// symbols are those of all patterns.
var symbols = func() (out [256]string) {
	for i := range out {
		p := Pattern(i)
		s, ok := names[p&^DP]
		if !ok {
			s = "?"
		}
		if p&DP != 0 {
			s += "."
		}
		out[i] = s
	}
	return out
}()

// String tells a pattern in words: `"2"`, "blank" or "segments a d g".
func (p Pattern) String() string {
	if p == 0 {
		return "blank"
	}
	if s, ok := names[p&^DP]; ok && s != " " {
		return p.Symbol()
	}
	return "segments " + p.Lit()
}

// Lit lists the lit segments.
func (p Pattern) Lit() string {
	var lit []string
	for i, n := range Segments {
		if p>>i&1 == 1 {
			lit = append(lit, n)
		}
	}
	return strings.Join(lit, " ")
}

// ParseSegments reads a list of segment names.
func ParseSegments(list []string) (p Pattern, bad string) {
	for _, name := range list {
		found := false
		for i, n := range Segments {
			if n == name {
				p |= 1 << i
				found = true
			}
		}
		if !found {
			return p, name
		}
	}
	return p, ""
}

// Display is the patterns of several digits, from the left.
type Display []Pattern

// Digits splits the lit lights of a display of n digits, eight to each.
func Digits(bits uint64, n int) (d Display) {
	for i := 0; i < n; i++ {
		d = append(d, Pattern(bits>>(8*i)))
	}
	return d
}

// Symbols names each pattern for people, one after another: " 12.5", with "?" for none. Beside a letter
// that no number has, 0 and 5 are the letters that look like them: "OPEn", "SHUt".
func (d Display) Symbols() string {
	var b strings.Builder
	word := false
	for _, p := range d {
		s := p.Symbol()
		word = word || strings.ContainsAny(s, "HhLnoPrtUuyGJ")
		b.WriteString(s)
	}
	if word {
		return asLetters.Replace(b.String())
	}
	return b.String()
}

var asLetters = strings.NewReplacer("0", "O", "5", "S")

// String tells a display in words: the segments, where one digit shows no symbol.
func (d Display) String() string {
	blank := true
	for _, p := range d {
		blank = blank && p == 0
	}
	switch {
	case blank:
		return "blank"
	case len(d) == 1:
		return d[0].String()
	}
	return `"` + d.Symbols() + `"`
}
