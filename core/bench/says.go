package bench

import (
	"slices"
	"strings"

	"hemble/core/machine"
)

// said compares what a program's file says of pins with the bench: a word that is a part's name, or one of a part's
// terminals, and stands beside another pin than on the bench, is a note. Other words may mean anything.
func (b *Bench) said(s machine.Says) {
	chip := b.exercise.Chip
	for _, p := range s.Pins {
		word := plainWord(p.Word)
		var at []string // the pins that have it on this bench
		for _, part := range b.exercise.Parts {
			for terminal, target := range part.Wired {
				if _, ok := chip.Pin(target); ok && (word == plainWord(part.Name) ||
					terminal < len(part.Kind.Pins) && word == plainWord(part.Kind.Pins[terminal].Name)) {
					at = append(at, target)
				}
			}
		}
		name := chip.Pins[p.Pin].Name
		if len(at) == 0 || slices.Contains(at, name) {
			continue
		}
		slices.Sort(at)
		b.note("pin-says-"+name, "The program's file says that %s is %s; on this bench that is %s.", name, p.Word,
			strings.Join(slices.Compact(at), ", "))
	}
}

// plainWord is a word without what differs between ways of writing it.
func plainWord(s string) string {
	return strings.Map(func(c rune) rune {
		if c == '-' || c == '_' || c == ' ' {
			return -1
		}
		return c
	}, strings.ToLower(s))
}
