package marks

import (
	"strings"

	"hemble/core/exercise"
	"hemble/service/grading"
	"hemble/service/web"
	"hemble/wire"
)

// practice gives what a page needs to practise an assignment on its live bench: for a student with their own values,
// and of what is expected as much as they see on a sheet by now.
func (a *API) practice(r *web.Request) (any, error) {
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	works, err := a.Reader.Works(r, r.Assignment)
	if err != nil {
		return nil, err
	}
	out := &wire.Practice{Title: r.Assignment.Title, Works: works, Sheet: v.seesSheet()}
	out.Marks = out.Sheet && v.seesMarks()
	if !out.Sheet {
		out.Hidden = "what is expected can be seen " + moment(r.Assignment.ShowSheet)
	}
	text, err := a.Reader.BundleOf(r, r.Assignment, r.Account.Login,
		exercise.Share{Expectations: out.Sheet, Marks: out.Marks})
	out.Exercise = string(text)
	return out, err
}

// practiceBuild builds source for practice, with the libraries of the class, as a submission of it would be.
func (a *API) practiceBuild(r *web.Request) (any, error) {
	form, err := web.ReadForm(r, web.MaxUpload, 1)
	if err != nil {
		return nil, err
	}
	var f grading.Tried
	if f.File, f.Data = form.File("file"); f.File == "" {
		return nil, web.Unfit("file", "a file is required")
	}
	x, err := a.Reader.Of(r, r.Assignment, r.Account.Login)
	if err != nil {
		return nil, err
	}
	data, err := a.built(r, r.Class.ID, x, f)
	if err != nil {
		return nil, err
	}
	return wire.Firmware{File: f.File, Data: data}, nil
}

// bench gives a submission for a live bench: its exercise with the student's values and wiring, and what its chip was
// programmed with.
func (a *API) bench(r *web.Request) (any, error) {
	m, err := a.Grading.Material(r, r.Submission.ID, r.Submission.Job)
	if err != nil {
		return nil, err
	}
	text, err := a.Reader.Bundle(m.Text, m.Exercise, m.Student, exercise.Share{Whole: true})
	if err != nil {
		return nil, err
	}
	x, err := a.Reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	data, err := a.built(r, r.Submission.ClassID, x, grading.Tried{File: m.File, Data: m.Data})
	if err != nil {
		return nil, err
	}
	return &wire.Bench{Title: strings.TrimSpace(x.Title), Exercise: string(text), Wiring: string(m.Wiring),
		File: m.File,
		Data: data}, nil
}

// built gives what a chip is programmed with, in the caller's turn.
func (a *API) built(r *web.Request, class int64, x *exercise.Exercise, f grading.Tried) ([]byte, error) {
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	data, err := a.Grader.Build(ctx, class, x, f)
	if err != nil {
		return nil, grading.OutOfTime(ctx, grading.TellTried(ctx, f.File, err))
	}
	return data, nil
}
