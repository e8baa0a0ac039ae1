// Package mutants changes right programs in one place, as a slip of the hand would: a number, an operator, a level, a
// line left out or exchanged with the next. Nobody chose the places, so that what the search for causes makes of such
// programs shows what it makes of mistakes that nobody had in mind.
package mutants

import (
	"fmt"
	"strconv"
	"strings"
	"text/scanner"
)

// Mutant is a program with one change.
type Mutant struct {
	Kind     string // what was changed: "number", "operator", "level", "left out", "exchanged", "text"
	Line     int    // from 1
	Old, New string
	Text     []byte // the whole program
}

func (m Mutant) String() string {
	return fmt.Sprintf("%d: %s → %s", m.Line, strings.TrimSpace(m.Old), strings.TrimSpace(m.New))
}

// others are what is easily written for a token of C.
var others = map[string][]string{
	"<": {"<=", ">"}, "<=": {"<"}, ">": {">=", "<"}, ">=": {">"}, "==": {"!="}, "!=": {"=="},
	"&&": {"||"}, "||": {"&&"}, "++": {"--"}, "--": {"++"}, "+=": {"-=", "="}, "-=": {"+="}, "+": {"-"}, "-": {"+"},
	"*": {"+"}, "/": {"%"}, "%": {"/"}, "<<": {">>"}, ">>": {"<<"}, "|=": {"=", "^="}, "&=": {"="}, "!": {""}, "~": {""},
	"|": {"&"}, "&": {"|"}, "?": nil,
}

// levels are words that are easily exchanged.
var levels = map[string]string{
	"HIGH": "LOW", "LOW": "HIGH", "INPUT": "OUTPUT", "OUTPUT": "INPUT", "INPUT_PULLUP": "INPUT", "true": "false",
	"false": "true", "FALLING": "RISING", "RISING": "FALLING", "break": "continue",
}

// pairs are operators of two characters or three, longest first.
var pairs = []string{"<<=", ">>=", "<=", ">=", "==", "!=", "&&", "||", "++", "--", "+=", "-=", "|=", "&=", "^=", "<<",
	">>", "->"}

// Of gives every mutant of a program in C or C++.
func Of(text string) (out []Mutant) {
	out = append(tokens(text), lines(text)...)
	return out
}

// fixed reports whether a line is one of the preprocessor that is no definition.
func fixed(line string) bool {
	line = strings.TrimSpace(line)
	return strings.HasPrefix(line, "#") && !strings.HasPrefix(line, "#define")
}

func tokens(text string) (out []Mutant) {
	all := strings.Split(text, "\n")
	var s scanner.Scanner
	s.Init(strings.NewReader(text))
	s.Mode = scanner.ScanIdents | scanner.ScanInts | scanner.ScanChars | scanner.ScanStrings | scanner.ScanComments |
		scanner.SkipComments
	s.Error = func(*scanner.Scanner, string) {}
	end := 0
	for t := s.Scan(); t != scanner.EOF; t = s.Scan() {
		at, word, line := s.Position.Offset, s.TokenText(), s.Position.Line
		if at < end || fixed(all[line-1]) {
			continue
		}
		change := func(kind, old, by string) {
			out = append(out, Mutant{kind, line, old, by, []byte(text[:at] + by + text[at+len(old):])})
		}
		switch t {
		case scanner.Int:
			for _, by := range numbers(word) {
				change("number", word, by)
			}
		case scanner.Ident:
			if by := levels[word]; by != "" {
				change("level", word, by)
			}
			for _, by := range neighbours(word) {
				change("number", word, by)
			}
		case scanner.String, scanner.RawString:
			for _, by := range texts(word) {
				change("text", word, by)
			}
		case scanner.Char, scanner.Comment:
		default:
			for _, p := range pairs {
				if strings.HasPrefix(text[at:], p) {
					word = p
					break
				}
			}
			end = at + len(word)
			for _, by := range others[word] {
				change("operator", word, by)
			}
		}
	}
	return out
}

// numbers are what is easily written for one.
func numbers(word string) (out []string) {
	v, err := strconv.ParseInt(word, 0, 64)
	if err != nil {
		return nil
	}
	seen := map[int64]bool{v: true}
	add := func(n int64) {
		if n < 0 || seen[n] {
			return
		}
		seen[n] = true
		if strings.HasPrefix(word, "0x") || strings.HasPrefix(word, "0b") {
			out = append(out, fmt.Sprintf("0x%02x", n))
		} else {
			out = append(out, strconv.FormatInt(n, 10))
		}
	}
	switch {
	case strings.HasPrefix(word, "0x") || strings.HasPrefix(word, "0b"): // bits
		for bit := range 7 {
			if v&(1<<bit) != 0 {
				add(v &^ (1 << bit))
				break
			}
		}
		for bit := range 7 {
			if v&(1<<bit) == 0 {
				add(v | 1<<bit)
				break
			}
		}
	case v >= 20:
		add(v * 10)
		add(v / 10)
		add(v * 2)
		add(v - 1)
	default:
		add(v + 1)
		add(v - 1)
		add(0)
	}
	return out
}

// neighbours are pins and bits beside one that a name tells by its last figure: PB1 for PB0, CS10 for CS11.
func neighbours(word string) []string {
	n := len(word)
	if n < 2 || n > 6 || word[n-1] < '0' || word[n-1] > '7' || strings.ToUpper(word) != word {
		return nil
	}
	return []string{word[:n-1] + string('0'+(word[n-1]-'0')^1)}
}

// texts are what is easily written for one.
func texts(word string) (out []string) {
	body := word[1 : len(word)-1]
	if len(body) > 2 {
		out = append(out, `"`+body[:len(body)-1]+`"`, `"`+strings.ToLower(body[:1])+strings.ToUpper(body[1:2])+body[2:]+`"`)
	}
	if strings.Contains(body, " ") {
		out = append(out, `"`+strings.Replace(body, " ", "", 1)+`"`)
	}
	return out
}

// lines leaves statements out that take a line, and exchanges them with the next.
func lines(text string) (out []Mutant) {
	all := strings.Split(text, "\n")
	for i, line := range all {
		if !statement(line) {
			continue
		}
		with := func(kind, by string, more ...string) {
			changed := append(append(append([]string{}, all[:i]...), more...), all[i+max(1, len(more)):]...)
			out = append(out, Mutant{kind, i + 1, line, by, []byte(strings.Join(changed, "\n"))})
		}
		with("left out", "", ";")
		if i+1 < len(all) && statement(all[i+1]) && indent(line) == indent(all[i+1]) {
			with("exchanged", all[i+1], all[i+1], line)
		}
	}
	return out
}

func indent(line string) string { return line[:len(line)-len(strings.TrimLeft(line, " \t"))] }

// statement reports whether a line is a whole statement that does something.
func statement(line string) bool {
	if indent(line) == "" || !strings.HasSuffix(line, ";") {
		return false
	}
	for _, word := range []string{"return", "static", "for", "const", "break", "continue"} {
		if strings.HasPrefix(strings.TrimSpace(line), word) {
			return false
		}
	}
	return true
}
