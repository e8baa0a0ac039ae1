package colour

import (
	"slices"

	"hemble/core/display"
)

// hues go round.
var hues = []string{"red", "orange", "yellow", "green", "cyan", "blue", "violet", "magenta"}

// Near takes a neighbouring hue for form.
func (colour) Near(_ *display.Track, wanted, seen display.State, _ *display.State) bool {
	a, b := slices.Index(hues, name(wanted)), slices.Index(hues, name(seen))
	apart := (a - b + len(hues)) % len(hues)
	return a >= 0 && b >= 0 && (apart == 1 || apart == len(hues)-1)
}
