package source

import (
	"path"
	"slices"
	"strconv"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// A compiler has numbers of its own in what it makes of a program: addresses, counts of turns, what it worked out.
// Where the author's text is at hand, those that may stand in it are told apart.

// Bounds of what is looked at of one line.
const (
	mostWords   = 80 // of a statement that begins on it
	mostNumbers = 24 // that stand there, or in what is defined
)

// Weigh makes those changes of the compiled program unlikely that are about a number which its line does not have, nor
// anything that is defined by its names. Where one other line alone has it, they are about that one: a compiler moves
// what a function is told into the function.
func (p *Program) Weigh(list []machine.Alteration) {
	w := written{files: p.listers(), lines: map[firmware.Line]numbersOf{}, defined: map[string][]int64{},
		only: map[int64]firmware.Line{}}
	for _, l := range w.files {
		w.define(l)
		w.settle(l)
	}
	for i := range list {
		a := &list[i]
		if a.Slip != machine.Number || a.Table != "" || a.Rare >= machine.Unlikely {
			continue
		}
		if n := w.on(a.Line); !n.known || n.has(a.From) {
			continue
		}
		if line := w.only[a.From]; line != (firmware.Line{}) {
			a.Line = line
		} else {
			a.Rare = machine.Unlikely
		}
	}
}

// settle takes down where the numbers of a file stand, in tens, that stand for few things.
func (w *written) settle(l *lister) {
	for _, t := range l.tokens {
		n, ok := parse(t.Word)
		if !ok || t.Kind != script.Number || n.base != 10 || n.value < ofTimers {
			continue
		}
		at := firmware.Line{File: path.Base(l.name), Line: t.Line}
		if _, again := w.only[n.value]; again {
			at = firmware.Line{}
		}
		w.only[n.value] = at
	}
}

// written are the numbers of a program's text.
type written struct {
	files   []*lister
	defined map[string][]int64 // by names
	lines   map[firmware.Line]numbersOf
	only    map[int64]firmware.Line // on which a number stands alone in all files; none where it stands on several
}

// numbersOf are those of a line.
type numbersOf struct {
	known bool // the line is in the text
	all   []int64
}

// has reports whether a number may come from those of a line: as it is written, beside it, where "less" is made of "at
// most", as a bit or as the result of two.
func (n numbersOf) has(is int64) bool {
	for i, v := range n.all {
		if off := is - v; -1 <= off && off <= 1 || is == -v || 0 <= v && v < 32 && (is == 1<<v || is == ^(1<<v)&0xff) {
			return true
		}
		for _, u := range n.all[i+1:] {
			if is == v*u || is == v+u || is == v-u || is == u-v || is == v|u || u != 0 && is == v/u {
				return true
			}
		}
	}
	return false
}

// on gives the numbers of the statement that begins on a line.
func (w *written) on(line firmware.Line) numbersOf {
	line = firmware.Line{File: line.File, Line: line.Line}
	if n, ok := w.lines[line]; ok {
		return n
	}
	n := numbersOf{}
	for _, l := range w.files {
		if path.Base(l.name) != line.File {
			continue
		}
		first, known := slices.BinarySearchFunc(l.tokens, line.Line,
			func(t script.Token, n int) int { return t.Line - n })
		n.known = known
		for i := first; i < min(len(l.tokens), first+mostWords) && len(n.all) < mostNumbers; i++ {
			ends := l.word(i-1) == ";" || l.word(i-1) == "{" || l.word(i-1) == "}"
			if ends && l.tokens[i].Line != line.Line {
				break
			}
			n.all = append(n.all, w.value(l, i)...)
		}
	}
	w.lines[line] = n
	return n
}

// value gives what a word stands for, of numbers.
func (w *written) value(l *lister, i int) []int64 {
	switch t := l.tokens[i]; t.Kind {
	case script.Number:
		if n, ok := parse(t.Word); ok {
			return []int64{n.value}
		}
		if v, err := strconv.ParseInt(t.Word, 0, 64); err == nil { // in eights
			return []int64{v}
		}
	case script.Text:
		if text, err := strconv.Unquote(t.Word); err == nil && t.Word[0] == '\'' && len(text) == 1 {
			return []int64{int64(text[0])}
		}
	case script.Name:
		if bit, ok := portBit(t.Word); ok {
			return []int64{bit}
		}
		return w.defined[t.Word]
	}
	return nil
}

// portBit is the bit that a name like PB3 stands for.
func portBit(name string) (int64, bool) {
	if len(name) == 3 && name[0] == 'P' && 'A' <= name[1] && name[1] <= 'L' && '0' <= name[2] && name[2] <= '7' {
		return int64(name[2] - '0'), true
	}
	return 0, false
}

// define takes down what names stand for: definitions, what they begin with, and lists of names.
func (w *written) define(l *lister) {
	for i := range l.tokens {
		switch {
		case l.word(i) == "define" && l.word(i-1) == "#" && i+1 < len(l.tokens):
			line := l.tokens[i].Line
			for k := i + 2; k < min(len(l.tokens), i+mostWords) && l.tokens[k].Line == line; k++ {
				w.add(l.word(i+1), w.value(l, k))
			}
		case l.word(i) == "=" && l.declares(i-1):
			for k := i + 1; k < min(len(l.tokens), i+mostWords) && l.word(k) != ";" && l.word(k) != ","; k++ {
				w.add(l.word(i-1), w.value(l, k))
			}
		case l.word(i) == "enum":
			w.list(l, i)
		}
	}
}

// declares reports whether a name stands behind a type.
func (l *lister) declares(i int) bool {
	if i < 1 || l.tokens[i].Kind != script.Name {
		return false
	}
	switch before := l.tokens[i-1]; before.Kind {
	case script.Name:
		return true
	case script.Keyword:
		return before.Word != "else" && before.Word != "do" && before.Word != "return"
	default:
		return false
	}
}

// list numbers the names of an enumeration.
func (w *written) list(l *lister, i int) {
	open := i
	for open < min(len(l.tokens), i+mostWords) && l.word(open) != "{" {
		open++
	}
	next := int64(0)
	for i = open + 1; i < min(len(l.tokens), open+mostElements) && l.word(i) != "}"; i++ {
		if l.tokens[i].Kind != script.Name || l.word(i-1) != "{" && l.word(i-1) != "," {
			continue
		}
		if l.word(i+1) == "=" && i+2 < len(l.tokens) {
			if v := w.value(l, i+2); len(v) == 1 {
				next = v[0]
			}
		}
		w.add(l.word(i), []int64{next})
		next++
	}
}

func (w *written) add(name string, values []int64) {
	if room := mostNumbers - len(w.defined[name]); room > 0 {
		w.defined[name] = append(w.defined[name], values[:min(len(values), room)]...)
	}
}
