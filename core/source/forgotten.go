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
	lone     bool // behind what a condition carries out without brackets
	begun    bool // where a program begins
}

// planted is what may be missing in a place. What it puts into the file takes the condition of being the one that is
// chosen, as an expression of the language.
type planted struct {
	machine.Alteration
	inserts func(chosen string) []insert
}

// insert is what is put into a file, and its turn among others in the same place.
type insert struct {
	at   int // in bytes
	turn turn
	text string
}

// turn is an order of what stands in the same place.
type turn int

// The turns: what belongs to the statement before, what is to be done else, what comes then, and what opens the next.
const (
	closes turn = iota
	elses
	comes
	opens
)

// forgotten lists statements with the gaps in which they may be missing, and conditions that may be.
func (l *lister) forgotten() (out []planted) {
	all := l.declarations()
	statements := slices.Concat(l.statements(all), l.limits(all))
	for _, g := range l.gaps() {
		p := l.place(g.of)
		if p.never {
			continue
		}
		g.begun = l.begun(g.behind)
		before, behind := l.before(g.behind+1), l.from(g.behind+1)
		for _, s := range statements {
			if s.fits(g) && s.concerns(l.bodies.mentions[g.function]) && known(s.names, g.behind, all) &&
				!s.beside(g) && (!g.other || l.answers(s, g)) {
				x := l.plant(s, g, p)
				if x.Rare > 0 && !g.other && !g.begun && (meet(s.before, before) || meet(s.behind, behind)) {
					x.Rare--
				}
				out = append(out, x)
			}
		}
	}
	out = append(out, l.unguarded(all)...)
	for _, g := range l.open() {
		if p := l.place(g.of); !p.never {
			out = append(out, l.plant(statement{text: "break;"}, g, p))
		}
	}
	slices.SortStableFunc(out, func(a, b planted) int {
		return cmp.Or(cmp.Compare(a.Rare, b.Rare), cmp.Compare(b.Reached, a.Reached))
	})
	return out[:min(len(out), mostForgotten)]
}

// meet reports whether two lists have something in common.
func meet(a, b []string) bool {
	return slices.ContainsFunc(a, func(s string) bool { return slices.Contains(b, s) })
}

// plant has a statement in a gap.
func (l *lister) plant(s statement, g gap, p place) planted {
	a := machine.Alteration{Slip: machine.Missing, Rare: s.rare, Meant: s.text, Behind: true, Address: p.address,
		Reached: p.reached, Recent: p.recent, Element: g.at,
		Line: firmware.Line{File: l.name, Line: l.tokens[g.behind].Line}}
	switch {
	case s.steps != nil:
		if l.word(g.behind) == "}" {
			a.Rare++ // it is missing in the block before it, if at all
		}
	case s.within != nil && (!s.within[g.function] || !s.again && !g.begun):
		a.Rare = machine.Unlikely
	case s.within == nil && len(s.concern) > 0 && !slices.Contains(l.names(l.head(g), g.behind), s.concern[0]):
		a.Rare++ // what is set there is used elsewhere
	}
	turn, otherwise := comes, ""
	if g.other {
		turn, otherwise = elses, "else "
		a.Meant = otherwise + s.text
	}
	return planted{a, func(chosen string) []insert {
		text := " " + otherwise + "if (" + chosen + ") { " + s.text + " }"
		if g.lone {
			return []insert{{l.tokens[g.of].At, opens, "{ "}, {g.at, closes, text + " }"}}
		}
		return []insert{{g.at, turn, text}}
	}}
}

// gaps are those between the statements of all functions, but for those that nothing comes to.
func (l *lister) gaps() (out []gap) {
	for n, b := range l.bodies.blocks {
		f := l.bodies.function(n)
		out = append(out, gap{behind: b.open, of: b.open, at: l.tokens[b.open].Behind(), function: f})
		for _, p := range b.parts {
			g := gap{behind: p.to, of: p.from, at: l.tokens[p.to].Behind(), function: f}
			if slices.Contains(leaving, l.word(p.from)) {
				continue
			}
			out = append(out, g)
			if l.word(p.from) == "if" && !p.other {
				g.other = true
				out = append(out, g)
			}
		}
	}
	for _, p := range l.bodies.lone {
		out = append(out, gap{behind: p.to, of: p.from, at: l.tokens[p.to].Behind(), lone: true,
			function: l.bodies.function(p.within)})
	}
	return out[:min(len(out), mostGaps)]
}

// head is the first token of the statement before a gap, or of what says when the block is carried out that it opens.
func (l *lister) head(g gap) int {
	if g.of != g.behind {
		return g.of
	}
	i := g.of
	for i > 0 && g.of-i < mostWords && !slices.Contains([]string{";", "{", "}"}, l.word(i-1)) {
		i--
	}
	return i
}

// open are the gaps before a label to which what stands before it goes on.
func (l *lister) open() (out []gap) {
	for _, b := range l.bodies.blocks {
		for n := 1; n < len(b.parts) && len(out) < mostGaps; n++ {
			last := b.parts[n-1]
			if !l.labels(b.parts[n]) || l.labels(last) || slices.Contains(leaving, l.word(last.from)) {
				continue
			}
			out = append(out, gap{behind: last.to, of: last.from, at: l.tokens[last.to].Behind()})
		}
	}
	return out
}

// labels reports whether a statement is the label of a case.
func (l *lister) labels(p part) bool { return l.word(p.from) == "case" || l.word(p.from) == "default" }

// leaving are words of statements that nothing comes behind.
var leaving = []string{"return", "break", "continue", "goto"}

// answers reports whether a statement may be what a condition does else: it sets what the condition sets.
func (l *lister) answers(s statement, g gap) bool {
	return slices.Contains(l.names(g.of, g.behind), s.concern[0])
}

// beside reports whether a statement stands right before a gap, or behind it.
func (s statement) beside(g gap) bool {
	return s.within != nil && (g.behind == s.to || g.behind == s.from-1)
}
