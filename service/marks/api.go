package marks

import (
	"encoding/json"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"unicode/utf8"

	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/grading"
	"hemble/service/ports"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls about results, as who asks may see them, and about what people make of them.
type API struct {
	Store       *Store
	Classes     *classes.Store
	Exercises   *exercises.Store
	Reader      *exercises.Reader
	Submissions *submissions.Store
	Grading     *grading.Store
	Grader      *grading.Grader
	Queue       *grading.Queue
	Turns       *grading.Turns
	Events      ports.Events
}

// reason bounds what people write.
func reason(s string, most int) (string, error) {
	s = strings.TrimSpace(s)
	if s == "" || len(s) > most || !utf8.ValidString(s) {
		return "", web.Unfit("text", "a text of at most %d bytes is required", most)
	}
	return s, nil
}

// overriding checks an override against one submission, and computes its marks with it.
func (a *API) overriding(r *web.Request, s *record.Submission, o grading.Override) (out Overriding, err error) {
	if s.State != wire.Marked {
		return out, &db.Refusal{Code: "not-marked",
			Text: fmt.Sprintf("the submission of %s is not marked yet", s.Student)}
	}
	overrides, err := a.Grading.Overrides(r, s.ID)
	if err != nil {
		return out, err
	}
	same := func(x, y *int) bool { return (x == nil) == (y == nil) && (x == nil || *x == *y) }
	overrides = slices.DeleteFunc(overrides, func(x grading.Override) bool {
		return same(x.Trial, o.Trial) && same(x.Verdict, o.Verdict) && same(x.Row, o.Row)
	})
	return a.withOverrides(r, s, append(overrides, o))
}

func (a *API) withOverrides(r *web.Request, s *record.Submission, overrides []grading.Override) (out Overriding,
	err error) {
	sh, err := a.Grading.Sheet(r, s.Job)
	if err != nil {
		return out, err
	}
	if sh == nil {
		return out, db.ErrNotFound
	}
	adjusted, err := a.Grader.Adjust(r, s, s.Job, sh, overrides)
	if err != nil {
		return out, err
	}
	return Overriding{Submission: s, Marks: adjusted.Marks.String()}, nil
}

func readOverride(in *wire.SetOverride) (o grading.Override, err error) {
	o = grading.Override{Trial: in.Trial, Verdict: in.Verdict, Row: in.Row, Marks: in.Marks}
	if (o.Trial == nil) != (o.Verdict == nil) || o.Row != nil && o.Trial != nil {
		return o, web.Unfit("override",
			"expected trial and verdict, or row, or neither for the total")
	}
	for _, n := range []*int{o.Trial, o.Verdict, o.Row} {
		if n != nil && *n < 0 {
			return o, web.Unfit("override", "trials, verdicts and rows are counted from 0")
		}
	}
	if m, ok := new(big.Rat).SetString(string(o.Marks)); !ok || strings.ContainsAny(string(o.Marks), "eE/_") ||
		len(o.Marks) > 12 || m.Sign() < 0 {
		return o, web.Unfit("override", "expected marks, got %.20q", string(o.Marks))
	}
	o.Reason, err = reason(in.Reason, 500)
	return o, err
}

func (a *API) override(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetOverride](r)
	if err != nil {
		return nil, err
	}
	if err := a.applyOverride(r, in, []*record.Submission{r.Submission}); err != nil {
		return nil, err
	}
	return a.submissionNow(r)
}

func (a *API) applyOverride(r *web.Request, in *wire.SetOverride, of []*record.Submission) error {
	o, err := readOverride(in)
	if err != nil {
		return err
	}
	err = web.Consistently(r, a.Store.DB, func() error {
		var all []Overriding
		for _, s := range of {
			now, err := a.Submissions.Submission(r, s.ID)
			if err != nil {
				return err
			}
			x, err := a.overriding(r, now, o)
			if err != nil {
				return err
			}
			all = append(all, x)
		}
		return a.Store.AddOverride(r, r.Account, o, all)
	})
	if err != nil {
		return err
	}
	for _, s := range of {
		a.Events.Changed(s.ID)
	}
	return nil
}

// submissionNow gives the submission again, after a change.
func (a *API) submissionNow(r *web.Request) (any, error) {
	var err error
	if r.Submission, err = a.Submissions.Submission(r, r.Submission.ID); err != nil {
		return nil, err
	}
	return a.submission(r)
}

