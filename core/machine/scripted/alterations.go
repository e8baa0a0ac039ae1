package scripted

import (
	"path"
	"strconv"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// alterations lists how single words and lines of what its author wrote may have been meant. Those of a program that
// was built of C are listed by core/source, with what builds it again.
func alterations(im *firmware.Image, hints machine.Hints) (out []machine.Alteration) {
	if im.Script == nil || im.Script.Binary != nil {
		return nil
	}
	odd := hints.Odd(numbers(im.Script))
	for number, name := range im.Script.Names() {
		if path.Ext(name) != ".py" {
			continue
		}
		l := &lister{number: number, name: name, text: im.Script.Files[name], hints: hints, odd: odd, out: out}
		l.tokens = script.Tokens(name, l.text)
		l.lines = logical(l.text, l.tokens)
		l.list()
		out = l.out
	}
	return out
}

// numbers are the whole ones of a program.
func numbers(p *script.Program) (out []int64) {
	for _, name := range p.Names() {
		for _, t := range script.Tokens(name, p.Files[name]) {
			if n, err := strconv.ParseInt(t.Word, 0, 32); err == nil && t.Kind == script.Number {
				out = append(out, n)
			}
		}
	}
	return out
}

// lister lists the alterations of one file.
type lister struct {
	number int // of the file
	name   string
	text   string
	tokens []script.Token
	lines  []line
	hints  machine.Hints
	odd    func(int64) []int64 // see machine.Hints
	recent map[int]bool        // lines, see machine.Hints
	out    []machine.Alteration
}

// put adds an alteration: edits do not overlap, and stand in their order.
func (l *lister) put(at int, a machine.Alteration, edits ...script.Edit) {
	a.Address = script.Address(l.number, at)
	if len(l.out) == machine.MostAltered || !l.hints.Runs(a.Address) {
		return
	}
	a.Line, a.Recent = firmware.Line{File: l.name, Line: at}, l.recent[at]
	name, before := l.name, l.text
	a.Change = func(im *firmware.Image) *firmware.Image {
		if im.Script == nil || im.Script.Files[name] != before { // another change came first
			return im
		}
		return &firmware.Image{Format: im.Format, Script: im.Script.Rewritten(name, script.Edited(before, edits))}
	}
	l.out = append(l.out, a)
}

// replace puts another word in the place of a token.
func (l *lister) replace(t script.Token, slip machine.Slip, rare int, to string) {
	l.put(t.Line, machine.Alteration{Slip: slip, Rare: rare, Stands: t.Word, Meant: to}, t.Replaced(to))
}

// word gives the word at a place; "" where there is none.
func (l *lister) word(i int) string {
	if i < 0 || i >= len(l.tokens) {
		return ""
	}
	return l.tokens[i].Word
}

// lately gives the recent lines, those that decide about one, and, outside of all blocks, those that define what such
// lines use.
func (l *lister) lately() map[int]bool {
	if l.hints.Recent == nil {
		return nil
	}
	recent := func(n int) bool { return l.hints.Recent(script.Address(l.number, l.tokens[l.lines[n].from].Line)) }
	used, out := map[string]bool{}, map[int]bool{}
	for n, line := range l.lines {
		decides := n+1 < len(l.lines) && deeper(l.lines[n+1].indent, line.indent) && recent(n+1)
		if !decides && !recent(n) {
			continue
		}
		out[l.tokens[line.from].Line] = true
		for i := line.from; i < line.to; i++ {
			if l.tokens[i].Kind == script.Name {
				used[l.word(i)] = true
			}
		}
	}
	for _, line := range l.lines {
		if t := l.tokens[line.from]; line.indent == "" && used[t.Word] && l.word(line.from+1) == "=" {
			out[t.Line] = true
		}
	}
	return out
}

// list lists all.
func (l *lister) list() {
	l.recent = l.lately()
	var calls []int // open brackets, by what stands before them
	for n, line := range l.lines {
		first := l.word(line.from)
		if first == "import" || first == "from" {
			continue
		}
		calls = calls[:0]
		for i := line.from; i < line.to; i++ {
			switch t := l.tokens[i]; t.Word {
			case "(", "[", "{":
				calls = append(calls, i)
				l.elements(i, line.to)
				l.scaled(i, line.to)
			case ")", "]", "}":
				calls = calls[:max(0, len(calls)-1)]
			default:
				opener, function := l.within(calls)
				l.token(i, opener, function)
			}
		}
		l.statement(n)
	}
	l.globals()
	l.peers()
	l.texts()
	l.forgotten()
}

// within tells by what the innermost brackets open, and of which function they are.
func (l *lister) within(calls []int) (opener, function string) {
	if len(calls) == 0 {
		return "", ""
	}
	at := calls[len(calls)-1]
	if l.applied(at) {
		function = l.word(at - 1)
	}
	return l.word(at), function
}

// applied reports whether brackets belong to what stands before them, a function or a list.
func (l *lister) applied(open int) bool {
	return l.word(open) != "{" && l.behindValue(open)
}

// behindValue reports whether a token stands behind a value.
func (l *lister) behindValue(i int) bool {
	return i > 0 && (l.tokens[i-1].Kind == script.Name || l.tokens[i-1].Kind == script.Number ||
		l.word(i-1) == ")" || l.word(i-1) == "]")
}

// turned are words for one of two, by the other: what rare slips are, by how machine.Seldom they come.
var turned = func() map[string]other {
	out := map[string]other{}
	pair := func(slip machine.Slip, rare int, pairs ...string) {
		for _, p := range pairs {
			a, b, _ := strings.Cut(p, " ")
			out[a], out[b] = other{b, slip, rare}, other{a, slip, rare}
		}
	}
	pair(machine.Inclusive, 0, "< <=", "> >=")
	pair(machine.Reversed, 0, "== !=", "and or")
	pair(machine.Sign, 0, "+= -=")
	pair(machine.Level, 0, "True False", "HIGH LOW", "high low", "on off", "RISING FALLING", "PUD_UP PUD_DOWN",
		"PULL_UP PULL_DOWN", "IRQ_RISING IRQ_FALLING")
	pair(machine.Level, machine.Seldom, "when_pressed when_released", "wait_for_press wait_for_release", "min max")
	pair(machine.Shift, machine.Seldom, "<< >>", "<<= >>=")
	pair(machine.Mask, machine.Seldom, "& |", "&= |=")
	pair(machine.Sign, machine.Unlikely, "// %", "* //")
	return out
}()

// other is what is taken for a word.
type other struct {
	to   string
	slip machine.Slip
	rare int
}

// comparisons of numbers.
var comparisons = map[string]bool{"<": true, ">": true, "<=": true, ">=": true, "==": true, "!=": true}

// crossed are comparisons the other way round.
var crossed = map[string]string{"<": ">", ">": "<", "<=": ">=", ">=": "<="}

// token looks at one token, within brackets of a kind: those of a function, where it has a name.
func (l *lister) token(i int, opener, function string) {
	t := l.tokens[i]
	before := l.word(i - 1)
	if w, ok := turned[t.Word]; ok && t.Kind != script.Text && before != "while" {
		l.replace(t, w.slip, w.rare, w.to)
	}
	switch {
	case t.Kind == script.Number:
		l.numberAt(i, opener, function)
	case crossed[t.Word] != "":
		l.replace(t, machine.Reversed, machine.Seldom, crossed[t.Word])
	case t.Word == "+" && l.behindValue(i):
		l.replace(t, machine.Sign, 0, "-")
	case t.Word == "-" && l.behindValue(i):
		l.replace(t, machine.Sign, 0, "+")
	case t.Word == "-" && i+1 < len(l.tokens) && l.tokens[i+1].Kind == script.Number:
		l.replace(t, machine.Sign, machine.Seldom, "")
	case t.Word == "~":
		l.replace(t, machine.Inverted, machine.Seldom, "")
	case t.Word == "not" && l.word(i+1) != "in":
		l.replace(t, machine.Reversed, 0, "")
	case conditions[t.Word] && (l.word(i+2) == "." || l.word(i+2) == ":" && l.word(i+1) != "not"):
		l.put(t.Line, machine.Alteration{Slip: machine.Reversed, Rare: machine.Seldom, Meant: "not"},
			script.Edit{At: t.Behind(), End: t.Behind(), To: " not"})
	case t.Kind == script.Name && before == "." && methods[t.Word] && l.word(i+1) != "(":
		l.replace(t, machine.Missing, 0, t.Word+"()")
	}
}

// conditions begin with these.
var conditions = map[string]bool{"if": true, "elif": true, "while": true}

// methods are those that ask for something, and give themselves where the brackets are missing.
var methods = map[string]bool{"value": true, "read": true, "read_u16": true, "ticks_ms": true, "ticks_us": true,
	"time": true, "monotonic": true, "perf_counter": true}

// How far is looked for what belongs together: a script may be made so that each of its lines is looked at from each.
const (
	farTokens = 500
	farLines  = 200
)
