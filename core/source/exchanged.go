package source

import (
	"hemble/core/machine"
	"hemble/core/script"
)

// exchanged has two statements that follow each other in the other order, where one of them is simple and both have to
// do with the same thing.
func (l *lister) exchanged() {
	for _, b := range l.bodies.blocks {
		for n := 1; n < len(b.parts); n++ {
			x, y := b.parts[n-1], b.parts[n]
			if !x.moves || !y.moves || !x.simple && !y.simple || !l.share(x, y) {
				continue
			}
			one, other := l.textOf(x), l.textOf(y)
			if one == other {
				continue
			}
			l.put(x.from, machine.Alteration{Slip: machine.Neighbours, Rare: machine.Seldom,
				Stands: script.Cut(one + " " + other), Meant: script.Cut(other + " " + one)},
				l.edit(x, other), l.edit(y, one))
		}
	}
}

// chained has a condition behind another one be looked at only where that is not met.
func (l *lister) chained() {
	for _, b := range l.bodies.blocks {
		for n := 1; n < len(b.parts); n++ {
			x, y := b.parts[n-1], b.parts[n]
			if l.word(x.from) != "if" || x.other || l.word(y.from) != "if" || !l.share(x, y) {
				continue
			}
			at := l.tokens[y.from].At
			l.put(y.from, machine.Alteration{Slip: machine.Missing, Rare: machine.Seldom, Meant: "else"},
				script.Edit{At: at, End: at, To: "else "})
		}
	}
}

// share reports whether a name stands in both.
func (l *lister) share(x, y part) bool {
	names := map[string]bool{}
	for i := x.from; i <= x.to; i++ {
		if l.tokens[i].Kind == script.Name {
			names[l.word(i)] = true
		}
	}
	for i := y.from; i <= y.to; i++ {
		if names[l.word(i)] {
			return true
		}
	}
	return false
}

func (l *lister) textOf(p part) string { return l.text[l.tokens[p.from].At:l.tokens[p.to].Behind()] }

func (l *lister) edit(p part, to string) script.Edit {
	return script.Edit{At: l.tokens[p.from].At, End: l.tokens[p.to].Behind(), To: to}
}
