package marking

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/sheet"
)

// The worked cases of docs/marking.md on how marks add up. Each word is a verdict: its marks earned and full, + for
// bonus, ! for a gate.
func TestCredit(t *testing.T) {
	half := big.NewRat(1, 2)
	for _, c := range []struct {
		trials     string
		most       *big.Rat
		deductions []exercise.Deduction
		step       *big.Rat
		marks      string
	}{
		{"3/3 2/4", nil, nil, half, "5"},
		{"3/3 2/4 1/1+", nil, nil, half, "6"},
		{"3/3 0/4!", nil, nil, half, "0"},
		{"3/3 4/4!", nil, nil, half, "7"},
		{"3/3 0/4! | 2/2", nil, nil, half, "2"},
		{"3/3 2/2 2/2+", big.NewRat(6, 1), nil, half, "6"},
		{"1/3 1/3", nil, nil, half, "2"},
		{"0.25/3", nil, nil, half, "0.5"},
		{"0.24/3", nil, nil, half, "0"},
		{"0.5/3", nil, nil, big.NewRat(1, 1), "1"},
		{"3/3", nil, []exercise.Deduction{{Finding: "floating", Marks: big.NewRat(1, 1)}}, half, "2"},
		{"3/3", nil, []exercise.Deduction{{Finding: "contention", Marks: big.NewRat(1, 1)}}, half, "3"},
		{"0.5/3", nil, []exercise.Deduction{{Finding: "floating", Marks: big.NewRat(1, 1)}}, half, "0"},
	} {
		x := &exercise.Exercise{Step: c.step, Deductions: c.deductions}
		s := &sheet.Sheet{Findings: []sheet.Finding{{Code: "floating-PD7"}, {Code: "floating-PD6"}}}
		for _, text := range strings.Split(c.trials, "|") {
			var verdicts []sheet.Verdict
			for _, w := range strings.Fields(text) {
				v := sheet.Verdict{Bonus: strings.HasSuffix(w, "+"), Gate: strings.HasSuffix(w, "!")}
				earned, full, _ := strings.Cut(strings.TrimRight(w, "+!"), "/")
				got, _ := new(big.Rat).SetString(earned)
				of, _ := new(big.Rat).SetString(full)
				if v.Marks, v.Outcome = sheet.NewMarks(got), judge.Partly; got.Cmp(of) == 0 {
					v.Outcome = judge.Met
				}
				verdicts = append(verdicts, v)
			}
			s.Trials = append(s.Trials, sheet.Trial{Marks: trialMarks(&exercise.Trial{Most: c.most}, verdicts)})
		}
		credit(x, s)
		assert.Equal(t, c.marks, s.Marks.String(), c.trials)
	}
}
