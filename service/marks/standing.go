package marks

import (
	"encoding/json"
	"time"

	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/exercises/policy"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// AssignmentFor is an assignment as who asks may see it.
func (a *API) AssignmentFor(r *web.Request, o *record.Assignment) (wire.Assignment, error) {
	out := o.Wire()
	if !r.IsStudent() {
		return out, nil
	}
	m, err := a.Classes.Student(r, r.Class.ID, r.Account.Login)
	if err != nil {
		return out, err
	}
	attempts, err := a.Submissions.Attempts(r, o.ID, r.Account.ID)
	if err != nil {
		return out, err
	}
	made, last := countable(attempts)
	own := policy.Of(o.Policy, o.Extensions, m.Login, m.Group)
	s := policy.Standing(own, made, last, a.Store.Now())
	if o.Archived && s.Open {
		s.Open, s.Why = false, "the class is archived"
	}
	out.Policy, out.Standing = own.Wire(), &s
	out.Students, out.Failed, out.Doubtful, out.Newest, out.Mean = 0, 0, 0, 0, ""
	if out.Works, err = a.Reader.Works(r, o); err != nil {
		return out, err
	}
	out.Takes = nil
	for _, w := range out.Works {
		out.Takes = append(out.Takes, w.Kind)
	}
	if out.Marks, err = a.Reader.VisibleMarks(r, o); err != nil {
		return out, err
	}
	return out, a.stand(r, o, attempts, out.Marks, &s)
}

// stand tells a student what came of their attempts so far, as they may see it. visible are the marks of what they may
// see of the exercise: where that is all of it, what is stored of an attempt says enough, and no sheet need be read.
func (a *API) stand(r *web.Request, o *record.Assignment, attempts []record.Submission, visible json.Number,
	s *wire.Standing) error {
	if len(attempts) == 0 {
		return nil
	}
	last := attempts[len(attempts)-1]
	s.Last, s.State = last.ID, last.State
	v, err := a.viewOf(r, r.Class, o, r.Account)
	if err != nil || !v.seesMarks() {
		return err
	}
	if sheet.NewMarks(marksOf(visible)).Cmp(marksOf(o.Marks)) == 0 {
		for _, c := range v.counted(attempts) {
			s.Marks, s.Of = json.Number(sheet.NewMarks(policy.Counted(string(c.Marks), c.Percent)).String()), o.Marks
		}
		return nil
	}
	counts, err := v.counting(r, r.Account.ID)
	if err != nil {
		return err
	}
	for i := range attempts {
		if !counts[attempts[i].ID] {
			continue
		}
		full, err := a.Submissions.Submission(r, attempts[i].ID)
		if err != nil {
			return err
		}
		one, err := v.one(r, full)
		if err != nil {
			return err
		}
		if one.Marks != "" {
			s.Marks, s.Of = json.Number(sheet.NewMarks(policy.Counted(string(one.Marks), one.Percent)).String()), one.Of
		}
	}
	return nil
}

// countable returns how many attempts count against a bound, and when the last was made: those that were cancelled, or
// could not be marked, do not.
func countable(attempts []record.Submission) (n int, last time.Time) {
	for _, s := range attempts {
		if s.State != wire.Cancelled && s.State != wire.Failed {
			n, last = n+1, s.Submitted
		}
	}
	return n, last
}

func (a *API) assignments(r *web.Request) (any, error) {
	whose := int64(0)
	if r.IsStudent() {
		whose = r.Account.ID
	}
	all, err := a.Exercises.Assignments(r, r.Class.ID, whose)
	if err != nil {
		return nil, err
	}
	out := []wire.Assignment{}
	for i := range all {
		if r.IsStudent() && a.Store.Now().Before(all[i].Opens) {
			continue
		}
		o, err := a.AssignmentFor(r, &all[i])
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	if r.IsStudent() {
		return out, nil
	}
	means, err := a.Exercises.Means(r, r.Class.ID)
	for i := range out {
		out[i].Mean = means[all[i].ID]
	}
	return out, err
}

func (a *API) assignment(r *web.Request) (any, error) {
	if r.Assignment == nil {
		return nil, db.ErrNotFound
	}
	return a.AssignmentFor(r, r.Assignment)
}
