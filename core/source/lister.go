package source

import (
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// lister lists the alterations of one file.
type lister struct {
	name   string
	text   string
	tokens []script.Token
	hints  machine.Hints
	odd    func(int64) []int64 // see machine.Hints
	rows   map[firmware.Line][]uint32
	out    []alteration
}

// edit is a part of a file with what stands in its place.
type edit struct {
	at, end int
	to      string
}

// put adds an alteration: edits do not overlap, and stand in their order.
func (l *lister) put(t script.Token, a machine.Alteration, edits ...edit) {
	p := l.place(t.Line)
	if p.never || len(l.out) == machine.MostAltered {
		return
	}
	a.Address, a.Reached, a.Element, a.Effort = p.address, p.reached, t.At, effort
	a.Line = firmware.Line{File: l.name, Line: t.Line}
	out := alteration{Alteration: a, file: l.name, edits: edits}
	if n, ok := parse(a.Stands); ok && n.value < telling {
		out.stands = 1
	}
	l.out = append(l.out, out)
}

func edited(text string, edits []edit) string {
	var b strings.Builder
	done := 0
	for _, e := range edits {
		b.WriteString(text[done:e.at])
		b.WriteString(e.to)
		done = e.end
	}
	b.WriteString(text[done:])
	return b.String()
}

// replace puts another word in the place of a token.
func (l *lister) replace(t script.Token, slip machine.Slip, rare int, to string) {
	l.put(t, machine.Alteration{Slip: slip, Rare: rare, Stands: t.Word, Meant: to}, edit{t.At, t.Behind(), to})
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
	var open []string // brackets: those of a list as "={"
	for i := 0; i < len(l.tokens); i++ {
		switch t := l.tokens[i]; t.Word {
		case "#":
			i = l.directive(i)
		case "(", "[":
			open = append(open, t.Word)
		case "{":
			if listed := l.word(i-1) == "=" || len(open) > 0 && open[len(open)-1] == "={"; listed {
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
}

// directive passes over a line of the preprocessor: of all of them only definitions have words that may be meant
// otherwise, behind their name.
func (l *lister) directive(i int) (last int) {
	if l.word(i+1) == "define" {
		return i + 2
	}
	line := l.tokens[i].Line
	for i+1 < len(l.tokens) && l.tokens[i+1].Line == line {
		i++
	}
	return i
}

// turned are words for one of two, each with the other. What the compiled program tells as well is left to that.
var turned = map[string]string{"|=": "=", "%": "/", "/": "%", "true": "false", "false": "true", "HIGH": "LOW", "LOW": "HIGH"}

// wider are types, each with the next one that holds more.
var wider = map[string]string{"uint8_t": "uint16_t", "int8_t": "int16_t", "uint16_t": "uint32_t", "int16_t": "int32_t",
	"byte": "unsigned int", "word": "unsigned long", "char": "int", "short": "long", "int": "long"}

// wraps is the smallest number at which a type is too small for what it holds.
const wraps = 128

// token looks at one token, within a list or not.
func (l *lister) token(i int, listed bool) {
	t := l.tokens[i]
	switch {
	case t.Kind == script.Number:
		l.number(i, listed)
	case t.Kind == script.Text || listed:
	case turned[t.Word] != "":
		l.replace(t, turnedSlip(t.Word), machine.Seldom, turned[t.Word])
	case wider[t.Word] != "" && i+1 < len(l.tokens) && (l.tokens[i+1].Kind == script.Name || l.word(i+1) == ")"):
		rare := machine.Seldom
		for _, s := range l.hints.Shifts {
			if s >= wraps || s <= -wraps {
				rare = machine.Likely
			}
		}
		l.replace(t, machine.Narrow, rare, wider[t.Word])
	}
}

func turnedSlip(word string) machine.Slip {
	switch word {
	case "%", "/":
		return machine.Sign
	case "|=":
		return machine.Mask
	}
	return machine.Level
}

// mostElements is how far a list is looked at: it may be made so that each of its words is looked at from each.
const mostElements = 500

// elements looks at a list that opens at a place: neighbours may be exchanged.
func (l *lister) elements(open int) {
	var parts []edit
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
				at, end := l.tokens[from].At, l.tokens[i-1].Behind()
				parts = append(parts, edit{at, end, l.text[at:end]})
			}
			from = i + 1
		}
		if depth == 0 && w == "}" {
			break
		}
	}
	for n := 1; n < len(parts); n++ {
		a, b := parts[n-1], parts[n]
		if a.to != b.to {
			one, other := a.to, b.to
			a.to, b.to = other, one
			l.put(l.at(a.at), machine.Alteration{Slip: machine.Neighbours, Rare: machine.Seldom,
				Stands: cut(one + ", " + other), Meant: cut(other + ", " + one)}, a, b)
		}
	}
}

// at is the token that begins at a byte.
func (l *lister) at(at int) script.Token {
	i, _ := slices.BinarySearchFunc(l.tokens, at, func(t script.Token, at int) int { return t.At - at })
	return l.tokens[i]
}

// mostWords is how much of a line is told.
const mostWords = 40

func cut(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if runes := []rune(text); len(runes) > mostWords {
		return string(runes[:mostWords-1]) + "…"
	}
	return text
}
