package api

import (
	"context"
	"encoding/json"

	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/service/store"
	"hemble/service/terms"
	"hemble/wire"
)

// view is how somebody sees the submissions of one opening: the only way out of one. Those who mark see all; a student
// sees what the terms show by now, and of hidden trials nothing before the release.
type view struct {
	a       *API
	opening *store.Opening
	student bool
	own     wire.Terms // of the student who looks
	line    *store.Line
}

func (a *API) viewOf(ctx context.Context, class *store.Class, o *store.Opening, account *store.Account) (*view, error) {
	v := &view{a: a, opening: o, student: class.Role == wire.Student}
	if !v.student {
		return v, nil
	}
	m, err := a.Store.Student(ctx, class.ID, account.Login)
	if err != nil {
		return nil, err
	}
	v.own = terms.Of(o.Terms, o.Extensions, m.Login, m.Group)
	return v, nil
}

func (v *view) seesSheet() bool {
	return !v.student || terms.Shown(v.opening.ShowSheet, v.own, v.opening.Released, v.a.Store.Now())
}

func (v *view) seesMarks() bool {
	return !v.student || terms.Shown(v.opening.ShowMarks, v.own, v.opening.Released, v.a.Store.Now())
}

// sheet gives a submission's sheet with its overrides as it may be seen; nil where there is none to be seen.
func (v *view) sheet(ctx context.Context, s *store.Submission) (*sheet.Sheet, error) {
	if !v.seesSheet() && !v.seesMarks() {
		return nil, nil
	}
	sh, err := v.a.Desk.Adjusted(ctx, s, s.Job)
	if err != nil || sh == nil {
		return nil, err
	}
	return sh.For(sheet.Viewer{Student: v.student, Released: v.opening.Released != nil, NoMarks: !v.seesMarks()}), nil
}

// one gives a submission as it may be seen. Lateness is that of the student's own terms.
func (v *view) one(ctx context.Context, s *store.Submission) (wire.Submission, error) {
	out := s.Submission
	out.Late, out.Percent = terms.Lateness(terms.Of(v.opening.Terms, v.opening.Extensions, s.Login, s.Group), s.Submitted)
	if out.State == wire.Queued || out.State == wire.Running {
		p := &wire.Progress{}
		if out.State == wire.Queued {
			if v.line == nil {
				var err error
				if v.line, err = v.a.Store.Line(ctx); err != nil {
					return out, err
				}
			}
			p.Ahead = v.line.Ahead(s.Job)
		} else if !v.student {
			p.Done, p.Of = s.Done, s.Trials
		}
		out.Progress = p
	}
	if !v.student {
		return out, nil
	}
	if out.State == wire.Failed {
		out.Error = "this could not be marked, and it is not your fault: whoever runs the service has been told"
	}
	out.Marks, out.Of, out.First, out.Alike, out.Met, out.Partly, out.Missed, out.Touched = "", "", "", "", 0, 0, 0, false
	if out.State != wire.Marked {
		return out, nil
	}
	sh, err := v.sheet(ctx, s)
	if err != nil || sh == nil {
		return out, err
	}
	if v.seesMarks() {
		out.Marks, out.Of = json.Number(sh.Marks.String()), json.Number(sh.Of.String())
		out.Touched = s.Touched
	}
	if v.seesSheet() {
		n := sh.Count()
		out.Met, out.Partly, out.Missed, out.First = n[judge.Met], n[judge.Partly], n[judge.Missed], sh.First()
	}
	return out, nil
}

// counting tells which submissions count, of some students or, where none are named, of all.
func (v *view) counting(ctx context.Context, students ...int64) (map[string]bool, error) {
	out := map[string]bool{}
	if v.student && !v.seesMarks() {
		return out, nil
	}
	attempts, err := v.a.Store.Attempts(ctx, v.opening.ID, students...)
	if err != nil {
		return nil, err
	}
	if v.student { // by the marks that they see
		for i := range attempts {
			full, err := v.a.Store.Submission(ctx, attempts[i].ID)
			if err != nil {
				return nil, err
			}
			if attempts[i].Submission, err = v.one(ctx, full); err != nil {
				return nil, err
			}
		}
	}
	for _, s := range v.counted(attempts) {
		out[s.ID] = true
	}
	return out, nil
}

// counted gives of all attempts, sorted by student, those whose marks count, with what lateness leaves of them.
func (v *view) counted(attempts []store.Submission) (out []store.Submission) {
	for len(attempts) > 0 {
		n := 1
		for n < len(attempts) && attempts[n].AccountID == attempts[0].AccountID {
			n++
		}
		own := make([]wire.Submission, n)
		t := terms.Of(v.opening.Terms, v.opening.Extensions, attempts[0].Login, attempts[0].Group)
		for i := range own {
			attempts[i].Late, attempts[i].Percent = terms.Lateness(t, attempts[i].Submitted)
			own[i] = attempts[i].Submission
		}
		if i := terms.Counting(v.opening.Counts, own); i >= 0 {
			out = append(out, attempts[i])
		}
		attempts = attempts[n:]
	}
	return out
}

// result gives a submission with everything of it that may be seen.
func (v *view) result(ctx context.Context, s *store.Submission) (*wire.Result, error) {
	one, err := v.one(ctx, s)
	if err != nil {
		return nil, err
	}
	out := &wire.Result{Submission: one, Title: s.Title}
	counts, err := v.counting(ctx, s.AccountID)
	if err != nil {
		return nil, err
	}
	out.Counts = counts[s.ID]
	whose := int64(0)
	if v.student {
		whose = s.AccountID
	}
	if out.Previous, out.Next, err = v.a.Store.Neighbours(ctx, s, whose); err != nil {
		return nil, err
	}
	switch {
	case !v.seesSheet():
		out.Hidden = "what the displays showed can be seen " + moment(v.opening.ShowSheet)
	case !v.seesMarks():
		out.Hidden = "marks can be seen " + moment(v.opening.ShowMarks)
	}
	if v.seesSheet() {
		if out.Sheet, err = v.sheet(ctx, s); err != nil {
			return nil, err
		}
	}
	if !v.seesMarks() {
		return out, nil // comments tell of marks
	}
	if out.Overrides, err = v.a.Store.Overrides(ctx, s.ID); err != nil {
		return nil, err
	}
	if v.student {
		out.Overrides = nil // they stand on the sheet, where they belong to what may be seen
	}
	out.Comments, err = v.a.Store.Comments(ctx, s.ID)
	return out, err
}

func moment(m wire.Moment) string {
	if m == wire.AfterDue {
		return "after the due time"
	}
	return "once the marks are released"
}
