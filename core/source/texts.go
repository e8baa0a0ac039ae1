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
			if other := l.tokens[k]; !tried[other.Word] && l.hints.SeenFor(said(t), said(other)) {
				tried[other.Word] = true
				l.put(i, machine.Alteration{Slip: machine.Number, Rare: likeliest, Stands: bare(t), Meant: bare(other)},
					t.Replaced(other.Word))
			}
		}
		for _, k := range all[n+1:] {
			other := l.tokens[k]
			one, two := said(t), said(other)
			if one != two && l.hints.SeenFor(one, two) && l.hints.SeenFor(two, one) {
				l.put(i, machine.Alteration{Slip: machine.Neighbours, Rare: likeliest,
					Stands: script.Cut(bare(t) + " … " + bare(other)),
					Meant:  script.Cut(bare(other) + " … " + bare(t))},
					t.Replaced(other.Word), other.Replaced(t.Word))
			}
		}
	}
}

// bare is the text of a token, and said what is seen of it.
func bare(t script.Token) string { return strings.Trim(t.Word, `"`) }

func said(t script.Token) string { return strings.TrimSpace(bare(t)) }
