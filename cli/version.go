package cli

import (
	"cmp"
	"fmt"
	"runtime/debug"

	"hemble/core/marking"
)

// Version is that of the release; the changelog says what each of them changed.
const Version = "0.9.0"

// commit is that which the program was built from; `make build` sets it.
var commit string

// version returns what runs: the release, the commit that it was built from, and the engine, which is part of every
// mark sheet.
func version() string {
	commit, changed := cmp.Or(commit, "unknown"), ""
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			switch {
			case s.Key == "vcs.revision" && len(s.Value) >= 12:
				commit = s.Value[:12]
			case s.Key == "vcs.modified" && s.Value == "true":
				changed = " with changes"
			}
		}
	}
	return fmt.Sprintf("hemble %s, commit %s%s, engine %s", Version, commit, changed, marking.Engine)
}
