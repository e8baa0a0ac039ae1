package diagnosis

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/fault"
	"hemble/core/finding"
)

// unlikeFigures are the signs of a place of a number that shows no figure but a character beside the figures in the
// code, as '0' + n does for an n that is none.
var unlikeFigures = []symptom{
	{finding.Entry{Code: "underflow-character", Order: 7, Sure: true, Subsumes: []finding.Code{"words", "word"},
		Doc:   "a number goes below 0, and a character before “0” stands in its place",
		Catch: "press down at 0"}, belowFigures},
	{finding.Entry{Code: "carry-character", Order: 7, Sure: true, Subsumes: []finding.Code{"words", "word", "cut"},
		Doc:   "a number goes beyond 9 in one place, and a character behind “9” stands there",
		Catch: "let the number go beyond 9"}, aboveFigures},
}

func belowFigures(v *view) (string, clock.Time, bool) {
	where, want, at, ok := v.strange('/')
	return fmt.Sprintf("%s shows %q, where %s is expected: the character before “0”. The number went below 0.",
		v.track.Display, where, want), at, ok
}

func aboveFigures(v *view) (string, clock.Time, bool) {
	where, want, at, ok := v.strange(':')
	return fmt.Sprintf("%s shows %q, where %s is expected: the character behind “9”. One place shows a number beyond 9, "+
		"and nothing is carried to the next one.", v.track.Display, where, want), at, ok
}

// strange looks for the first wrong text, which must have a character in the last place of a number,
// and differ in no place but those of that number. It gives what is shown there and what should be.
func (v *view) strange(character rune) (seen, want string, at clock.Time, ok bool) {
	for _, p := range fault.Meant(v.reel, v.track.Display, v.all) {
		if !p.Wrong {
			continue
		}
		a, b := []rune(v.read(p.Want)), []rune(v.read(p.Seen))
		if len(a) != len(b) {
			return "", "", 0, false
		}
		from, to := len(a), 0
		for i := range a {
			if a[i] != b[i] {
				from, to = min(from, i), i+1
			}
		}
		if from >= to || b[to-1] != character || !isFigure(a[to-1]) {
			return "", "", 0, false
		}
		for i := from; i < to-1; i++ {
			if !isFigure(a[i]) && a[i] != ' ' || !isFigure(b[i]) && b[i] != ' ' {
				return "", "", 0, false
			}
		}
		return string(b[from:to]), string(a[from:to]), p.At, true
	}
	return "", "", 0, false
}

func isFigure(r rune) bool { return '0' <= r && r <= '9' }
