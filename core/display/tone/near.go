package tone

import "hemble/core/display"

// Near takes the octave for form: the same note, higher or lower.
func (tone) Near(_ *display.Track, wanted, seen display.State, _ *display.State) bool {
	w, s := wanted.Pitch, seen.Pitch
	alike := func(a, b int) bool { return a > 0 && b > 0 && max(a-b, b-a)*100 <= 3*a }
	return alike(w, 2*s) || alike(2*w, s)
}
