package marking

import (
	"math/big"

	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/sheet"
)

// Marks come about in this order: expectations, prices of mistakes, gates, the most of a trial, deductions, and at the
// end rounding. The worked cases are in docs/marking.md.

// trialMarks adds up the verdicts of one trial.
func trialMarks(t *exercise.Trial, verdicts []sheet.Verdict) sheet.Marks {
	sum := sheet.NewMarks(nil)
	for _, v := range verdicts {
		if v.Gate && !passed(v) {
			return sheet.NewMarks(nil)
		}
		sum = sum.Add(v.Marks)
	}
	return atMost(t, sum)
}

// passed reports whether a gate is open: it was met, is met with a mistake repaired that has its price, or a person
// gave it all its marks.
func passed(v sheet.Verdict) bool {
	return v.Outcome == judge.Met || v.Given != nil && v.Marks.Cmp(v.Of.Rat) >= 0 || v.Opened
}

// atMost applies the most that a trial gives.
func atMost(t *exercise.Trial, m sheet.Marks) sheet.Marks {
	if t.Most != nil && m.Cmp(t.Most) > 0 {
		return sheet.NewMarks(t.Most)
	}
	return m
}

// credit computes the marks of a sheet from those of its trials.
func credit(x *exercise.Exercise, s *sheet.Sheet) {
	s.Marks = sheet.NewMarks(nil)
	for _, t := range s.Trials {
		s.Marks = s.Marks.Add(t.Marks)
	}
	for _, row := range s.ByHand {
		if row.Given != nil {
			s.Marks = s.Marks.Add(row.Given.Marks)
		}
	}
	s.Deducted = nil
	for _, d := range x.Deductions {
		for _, f := range s.Findings {
			if finding.Family(string(f.Code), string(d.Finding)) {
				s.Deducted = append(s.Deducted,
					sheet.Deduction{Finding: string(f.Code), Marks: sheet.NewMarks(d.Marks)})
				s.Marks = s.Marks.Add(sheet.NewMarks(new(big.Rat).Neg(d.Marks)))
				break
			}
		}
	}
	if s.Marks.Sign() < 0 {
		s.Marks = sheet.NewMarks(nil)
	}
	exact := s.Marks
	s.Marks, s.Exact = s.Marks.Round(x.Step), nil
	switch {
	case s.Given != nil:
		s.Marks = s.Given.Marks
	case s.Marks.Cmp(exact.Rat) != 0:
		s.Exact = &exact
	}
}
