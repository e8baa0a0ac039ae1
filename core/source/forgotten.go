package source

import (
	"cmp"
	"slices"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// A statement that was forgotten: one that stands elsewhere in the program, or that follows from what does, in a place
// that has to do with the same things.

// Bounds of what is listed of a file.
const (
	mostForgotten = 600
	mostGaps      = 150
)

// gap is a place between two statements.
type gap struct {
	behind   int  // the token before it
	of       int  // the first token of the statement before it, or what opens the block
	at       int  // in bytes
	function int  // its body, as a block
	other    bool // behind a condition that says nothing of what is to be done else
}

// planted is a statement in a gap.
type planted struct {
	machine.Alteration
	gap  gap
	text string
}

// forgotten lists statements with the gaps in which they may be missing.
func (l *lister) forgotten() (out []planted) {
	all := l.declarations()
	statements := l.statements(all)
	for _, g := range l.gaps() {
		p := l.place(g.of)
		if p.never {
			continue
		}
		for _, s := range statements {
			if s.concerns(l.bodies.mentions[g.function]) && known(s.names, g, all) && !s.beside(g) && (!g.other || l.answers(s, g)) {
				out = append(out, l.plant(s, g, p))
			}
		}
	}
	slices.SortStableFunc(out, func(a, b planted) int {
		return cmp.Or(cmp.Compare(a.Rare, b.Rare), cmp.Compare(b.Reached, a.Reached))
	})
	return out[:min(len(out), mostForgotten)]
}

// plant has a statement in a gap.
func (l *lister) plant(s statement, g gap, p place) planted {
	a := machine.Alteration{Slip: machine.Missing, Rare: s.rare, Meant: s.text, Behind: true, Address: p.address,
		Reached: p.reached, Element: g.at, Line: firmware.Line{File: l.name, Line: l.tokens[g.behind].Line}}
	if s.within != nil && !s.within[g.function] {
		a.Rare = machine.Unlikely
	}
	if g.other {
		a.Meant = "else " + s.text
	}
	return planted{a, g, s.text}
}

// gaps are those between the statements of all functions, but for those that nothing comes to.
func (l *lister) gaps() (out []gap) {
	for n, b := range l.bodies.blocks {
		f := n
		for l.bodies.blocks[f].outer >= 0 {
			f = l.bodies.blocks[f].outer
		}
		out = append(out, gap{behind: b.open, of: b.open, at: l.tokens[b.open].Behind(), function: f})
		for _, p := range b.parts {
			g := gap{behind: p.to, of: p.from, at: l.tokens[p.to].Behind(), function: f}
			switch l.word(p.from) {
			case "return", "break", "continue", "goto":
				continue
			case "if":
				if g.other = !p.other; g.other {
					out = append(out, g)
				}
			}
			g.other = false
			out = append(out, g)
		}
	}
	return out[:min(len(out), mostGaps)]
}

// answers reports whether a statement may be what a condition does else: it sets what the condition sets.
func (l *lister) answers(s statement, g gap) bool {
	return slices.Contains(l.names(g.of, g.behind), s.concern[0])
}

// beside reports whether a statement stands right before a gap, or behind it.
func (s statement) beside(g gap) bool {
	return s.within != nil && (g.behind == s.to || g.behind == s.from-1)
}
