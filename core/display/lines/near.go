package lines

import (
	"slices"
	"strings"

	"hemble/core/display"
)

// Near takes spacing and case for form.
func (lines) Near(_ *display.Track, wanted, seen display.State, _ *display.State) bool {
	words := func(s display.State) []string { return strings.Fields(strings.ToLower(s.Line)) }
	return slices.Equal(words(wanted), words(seen))
}
