// Package finding is the catalogue of findings: one entry per code, written where its cause is known (a fault of
// programs, a symptom on a display, a note by a chip or a part).
package finding

import (
	"maps"
	"slices"
	"strings"
	"sync"
)

// Code names a finding in mark sheets, in `deductions` and in the documentation.
type Code string

// Source is what finds it.
type Source string

// The sources.
const (
	Fault   Source = "fault" // found by repairing it and judging again
	Symptom Source = "sign"  // told by what a display showed
	Note    Source = "note"  // noted by the chip, a part or the bench while the program ran
	Stop    Source = "stop"  // why a run came to an end
	// Refused is why there was nothing to judge.
	Refused Source = "refused"
)

// Entry is all that there is to say of a code.
type Entry struct {
	Code Code
	// Doc is what the program does wrong, as the documentation has it.
	Doc string
	// Catch is what an exercise needs to notice it; empty where most do.
	Catch string
	// Order is when a fault is tried whose test takes a run, and when a sign is looked for: the lower ones first. 0 is
	// after all others.
	Order int
	// Sure tells that a sign leaves little doubt.
	Sure bool
	// Seen tells that a sign says what is seen, and not yet what is wrong: where the program itself tells more, it goes
	// first.
	Seen bool
	// Fact tells that a sign, or what a chip notes, is a fact of pins, of a scan or of the program's course, which
	// follows from nothing that displays show.
	Fact bool
	// Input tells that it is about an input of the program, on whatever display that shows.
	Input bool
	// Whole tells that it is about all that the program does, not about one display.
	Whole bool
	// Weak tells that any other finding about the same thing makes it superfluous.
	Weak bool
	// Vague tells that many other causes could bring it about: numbers and texts that are repaired alone.
	Vague bool
	// Hides tells that another fault may hide behind it, so that repairing it alone brings nothing yet: the lower ones
	// are tried first; 0 for those that hide nothing.
	Hides int
	// Price is what sort of mistake it is, of one that is found by repairing it.
	Price Price
	// Explains tells that its repair takes what was expected as its result: it explains, and tests nothing where it
	// does not set right more than it takes.
	Explains bool
	// Subsumes are the signs that it brings with it.
	Subsumes []Code

	Source Source
}

// Last orders by Order, with those that have none behind all others.
func (e Entry) Last() int {
	if e.Order == 0 {
		return 1 << 30
	}
	return e.Order
}

// Covers reports whether a finding makes another one superfluous.
func (e Entry) Covers(other Entry) bool {
	return e.Code == other.Code || other.Weak || slices.Contains(e.Subsumes, other.Code)
}

// Of gives the entry of a code; of one that is in no catalogue, one that says nothing but the code.
func Of(code Code) Entry {
	e, ok := Find(code)
	if !ok {
		e.Code = code
	}
	return e
}

var providers []func() (Source, []Entry)

// Provide has a source give its entries when the catalogue is first asked: what it lists may register itself later.
func Provide(source Source, entries func() []Entry) {
	providers = append(providers, func() (Source, []Entry) { return source, entries() })
}

// catalogue is made of all sources. The same code may come from several of them: one that is found by repairing keeps
// its words, and what the others know beyond them is added.
var catalogue = sync.OnceValue(func() map[Code]Entry {
	out := map[Code]Entry{}
	for _, provide := range providers {
		source, entries := provide()
		for _, e := range entries {
			e.Source = source
			first, second := out[e.Code], e
			if first.Code == "" || source == Fault {
				first, second = second, first
			}
			first.Sure, first.Input = first.Sure || second.Sure, first.Input || second.Input
			first.Seen, first.Fact = first.Seen || second.Seen, first.Fact || second.Fact
			for _, c := range second.Subsumes {
				if !slices.Contains(first.Subsumes, c) {
					first.Subsumes = append(slices.Clone(first.Subsumes), c)
				}
			}
			out[e.Code] = first
		}
	}
	return out
})

// Find gives the entry of a code, or of the family that it belongs to; ok is false where there is none.
func Find(code Code) (e Entry, ok bool) {
	if e, ok = catalogue()[code]; ok {
		return e, true
	}
	for _, of := range Codes() {
		if Family(string(code), string(of)) && len(of) > len(e.Code) {
			e, ok = catalogue()[of], true
		}
	}
	return e, ok
}

// Codes lists all codes in order.
func Codes() []Code { return slices.Sorted(maps.Keys(catalogue())) }

// All lists the entries by their codes.
func All() (out []Entry) {
	for _, c := range Codes() {
		out = append(out, catalogue()[c])
	}
	return out
}

// Family reports whether a code is of a family: the same word, or more of it after a hyphen or a space. What a part
// reports has the part's name before its code.
func Family(code, of string) bool {
	for {
		if rest, ok := strings.CutPrefix(code, of); ok && (rest == "" || rest[0] == '-' || rest[0] == ' ') {
			return true
		}
		_, rest, ok := strings.Cut(code, " ")
		if !ok {
			return false
		}
		code = rest
	}
}
