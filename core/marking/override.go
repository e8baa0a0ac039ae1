package marking

import (
	"fmt"
	"slices"

	"hemble/core/exercise"
	"hemble/core/sheet"
)

// Override is a person's word on marks: of an expectation (Trial and Verdict, from 0), of a row marked by hand (Row,
// from 0), or, where all are -1, of the whole.
type Override struct {
	Trial, Verdict, Row int
	sheet.Given
}

// Adjust gives a sheet with overrides, its marks recomputed; later ones go over earlier ones. What is overridden
// by more marks than it can give, or is not on the sheet, is an error.
func Adjust(x *exercise.Exercise, s *sheet.Sheet, overrides []Override) (*sheet.Sheet, error) {
	out := *s
	out.Trials, out.ByHand, out.Given = slices.Clone(s.Trials), slices.Clone(s.ByHand), nil
	for i := range out.Trials {
		out.Trials[i].Verdicts = slices.Clone(out.Trials[i].Verdicts)
	}
	most := x.Marks()
	for _, t := range x.Trials {
		for _, e := range t.Expect {
			if e.Bonus {
				most.Add(most, e.Marks)
			}
		}
	}
	for _, o := range overrides {
		given := o.Given
		of := most
		switch {
		case o.Trial >= 0 && o.Verdict >= 0:
			if o.Trial >= len(out.Trials) || o.Verdict >= len(out.Trials[o.Trial].Verdicts) {
				return nil, fmt.Errorf("there is no expectation %d in trial %d", o.Verdict+1, o.Trial+1)
			}
			v := &out.Trials[o.Trial].Verdicts[o.Verdict]
			of, v.Given, v.Marks = v.Of.Rat, &given, given.Marks
		case o.Row >= 0:
			if o.Row >= len(out.ByHand) {
				return nil, fmt.Errorf("there is no row %d that is marked by hand", o.Row+1)
			}
			of, out.ByHand[o.Row].Given = out.ByHand[o.Row].Of.Rat, &given
		default:
			out.Given = &given
		}
		if given.Marks.Sign() < 0 || given.Marks.Cmp(of) > 0 {
			return nil, fmt.Errorf("marks are 0 to %s here, not %s", sheet.NewMarks(of), given.Marks)
		}
	}
	for i := range out.Trials {
		if i < len(x.Trials) {
			out.Trials[i].Marks = trialMarks(&x.Trials[i], out.Trials[i].Verdicts)
		}
	}
	if out.Failed == "" || len(overrides) > 0 {
		credit(x, &out)
	}
	return &out, nil
}
