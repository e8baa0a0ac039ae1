package api

import (
	"encoding/json"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"unicode/utf8"

	"hemble/service/store"
	"hemble/wire"
)

// reason bounds what people write.
func reason(s string, most int) (string, error) {
	s = strings.TrimSpace(s)
	if s == "" || len(s) > most || !utf8.ValidString(s) {
		return "", unfit("text", "there has to be a text, of at most %d bytes", most)
	}
	return s, nil
}

// overriding checks an override against one submission, and works out its marks with it.
func (a *API) overriding(r *request, s *store.Submission, o wire.Override) (out store.Overriding, err error) {
	if s.State != wire.Marked {
		return out, &store.Refusal{Code: "not-marked", Text: fmt.Sprintf("the submission of %s is not marked yet", s.Student)}
	}
	overrides, err := a.Store.Overrides(r, s.ID)
	if err != nil {
		return out, err
	}
	same := func(x, y *int) bool { return (x == nil) == (y == nil) && (x == nil || *x == *y) }
	overrides = slices.DeleteFunc(overrides, func(x wire.Override) bool {
		return same(x.Trial, o.Trial) && same(x.Verdict, o.Verdict) && same(x.Row, o.Row)
	})
	return a.withOverrides(r, s, append(overrides, o))
}

func (a *API) withOverrides(r *request, s *store.Submission, overrides []wire.Override) (out store.Overriding, err error) {
	sh, err := a.Store.Sheet(r, s.Job)
	if err != nil {
		return out, err
	}
	if sh == nil {
		return out, store.ErrNotFound
	}
	adjusted, err := a.Desk.Adjust(r, s, s.Job, sh, overrides)
	if err != nil {
		return out, err
	}
	return store.Overriding{Submission: s, Marks: adjusted.Marks.String()}, nil
}

func readOverride(in *wire.SetOverride) (o wire.Override, err error) {
	o = wire.Override{Trial: in.Trial, Verdict: in.Verdict, Row: in.Row, Marks: in.Marks}
	if (o.Trial == nil) != (o.Verdict == nil) || o.Row != nil && o.Trial != nil {
		return o, unfit("override", "an override is of an expectation (trial and verdict), of a row, or of the whole")
	}
	for _, n := range []*int{o.Trial, o.Verdict, o.Row} {
		if n != nil && *n < 0 {
			return o, unfit("override", "trials, verdicts and rows are counted from 0")
		}
	}
	if m, ok := new(big.Rat).SetString(string(o.Marks)); !ok || strings.ContainsAny(string(o.Marks), "eE/_") || len(o.Marks) > 12 || m.Sign() < 0 {
		return o, unfit("override", "%.20q are no marks", string(o.Marks))
	}
	o.Reason, err = reason(in.Reason, 500)
	return o, err
}

func (a *API) override(r *request) (any, error) {
	in, err := body[wire.SetOverride](r)
	if err != nil {
		return nil, err
	}
	if err := a.applyOverride(r, in, []*store.Submission{r.submission}); err != nil {
		return nil, err
	}
	return a.submissionNow(r)
}

func (a *API) applyOverride(r *request, in *wire.SetOverride, of []*store.Submission) error {
	o, err := readOverride(in)
	if err != nil {
		return err
	}
	err = a.consistently(r, func() error {
		var all []store.Overriding
		for _, s := range of {
			now, err := a.Store.Submission(r, s.ID)
			if err != nil {
				return err
			}
			x, err := a.overriding(r, now, o)
			if err != nil {
				return err
			}
			all = append(all, x)
		}
		return a.Store.AddOverride(r, r.account, o, all)
	})
	if err != nil {
		return err
	}
	for _, s := range of {
		a.Hub.Changed(s.ID)
	}
	return nil
}

// submissionNow gives the submission again, after a change.
func (a *API) submissionNow(r *request) (any, error) {
	var err error
	if r.submission, err = a.Store.Submission(r, r.submission.ID); err != nil {
		return nil, err
	}
	return a.submission(r)
}

