package grading

import (
	"context"
	"encoding/json"
	"errors"

	"hemble/build"
	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/core/source"
	"hemble/service/db"
	"hemble/service/record"
)

// Tried is a firmware that the person who sets an exercise tries on it.
type Tried struct {
	File string
	Data []byte
}

// ErrUnbuilt is what the compiler said of a source that did not build.
type ErrUnbuilt struct {
	Why      string
	Messages []sheet.Message
}

func (e *ErrUnbuilt) Error() string { return e.Why }

// Try marks a firmware against an exercise that need not be in the service.
func (d *Grader) Try(ctx context.Context, x *exercise.Exercise, f Tried) (*marking.Result, error) {
	file, from, err := d.programmed(ctx, x, f, nil)
	var unbuilt *ErrUnbuilt
	if errors.As(err, &unbuilt) {
		return marking.Unbuilt(x, f.File, unbuilt.Why, unbuilt.Messages), nil
	}
	if err != nil {
		return nil, err
	}
	return (&marking.Marker{Reels: true}).MarkWork(ctx, x, marking.Work{Name: f.File, File: file, Source: from})
}

// Record writes what a reference shows as expectations into a text, which x is what it reads as.
func (d *Grader) Record(ctx context.Context, x *exercise.Exercise, text []byte, f Tried,
	replace bool) (*author.Recording,
	error) {
	file, err := d.firmware(ctx, x, f)
	if err != nil {
		return nil, err
	}
	return author.Record(ctx, x, text, file, replace)
}

// Strength returns which faults of a reference the expectations catch.
func (d *Grader) Strength(ctx context.Context, x *exercise.Exercise, f Tried) ([]author.Variant, error) {
	file, err := d.firmware(ctx, x, f)
	if err != nil {
		return nil, err
	}
	return author.Strength(ctx, x, file, nil)
}

// firmware gives what is programmed: a file as it is, or what source builds to.
func (d *Grader) firmware(ctx context.Context, x *exercise.Exercise, f Tried) ([]byte, error) {
	file, _, err := d.programmed(ctx, x, f, nil)
	return file, err
}

// Build gives what is programmed, with the libraries of a class.
func (d *Grader) Build(ctx context.Context, class int64, x *exercise.Exercise, f Tried) ([]byte, error) {
	dirs, err := d.classLibraries(ctx, class)
	if err != nil {
		return nil, err
	}
	file, _, err := d.programmed(ctx, x, f, dirs)
	return file, err
}

// programmed gives what is programmed, and the source that it was built from, where it was.
func (d *Grader) programmed(ctx context.Context, x *exercise.Exercise, f Tried, libraries []string) ([]byte,
	*source.Program, error) {
	if x.Chip == nil || !build.IsSource(f.File, f.Data) {
		return f.Data, nil, nil
	}
	x = build.For(x, f.File, f.Data)
	made, err := d.build(ctx, f, libraries, x)
	if err != nil {
		return nil, nil, err
	}
	if made.Failed() {
		return nil, nil, &ErrUnbuilt{made.Why(), made.Messages}
	}
	return made.ELF, made.Source, nil
}

// Accept makes what a submission showed an alternative in its exercise.
func (d *Grader) Accept(ctx context.Context, sub *record.Submission, s author.Choice) (*author.Acceptance, error) {
	m, err := d.store.Material(ctx, sub.ID, sub.Job)
	if err != nil {
		return nil, err
	}
	x, err := d.reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	r, err := d.kept(ctx, sub, s.Trial)
	if err != nil {
		return nil, err
	}
	a, err := author.Accept(m.Text, x, r, s)
	if err != nil {
		return nil, &db.Refusal{Code: "accept", Text: err.Error()}
	}
	return a, nil
}

// kept is the reel of a trial, as it is kept.
func (d *Grader) kept(ctx context.Context, sub *record.Submission, trial int) (*reel.Reel, error) {
	data, err := d.Reel(ctx, sub.ID, sub.Job, trial)
	if err != nil {
		return nil, err
	}
	r := &reel.Reel{}
	return r, json.Unmarshal(data, r)
}

// Rejudge gives the sheet that a submission would have by another text of its exercise whose bench, trials and cues are
// the same. What it showed is judged again without running it, unless marks depend on the causes of what was lost.
func (d *Grader) Rejudge(ctx context.Context, sub *record.Submission, text []byte) (*sheet.Sheet, error) {
	m, err := d.store.Material(ctx, sub.ID, sub.Job)
	if err != nil {
		return nil, err
	}
	m.Text = text
	x, err := d.reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	var sh *sheet.Sheet
	if marking.Causal(x) {
		r, err := d.mark(ctx, m, func(int, int) {})
		if err != nil {
			return nil, err
		}
		sh = r.Sheet
	} else {
		var reels []*reel.Reel
		for i := range x.Trials {
			r, err := d.kept(ctx, sub, i)
			if err != nil {
				return nil, err
			}
			reels = append(reels, r)
		}
		sh = marking.Rejudge(x, m.File, reels)
	}
	overrides, err := d.store.Overrides(ctx, sub.ID)
	if err != nil || len(overrides) == 0 {
		return sh, err
	}
	return adjust(x, sh, overrides)
}
