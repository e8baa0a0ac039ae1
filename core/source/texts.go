package source

import (
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// leastText is how many characters a text has that is taken for one of those shown.
const leastText = 2

// texts looks at texts in quotation marks: one that was seen where another of them was expected may have been meant to
// be that, and two of which each was seen for the other may be exchanged.
func (l *lister) texts() {
	var all []int
	for i, t := range l.tokens {
		if t.Kind == script.Text && t.Word[0] == '"' && l.word(i-1) != "include" && len(said(t)) >= leastText {
			all = append(all, i)
		}
	}
	all = all[:min(len(all), mostElements)]
	for n, i := range all {
		t := l.tokens[i]
		tried := map[string]bool{t.Word: true}
		for _, k := range all {
			if other := l.tokens[k]; !tried[other.Word] && l.seenFor(said(t), said(other)) {
				tried[other.Word] = true
				l.replace(i, machine.Number, likeliest, other.Word)
			}
		}
		for _, k := range all[n+1:] {
			other := l.tokens[k]
			if said(t) != said(other) && l.seenFor(said(t), said(other)) && l.seenFor(said(other), said(t)) {
				l.put(i, machine.Alteration{Slip: machine.Neighbours, Rare: likeliest,
					Stands: cut(t.Word + " … " + other.Word), Meant: cut(other.Word + " … " + t.Word)},
					edit{t.At, t.Behind(), other.Word}, edit{other.At, other.Behind(), t.Word})
			}
		}
	}
}

// said is the text of a token.
func said(t script.Token) string { return strings.TrimSpace(strings.Trim(t.Word, `"`)) }

// seenFor reports whether one text was seen somewhere where another one was expected.
func (l *lister) seenFor(seen, wanted string) bool {
	for _, p := range l.hints.Texts {
		if strings.Contains(p[1], seen) && !strings.Contains(p[0], seen) && strings.Contains(p[0], wanted) &&
			!strings.Contains(p[1], wanted) {
			return true
		}
	}
	return false
}
