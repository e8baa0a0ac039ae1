package scripted

import (
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// elements looks at what is listed within brackets that open at a place: neighbours may be exchanged.
func (l *lister) elements(open, end int) {
	if l.applied(open) {
		return
	}
	var parts [][2]int // tokens of each, without the comma; of a pair, its value
	from, depth := open+1, 0
	for i := open + 1; i < min(end, open+farTokens); i++ {
		switch w := l.word(i); {
		case w == "(" || w == "[" || w == "{":
			depth++
		case depth > 0 && (w == ")" || w == "]" || w == "}"):
			depth--
		case depth > 0:
		case w == ":":
			from = i + 1
		case w == "for":
			return
		case w == "," || w == ")" || w == "]" || w == "}":
			if from < i {
				parts = append(parts, [2]int{from, i})
			}
			from = i + 1
			if w != "," {
				i = end
			}
		}
	}
	source := func(p [2]int) (script.Edit, string) {
		e := script.Edit{At: l.tokens[p[0]].At, End: l.tokens[p[1]-1].Behind()}
		return e, l.text[e.At:e.End]
	}
	for n := 1; n < len(parts); n++ {
		a, one := source(parts[n-1])
		b, other := source(parts[n])
		if one != other {
			a.To, b.To = other, one
			l.put(l.tokens[parts[n-1][0]].Line, machine.Alteration{Slip: machine.Neighbours, Rare: machine.Seldom,
				Stands: script.Cut(one + ", " + other), Meant: script.Cut(other + ", " + one)}, a, b)
		}
	}
}

// mostPeers is how many others are tried in the place of one.
const mostPeers = 4

// peers looks for things of one kind, as lamps that are made by the same call: one may stand in the place of another.
func (l *lister) peers() {
	kinds, same := map[string]string{}, map[string][]string{}
	for _, line := range l.lines {
		if line.indent != "" || l.word(line.from+1) != "=" || l.tokens[line.from].Kind != script.Name {
			continue
		}
		kind := ""
		for i := line.from + 2; i < min(line.to, line.from+farTokens) && l.word(i) != "("; i++ {
			kind += l.word(i)
		}
		name := l.word(line.from)
		if _, known := kinds[name]; !known && kind != "" && l.word(line.to-1) == ")" {
			kinds[name] = kind
			same[kind] = append(same[kind], name)
		}
	}
	for i, t := range l.tokens {
		if kinds[t.Word] == "" || l.word(i+1) != "." || l.word(i-1) == "." {
			continue
		}
		peers := same[kinds[t.Word]]
		for _, other := range peers[:min(mostPeers, len(peers))] {
			if other != t.Word {
				l.replace(t, machine.Number, machine.Unlikely, other)
			}
		}
	}
}

// texts looks at texts in quotation marks: one that was seen where another of them was expected may have been meant to
// be that.
func (l *lister) texts() {
	var all []script.Token
	for _, t := range l.tokens {
		if t.Kind == script.Text && strings.ContainsAny(t.Word[:1], "\"'") && len(said(t)) > 1 && len(all) < farTokens {
			all = append(all, t)
		}
	}
	for _, t := range all {
		tried := map[string]bool{t.Word: true}
		for _, other := range all {
			if !tried[other.Word] && l.hints.SeenFor(said(t), said(other)) {
				tried[other.Word] = true
				l.replace(t, machine.Number, machine.Likely, other.Word)
			}
		}
	}
}

// said is what is seen of a text.
func said(t script.Token) string { return strings.TrimSpace(strings.Trim(t.Word, "\"'")) }
