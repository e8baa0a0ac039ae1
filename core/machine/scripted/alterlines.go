package scripted

import (
	"slices"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// Words that begin a line of more than one statement, or one that changes nothing by itself.
var (
	heads = strings.Fields("if elif else for while def class try except finally with async match case @")
	plain = strings.Fields("global nonlocal pass import from")
)

// statement looks at a line as a whole: it may be one too many, or belong to the block before or around it.
func (l *lister) statement(n int) {
	this := l.lines[n]
	first := l.word(this.from)
	if slices.Contains(plain, first) || l.tokens[this.from].Kind == script.Text { // a text is a comment
		return
	}
	if first == "if" && n > 0 && l.headBefore(n) {
		l.replace(l.tokens[this.from], machine.Reversed, machine.Seldom, "elif")
	}
	if slices.Contains(heads, first) {
		if first == "elif" {
			l.replace(l.tokens[this.from], machine.Reversed, machine.Seldom, "if")
		}
		return
	}
	at := l.tokens[this.from].Line
	begin, end := l.tokens[this.from].At, l.tokens[this.to-1].Behind()
	whole := l.text[begin:end]
	if l.word(this.from+1) != ":" && !(this.indent == "" && l.word(this.from+1) == "=") { // what is defined is needed
		l.put(at, machine.Alteration{Slip: machine.Needless, Rare: machine.Seldom, Stands: script.Cut(whole)},
			script.Edit{At: begin, End: end, To: "pass"})
	}
	if strings.Contains(whole, "\n") {
		return
	}
	move := func(indent string) {
		l.put(at, machine.Alteration{Slip: machine.Indented, Rare: machine.Seldom, From: int64(len(this.indent)),
			To: int64(len(indent)), Stands: script.Cut(whole)},
			script.Edit{At: begin - len(this.indent), End: begin, To: indent})
	}
	if n > 0 && deeper(l.lines[n-1].indent, this.indent) {
		move(l.lines[n-1].indent)
	}
	last := n+1 == len(l.lines) || deeper(this.indent, l.lines[n+1].indent)
	if !last {
		return
	}
	alone := true
	for k := n - 1; k >= max(0, n-farLines); k-- {
		if head := l.lines[k]; deeper(this.indent, head.indent) {
			if !alone && l.word(head.from) != "def" {
				move(head.indent)
			}
			return
		} else if head.indent == this.indent {
			alone = false
		}
	}
}

// headBefore reports whether the block before a line belongs to an if.
func (l *lister) headBefore(n int) bool {
	for k := n - 1; k >= max(0, n-farLines); k-- {
		if !deeper(l.lines[k].indent, l.lines[n].indent) {
			first := l.word(l.lines[k].from)
			return l.lines[k].indent == l.lines[n].indent && k < n-1 && (first == "if" || first == "elif")
		}
	}
	return false
}

// globals looks for functions that set a variable of the file without saying that it is not their own.
func (l *lister) globals() {
	outside := map[string]bool{}
	for _, line := range l.lines {
		if line.indent == "" && l.word(line.from+1) == "=" {
			outside[l.word(line.from)] = true
		}
	}
	for n, head := range l.lines {
		if l.word(head.from) != "def" || n+1 == len(l.lines) || !deeper(l.lines[n+1].indent, head.indent) {
			continue
		}
		told := map[string]bool{}
		for _, t := range l.tokens[head.from:min(head.to, head.from+farTokens)] { // parameters
			told[t.Word] = true
		}
		indent := l.lines[n+1].indent
		at := l.tokens[l.lines[n+1].from].At
		for _, line := range l.lines[n+1 : min(len(l.lines), n+farLines)] {
			if !deeper(line.indent, head.indent) {
				break
			}
			name := l.word(line.from)
			if name == "global" {
				for _, t := range l.tokens[line.from:line.to] {
					told[t.Word] = true
				}
			}
			sets := l.word(line.from + 1)
			if strings.HasSuffix(sets, "=") && sets != "==" && outside[name] && !told[name] {
				told[name] = true
				l.put(l.tokens[head.from].Line, machine.Alteration{Slip: machine.Missing, Meant: "global " + name},
					script.Edit{At: at, End: at, To: "global " + name + "\n" + indent})
			}
		}
	}
}
