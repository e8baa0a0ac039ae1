package roster

import (
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// token is a run of letters or of digits in a path.
type token struct {
	word       string // as canonical writes it
	digits     bool
	from, to   int  // in the runes of the path, composed and in lower case
	component  int  // which part of the path, from 0
	apart      bool // neither a letter nor a digit stands directly before it, nor a change of case
	apartAfter bool
}

// tokens cuts a text into runs of letters and runs of digits; a capital within a word begins another one.
func tokens(text string) (out []token) {
	r := []rune(norm.NFC.String(text))
	component := 0
	for i := 0; i < len(r); {
		switch {
		case r[i] == '/':
			component++
			i++
		case unicode.IsLetter(r[i]) || unicode.IsMark(r[i]):
			end := i + 1
			for end < len(r) && (unicode.IsLetter(r[end]) || unicode.IsMark(r[end])) &&
				!(unicode.IsUpper(r[end]) && unicode.IsLower(r[end-1])) {
				end++
			}
			out = append(out, token{word: canonical(string(r[i:end])), from: i, to: end, component: component})
			i = end
		case unicode.IsDigit(r[i]):
			end := i + 1
			for end < len(r) && unicode.IsDigit(r[end]) {
				end++
			}
			out = append(out, token{word: string(r[i:end]), digits: true, from: i, to: end, component: component})
			i = end
		default:
			i++
		}
	}
	alphanumeric := func(i int) bool {
		return i >= 0 && i < len(r) &&
			(unicode.IsLetter(r[i]) || unicode.IsDigit(r[i]))
	}
	for i := range out {
		out[i].apart, out[i].apartAfter = !alphanumeric(out[i].from-1), !alphanumeric(out[i].to)
	}
	return out
}

// spelled is how letters are written that have no accent to take away.
var spelled = strings.NewReplacer("ß", "ss", "ø", "o", "œ", "oe", "æ", "ae", "ł", "l", "đ", "d", "ð", "d", "þ", "th",
	"ı", "i")

// folded is how sounds are written in two ways: ü is u without its accent and ue where there are none.
var folded = strings.NewReplacer("ae", "a", "oe", "o", "ue", "u", "ss", "s")

// canonical writes a word in one of its spellings: in lower case, without accents, Mueller as Müller and Muller.
func canonical(word string) string {
	word = spelled.Replace(strings.ToLower(word))
	if plain, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC),
		word); err == nil {
		word = plain
	}
	return folded.Replace(word)
}
