package similarity

import (
	"hash/fnv"
	"path"
	"strings"
	"unicode"
	"unicode/utf8"

	"hemble/core/firmware"
	"hemble/core/script"
)

// words gives the words of a script in the order of its files. What is equal of two of them does not depend on what
// variables are called, on numbers, texts, comments or layout: keywords and signs stay what they are, and so do names
// after a point, which are mostly those of modules.
func words(im *firmware.Image) (out []instruction) {
	for number, name := range im.Script.Names() {
		s := scanner{rest: im.Script.Files[name], c: path.Ext(name) != ".py", line: 1}
		for word := s.next(); word != ""; word = s.next() {
			h := fnv.New32a()
			h.Write([]byte(word))
			out = append(out, instruction{script.Address(number, s.at), h.Sum32(), false})
		}
	}
	return out
}

// scanner takes the text of a script apart.
type scanner struct {
	rest  string
	c     bool // it is C, else Python
	line  int
	at    int  // the line of the word that was found last
	point bool // that was a point
}

// keywords of both languages stay what they are.
var keywords = func() map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(`and as assert async await break class continue def del elif else except finally for from
		global if import in is lambda nonlocal not or pass raise return try while with yield True False None
		case char const default do double enum extern float goto int long short signed sizeof static struct switch typedef union
		unsigned void volatile bool uint8_t uint16_t uint32_t include define`) {
		out[w] = true
	}
	return out
}()

// next is the next word in its general form; "" at the end.
func (s *scanner) next() string {
	s.skip()
	s.at = s.line
	if s.rest == "" {
		return ""
	}
	after := s.point
	s.point = false
	r, size := utf8.DecodeRuneInString(s.rest)
	switch {
	case r == '"' || r == '\'':
		s.quoted()
		return "text"
	case unicode.IsDigit(r):
		s.while(func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' || r == '.' })
		return "number"
	case unicode.IsLetter(r) || r == '_':
		switch word := s.while(func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' }); {
		case after, keywords[word]:
			return word
		case strings.HasPrefix(s.rest, "(") && s.c: // functions are the modules of C
			return word
		}
		return "name"
	}
	s.point = r == '.'
	s.rest = s.rest[size:]
	return string(r)
}

func (s *scanner) while(in func(rune) bool) string {
	end := strings.IndexFunc(s.rest, func(r rune) bool { return !in(r) })
	if end < 0 {
		end = len(s.rest)
	}
	word := s.rest[:end]
	s.rest = s.rest[end:]
	return word
}

// pass goes on by some bytes.
func (s *scanner) pass(n int) {
	s.line += strings.Count(s.rest[:n], "\n")
	s.rest = s.rest[n:]
}

// until goes on behind a mark, or to the end.
func (s *scanner) until(mark string) {
	if at := strings.Index(s.rest, mark); at >= 0 {
		s.pass(at + len(mark))
	} else {
		s.pass(len(s.rest))
	}
}

// skip goes on behind spaces and comments.
func (s *scanner) skip() {
	for {
		s.pass(len(s.rest) - len(strings.TrimLeftFunc(s.rest, unicode.IsSpace)))
		switch {
		case !s.c && strings.HasPrefix(s.rest, "#"), s.c && strings.HasPrefix(s.rest, "//"):
			s.until("\n")
		case s.c && strings.HasPrefix(s.rest, "/*"):
			s.until("*/")
		default:
			return
		}
	}
}

// quoted goes on behind a text in quotation marks.
func (s *scanner) quoted() {
	mark := s.rest[:1]
	if three := strings.Repeat(mark, 3); !s.c && strings.HasPrefix(s.rest, three) {
		mark = three
	}
	s.pass(len(mark))
	for s.rest != "" {
		switch {
		case strings.HasPrefix(s.rest, mark):
			s.pass(len(mark))
			return
		case s.rest[0] == '\\' && len(s.rest) > 1:
			s.pass(2)
		case s.rest[0] == '\n' && len(mark) == 1: // it has no end
			return
		default:
			s.pass(1)
		}
	}
}