// several finds the submissions of the opening that a call names.
func (a *API) several(r *request, ids []string) (out []*store.Submission, err error) {
	if len(ids) == 0 || len(ids) > mostPage {
		return nil, unfit("submissions", "1 to %d submissions are named", mostPage)
	}
	for _, id := range ids {
		s, err := a.Store.Submission(r, id)
		if err == store.ErrNotFound || err == nil && s.OpeningID != r.opening.ID {
			return nil, unfit("submissions", "%s of this class has no submission %.40q", r.opening.Exercise, id)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

func (a *API) overrideMany(r *request) (any, error) {
	in, err := body[wire.SetOverride](r)
	if err != nil {
		return nil, err
	}
	of, err := a.several(r, in.Submissions)
	if err != nil {
		return nil, err
	}
	return nil, a.applyOverride(r, in, of)
}

func (a *API) dropOverride(r *request) (any, error) {
	id, err := numbered(r, "override")
	if err != nil {
		return nil, err
	}
	err = a.consistently(r, func() error {
		now, err := a.Store.Submission(r, r.submission.ID)
		if err != nil {
			return err
		}
		overrides, err := a.Store.Overrides(r, now.ID)
		if err != nil {
			return err
		}
		left := slices.DeleteFunc(slices.Clone(overrides), func(o wire.Override) bool { return o.ID == id })
		if len(left) == len(overrides) {
			return store.ErrNotFound
		}
		x, err := a.withOverrides(r, now, left)
		if err != nil {
			return err
		}
		return a.Store.DropOverride(r, r.account, id, x)
	})
	if err == nil {
		a.Hub.Changed(r.submission.ID)
	}
	return nil, err
}

func (a *API) comment(r *request) (any, error) {
	in, err := body[wire.SetComment](r)
	if err != nil {
		return nil, err
	}
	if in.Text, err = reason(in.Text, maxComment); err != nil {
		return nil, err
	}
	if err := a.Store.AddComment(r, r.account, r.class.ID, []string{r.submission.ID}, in.Text, in.Keep); err != nil {
		return nil, err
	}
	return a.submissionNow(r)
}

func (a *API) commentMany(r *request) (any, error) {
	in, err := body[wire.SetComment](r)
	if err != nil {
		return nil, err
	}
	if in.Text, err = reason(in.Text, maxComment); err != nil {
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
	return nil, a.Store.AddComment(r, r.account, r.class.ID, ids, in.Text, in.Keep)
}

func (a *API) dropComment(r *request) (any, error) {
	id, err := numbered(r, "comment")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.DropComment(r, r.submission.ID, id)
}

func (a *API) phrases(r *request) (any, error) { return a.Store.Phrases(r, r.class.ID) }

func (a *API) dropPhrase(r *request) (any, error) {
	id, err := numbered(r, "phrase")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.DropPhrase(r, r.class.ID, id)
}

// countedOf gives the submissions of the opening that count, whole rows.
func (a *API) countedOf(r *request) ([]store.Submission, error) {
	v, err := a.viewOf(r, r.class, r.opening, r.account)
	if err != nil {
		return nil, err
	}
	counts, err := v.counting(r)
	if err != nil {
		return nil, err
	}
	all, _, err := a.Store.Submissions(r, r.opening.ID, store.Filter{})
	if err != nil {
		return nil, err
	}
	var out []store.Submission
	for i := range all {
		if !counts[all[i].ID] {
			continue
		}
		if all[i].Submission, err = v.one(r, &all[i]); err != nil {
			return nil, err
		}
		all[i].Counts = true
		out = append(out, all[i])
	}
	return out, nil
}

func (a *API) alike(r *request) (any, error) {
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	at := map[string]int{}
	out := []wire.Alike{}
	for _, s := range rows {
		if s.Alike == "" {
			continue
		}
		i, known := at[s.Alike]
		if !known {
			i = len(out)
			at[s.Alike] = i
			out = append(out, wire.Alike{Key: s.Alike, First: s.First})
		}
		out[i].Submissions = append(out[i].Submissions, s.Submission)
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
