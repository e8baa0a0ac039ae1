package marking

import (
	"context"
	"math/big"

	"hemble/core/advice"
	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// Mender runs a firmware on an exercise, perhaps changed, and judges what was seen by the exercise as it is: see
// advice.Mender.
type Mender struct {
	exercise *exercise.Exercise
	image    *firmware.Image
	plain    bool
}

// NewMender reads the contents of a firmware file.
func NewMender(x *exercise.Exercise, file []byte) (*Mender, error) {
	im, err := image(x, file)
	if err != nil {
		return nil, err
	}
	return &Mender{exercise: x, image: im}, nil
}

// Score judges a reel of one trial.
func (m *Mender) Score(trial int, r *reel.Reel) *big.Rat {
	o := outcome{reel: r}
	o.judge(&m.exercise.Trials[trial])
	return o.trial.Marks.Rat
}

// Marks gives the marks of each expectation of a trial.
func (m *Mender) Marks(trial int, r *reel.Reel) (out []*big.Rat) {
	o := outcome{reel: r}
	o.judge(&m.exercise.Trials[trial])
	for _, v := range o.trial.Verdicts {
		out = append(out, v.Marks.Rat)
	}
	return out
}

// Run runs the firmware on a changed exercise.
func (m *Mender) Run(ctx context.Context, x *exercise.Exercise, trial int) (*reel.Reel, error) {
	b, err := bench.New(x, &x.Trials[trial], m.image, bench.Options{Plain: m.plain})
	if err != nil {
		return nil, err
	}
	if err := b.Advance(ctx, x.Trials[trial].Length); err != nil {
		return nil, err
	}
	return b.Finish(), nil
}

// advise finds the likely causes of lost marks.
func (k *Marker) advise(ctx context.Context, x *exercise.Exercise, im *firmware.Image, s *sheet.Sheet, runs []*outcome) ([]advice.Finding, error) {
	var seen []advice.Seen
	for i, run := range runs {
		var verdicts []judge.Verdict
		for _, v := range s.Trials[i].Verdicts {
			verdicts = append(verdicts, v.Verdict)
		}
		seen = append(seen, advice.Seen{Reel: run.reel, Verdicts: verdicts})
	}
	return advice.Find(ctx, x, seen, &Mender{x, im, k.Plain})
}

// causes puts findings on a sheet, with the source lines of an image.
func causes(x *exercise.Exercise, im *firmware.Image, found []advice.Finding) (out []sheet.Finding) {
	out = []sheet.Finding{}
	for _, f := range found {
		c := sheet.Finding{Code: f.Code, Text: f.Text, Trial: x.Trials[f.Trial].Name, At: f.At, Evidence: f.Evidence, Fidelity: string(f.Fidelity)}
		if f.Marks != nil {
			m := sheet.NewMarks(f.Marks).Round(x.Step)
			c.Mended = &m
		}
		if x.Once && f.Once != nil && f.Once.Sign() > 0 {
			m := sheet.NewMarks(f.Once)
			c.Restored = &m
		}
		if f.By != nil {
			c.Source = source(x, im, *f.By)
		}
		out = append(out, c)
	}
	return out
}
