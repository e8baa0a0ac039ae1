package source

import (
	"fmt"
	"slices"
)

// A variable that counts may lack what keeps it within its limits: it is set back there, or stays.

// limits lists statements that keep within limits what counts, behind what counts it.
func (l *lister) limits(all []declaration) (out []statement) {
	ends := l.hints.Ends()
	set := l.set(all)
	for _, d := range all {
		up, down := l.counted(d, set[d.name])
		if d.constant || !d.single || !d.lasts || len(up)+len(down) == 0 || len(l.since(d)) > 0 {
			continue
		}
		below := "<"
		if d.unsigned { // less than nothing is a great deal
			up, below = slices.Concat(up, down), ">"
		}
		for _, e := range ends {
			steps, compared, limit := up, ">", e.Limit
			if e.Below {
				steps, compared = down, below
				if d.unsigned && e.Limit == 0 {
					limit = e.To
				}
			}
			s := statement{concern: []string{d.name}, names: []string{d.name}, steps: steps, rare: e.Rare,
				text: fmt.Sprintf("if (%s %s %d) %s = %d;", d.name, compared, limit, d.name, e.To)}
			if len(steps) > 0 && len(s.text) <= mostLetters {
				out = append(out, s)
			}
		}
	}
	return out
}

// counted are the tokens that make a variable more, and those that make it less, of the operators that set it.
func (l *lister) counted(d declaration, operators []int) (up, down []int) {
	for _, i := range operators {
		more := l.word(i) == "++" || l.word(i) == "+="
		less := l.word(i) == "--" || l.word(i) == "-="
		if l.word(i) == "=" && l.word(i+1) == d.name {
			more, less = l.word(i+2) == "+", l.word(i+2) == "-"
		}
		switch {
		case l.header(i) >= 0:
		case more:
			up = append(up, i)
		case less:
			down = append(down, i)
		}
	}
	return up, down
}

// fits reports whether a statement may be missing in a gap, for what stands before that.
func (s statement) fits(g gap) bool {
	return s.steps == nil || !g.other && g.of != g.behind &&
		slices.ContainsFunc(s.steps, func(i int) bool { return g.of <= i && i < g.behind })
}
