package graphic

import "hemble/core/display"

// Near takes spacing, row and case of text for form.
func (x graphic) Near(t *display.Track, wanted, seen display.State, _ *display.State) bool {
	a, b := x.Rows(t, wanted), x.Rows(t, seen)
	return display.SameText(a, b) && !display.SameText(a, nil)
}
