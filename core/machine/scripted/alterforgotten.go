package scripted

import (
	"slices"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// Lines that may be missing: copies of others of the same function, and what follows from those.

// Bounds of what is listed of a file.
const (
	mostForgotten = 300
	mostGaps      = 1000
	mostLetters   = 60 // of a line
	mostCopies    = 60 // lines that are looked at
	mostSources   = 5  // of what a name may be set to
)

// gap is a place for a line behind another one, of a function.
type gap struct {
	behind   int // a line
	indent   string
	function int    // the line that defines it; -1 outside of all
	other    string // before the block of a line that stands behind a condition, as what is done else; "" for none
}

// wanted is a line that may be missing in a function.
type wanted struct {
	text     string
	about    string // what it sets, or calls
	function int
	anywhere bool // it is a call that gives nothing: it may stand in any function
	rare     int
}

// forgotten lists lines that may be missing.
func (l *lister) forgotten() {
	functions := l.functions()
	list := l.wanted(functions)
	l.unguarded(functions)
	most := len(l.out) + mostForgotten
	gaps := l.gaps(functions)
	l.limits(gaps)
	for rare := 0; rare <= machine.Seldom && len(l.out) < most; rare++ {
		for number, g := range gaps {
			for _, w := range list {
				here := w.function == g.function || w.anywhere && g.function >= 0
				if g.other != "" {
					here = here && l.sets(g, w.about)
				}
				if here && w.rare == rare && len(l.out) < most && !l.stands(g, w.text) {
					l.plant(number, g, w)
				}
			}
		}
	}
}

// functions gives each line the one that defines the function that it belongs to; -1 outside of all.
func (l *lister) functions() (out []int) {
	var open []int
	for n, line := range l.lines {
		for len(open) > 0 && !deeper(line.indent, l.lines[open[len(open)-1]].indent) {
			open = open[:len(open)-1]
		}
		out = append(out, -1)
		if len(open) > 0 {
			out[n] = open[len(open)-1]
		}
		if l.word(line.from) == "def" {
			open = append(open, n)
		}
	}
	return out
}

// gaps are those at the beginning of each block, and behind each line, also behind the blocks that end with it.
func (l *lister) gaps(functions []int) (out []gap) {
	for n, line := range l.lines {
		if len(out) >= mostGaps {
			return out
		}
		first, next := l.word(line.from), ""
		if n+1 < len(l.lines) {
			next = l.lines[n+1].indent
		}
		if slices.Contains(heads, first) {
			if deeper(next, line.indent) {
				out = append(out, gap{behind: n, indent: next, function: functions[n+1]})
			}
			continue
		}
		if slices.Contains(plain, first) && first != "pass" {
			continue
		}
		atLoop := n+1 < len(l.lines) && l.word(l.lines[n+1].from) == "while"
		if !slices.Contains(leaving, first) && (line.indent != "" || atLoop) { // what is set up is often set up so
			out = append(out, gap{behind: n, indent: line.indent, function: functions[n]})
		}
		for k, indent := n-1, line.indent; k >= max(0, n-farLines) && deeper(indent, next); k-- {
			if head := l.lines[k]; deeper(indent, head.indent) {
				deep := indent
				indent = head.indent
				if first := l.word(head.from); (first == "if" || first == "elif") && !l.followed(n, indent) {
					out = append(out, gap{n, deep, functions[k], indent})
				}
				if l.word(head.from) == "def" || indent == "" {
					break
				}
				out = append(out, gap{behind: n, indent: indent, function: functions[k]})
			}
		}
	}
	return out
}

// followed reports whether the line behind another one is what is done else, at an indentation.
func (l *lister) followed(n int, indent string) bool {
	if n+1 == len(l.lines) || l.lines[n+1].indent != indent {
		return false
	}
	first := l.word(l.lines[n+1].from)
	return first == "else" || first == "elif"
}

// sets reports whether the block before a gap sets, or calls, something.
func (l *lister) sets(g gap, name string) bool {
	for k := g.behind; k >= max(0, g.behind-farLines) && l.lines[k].indent != g.other; k-- {
		if was, _ := l.target(k); was == name || sibling(was, name) {
			return true
		}
	}
	return false
}

// sibling reports whether two names are methods of the same thing.
func sibling(a, b string) bool {
	i := strings.LastIndex(a, ".")
	return i >= 0 && strings.HasPrefix(b, a[:i+1]) && !strings.Contains(b[i+1:], ".")
}

// leaving are words that nothing is carried out behind.
var leaving = []string{"return", "break", "continue", "raise"}

// stands reports whether a text stands right before a gap, or behind it.
func (l *lister) stands(g gap, text string) bool {
	return l.textOf(g.behind) == text || g.behind+1 < len(l.lines) && l.textOf(g.behind+1) == text
}

func (l *lister) textOf(n int) string {
	return l.text[l.tokens[l.lines[n].from].At:l.tokens[l.lines[n].to-1].Behind()]
}

// plant puts a line in a gap, which has a number.
func (l *lister) plant(number int, g gap, w wanted) {
	before := l.lines[g.behind]
	at := l.tokens[before.to-1].Behind()
	edit := script.Edit{At: at, End: at, To: "\n" + g.indent + w.text}
	meant := w.text
	if g.other != "" {
		meant = "else: " + w.text
		edit.To = "\n" + g.other + "else:" + edit.To
	}
	if slices.Contains(heads, l.word(before.from)) {
		at = l.tokens[l.lines[g.behind+1].from].At
		edit = script.Edit{At: at, End: at, To: w.text + "\n" + g.indent}
	}
	l.put(l.tokens[before.from].Line, machine.Alteration{Slip: machine.Missing, Rare: w.rare, Meant: meant,
		Behind: true, Element: number}, edit)
}

// target is what a line sets, and the operator that does; sets is "" for a call, and the name is "" for all others.
func (l *lister) target(n int) (name, sets string) {
	line := l.lines[n]
	i := line.from
	if l.tokens[i].Kind != script.Name {
		return "", ""
	}
	for i+2 < line.to && l.word(i+1) == "." {
		i += 2
	}
	name = l.text[l.tokens[line.from].At:l.tokens[i].Behind()]
	switch next := l.word(i + 1); {
	case next == "(":
		return name, ""
	case strings.HasSuffix(next, "=") && next != "==" && i+1 < line.to:
		return name, next
	}
	return "", ""
}

// wanted lists lines that may be missing.
func (l *lister) wanted(functions []int) (out []wanted) {
	have := map[wanted]bool{}
	put := func(w wanted) {
		key := wanted{text: w.text, function: w.function}
		if w.anywhere {
			key.function = -1
		}
		if !have[key] && len(w.text) <= mostLetters && len(out) < 3*mostCopies {
			have[key] = true
			out = append(out, w)
		}
	}
	type place struct {
		name     string
		function int
	}
	begins, operators, set := map[string]string{}, map[string][]string{}, map[place]bool{}
	inside := map[int][]string{} // what each function sets, and does not set up
	for n := range l.lines {
		name, sets := l.target(n)
		if name == "" || sets == "" {
			continue
		}
		set[place{name, functions[n]}] = true
		if known := inside[functions[n]]; sets == "=" && l.lines[n].indent != "" && len(known) < mostCopies {
			inside[functions[n]] = append(known, name)
		}
		if _, known := begins[name]; !known && sets == "=" {
			_, begins[name], _ = strings.Cut(l.textOf(n), "= ")
			continue
		}
		operators[name] = append(operators[name], sets)
	}
	copies := 0
	for n := range l.lines {
		name, sets := l.target(n)
		text := l.textOf(n)
		setUp := functions[n] < 0 && l.lines[n].indent == ""
		if name == "" || strings.Contains(text, "\n") || copies == mostCopies || setUp {
			continue
		}
		copies++
		if slices.Contains([]string{"+=", "-="}, sets) && begins[name] != "" {
			rare := machine.Seldom
			if !slices.Contains(operators[name], "=") {
				rare = 0 // it only ever counts
			}
			put(wanted{text: name + " = " + begins[name], about: name, function: functions[n], rare: rare})
		}
		put(wanted{text: text, about: name, function: functions[n], rare: machine.Seldom,
			anywhere: strings.HasSuffix(text, "()") && functions[n] >= 0})
		if to, ok := l.opposite(n); ok {
			put(wanted{text: to, about: name, function: functions[n], rare: machine.Seldom})
		}
	}
	for n := range l.lines {
		for _, w := range l.remembered(n, functions[n], inside[functions[n]], begins, operators) {
			if !set[place{w.about, functions[n]}] { // it is what was before
				put(w)
			}
		}
	}
	return out
}

// opposite is a line that does the reverse of another one: on for off, False for True.
func (l *lister) opposite(n int) (text string, ok bool) {
	line := l.lines[n]
	for i := line.from; i < line.to; i++ {
		t := l.tokens[i]
		if to := turned[t.Word]; to.slip == machine.Level && to.rare == 0 && t.Kind != script.Text {
			return l.text[l.tokens[line.from].At:t.At] + to.to + l.text[t.Behind():l.tokens[line.to-1].Behind()], true
		}
	}
	return "", false
}

// remembered are lines that keep what a condition compares with what was before: the time since when it is, or what an
// input was, where a name is only ever set once.
func (l *lister) remembered(n, function int, inside []string, begins map[string]string,
	operators map[string][]string) (out []wanted) {
	line := l.lines[n]
	if first := l.word(line.from); first != "if" && first != "elif" && first != "while" {
		return nil
	}
	for i := line.from + 1; i < line.to; i++ {
		begin := i
		for l.word(i+1) == "." && i+2 < line.to {
			i += 2
		}
		name := l.text[l.tokens[begin].At:l.tokens[i].Behind()]
		if begins[name] == "" || strings.ToUpper(name) == name {
			continue
		}
		rare := machine.Seldom
		if len(operators[name]) == 0 {
			rare = 0
		}
		if from := l.lessened(begin, i, line.from); from < begin-1 {
			text := name + " = " + l.text[l.tokens[from].At:l.tokens[begin-2].Behind()]
			out = append(out, wanted{text: text, about: name, function: function, rare: rare})
		}
		if rare > 0 {
			continue
		}
		for _, other := range inside {
			if other != name && len(out) < mostSources {
				out = append(out, wanted{text: name + " = " + other, about: name, function: function, rare: rare})
			}
		}
	}
	return out
}

// lessened is the first token of what a name is taken from, by a sign or by ticks_diff, that stands between two tokens
// of a line; the name's own where it is taken from nothing.
func (l *lister) lessened(i, last, begin int) (from int) {
	switch {
	case l.word(i-1) == "-" && comparisons[l.word(last+1)]:
		for from = i - 1; from-1 > begin && (l.behindValue(from) || l.word(from-1) == "(" && l.word(from) == ")" ||
			l.word(from-1) == "."); {
			from--
		}
		return from
	case l.word(i-1) == "," && l.word(last+1) == ")":
		depth := 0
		for from = i - 2; from > begin; from-- {
			switch l.word(from) {
			case ")":
				depth++
			case "(":
				if depth--; depth < 0 && l.word(from-1) == "ticks_diff" {
					return from + 1
				}
			}
		}
	}
	return i
}
