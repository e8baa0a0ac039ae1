package lines

import "hemble/core/display"

// Near takes spacing and case for form.
func (lines) Near(_ *display.Track, wanted, seen display.State, _ *display.State) bool {
	return display.SameText([]string{wanted.Line}, []string{seen.Line})
}
