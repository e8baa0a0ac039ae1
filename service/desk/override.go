package desk

import (
	"context"

	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/store"
	"hemble/wire"
)

// Adjusted gives the sheet of a submission by one of its jobs with its overrides; nil where it has none yet.
func (d *Desk) Adjusted(ctx context.Context, sub *store.Submission, job int64) (*sheet.Sheet, error) {
	sh, err := d.store.Sheet(ctx, job)
	if err != nil || sh == nil {
		return nil, err
	}
	overrides, err := d.store.Overrides(ctx, sub.ID)
	if err != nil {
		return nil, err
	}
	return d.Adjust(ctx, sub, job, sh, overrides)
}

// Adjust gives a sheet with the given overrides. An override that does not fit the sheet is an error.
func (d *Desk) Adjust(ctx context.Context, sub *store.Submission, job int64, sh *sheet.Sheet, overrides []wire.Override) (*sheet.Sheet, error) {
	if len(overrides) == 0 {
		return sh, nil
	}
	m, err := d.store.Material(ctx, sub.ID, job)
	if err != nil {
		return nil, err
	}
	x, err := d.Exercise(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	return adjust(x, sh, overrides)
}

func adjust(x *exercise.Exercise, sh *sheet.Sheet, overrides []wire.Override) (*sheet.Sheet, error) {
	given, err := store.ForMarking(overrides)
	if err == nil {
		sh, err = marking.Adjust(x, sh, given)
	}
	if err != nil {
		return nil, &store.Refusal{Code: "override", Text: err.Error()}
	}
	return sh, nil
}
