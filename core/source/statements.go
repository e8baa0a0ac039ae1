package source

import (
	"cmp"
	"slices"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// Bounds of what is looked at.
const (
	mostCopies     = 80 // statements of the program
	mostStatements = 160
	mostLetters    = 60 // of one
	mostSources    = 6  // of what a variable may be set to
)

// statement is one that may be missing.
type statement struct {
	text     string
	names    []string     // that must mean something where it stands
	concern  []string     // of which one stands in the function that it is missing in; what it sets comes first
	within   map[int]bool // the functions in which it stands as it is; nil where it stands nowhere
	from, to int          // the tokens of the first of those
	steps    []int        // behind one of these tokens alone it may be missing; nil for anywhere
	rare     int
	again    bool // it stands elsewhere than where a program begins
	// before and behind are what is set right before it, where it stands, and right behind it: where one of those
	// stands without it, it may well be missing.
	before, behind []string
}

// stands takes down where a statement stands, in a function.
func (l *lister) stands(s *statement, p part) {
	if s.within == nil {
		s.within, s.from, s.to = map[int]bool{}, p.from, p.to
	}
	s.within[l.around(p.from)] = true
	s.again = s.again || !l.begun(p.from) || l.calls(p)
	s.before = append(s.before, l.before(p.from)...)
	s.behind = append(s.behind, l.from(p.to+1)...)
}

// begun reports whether a token stands where a program begins: in no loop and under no condition.
func (l *lister) begun(token int) bool {
	b := block{outer: -1}
	for _, x := range l.bodies.blocks {
		if x.open <= token && token < x.close {
			b = x // each stands behind the one around it
		}
	}
	return l.defined(b, "main") || l.defined(b, "setup")
}

// before is what the assignment sets, or the call calls, that ends right before a token, as a list of one, or none.
func (l *lister) before(token int) []string {
	for _, p := range l.bodies.simples {
		if p.to == token-1 {
			return l.sets(p)
		}
	}
	return nil
}

// from is the same of what begins at a token.
func (l *lister) from(token int) []string {
	for _, p := range l.bodies.simples {
		if p.from == token {
			return l.sets(p)
		}
	}
	return nil
}

// sets is what an assignment sets, or what a call calls, as a list of one.
func (l *lister) sets(p part) []string {
	names := l.names(p.from, p.to)
	return names[:min(1, len(names))]
}

// statements lists those that may be missing.
func (l *lister) statements(names []declaration) (out []statement) {
	have, copies := map[string]int{}, 0
	put := func(s statement) {
		if _, ok := have[s.text]; ok || len(s.text) > mostLetters || len(out) == mostStatements {
			return
		}
		have[s.text] = len(out)
		out = append(out, s)
	}
	set := l.set(names)
	for _, d := range names {
		if !d.constant && d.single && !d.given && l.header(d.at) < 0 {
			for _, s := range l.ofVariable(d, set[d.name], names) {
				put(s)
			}
		}
	}
	for _, s := range l.endings() {
		put(s)
	}
	for _, p := range l.bodies.simples {
		text := l.textOf(p)
		if n, ok := have[text]; ok {
			l.stands(&out[n], p)
			continue
		}
		if len(text) > mostLetters || copies == mostCopies {
			continue
		}
		copies++
		rare := machine.Unlikely
		if l.keeps(p, names) {
			rare = machine.Seldom
		}
		put(statement{text: text, names: l.names(p.from, p.to), concern: l.concern(p, names), rare: rare})
		if n, ok := have[text]; ok {
			l.stands(&out[n], p)
		}
	}
	for _, p := range l.bodies.simples {
		if text, ok := l.turned(p); ok && len(out) < mostStatements {
			put(statement{text: text, names: l.names(p.from, p.to), concern: l.concern(p, names), rare: machine.Seldom})
		}
	}
	return out
}

// endings put an end to texts that are gathered character by character, where nothing does.
func (l *lister) endings() (out []statement) {
	ended := map[string]bool{}
	for i := range l.tokens {
		if l.word(i) == "=" && (l.word(i+1) == "0" || l.word(i+1) == `'\0'`) && l.word(i-1) == "]" &&
			l.word(i-3) == "[" {
			ended[l.word(i-4)] = true
		}
	}
	for i := range l.tokens {
		text, at := l.word(i), l.word(i+2)
		if l.word(i+1) == "[" && l.word(i+3) == "++" && l.word(i+4) == "]" && l.word(i+5) == "=" && !ended[text] {
			ended[text] = true
			out = append(out, statement{text: text + "[" + at + "] = 0;", names: []string{text, at},
				concern: []string{at, text}})
		}
	}
	return out
}

// ofVariable are statements that set a variable, which operators set elsewhere: one that never varies, or that is
// compared with something and only ever counts, is likely to lack one.
func (l *lister) ofVariable(d declaration, operators []int, all []declaration) (out []statement) {
	add := func(rare int, text string, names ...string) {
		out = append(out, statement{text: d.name + text + ";", names: append(names, d.name), concern: []string{d.name},
			rare: rare})
	}
	counts := slices.ContainsFunc(operators, l.steps)
	isSet := slices.ContainsFunc(operators, func(i int) bool { return l.word(i) == "=" || l.word(i) == "&" })
	never := d.lasts && len(operators) == 0 && !l.pin(d.name)
	first := l.begins(d)
	if d.lasts && d.number {
		first = cmp.Or(first, "0")
	}
	if counts {
		rare := machine.Seldom
		if !isSet && l.compared(d.name) {
			rare = 0
		}
		add(rare, " = 0")
		for _, table := range l.tables(d, all) {
			add(rare, " %= sizeof "+table+" / sizeof *"+table, table)
		}
	}
	switch {
	case l.oneWay(d, operators):
		add(0, " = "+cmp.Or(first, "0"), first)
	case (counts || isSet) && first != "":
		add(machine.Seldom, " = "+first, first)
	}
	rare := machine.Seldom
	if never {
		rare = 0
	}
	for _, from := range l.since(d) {
		add(rare, from.text, from.names...)
	}
	if never && d.number {
		for _, other := range l.beside(d, all) {
			add(rare, " = "+other, other)
		}
		add(machine.Seldom, "++")
	}
	return out
}

// pin reports whether a variable tells a pin, or a bit: it is none that varies.
func (l *lister) pin(name string) bool {
	for i := range l.tokens {
		if l.word(i) == name && (l.word(i-1) == "<<" || l.word(i-1) == "(" && pinned[l.word(i-2)]) {
			return true
		}
	}
	return false
}

// oneWay reports whether a variable is only ever set to one other value than it has at first: it never goes back.
func (l *lister) oneWay(d declaration, operators []int) bool {
	to := ""
	for _, i := range operators {
		if l.word(i) != "=" || l.word(i+2) != ";" || to != "" && l.word(i+1) != to {
			return false
		}
		to = l.word(i + 1)
	}
	return d.lasts && to != "" && to != cmp.Or(l.begins(d), "0") && l.word(d.at+1) != "["
}

// compared reports whether a variable is compared with something.
func (l *lister) compared(name string) bool {
	for i := range l.tokens {
		if l.word(i) != name {
			continue
		}
		before := i - 1
		if l.word(before) == "++" {
			before--
		}
		if slices.Contains(comparisons, l.word(i+1)) || slices.Contains(comparisons, l.word(before)) {
			return true
		}
	}
	return false
}

var comparisons = []string{"<", "<=", ">", ">=", "==", "!="}

// keeps reports whether a statement sets what lasts, or calls something that is told nothing: what is given to a
// function is seldom the same twice.
func (l *lister) keeps(p part, names []declaration) bool {
	if l.word(p.from+1) == "(" {
		return l.word(p.from+2) == ")"
	}
	return !slices.ContainsFunc(names, func(d declaration) bool { return d.name == l.word(p.from) && !d.lasts })
}

// around is the function that a token stands in; -1 for none.
func (l *lister) around(i int) int {
	for n, b := range l.bodies.blocks {
		if b.outer < 0 && b.open < i && i < b.close {
			return n
		}
	}
	return -1
}

// names are those between two tokens, but for those of members.
func (l *lister) names(from, to int) (out []string) {
	for i := from; i <= to; i++ {
		if l.tokens[i].Kind == script.Name && !l.member(i) && !slices.Contains(out, l.word(i)) {
			out = append(out, l.word(i))
		}
	}
	return out
}

// concern is what an assignment sets; of a call it is what it is given and what is called, and, of a function of the
// program, the variables that this mentions.
func (l *lister) concern(p part, all []declaration) (out []string) {
	if l.word(p.from+1) != "(" {
		return l.sets(p)
	}
	out = append(l.names(p.from+1, p.to), l.word(p.from))
	for n, b := range l.bodies.blocks {
		if !l.defined(b, l.word(p.from)) {
			continue
		}
		for _, d := range all {
			if d.from == 0 && !d.constant && l.bodies.mentions[n][d.name] {
				out = append(out, d.name)
			}
		}
	}
	return out
}

// calls reports whether a statement calls a function of the file.
func (l *lister) calls(p part) bool {
	return l.word(p.from+1) == "(" && slices.ContainsFunc(l.bodies.blocks, func(b block) bool {
		return l.defined(b, l.word(p.from))
	})
}

// defined reports whether a block is the body of the function of a name.
func (l *lister) defined(b block, name string) bool {
	if b.outer >= 0 {
		return false
	}
	for i := b.open - 1; i > 0 && b.open-i < mostWords; i-- {
		if l.word(i) == "(" {
			return l.word(i-1) == name
		}
	}
	return false
}

// opposite are the words of statements that do the reverse of each other.
var opposite = map[string]string{"HIGH": "LOW", "LOW": "HIGH", "true": "false", "false": "true"}

// turned is what does the reverse of a statement: it clears a bit that this sets, or the reverse. Who makes a pin an
// output hardly forgets to make it none: it would put a lamp out as well.
func (l *lister) turned(p part) (text string, ok bool) {
	if strings.HasPrefix(l.word(p.from), "DDR") || strings.HasPrefix(l.word(p.from), "TRIS") {
		return "", false
	}
	rest := func(from int) string { return l.text[l.tokens[from].At:l.tokens[p.to].At] }
	switch w := l.word(p.from + 1); {
	case w == "|=" && p.from+3 == p.to || w == "|=" && l.word(p.from+3) == "(" && l.behind(p.from+3) == p.to ||
		w == "|=" && l.word(p.from+2) == "(" && l.behind(p.from+2) == p.to:
		return l.word(p.from) + " &= ~" + rest(p.from+2) + ";", true
	case w == "|=":
		return l.word(p.from) + " &= ~(" + rest(p.from+2) + ");", true
	case w == "&=" && l.word(p.from+2) == "~":
		return l.word(p.from) + " |= " + rest(p.from+3) + ";", true
	}
	for i := p.from + 2; i < p.to; i++ {
		if to := opposite[l.word(i)]; to != "" && (l.word(i-1) == "," || l.word(i-1) == "=") {
			t := l.tokens[i]
			return l.text[l.tokens[p.from].At:t.At] + to + l.text[t.Behind():l.tokens[p.to].Behind()], true
		}
	}
	return "", false
}

// assigns are the operators that set what stands before them.
var assigns = []string{"=", "+=", "-=", "*=", "/=", "%=", "&=", "|=", "^=", "<<=", ">>="}

// set are the tokens by which variables are set, but for where they are declared.
func (l *lister) set(names []declaration) map[string][]int {
	declared := map[int]bool{}
	for _, d := range names {
		declared[d.at] = true
	}
	out := map[string][]int{}
	for i, t := range l.tokens {
		if t.Kind != script.Name || declared[i] {
			continue
		}
		before, next := l.word(i-1), l.word(i+1)
		switch {
		case slices.Contains(assigns, next) || next == "++" || next == "--":
			out[t.Word] = append(out[t.Word], i+1)
		case before == "++" || before == "--":
			out[t.Word] = append(out[t.Word], i-1)
		case before == "&" && i > 1 && l.tokens[i-2].Kind == script.Sign && l.word(i-2) != ")": // by its address
			out[t.Word] = append(out[t.Word], i)
		}
	}
	return out
}

// steps reports whether an operator makes a variable more, or less, by something.
func (l *lister) steps(i int) bool {
	return slices.Contains([]string{"++", "--", "+=", "-="}, l.word(i))
}

// begins is the number, or the name of one, that a variable holds at first, other than 0; "" where there is none.
func (l *lister) begins(d declaration) string {
	if l.word(d.at+1) != "=" || l.word(d.at+2) == "0" || l.word(d.at+3) != ";" && l.word(d.at+3) != "," {
		return ""
	}
	if kind := l.tokens[d.at+2].Kind; kind != script.Number && kind != script.Name {
		return ""
	}
	return l.word(d.at + 2)
}

// tables are the lists that a variable tells the place in.
func (l *lister) tables(d declaration, all []declaration) (out []string) {
	for i := range l.tokens {
		if l.word(i) != d.name || l.word(i-1) != "[" || l.word(i+1) != "]" {
			continue
		}
		name := l.word(i - 2)
		if !slices.Contains(out, name) && slices.ContainsFunc(all, func(t declaration) bool {
			return t.name == name && l.word(t.at+1) == "["
		}) {
			out = append(out, name)
		}
	}
	return out
}

// source is what a variable may be set to, with its operator, and the names in it.
type source struct {
	text  string
	names []string
}

// since are what a variable may be set to that something is compared with: how long ago it was. It is set to that, or
// is that much later.
func (l *lister) since(d declaration) (out []source) {
	for i := range l.tokens {
		if l.word(i) != d.name || i == d.at || l.word(i-1) != "-" || !slices.Contains(comparisons, l.word(i+1)) {
			continue
		}
		from, depth := i-1, 0
		for from > 0 && i-from < mostWords && (depth > 0 || l.tokens[from-1].Kind == script.Name ||
			slices.Contains([]string{")", ".", "->"}, l.word(from-1))) {
			from--
			switch l.word(from) {
			case ")":
				depth++
			case "(":
				depth--
			}
		}
		if from < i-1 && depth == 0 {
			out = append(out, source{" = " + l.text[l.tokens[from].At:l.tokens[i-2].Behind()], l.names(from, i-2)})
		}
		if k := l.tokens[min(i+2, len(l.tokens)-1)]; k.Kind == script.Number || k.Kind == script.Name {
			out = append(out, source{" += " + k.Word, l.names(i+2, i+2)})
		}
	}
	return out
}

// beside are other variables that stand in a function with one, those of the function first.
func (l *lister) beside(d declaration, all []declaration) (out []string) {
	for _, own := range []bool{true, false} {
		for _, other := range all {
			if (other.from > 0) != own || len(out) == mostSources || !other.single || other.constant {
				continue
			}
			if other.name != d.name && !slices.Contains(out, other.name) && l.together(d.name, other) {
				out = append(out, other.name)
			}
		}
	}
	return out
}

// together reports whether a name stands in a function where another one may be used, and stands, too.
func (l *lister) together(name string, other declaration) bool {
	for n, in := range l.bodies.mentions {
		b := l.bodies.blocks[n]
		if (other.from == 0 || b.open <= other.at && other.at < b.close) && in[name] && in[other.name] {
			return true
		}
	}
	return false
}

// concerns reports whether a statement has to do with a function that mentions some names.
func (s statement) concerns(mentions map[string]bool) bool {
	return slices.ContainsFunc(s.concern, func(name string) bool { return mentions[name] })
}
