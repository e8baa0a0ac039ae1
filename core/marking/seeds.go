package marking

import (
	"context"
	"math/big"

	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/sheet"
)

// SeedSensitivity is the same submission under several seeds: of bounce, phase, floating inputs and memory at power-on.
type SeedSensitivity struct {
	Marks  []sheet.Marks `json:"marks"`  // by seed: the first is the exercise's own
	Passed int           `json:"passed"` // seeds under which every expectation was met
}

// Depends reports whether the seed decides about the marks.
func (l *SeedSensitivity) Depends() bool {
	for _, m := range l.Marks {
		if m.Cmp(l.Marks[0].Rat) != 0 {
			return true
		}
	}
	return false
}

// TrySeeds marks a firmware under n seeds: the exercise's own, and those that follow it.
func TrySeeds(ctx context.Context, x *exercise.Exercise, file []byte, n int) (*SeedSensitivity, error) {
	x = x.For(file)
	m, err := NewRepairer(x, file)
	if err != nil {
		return nil, err
	}
	l := &SeedSensitivity{}
	for seed := range n {
		changed := x.Clone()
		sum, met := new(big.Rat), true
		for i := range changed.Trials {
			changed.Trials[i].Seed += uint64(seed)
			r, err := m.Run(ctx, changed, i, 0)
			if err != nil {
				return nil, err
			}
			sum.Add(sum, m.Score(i, r))
			for _, e := range x.Trials[i].Expect {
				met = met && e.Judge(r).Outcome == judge.Met
			}
		}
		l.Marks = append(l.Marks, sheet.NewMarks(sum).Round(x.Step))
		if met {
			l.Passed++
		}
	}
	return l, nil
}
