package source

import (
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// A condition that was forgotten: one that stands elsewhere in the function, or the reverse of one, before a statement
// that is carried out always, or beside a condition that asks for less.

// Bounds of what is listed of a file.
const (
	mostConditions = 60
	mostAsked      = 40 // letters of one
	mostUnguarded  = 300
	mostIfs        = 100
)

// condition is one that may be missing.
type condition struct {
	text  string
	names []string
}

// unguarded lists conditions with what may lack them.
func (l *lister) unguarded(all []declaration) (out []planted) {
	ifs := l.ifs()
	asked := l.conditions(ifs, all)
	for _, i := range ifs {
		for _, c := range l.lacking(asked, l.decided(i), i+2, l.behind(i+1)-2, all) {
			out = append(out, l.narrower(i, c))
		}
	}
	for _, b := range l.bodies.blocks {
		for _, p := range b.parts {
			if len(out) >= mostUnguarded {
				return out[:mostUnguarded]
			}
			if !p.simple || len(b.parts) < 2 || !l.keeps(p, all) {
				continue
			}
			for _, c := range l.lacking(asked, p.from, p.from, p.from-1, all) {
				out = append(out, l.conditional(p, c))
			}
		}
	}
	return out[:min(len(out), mostUnguarded)]
}

// ifs are the tokens of the conditions in functions, those that are not too long to be looked at.
func (l *lister) ifs() (out []int) {
	for i := range l.tokens {
		if l.word(i) == "if" && l.word(i+1) == "(" && len(out) < mostIfs && l.around(i) >= 0 &&
			l.behind(i+1)-i <= mostWords {
			out = append(out, i)
		}
	}
	return out
}

// lacking are the conditions that may be missing at a token, beside what stands between two others.
func (l *lister) lacking(asked []condition, at, from, to int, all []declaration) (out []condition) {
	if l.place(at).never {
		return nil
	}
	has := l.names(from, to)
	mentions := l.bodies.mentions[l.around(at)]
	for _, c := range asked {
		if !slices.ContainsFunc(c.names, func(n string) bool { return slices.Contains(has, n) || !mentions[n] }) &&
			known(c.names, at, all) {
			out = append(out, c)
		}
	}
	return out
}

// narrower has a condition ask for something else, too.
func (l *lister) narrower(i int, c condition) planted {
	open, end := l.tokens[i+1].Behind(), l.tokens[l.behind(i+1)-1].At
	a := l.absent(i, l.decided(i), "&& "+c.text, machine.Seldom)
	return planted{a, func(chosen string) []insert {
		return []insert{{open, opens, "("}, {end, closes, ") && (!(" + chosen + ") || (" + c.text + "))"}}
	}}
}

// decided is the first token of what the condition behind an "if" decides about.
func (l *lister) decided(i int) int {
	behind := l.behind(i + 1)
	if l.word(behind) == "{" {
		behind++
	}
	return min(behind, len(l.tokens)-1)
}

// conditional has a statement be carried out on a condition alone.
func (l *lister) conditional(p part, c condition) planted {
	rare := machine.Unlikely
	if slices.ContainsFunc(l.names(p.from, p.to), func(n string) bool { return slices.Contains(c.names, n) }) {
		rare = machine.Seldom
	}
	a := l.absent(p.from, p.from, "if ("+c.text+")", rare)
	return planted{a, func(chosen string) []insert {
		return []insert{{l.tokens[p.from].At, opens, "{ if (!(" + chosen + ") || (" + c.text + ")) "},
			{l.tokens[p.to].Behind(), closes, " }"}}
	}}
}

// absent is something that is missing on a token's line, and matters where another one is carried out.
func (l *lister) absent(i, matters int, text string, rare int) machine.Alteration {
	p := l.place(matters)
	return machine.Alteration{Slip: machine.Missing, Rare: rare, Meant: text, Address: p.address, Reached: p.reached,
		Recent: p.recent, Element: l.tokens[i].At, Line: firmware.Line{File: l.name, Line: l.tokens[i].Line}}
}

// conditions are those that the functions of the file ask for, with the reverse of each, and what is only ever on or
// off.
func (l *lister) conditions(ifs []int, all []declaration) (out []condition) {
	add := func(text string, names []string) {
		known := slices.ContainsFunc(out, func(c condition) bool { return c.text == text })
		if !known && len(out) < mostConditions && len(names) > 0 && len(text) <= mostAsked &&
			!strings.ContainsAny(text, "\n") && !strings.Contains(text, "//") && !strings.Contains(text, "/*") {
			out = append(out, condition{text, names})
		}
	}
	set := l.set(all)
	for _, d := range all {
		if d.single && !d.constant && l.flips(set[d.name]) {
			add(d.name, []string{d.name})
			add("!"+d.name, []string{d.name})
		}
	}
	for _, i := range ifs {
		for _, p := range l.asked(i+2, l.behind(i+1)-1) {
			add(l.textOf(p), l.names(p.from, p.to))
			add(l.reverse(p), l.names(p.from, p.to))
		}
	}
	for _, c := range l.cases() {
		for _, compared := range []string{" == ", " != "} {
			add(c.of+compared+c.text, []string{c.of})
		}
	}
	return out
}

// label is one that a variable is told apart by.
type label struct{ of, text string }

// cases are the labels of what is told apart, in the order of the file.
func (l *lister) cases() (out []label) {
	for i := range l.tokens {
		if l.word(i) != "switch" || l.word(i+1) != "(" || l.word(i+3) != ")" || l.word(i+4) != "{" ||
			l.tokens[i+2].Kind != script.Name {
			continue
		}
		for k := i + 5; k < min(len(l.tokens), i+mostElements) && l.word(k) != "switch"; k++ {
			if l.word(k) == "case" && l.word(k+2) == ":" && len(out) < mostConditions {
				out = append(out, label{l.word(i + 2), l.word(k + 1)})
			}
		}
	}
	return out
}

// flips reports whether operators only ever set something on or off.
func (l *lister) flips(operators []int) bool {
	return len(operators) > 0 && !slices.ContainsFunc(operators, func(i int) bool {
		return l.word(i) != "=" || !slices.Contains([]string{"0", "1", "true", "false", "!"}, l.word(i+1))
	})
}

// asked are what a condition from one token up to another asks for, joined by "and" and "or": each that changes nothing
// by being asked.
func (l *lister) asked(from, behind int) (out []part) {
	begin, quiet := from, true
	for i := from; i <= behind; i++ {
		w := l.word(i)
		switch {
		case i == behind || w == "&&" || w == "||":
			if quiet && begin < i {
				out = append(out, part{from: begin, to: i - 1})
			}
			begin, quiet = i+1, true
		case w == "(":
			end := l.behind(i)
			quiet = quiet && l.changesNothing(i, end)
			i = min(end, behind) - 1
		default:
			quiet = quiet && l.changesNothing(i, i+1)
		}
	}
	return out
}

// looking are functions that change nothing by being called.
var looking = []string{"digitalRead", "bit_is_set", "bit_is_clear", "millis", "micros"}

// changesNothing reports whether the tokens up to another one neither set nor call anything.
func (l *lister) changesNothing(from, behind int) bool {
	for i := from; i < behind; i++ {
		w := l.word(i)
		calls := w == "(" && i > 0 && l.tokens[i-1].Kind == script.Name && !slices.Contains(looking, l.word(i-1))
		if calls || slices.Contains(assigns, w) || w == "++" || w == "--" {
			return false
		}
	}
	return true
}

// contrary are comparisons, each with the one that holds where it does not.
var contrary = map[string]string{"<": ">=", ">=": "<", ">": "<=", "<=": ">", "==": "!=", "!=": "=="}

// reverse is what holds where a condition does not.
func (l *lister) reverse(p part) string {
	text, depth := l.textOf(p), 0
	for i := p.from; i <= p.to; i++ {
		switch w := l.word(i); {
		case w == "(" || w == "[":
			depth++
		case w == ")" || w == "]":
			depth--
		case depth == 0 && contrary[w] != "":
			at := l.tokens[i].At - l.tokens[p.from].At
			return text[:at] + contrary[w] + text[at+len(w):]
		}
	}
	switch {
	case l.word(p.from) == "!":
		return strings.TrimSpace(text[1:])
	case p.from == p.to:
		return "!" + text
	}
	return "!(" + text + ")"
}
