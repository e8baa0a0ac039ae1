package source

import (
	"strconv"
	"strings"

	"hemble/core/machine"
	"hemble/core/script"
)

// numeral is a whole number as it is written.
type numeral struct {
	value          int64
	prefix, suffix string
	base           int
}

// parse reads a number; ok is false for one with a point, and for octal ones, which nobody means.
func parse(word string) (n numeral, ok bool) {
	digits := strings.TrimRight(word, "uUlL")
	n.suffix, n.base = word[len(digits):], 10
	for prefix, base := range map[string]int{"0x": 16, "0X": 16, "0b": 2, "0B": 2} {
		if rest, found := strings.CutPrefix(digits, prefix); found {
			n.prefix, n.base, digits = prefix, base, rest
		}
	}
	if n.base == 10 && len(digits) > 1 && digits[0] == '0' {
		return n, false
	}
	v, err := strconv.ParseInt(digits, n.base, 33)
	n.value = v
	return n, err == nil
}

// write gives another number in the same way.
func (n numeral) write(value int64) string {
	return n.prefix + strconv.FormatInt(value, n.base) + n.suffix
}

// pinned are functions whose first argument is a pin, or a bit of a port: there are repairs of the wiring for those.
var pinned = map[string]bool{"pinMode": true, "digitalWrite": true, "digitalRead": true, "analogRead": true,
	"analogWrite": true, "attachInterrupt": true, "_BV": true, "bit": true}

// wired reports whether a number stands for a pin, a bit or the clock, or keeps a loop going.
func (l *lister) wired(i int) bool {
	return l.word(i-1) == "F_CPU" || l.word(i+1) == "<<" ||
		l.word(i-1) == "(" && (pinned[l.word(i-2)] || l.word(i-2) == "while")
}

// numbers are all whole ones of the program that are written in tens.
func numbers(files []*lister) (out []int64) {
	for _, l := range files {
		for _, t := range l.tokens {
			if n, ok := parse(t.Word); ok && t.Kind == script.Number && n.base == 10 {
				out = append(out, n.value)
			}
		}
	}
	return out
}

// The smallest number that may be a time, and the smallest one that is more likely that than anything else.
const (
	leastTime = 4
	ofTimers  = 10
)

// number looks at a number, within a list or not.
func (l *lister) number(i int, listed bool) {
	t := l.tokens[i]
	n, ok := parse(t.Word)
	if !ok || n.base != 10 && listed { // patterns: the compiled table tells as much
		return
	}
	tried := map[int64]bool{n.value: true}
	try := func(rare int, to int64) {
		if to >= 0 && !tried[to] {
			tried[to] = true
			l.replace(i, machine.Number, rare, n.write(to))
		}
	}
	if free := n.base == 10 && !l.wired(i); free {
		l.shown(i, n.value, try)
		if !listed {
			rare := likeliest
			if n.value < 10 {
				rare = likely
			}
			for _, to := range l.odd(n.value) {
				try(rare, to)
			}
		}
	}
	if n.value >= leastTime && n.base == 10 {
		for k, r := range l.hints.Ratios {
			rare := machine.Seldom
			switch {
			case listed:
			case l.hints.Timing:
				rare = likeliest
			case k == 0 && n.value >= ofTimers:
				rare = likely
			}
			try(rare, machine.Rounded((n.value*r[0]+r[1]/2)/r[1]))
		}
	}
	for _, s := range l.hints.Shifts {
		try(machine.Seldom, n.value+s)
	}
	if !listed {
		try(machine.Seldom, n.value+1)
		try(machine.Seldom, n.value-1)
	}
}

// everywhere has another number in all the places that have the same one: where it was meant otherwise, it often is in
// each.
func (l *lister) everywhere() {
	places := map[string][]int{}
	var words []string
	for i := 0; i < len(l.tokens); i++ {
		if l.word(i) == "#" && l.word(i+1) != "define" {
			i = l.directive(i)
			continue
		}
		n, ok := parse(l.word(i))
		if !ok || l.tokens[i].Kind != script.Number || n.base != 10 || n.value < machine.Telling || l.wired(i) {
			continue
		}
		if len(places[l.word(i)]) == 0 {
			words = append(words, l.word(i))
		}
		places[l.word(i)] = append(places[l.word(i)], i)
	}
	for _, w := range words {
		all := places[w]
		if len(all) < 2 || len(all) > mostPlaces {
			continue
		}
		n, _ := parse(w)
		try := func(rare int, to int64) {
			if to < 0 || to == n.value {
				return
			}
			var edits []script.Edit
			for _, i := range all {
				edits = append(edits, l.tokens[i].Replaced(n.write(to)))
			}
			l.put(all[0], machine.Alteration{Slip: machine.Number, Rare: rare, Stands: w, Meant: n.write(to),
				Places: len(all)}, edits...)
		}
		for _, to := range l.odd(n.value) {
			try(likely, to)
		}
		for _, r := range l.hints.Ratios {
			if l.hints.Timing && n.value >= leastTime {
				try(likely, machine.Rounded((n.value*r[0]+r[1]/2)/r[1]))
			}
		}
		if n.value == 16 {
			try(likely, 10)
		}
	}
}

// mostPlaces is how many places are changed together.
const mostPlaces = 8

// shown looks at a number that was seen where another one was expected: it may stand in the program as it is. Small
// ones stand for many things.
func (l *lister) shown(i int, is int64, try func(rare int, to int64)) {
	for _, to := range l.hints.InPlaceOf(is) {
		switch {
		case is >= machine.Telling:
			try(likeliest, to)
			try(likelier, 0)
		case l.word(i-1) == "=":
			try(likelier, to)
		default:
			try(likely, to)
		}
	}
}
