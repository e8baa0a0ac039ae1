package digits

import (
	"strings"

	"hemble/core/display"
)

// Near takes leading zeros, the colon, points and the place on the display for form: the same figures are the same
// value.
func (digits) Near(t *display.Track, wanted, seen display.State, _ *display.State) bool {
	a, b := figures(t, wanted), figures(t, seen)
	return a != "" && a == b && len(seen.Lights) > per
}

// figures are the symbols of a state that make its value; empty where some pattern is no symbol.
func figures(t *display.Track, s display.State) string {
	text := strings.TrimSpace(strings.ReplaceAll(shown(t.Geometry, s).Symbols(), ".", ""))
	if strings.ContainsAny(text, "?") {
		return ""
	}
	for len(text) > 1 && text[0] == '0' {
		text = text[1:]
	}
	return text
}
