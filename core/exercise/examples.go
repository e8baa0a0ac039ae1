package exercise

import (
	"fmt"
	"strings"

	"hemble/core/part"
	"hemble/core/spec"
)

// Examples builds the displays that the kinds of parts give as their own example, in the order of their
// kinds; each is called by its kind.
func Examples() (displays []*part.Built, err error) {
	for _, k := range part.Kinds() {
		if k.Geometry == nil {
			continue
		}
		text := "hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  " + strings.ReplaceAll(k.Example, "\n", "\n  ") +
			"\ntrials: [{name: x, length: 1s, expect: []}]\n"
		ps := &spec.Problems{File: k.Name}
		x := read([]byte(text), nil, true, &included{}, ps) // there are no expectations, and that is the only problem
		if x == nil || len(x.Parts) == 0 {
			return nil, fmt.Errorf("the example of %s: %v", k.Name, ps.List)
		}
		for _, p := range x.Parts {
			if p.Kind == k {
				p.Name = k.Name
				displays = append(displays, p)
			}
		}
	}
	return displays, nil
}
