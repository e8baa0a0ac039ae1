package marking

import (
	"math/big"
	"slices"

	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/reel"
)

// neverLit takes away what a display that never showed anything met by being dark: where something visible was expected
// of it in the trial, nothing shown is nothing earned.
func neverLit(r *reel.Reel, verdicts []judge.Verdict) {
	asked := map[string]bool{}
	for _, v := range verdicts {
		asked[v.Display] = asked[v.Display] || v.Asks || slices.ContainsFunc(v.Alignment, func(p judge.Pair) bool {
			return p.Expected != nil && p.Expected.State != nil && !p.Expected.State.Blank()
		})
	}
	for i := range verdicts {
		v := &verdicts[i]
		if v.Fraction.Sign() == 0 || !asked[v.Display] || !dark(r, v.Display) {
			continue
		}
		v.Fraction, v.Outcome = new(big.Rat), judge.Missed
		v.Evidence = append(v.Evidence, "nothing was ever shown")
	}
}

// dark reports whether a display shows nothing in all of a run.
func dark(r *reel.Reel, name string) bool {
	t := r.Track(name)
	return t != nil && !slices.ContainsFunc(t.Frames, func(f display.Frame) bool { return !f.State.Blank() })
}
