package judge

import "hemble/core/reel"

// AnyOf is several expectations of which one will do: the one that gives most counts, the first of equals.
type AnyOf []Expectation

// Judge judges them all.
func (x AnyOf) Judge(r *reel.Reel) (best Verdict) {
	for i, e := range x {
		if v := e.Judge(r); i == 0 || v.Fraction != nil && v.Outcome != NotJudged &&
			(best.Outcome == NotJudged || v.Fraction.Cmp(best.Fraction) > 0) {
			best = v
		}
	}
	return best
}
