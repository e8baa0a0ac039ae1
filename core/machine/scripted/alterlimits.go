package scripted

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// What counts may lack what keeps it within its limits; a condition may lack another one that stands elsewhere in its
// function.

// Bounds of what is listed of a file.
const (
	mostLimits    = 100
	mostUnguarded = 150
	mostAsked     = 30 // conditions of a file
)

// limits lists lines that keep within limits what counts, behind what counts it.
func (l *lister) limits(gaps []gap) {
	ends, most := l.hints.Ends(), len(l.out)+mostLimits
	for number, g := range gaps {
		if g.other != "" || g.indent != l.lines[g.behind].indent {
			continue
		}
		name, up, down := l.counts(g.behind)
		for _, e := range ends {
			if e.Below && !down || !e.Below && !up || len(l.out) >= most {
				continue
			}
			compared := map[bool]string{true: "<", false: ">"}[e.Below]
			text := fmt.Sprintf("if %s %s %d: %[1]s = %[4]d", name, compared, e.Limit, e.To)
			if len(text) <= mostLetters {
				l.plant(number, g, wanted{text: text, about: name, rare: e.Rare})
			}
		}
	}
}

// counting is a line that makes something more, or less, than it is.
var counting = regexp.MustCompile(`^([\w.\[\]]+) (?:([-+])=|= (\S+) ([-+])) `)

// counts is what a line makes more, or less, by something.
func (l *lister) counts(n int) (name string, up, down bool) {
	m := counting.FindStringSubmatch(l.textOf(n))
	if m == nil || m[3] != "" && m[3] != m[1] {
		return "", false, false
	}
	return m[1], m[2]+m[4] == "+", m[2]+m[4] == "-"
}

// unguarded lists conditions that may be missing beside others of the same function.
func (l *lister) unguarded(functions []int) {
	type place struct {
		text     string
		function int
	}
	var asked []place
	for n := range l.lines {
		from, to, ok := l.asks(n)
		if !ok {
			continue
		}
		for _, text := range l.parts(from, to) {
			for _, c := range []string{text, reversed(text)} {
				if p := (place{c, functions[n]}); len(asked) < mostAsked && !slices.Contains(asked, p) {
					asked = append(asked, p)
				}
			}
		}
	}
	most := len(l.out) + mostUnguarded
	for n := range l.lines {
		from, to, ok := l.asks(n)
		if !ok || l.word(l.lines[n].from) == "while" {
			continue
		}
		has := l.text[l.tokens[from].At:l.tokens[to-1].Behind()]
		for _, c := range asked {
			if c.function != functions[n] || strings.Contains(has, about(c.text)) || len(l.out) >= most {
				continue
			}
			open, end := l.tokens[from].At, l.tokens[to-1].Behind()
			a := machine.Alteration{Slip: machine.Missing, Rare: machine.Seldom, Meant: "and " + c.text}
			l.put(l.tokens[from].Line, a,
				script.Edit{At: open, End: open, To: "("}, script.Edit{At: end, End: end, To: ") and " + c.text})
			if last := len(l.out) - 1; last >= 0 && n+1 < len(l.lines) { // what it decides about matters
				l.out[last].Address = script.Address(l.number, l.tokens[l.lines[n+1].from].Line)
			}
		}
	}
}

// asks gives the tokens of the condition of a line that ends with a colon.
func (l *lister) asks(n int) (from, to int, ok bool) {
	line := l.lines[n]
	first := l.word(line.from)
	ok = (first == "if" || first == "elif" || first == "while") && line.to-line.from > 2 && l.word(line.to-1) == ":" &&
		l.tokens[line.from].Line == l.tokens[line.to-1].Line
	return line.from + 1, line.to - 1, ok
}

// parts are what a condition asks for, joined by "and" and "or": each that calls nothing, and can stand alone.
func (l *lister) parts(from, to int) (out []string) {
	begin := from
	for i := from; i <= to; i++ {
		if i < to && l.word(i) != "and" && l.word(i) != "or" {
			continue
		}
		if begin < i {
			text := l.text[l.tokens[begin].At:l.tokens[i-1].Behind()]
			if len(text) <= mostLetters && !strings.ContainsAny(text, "():=[]{}") || comparing(text) {
				out = append(out, text)
			}
		}
		begin = i + 1
	}
	return out
}

// comparing reports whether a text compares two simple things.
func comparing(text string) bool {
	sides := strings.Fields(text)
	return len(sides) == 3 && contrary[sides[1]] != "" && len(text) <= mostLetters &&
		!strings.ContainsAny(sides[0]+sides[2], "():=[]{},")
}

// contrary are comparisons, each with the one that holds where it does not.
var contrary = map[string]string{"<": ">=", ">=": "<", ">": "<=", "<=": ">", "==": "!=", "!=": "=="}

// reversed is what holds where a condition does not.
func reversed(text string) string {
	if comparing(text) {
		sides := strings.Fields(text)
		return sides[0] + " " + contrary[sides[1]] + " " + sides[2]
	}
	if rest, ok := strings.CutPrefix(text, "not "); ok {
		return rest
	}
	if len(strings.Fields(text)) == 1 {
		return "not " + text
	}
	return "not (" + text + ")"
}

// about is the first thing that a condition is about.
func about(text string) string { return strings.Fields(strings.TrimPrefix(text, "not "))[0] }