// several finds the submissions of the assignment that a call names.
func (a *API) several(r *web.Request, ids []string) (out []*record.Submission, err error) {
	if len(ids) == 0 || len(ids) > web.MostPage {
		return nil, web.Unfit("submissions", "1 to %d submissions are named", web.MostPage)
	}
	for _, id := range ids {
		s, err := a.Submissions.Submission(r, id)
		if err == db.ErrNotFound || err == nil && s.AssignmentID != r.Assignment.ID {
			return nil, web.Unfit("submissions", "%s of this class has no submission %.40q", r.Assignment.Exercise, id)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

func (a *API) overrideMany(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetOverride](r)
	if err != nil {
		return nil, err
	}
	of, err := a.several(r, in.Submissions)
	if err != nil {
		return nil, err
	}
	return nil, a.applyOverride(r, in, of)
}

func (a *API) dropOverride(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "override")
	if err != nil {
		return nil, err
	}
	err = web.Consistently(r, a.Store.DB, func() error {
		now, err := a.Submissions.Submission(r, r.Submission.ID)
		if err != nil {
			return err
		}
		overrides, err := a.Grading.Overrides(r, now.ID)
		if err != nil {
			return err
		}
		left := slices.DeleteFunc(slices.Clone(overrides), func(o grading.Override) bool { return o.ID == id })
		if len(left) == len(overrides) {
			return db.ErrNotFound
		}
		x, err := a.withOverrides(r, now, left)
		if err != nil {
			return err
		}
		return a.Store.DropOverride(r, r.Account, id, x)
	})
	if err == nil {
		a.Events.Changed(r.Submission.ID)
	}
	return nil, err
}

func (a *API) comment(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetComment](r)
	if err != nil {
		return nil, err
	}
	if in.Text, err = reason(in.Text, submissions.MaxComment); err != nil {
		return nil, err
	}
	if err := a.Store.AddComment(r, r.Account, r.Class.ID, []string{r.Submission.ID}, in.Text, in.Save); err != nil {
		return nil, err
	}
	return a.submissionNow(r)
}

func (a *API) commentMany(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetComment](r)
	if err != nil {
		return nil, err
	}
	if in.Text, err = reason(in.Text, submissions.MaxComment); err != nil {
		return nil, err
	}
	of, err := a.several(r, in.Submissions)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, s := range of {
		ids = append(ids, s.ID)
	}
	return nil, a.Store.AddComment(r, r.Account, r.Class.ID, ids, in.Text, in.Save)
}

func (a *API) dropComment(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "comment")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.DropComment(r, r.Submission.ID, id)
}

func (a *API) savedComments(r *web.Request) (any, error) {
	all, err := a.Store.SavedComments(r, r.Class.ID)
	out := []wire.SavedComment{}
	for _, p := range all {
		out = append(out, wire.SavedComment(p))
	}
	return out, err
}

func (a *API) dropSavedComment(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "saved")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.DropSavedComment(r, r.Class.ID, id)
}

// countedOf gives the submissions of the assignment that count, whole rows.
func (a *API) countedOf(r *web.Request) ([]record.Submission, error) {
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	counts, err := v.counting(r)
	if err != nil {
		return nil, err
	}
	all, _, err := a.Submissions.Submissions(r, r.Assignment.ID, submissions.Filter{})
	if err != nil {
		return nil, err
	}
	var out []record.Submission
	for i := range all {
		if !counts[all[i].ID] {
			continue
		}
		_, all[i].Percent = v.lateness(&all[i])
		out = append(out, all[i])
	}
	return out, nil
}

func (a *API) alike(r *web.Request) (any, error) {
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	v := &view{a: a, assignment: r.Assignment}
	at := map[string]int{}
	out := []wire.Alike{}
	for i := range rows {
		if rows[i].Alike == "" {
			continue
		}
		s, err := v.one(r, &rows[i])
		if err != nil {
			return nil, err
		}
		s.Counts = true
		k, known := at[s.Alike]
		if !known {
			k = len(out)
			at[s.Alike] = k
			out = append(out, wire.Alike{Key: s.Alike, First: s.First})
		}
		out[k].Submissions = append(out[k].Submissions, s)
	}
	slices.SortStableFunc(out, func(x, y wire.Alike) int { return len(y.Submissions) - len(x.Submissions) })
	return out, nil
}

// marksOf reads marks as they are kept.
func marksOf(n json.Number) *big.Rat {
	r, ok := new(big.Rat).SetString(string(n))
	if !ok {
		return new(big.Rat)
	}
	return r
}
