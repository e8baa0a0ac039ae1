package marks

import (
	"context"
	"encoding/json"

	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/service/events"
	"hemble/service/exercises/policy"
	"hemble/service/grading"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// view is how somebody sees the submissions of one assignment: the only way out of one. Those who mark see all; a
// student sees what the terms show by now, and of hidden trials nothing before the release.
type view struct {
	a          *API
	assignment *record.Assignment
	student    bool
	own        record.Policy // of the student who looks
	line       *grading.Line
}

func (a *API) viewOf(ctx context.Context, class *record.Class, o *record.Assignment, account *record.Account) (*view,
	error) {
	v := &view{a: a, assignment: o, student: class.Role == wire.Student}
	if !v.student {
		return v, nil
	}
	m, err := a.Classes.Student(ctx, class.ID, account.Login)
	if err != nil {
		return nil, err
	}
	v.own = policy.Of(o.Policy, o.Extensions, m.Login, m.Group)
	return v, nil
}

func (v *view) seesSheet() bool {
	return !v.student || policy.Shown(v.assignment.ShowSheet, v.own, v.assignment.Released, v.a.Store.Now())
}

func (v *view) seesMarks() bool {
	return !v.student || policy.Shown(v.assignment.ShowMarks, v.own, v.assignment.Released, v.a.Store.Now())
}

// sheet gives a submission's sheet with its overrides as it may be seen; nil where there is none to be seen.
func (v *view) sheet(ctx context.Context, s *record.Submission) (*sheet.Sheet, error) {
	if !v.seesSheet() && !v.seesMarks() {
		return nil, nil
	}
	sh, err := v.a.Grader.Adjusted(ctx, s, s.Job)
	if err != nil || sh == nil {
		return nil, err
	}
	return sh.For(sheet.Viewer{Student: v.student, Released: v.assignment.Released != nil, NoMarks: !v.seesMarks()}),
		nil
}

// lateness tells by how many seconds a submission was late, and how many percent of its marks count.
func (v *view) lateness(s *record.Submission) (late, percent int) {
	return policy.Lateness(policy.Of(v.assignment.Policy, v.assignment.Extensions, s.Login, s.Group), s.Submitted)
}

// one gives a submission as it may be seen. Lateness is that of the student's own terms.
func (v *view) one(ctx context.Context, s *record.Submission) (wire.Submission, error) {
	out := s.Wire()
	out.Late, out.Percent = v.lateness(s)
	if out.State == wire.Queued || out.State == wire.Running {
		p := &wire.Progress{}
		if out.State == wire.Queued {
			if v.line == nil {
				var err error
				if v.line, err = v.a.Grading.Line(ctx); err != nil {
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
		out.Error = "this could not be marked because of a problem in the service; it is not your fault, and the administrator can see it"
	}
	out.Marks, out.Of, out.Overridden = "", "", false
	out.Met, out.Partly, out.Missed, out.First, out.Alike = 0, 0, 0, "", ""
	if out.State != wire.Marked {
		return out, nil
	}
	sh, err := v.sheet(ctx, s)
	if err != nil || sh == nil {
		return out, err
	}
	if v.seesMarks() {
		out.Marks, out.Of = json.Number(sh.Marks.String()), json.Number(sh.Of.String())
		out.Overridden = s.Overridden
	}
	if v.seesSheet() {
		n := sh.Count()
		out.Met, out.Partly, out.Missed, out.First = n[judge.Met], n[judge.Partly], n[judge.Missed], sh.First()
	}
	return out, nil
}

// counting returns which submissions count, of some students or, where none are named, of all.
func (v *view) counting(ctx context.Context, students ...int64) (map[string]bool, error) {
	out := map[string]bool{}
	if v.student && !v.seesMarks() {
		return out, nil
	}
	attempts, err := v.a.Submissions.Attempts(ctx, v.assignment.ID, students...)
	if err != nil {
		return nil, err
	}
	if v.student { // by the marks that they see
		for i := range attempts {
			full, err := v.a.Submissions.Submission(ctx, attempts[i].ID)
			if err != nil {
				return nil, err
			}
			one, err := v.one(ctx, full)
			if err != nil {
				return nil, err
			}
			attempts[i].Marks = one.Marks
		}
	}
	for _, s := range v.counted(attempts) {
		out[s.ID] = true
	}
	return out, nil
}

// counted gives of all attempts, sorted by student, those whose marks count, with what lateness leaves of them.
func (v *view) counted(attempts []record.Submission) (out []record.Submission) {
	for len(attempts) > 0 {
		n := 1
		for n < len(attempts) && attempts[n].AccountID == attempts[0].AccountID {
			n++
		}
		t := policy.Of(v.assignment.Policy, v.assignment.Extensions, attempts[0].Login, attempts[0].Group)
		for i := range n {
			_, attempts[i].Percent = policy.Lateness(t, attempts[i].Submitted)
		}
		if i := policy.Counting(v.assignment.Counts, attempts[:n]); i >= 0 {
			out = append(out, attempts[i])
		}
		attempts = attempts[n:]
	}
	return out
}

// result gives a submission with everything of it that may be seen.
func (v *view) result(ctx context.Context, s *record.Submission) (*wire.Result, error) {
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
	if out.Previous, out.Next, err = v.a.Submissions.Neighbours(ctx, s, whose); err != nil {
		return nil, err
	}
	switch {
	case !v.seesSheet():
		out.Hidden = "what the displays showed can be seen " + moment(v.assignment.ShowSheet)
	case !v.seesMarks():
		out.Hidden = "marks can be seen " + moment(v.assignment.ShowMarks)
	}
	if v.seesSheet() {
		if out.Sheet, err = v.sheet(ctx, s); err != nil {
			return nil, err
		}
	}
	if !v.seesMarks() {
		return out, nil // comments tell of marks
	}
	if !v.student { // theirs stand on the sheet, where they belong to what may be seen
		overrides, err := v.a.Grading.Overrides(ctx, s.ID)
		if err != nil {
			return nil, err
		}
		for i := range overrides {
			out.Overrides = append(out.Overrides, overrides[i].Wire())
		}
	}
	comments, err := v.a.Store.Comments(ctx, s.ID)
	for _, c := range comments {
		out.Comments = append(out.Comments, wire.Comment(c))
	}
	return out, err
}

func moment(m wire.Moment) string {
	if m == wire.AfterDue {
		return "after the due time"
	}
	return "once the marks are released"
}

// Told reads a changed submission once for all who listen.
func (a *API) Told(ctx context.Context, id string, wanted func(class, owner int64) (staff, own bool)) (t events.Told,
	err error) {
	s, err := a.Submissions.Submission(ctx, id)
	if err != nil {
		return t, err
	}
	t.Class, t.Owner = s.ClassID, s.AccountID
	staff, own := wanted(t.Class, t.Owner)
	if !staff && !own {
		return t, nil
	}
	o, err := a.Exercises.AssignmentOf(ctx, id)
	if err != nil {
		return t, err
	}
	tell := func(v *view) ([]byte, error) {
		one, err := v.one(ctx, s)
		if err != nil {
			return nil, err
		}
		return json.Marshal(one)
	}
	if staff {
		if t.Staff, err = tell(&view{a: a, assignment: o}); err != nil {
			return t, err
		}
	}
	if own {
		t.Own, err = tell(&view{a: a, assignment: o, student: true,
			own: policy.Of(o.Policy, o.Extensions, s.Login, s.Group)})
	}
	return t, err
}

// Shown is a submission as who asks may see it.
func (a *API) Shown(r *web.Request, o *record.Assignment, s *record.Submission) (wire.Submission, error) {
	v, err := a.viewOf(r, r.Class, o, r.Account)
	if err != nil {
		return wire.Submission{}, err
	}
	return v.one(r, s)
}
