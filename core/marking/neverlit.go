package marking

import (
	"math/big"
	"slices"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// neverLit takes away what a display that never showed anything met by being dark: where something visible was expected
// of it in the trial, nothing shown is nothing earned.
//
// It tells which displays were asked to show something, with whether they did.
func neverLit(r *reel.Reel, verdicts []judge.Verdict) (alive map[string]bool) {
	asked := map[string]bool{}
	for _, v := range verdicts {
		asked[v.Display] = asked[v.Display] || v.Asks || slices.ContainsFunc(v.Alignment, func(p judge.Pair) bool {
			return p.Expected != nil && p.Expected.State != nil && !p.Expected.State.Blank()
		})
	}
	alive = map[string]bool{}
	for name := range asked {
		if asked[name] {
			alive[name] = !dark(r, name)
		}
	}
	for i := range verdicts {
		v := &verdicts[i]
		if lives, asked := alive[v.Display]; v.Fraction.Sign() == 0 || !asked || lives {
			continue
		}
		v.Fraction, v.Outcome = new(big.Rat), judge.Missed
		v.Evidence = append(v.Evidence, "nothing was ever shown")
	}
	return alive
}

// neverAlive takes away what a display met by being dark in trials where that is right all along, if it never came
// alive in any trial that asked for it. alive is what neverLit told of each trial.
func neverAlive(x *exercise.Exercise, s *sheet.Sheet, alive []map[string]bool) {
	dead := map[string]bool{}
	for _, of := range alive {
		for name, lives := range of {
			was, known := dead[name]
			dead[name] = !lives && (was || !known)
		}
	}
	for i := range s.Trials {
		t := &s.Trials[i]
		for k := range t.Verdicts {
			v := &t.Verdicts[k]
			_, asked := alive[i][v.Display]
			if asked || !dead[v.Display] || v.Marks.Sign() == 0 {
				continue
			}
			v.Outcome, v.Marks = judge.Missed, sheet.NewMarks(nil)
			v.Evidence = append(slices.Clone(v.Evidence), "it never came alive in any trial")
		}
		t.Marks = trialMarks(&x.Trials[i], t.Verdicts)
	}
}

// dark reports whether a display shows nothing in all of a run.
func dark(r *reel.Reel, name string) bool {
	t := r.Track(name)
	return t != nil && !slices.ContainsFunc(t.Frames, func(f display.Frame) bool { return !f.State.Blank() })
}
