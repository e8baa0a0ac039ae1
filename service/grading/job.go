package grading

import (
	"context"
	"log/slog"

	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/ports"
	"hemble/service/submissions"
)

// MarkJob marks a submission by one of its jobs; told hears how many trials are done.
func (d *Grader) MarkJob(ctx context.Context, submission string, job int64, told func(done, of int)) (*ports.Result,
	error) {
	m, err := d.store.Material(ctx, submission, job)
	if err != nil {
		return nil, err
	}
	r, err := d.mark(ctx, m, told)
	if err != nil {
		return nil, err
	}
	return &ports.Result{Sheet: r.Sheet, Marks: d.marks(ctx, submission, job, r.Sheet), Reels: r.Reels}, nil
}

// Stopped is the result of work whose marking took too long: it counts, as any other attempt.
func (d *Grader) Stopped(ctx context.Context, submission string, job int64, why string) (*ports.Result, error) {
	m, err := d.store.Material(ctx, submission, job)
	if err != nil {
		return nil, err
	}
	x, err := d.reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	sh := marking.Stopped(x, m.File, why).Sheet
	return &ports.Result{Sheet: sh, Marks: d.marks(ctx, submission, job, sh)}, nil
}

// mark marks a piece of work; told hears how many of its trials are done.
func (d *Grader) mark(ctx context.Context, m *Material, told func(done, of int)) (*marking.Result, error) {
	w, err := d.prepare(ctx, m)
	if err != nil {
		return nil, err
	}
	if w.refused != nil {
		return w.refused, nil
	}
	defer d.timed(d.Ran)()
	var r *marking.Result
	if submissions.IsCapture(m.File) && w.exercise.Chip != nil {
		r, err = d.markCapture(ctx, w, m.File)
	} else {
		r, err = d.marker.MarkWork(ctx, w.exercise,
			marking.Work{Name: m.File, File: w.file, Source: w.source, Told: told})
	}
	if err == nil && r.Sheet.Failed == "" {
		r.Sheet.Messages = append(r.Sheet.Messages, w.messages...)
	}
	return r, err
}

// marks are those of a new result with the overrides that the submission has; without those where they do not fit.
func (d *Grader) marks(ctx context.Context, submission string, job int64, sh *sheet.Sheet) string {
	sub, err := d.store.Submissions.Submission(ctx, submission)
	if err != nil || !sub.Overridden {
		return sh.Marks.String()
	}
	overrides, err := d.store.Overrides(ctx, submission)
	if err == nil {
		var adjusted *sheet.Sheet
		if adjusted, err = d.Adjust(ctx, sub, job, sh, overrides); err == nil {
			return adjusted.Marks.String()
		}
	}
	slog.Warn("overrides do not fit a new result", "submission", submission, "error", err)
	return sh.Marks.String()
}
