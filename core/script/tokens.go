package script

import (
	"path"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Kind is what sort of word a token is.
type Kind uint8

// The kinds.
const (
	End     Kind = iota // there is nothing more
	Name                // of a variable, a function, a module
	Keyword             // of the language
	Number              // as it is written, without a sign
	Text                // in quotation marks, with them and what stands before them
	Sign                // an operator, a bracket, a comma
)

// Token is a word of a program.
type Token struct {
	Kind Kind
	Word string
	At   int // in bytes from the beginning
	Line int // that it begins on, from 1
}

// Behind is where the token has ended.
func (t Token) Behind() int { return t.At + len(t.Word) }

// keywords of both languages.
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

// signs are those of more than one character, of both languages, longer ones first.
var signs = strings.Fields(`<<= >>= **= //= ... <= >= == != -> := += -= *= /= %= &= |= ^= << >> ** // && || ++ -- @=`)

// Tokens takes a file apart: Python by its name, or else C. Comments and line ends are no tokens.
func Tokens(name, text string) (out []Token) {
	s := scanner{rest: text, c: path.Ext(name) != ".py", line: 1}
	for t := s.next(); t.Kind != End; t = s.next() {
		out = append(out, t)
	}
	return out
}

// scanner takes the text of a program apart.
type scanner struct {
	rest string
	at   int
	c    bool // it is C, else Python
	line int
}

// next is the next token.
func (s *scanner) next() Token {
	s.skip()
	t := Token{At: s.at, Line: s.line}
	before := s.rest
	t.Kind = s.word()
	t.Word = before[:len(before)-len(s.rest)]
	return t
}

// word goes on behind a word.
func (s *scanner) word() Kind {
	if s.rest == "" {
		return End
	}
	r, size := utf8.DecodeRuneInString(s.rest)
	switch {
	case r == '"' || r == '\'':
		s.quoted()
		return Text
	case unicode.IsDigit(r), r == '.' && len(s.rest) > 1 && unicode.IsDigit(rune(s.rest[1])):
		s.number()
		return Number
	case unicode.IsLetter(r) || r == '_':
		end := strings.IndexFunc(s.rest, func(r rune) bool {
			return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '_'
		})
		if end < 0 {
			end = len(s.rest)
		}
		word := s.rest[:end]
		s.pass(end)
		switch {
		case s.rest != "" && (s.rest[0] == '"' || s.rest[0] == '\'') && isPrefix(word):
			s.quoted()
			return Text
		case keywords[word]:
			return Keyword
		}
		return Name
	}
	for _, sign := range signs {
		if strings.HasPrefix(s.rest, sign) {
			size = len(sign)
			break
		}
	}
	s.pass(size)
	return Sign
}

// isPrefix tells what may stand before a text's quotation mark.
func isPrefix(word string) bool {
	return len(word) <= 2 && strings.Trim(word, "rRbBuUfFL") == "" || word == "u8"
}

// number goes on behind a number; a sign within it stands behind its e.
func (s *scanner) number() {
	hexadecimal := len(s.rest) > 1 && (s.rest[1] == 'x' || s.rest[1] == 'X')
	n := 0
	for n < len(s.rest) {
		b := s.rest[n]
		exponent := n > 0 && !hexadecimal && (b == '-' || b == '+') && (s.rest[n-1] == 'e' || s.rest[n-1] == 'E')
		if !exponent && b != '.' && b != '_' && !unicode.IsDigit(rune(b)) && !isLetter(b) {
			break
		}
		n++
	}
	s.pass(max(n, utf8.RuneLen(firstRune(s.rest))))
}

func isLetter(b byte) bool { return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' }

func firstRune(text string) rune {
	r, _ := utf8.DecodeRuneInString(text)
	return r
}

// pass goes on by some bytes.
func (s *scanner) pass(n int) {
	s.line += strings.Count(s.rest[:n], "\n")
	s.rest, s.at = s.rest[n:], s.at+n
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
