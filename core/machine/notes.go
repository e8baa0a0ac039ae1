package machine

import (
	"fmt"

	"hemble/core/clock"
)

// Notes collects what a person should know of a run, each once by its code.
type Notes struct {
	List []Note
	told map[string]bool
}

// Reset forgets all.
func (n *Notes) Reset() { n.List, n.told = nil, nil }

// Add tells a thing, unless it was told before.
func (n *Notes) Add(code string, at clock.Time, pc uint32, format string, args ...any) {
	if n.told[code] {
		return
	}
	if n.told == nil {
		n.told = map[string]bool{}
	}
	n.told[code] = true
	n.List = append(n.List, Note{Code: code, Text: fmt.Sprintf(format, args...), At: at, PC: pc})
}
