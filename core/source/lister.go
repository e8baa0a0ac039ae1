package source

import (
	"path"
	"slices"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// lister lists the alterations of one file.
type lister struct {
	name   string
	text   string
	tokens []script.Token
	bodies bodies
	hints  machine.Hints
	odd    func(int64) []int64 // see machine.Hints
	rows   rows
	uses   map[string][]firmware.Line // of names, in all files
	out    []alteration
}

// put adds an alteration at a token: edits do not overlap, and stand in their order.
func (l *lister) put(i int, a machine.Alteration, edits ...script.Edit) {
	t := l.tokens[i]
	p := l.place(i)
	if p.never || len(l.out) == machine.MostAltered {
		return
	}
	a.Address, a.Reached, a.Recent, a.Element, a.Effort = p.address, p.reached, p.recent, t.At, effort
	a.Line = firmware.Line{File: l.name, Line: t.Line}
	l.out = append(l.out, alteration{a, l.name, edits})
}

// place is where a line is in the compiled program.
type place struct {
	address uint32
	reached clock.Time // first; 0 where nobody knows
	never   bool       // it was not carried out
	recent  bool       // see machine.Alteration
}

// place finds a token. What has no instructions, as a definition, is where its name is used last.
func (l *lister) place(i int) place {
	line := firmware.Line{File: path.Base(l.name), Line: l.tokens[i].Line}
	if p, ok := l.rows.place(line, l.hints); ok {
		return p
	}
	var last place
	used, recent := 0, false
	for _, at := range l.uses[l.defines(i)] {
		p, ok := l.rows.place(at, l.hints)
		if !ok {
			continue
		}
		if used++; !p.never && p.reached >= last.reached {
			last = p
		}
		recent = recent || p.recent
	}
	last.recent = recent
	last.address, last.never = 0, used > 0 && last == (place{})
	return last
}

// defines gives the name that a token belongs to the definition of, or the first value; "" where there is none.
func (l *lister) defines(i int) string {
	line := l.tokens[i].Line
	for k := i - 1; k >= 0 && i-k < mostElements && l.tokens[k].Line == line; k-- {
		switch {
		case l.word(k) == "=":
			for k--; k > 0 && l.word(k) != ";" && l.tokens[k].Kind != script.Name; k-- {
			}
			return l.word(k)
		case l.word(k) == "define" && l.word(k-1) == "#":
			return l.word(k + 1)
		}
	}
	return ""
}

// replace puts another word in the place of a token.
func (l *lister) replace(i int, slip machine.Slip, rare int, to string) {
	t := l.tokens[i]
	l.put(i, machine.Alteration{Slip: slip, Rare: rare, Stands: t.Word, Meant: to}, t.Replaced(to))
}

// word gives the word at a place; "" where there is none.
func (l *lister) word(i int) string {
	if i < 0 || i >= len(l.tokens) {
		return ""
	}
	return l.tokens[i].Word
}

// list lists all.
func (l *lister) list() {
	l.bodies = l.takeApart()
	var open []string // brackets: those of a list as "={"
	for i := 0; i < len(l.tokens); i++ {
		switch w := l.word(i); w {
		case "#":
			i = l.directive(i)
		case "(", "[":
			open = append(open, w)
		case "{":
			if l.word(i-1) == "=" || len(open) > 0 && open[len(open)-1] == "={" {
				open = append(open, "={")
				l.elements(i)
			} else {
				open = append(open, "{")
			}
		case ")", "]", "}":
			open = open[:max(0, len(open)-1)]
		default:
			l.token(i, slices.Contains(open, "={"))
		}
	}
	l.texts()
	l.everywhere()
	l.exchanged()
	l.chained()
}

// directive passes over a line of the preprocessor: of all of them only definitions have words that may be meant
// otherwise, behind their name.
func (l *lister) directive(i int) (last int) {
	if l.word(i+1) == "define" {
		return i + 2
	}
	return l.line(i)
}

// line is the last token of the line that a token stands on.
func (l *lister) line(i int) int {
	n := l.tokens[i].Line
	for i+1 < len(l.tokens) && l.tokens[i+1].Line == n {
		i++
	}
	return i
}

// turned are words for one of two, each with the other: those of which a compiler makes something else, or one thing of
// two. The rest is left to changes of the compiled program.
var turned = map[string]struct {
	to   string
	slip machine.Slip
}{
	"|=": {"=", machine.Mask}, "%": {"/", machine.Sign}, "/": {"%", machine.Sign},
	"true": {"false", machine.Level}, "false": {"true", machine.Level},
	"HIGH": {"LOW", machine.Level}, "LOW": {"HIGH", machine.Level},
	"++": {"--", machine.Sign}, "--": {"++", machine.Sign}, "+=": {"-=", machine.Sign}, "-=": {"+=", machine.Sign},
}

// wider are types, each with the next one that holds more.
var wider = map[string]string{"uint8_t": "uint16_t", "int8_t": "int16_t", "uint16_t": "uint32_t", "int16_t": "int32_t",
	"byte": "unsigned int", "word": "unsigned long", "char": "int", "short": "long", "int": "long"}

// beside are the comparisons that take in their limit, or leave it out. Of loops a compiler makes others, and of what
// is compared twice "equal to".
var beside = map[string]string{"<": "<=", "<=": "<", ">": ">=", ">=": ">"}

// wraps is by how much a number is too small that has lost its upper bits.
const wraps = 128

// token looks at one token, within a list or not.
func (l *lister) token(i int, listed bool) {
	t := l.tokens[i]
	switch {
	case t.Kind == script.Number:
		l.number(i, listed)
	case t.Kind == script.Text || listed:
	case turned[t.Word].to != "" && !l.counts(i):
		rare := 0
		if l.bit(i) {
			rare = machine.Seldom
		}
		l.replace(i, turned[t.Word].slip, rare, turned[t.Word].to)
	case beside[t.Word] != "" &&
		(l.header(i) >= 0 || !l.hints.Compared[firmware.Line{File: path.Base(l.name), Line: t.Line}]):
		l.replace(i, machine.Inclusive, machine.Seldom, beside[t.Word])
	case wider[t.Word] != "" && i+1 < len(l.tokens) && (l.tokens[i+1].Kind == script.Name || l.word(i+1) == ")"):
		rare := machine.Seldom
		if slices.ContainsFunc(l.hints.Shifts, func(s int64) bool { return s >= wraps }) {
			rare = likely
		}
		l.replace(i, machine.Narrow, rare, wider[t.Word])
	}
}

// bit reports whether an operator sets a single bit: that it should clear all others is less likely than that another
// statement is missing which clears one.
func (l *lister) bit(i int) bool {
	if l.word(i) != "|=" {
		return false
	}
	shifts := false
	for k := i + 1; k < min(len(l.tokens), i+mostWords) && l.word(k) != ";"; k++ {
		switch l.word(k) {
		case "|":
			return false
		case "<<", "_BV", "bit":
			shifts = true
		}
	}
	return shifts
}

// towards is how a loop's condition compares what a step leads to its end.
var towards = map[string]string{"++": "<", "+=": "<", "--": ">", "-=": ">"}

// mostHeader is how many tokens of a loop's header are looked at.
const mostHeader = 100

// counts reports whether a token makes a loop count towards the end that its condition names: the other way round it
// would end at once, or never, which nobody means.
func (l *lister) counts(i int) bool {
	compares, open := towards[l.word(i)], l.header(i)
	if compares == "" || open < 0 {
		return false
	}
	steps, meets := 0, false
	for k := open + 1; k < i; k++ {
		switch w := l.word(k); {
		case w == ";":
			steps++
		case steps == 1 && (w == compares || w == compares+"="):
			meets = true
		}
	}
	return meets && steps == 2
}

// header is the bracket of the for loop's header that a token stands in; -1 where it stands in none.
func (l *lister) header(i int) (open int) {
	depth := 0
	for k := i - 1; k >= max(0, i-mostHeader) && l.word(k) != "{" && l.word(k) != "}"; k-- {
		switch l.word(k) {
		case ")":
			depth++
		case "(":
			if depth--; depth >= 0 {
				continue
			}
			if l.word(k-1) == "for" {
				return k
			}
			return -1
		}
	}
	return -1
}

// mostElements is how far a list is looked at: it may be made so that each of its words is looked at from each.
const mostElements = 500

// elements looks at a list that opens at a place: neighbours may be exchanged.
func (l *lister) elements(open int) {
	type part struct{ from, to int } // tokens
	var parts []part
	from, depth := open+1, 0
	for i := open + 1; i < min(len(l.tokens), open+mostElements); i++ {
		w := l.word(i)
		switch {
		case w == "(" || w == "[" || w == "{":
			depth++
		case depth > 0 && (w == ")" || w == "]" || w == "}"):
			depth--
		case depth == 0 && (w == "," || w == "}"):
			if from < i {
				parts = append(parts, part{from, i})
			}
			from = i + 1
		}
		if depth == 0 && w == "}" {
			break
		}
	}
	text := func(p part) script.Edit {
		at, end := l.tokens[p.from].At, l.tokens[p.to-1].Behind()
		return script.Edit{At: at, End: end, To: l.text[at:end]}
	}
	for n := 1; n < len(parts); n++ {
		a, b := text(parts[n-1]), text(parts[n])
		if one, other := a.To, b.To; one != other {
			a.To, b.To = other, one
			l.put(parts[n-1].from, machine.Alteration{Slip: machine.Neighbours, Rare: machine.Seldom,
				Stands: script.Cut(one + ", " + other), Meant: script.Cut(other + ", " + one)}, a, b)
		}
	}
}
