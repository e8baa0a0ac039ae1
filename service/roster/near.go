package roster

import (
	"strings"
	"unicode"

	"github.com/agnivade/levenshtein"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// words gives the words of a name or a path, in lower case and without accents.
func words(s string) []string {
	plain, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), s)
	if err != nil {
		plain = s
	}
	return strings.FieldsFunc(strings.ToLower(plain), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// likeness of two words, 0 to 1.
func likeness(a, b string) float64 {
	n := max(len([]rune(a)), len([]rune(b)))
	return 1 - float64(levenshtein.ComputeDistance(a, b))/float64(n)
}

// What a near name is: how like its words are on the whole, and by how much more than the next student's.
const (
	nearEnough = 0.7
	clearBy    = 0.1
)

// near finds the student whose name is nearest to words of a path. The longer words of a name say more; an initial says
// next to nothing.
func (m *Matcher) near(in []string) Match {
	best, next, whose := 0.0, 0.0, -1
	for i, name := range m.names {
		var like, weight float64
		for _, w := range name {
			if len(w) < 2 {
				continue
			}
			closest := 0.0
			for _, p := range in {
				if len(p) > 1 {
					closest = max(closest, likeness(w, p))
				}
			}
			like, weight = like+closest*float64(len(w)), weight+float64(len(w))
		}
		if weight == 0 {
			continue
		}
		switch like /= weight; {
		case like > best:
			best, next, whose = like, best, i
		case like > next:
			next = like
		}
	}
	if whose < 0 || best < nearEnough || best-next < clearBy {
		return Nobody
	}
	return Match{m.students[whose].Login, "near name", false}
}
