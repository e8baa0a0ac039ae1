package fault

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/finding"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "shifted", Price: finding.Constant,
		Doc:   "a picture is moved by some places, around its edges",
		Catch: "light the first and the last place"}, Once: true, Sizes: nextLight})
}

// nextLight looks for a row of lights in which the one beside each is lit: a number that is off by one. What would be
// beyond the ends is lost.
func nextLight(s *Subject) []Size {
	if s.shown == nil {
		return nil
	}
	if g := s.shown.Geometry; g.Grid != nil || g.Digits() > 0 || len(g.Shapes) < 3 {
		return nil
	}
	trials := s.behindInputs(false)
	t := s.shown.Track()
	for _, by := range []int{1, -1} {
		wrong, fits := 0, true
		for _, all := range trials {
			for _, a := range all {
				x := a.state
				x.Lights = make(display.Lights, len(a.state.Lights))
				for i := range x.Lights {
					if k := i - by; k >= 0 && k < len(x.Lights) {
						x.Lights[i] = a.state.Lights[k]
					}
				}
				if a.wrong {
					wrong++
				} else if slices.Min(a.state.Lights) == slices.Max(a.state.Lights) {
					continue // all of them, or none: that is the same by any number
				}
				fits = fits && t.Alike(x, a.other)
			}
		}
		if !fits || wrong < 2 {
			continue
		}
		where := map[bool]string{true: "behind", false: "before"}[by > 0]
		return []Size{{Text: fmt.Sprintf("%s lights the one %s each that is asked for: the number is off by one.",
			s.Part.Name, where), Reel: s.answersMended(trials)}}
	}
	return nil
}
