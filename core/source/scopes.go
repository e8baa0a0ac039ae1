package source

import (
	"slices"

	"hemble/core/script"
)

// declaration is a variable, and the tokens between which it may be used.
type declaration struct {
	name     string
	at       int // a token
	from, to int
	lasts    bool // it keeps what it holds when its function has ended, or that never does
	constant bool
	single   bool // it is no list and no pointer
	unsigned bool // of a type that has no sign; a char may have one
	number   bool // of a type that is known to be one of numbers
	given    bool // a parameter
}

// mostDeclared is how many variables of a file are looked at.
const mostDeclared = 150

// unsigned are words of types that have no sign.
var unsigned = map[string]bool{"unsigned": true, "uint8_t": true, "uint16_t": true, "uint32_t": true, "uint64_t": true,
	"byte": true, "word": true, "size_t": true, "uint_fast8_t": true, "uint_fast16_t": true, "uint": true}

// numeric are other words of types of numbers.
var numeric = map[string]bool{"int": true, "char": true, "short": true, "long": true, "bool": true, "boolean": true,
	"float": true, "double": true, "signed": true, "int8_t": true, "int16_t": true, "int32_t": true, "int64_t": true}

// declarations are the variables of a file.
func (l *lister) declarations() (out []declaration) {
	endless := false
	put := func(i, from, to int, p part) {
		if len(out) == mostDeclared {
			return
		}
		d := declaration{name: l.word(i), at: i, from: from, to: to, lasts: from == 0 || endless,
			single: l.word(i+1) != "[" && l.word(i-1) != "*" && l.word(i-1) != "]", given: p.from == i}
		record := false
		for k := p.from; k < i; k++ {
			d.lasts = d.lasts || l.word(k) == "static"
			d.constant = d.constant || l.word(k) == "const"
			d.unsigned = d.unsigned || unsigned[l.word(k)]
			d.number = d.number || numeric[l.word(k)] || unsigned[l.word(k)]
			record = record || l.word(k) == "struct" || l.word(k) == "{"
		}
		d.number = d.number && !record
		out = append(out, d)
	}
	for _, p := range l.outside() {
		for _, i := range l.declared(p) {
			put(i, 0, len(l.tokens), p)
		}
	}
	for _, b := range l.bodies.blocks {
		endless = l.defined(b, "main") // what ends with the program
		if b.outer < 0 {
			for i := b.open - 2; i > 0 && l.word(i) != "(" && b.open-i < mostWords; i-- { // its parameters
				if next := l.word(i + 1); l.tokens[i].Kind == script.Name && (next == "," || next == ")") {
					put(i, b.open, b.close, part{from: i})
				}
			}
		}
		for _, p := range b.parts {
			switch {
			case l.word(p.from) == "for":
				for i := p.from + 1; i < min(p.to, p.from+mostWords) && l.word(i) != ";"; i++ {
					if l.declares(i) {
						put(i, i, p.to, p)
					}
				}
			case !p.moves && l.tokens[p.from].Kind != script.Sign:
				for _, i := range l.declared(p) {
					put(i, p.to, b.close, p)
				}
			}
		}
	}
	return out
}

// outside are the statements that stand outside of functions.
func (l *lister) outside() (out []part) {
	from := 0
	for i := 0; i < len(l.tokens); i++ {
		switch l.word(i) {
		case "#":
			i = l.line(i)
			from = i + 1
		case ";":
			out = append(out, part{from: from, to: i})
			from = i + 1
		case "{":
			behind := l.behind(i)
			if l.word(i-1) == ")" {
				from = behind
			}
			i = behind - 1
		}
	}
	return out
}

// declared are the names that a statement declares.
func (l *lister) declared(p part) (out []int) {
	depth, valued := 0, false // in what the last one holds at first
	for i := p.from; i <= p.to; i++ {
		switch l.word(i) {
		case "(", "[", "{":
			depth++
		case ")", "]", "}":
			depth--
		case "=":
			valued = valued || depth == 0
		case ",":
			valued = valued && depth > 0
		}
		if depth == 0 && !valued && i > p.from && l.tokens[i].Kind == script.Name && !l.member(i) &&
			slices.Contains([]string{"=", ";", ",", "["}, l.word(i+1)) {
			out = append(out, i)
		}
	}
	return out
}

// member reports whether a name is one of a member.
func (l *lister) member(i int) bool { return l.word(i-1) == "." || l.word(i-1) == "->" }

// known reports whether names mean the same behind a token as anywhere else: those that some function declares must be
// declared there.
func known(names []string, token int, all []declaration) bool {
	for _, name := range names {
		declared, here := false, false
		for _, d := range all {
			if d.name == name {
				declared = true
				here = here || d.from <= token && token < d.to
			}
		}
		if declared && !here {
			return false
		}
	}
	return true
}
