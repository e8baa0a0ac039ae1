package digits

import (
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
)

// Near takes leading zeros, the colon, points and the place on the display for form: the same figures are the same
// value.
func (digits) Near(t *display.Track, wanted, seen display.State, _ *display.State) bool {
	a, b := figures(t, wanted), figures(t, seen)
	return len(seen.Lights) > per && (a != "" && a == b || filled(t, wanted, seen))
}

// filled reports whether a state is another one with zeros in places that should be dark.
func filled(t *display.Track, wanted, seen display.State) bool {
	lit := false
	for d := range t.Geometry.Digits() {
		switch want := pattern(wanted.Lights, d); {
		case want == pattern(seen.Lights, d):
			lit = lit || want != 0
		case want != 0 || pattern(seen.Lights, d) != glyph.Seven('0')[0]:
			return false
		}
	}
	return lit
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
