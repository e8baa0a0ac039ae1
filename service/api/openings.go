package api

import (
	"context"
	"encoding/json"
	"net/url"
	"time"

	"hemble/core/sheet"
	"hemble/service/auth"
	"hemble/service/store"
	"hemble/service/terms"
	"hemble/wire"
)

// openingFor is an opening as who asks may see it.
func (a *API) openingFor(r *request, o *store.Opening) (wire.Opening, error) {
	out := o.Opening
	if !r.student() {
		return out, nil
	}
	m, err := a.Store.Student(r, r.class.ID, r.account.Login)
	if err != nil {
		return out, err
	}
	attempts, err := a.Store.Attempts(r, o.ID, r.account.ID)
	if err != nil {
		return out, err
	}
	made, last := countable(attempts)
	own := terms.Of(o.Terms, o.Extensions, m.Login, m.Group)
	s := terms.Standing(own, made, last, a.Store.Now())
	if o.Archived && s.Open {
		s.Open, s.Why = false, "the class is archived"
	}
	out.Terms, out.Mine = own, &s
	out.Students, out.Failed, out.Newest, out.Mean = 0, 0, 0, ""
	if out.Takes, err = a.takes(r, o); err != nil {
		return out, err
	}
	if out.Marks, err = a.visibleMarks(r, o); err != nil {
		return out, err
	}
	return out, a.stand(r, o, attempts, out.Marks, &s)
}

// stand tells a student what came of their attempts so far, as they may see it. visible are the marks of what they may see of the
// exercise: where that is all of it, what is stored of an attempt says enough, and no sheet need be read.
func (a *API) stand(r *request, o *store.Opening, attempts []store.Submission, visible json.Number, s *wire.Standing) error {
	if len(attempts) == 0 {
		return nil
	}
	last := attempts[len(attempts)-1]
	s.Last, s.State = last.ID, last.State
	v, err := a.viewOf(r, r.class, o, r.account)
	if err != nil || !v.seesMarks() {
		return err
	}
	if sheet.NewMarks(marksOf(visible)).Cmp(marksOf(o.Marks)) == 0 {
		for _, c := range v.counted(attempts) {
			s.Marks, s.Of = json.Number(sheet.NewMarks(terms.Counted(string(c.Marks), c.Percent)).String()), o.Marks
		}
		return nil
	}
	counts, err := v.counting(r, r.account.ID)
	if err != nil {
		return err
	}
	for i := range attempts {
		if !counts[attempts[i].ID] {
			continue
		}
		full, err := a.Store.Submission(r, attempts[i].ID)
		if err != nil {
			return err
		}
		one, err := v.one(r, full)
		if err != nil {
			return err
		}
		if one.Marks != "" {
			s.Marks, s.Of = json.Number(sheet.NewMarks(terms.Counted(string(one.Marks), one.Percent)).String()), one.Of
		}
	}
	return nil
}

// visibleMarks are the marks of an exercise without those of hidden trials: before the release nothing tells of them.
func (a *API) visibleMarks(ctx context.Context, o *store.Opening) (n json.Number, err error) {
	if o.Released != nil {
		return o.Marks, nil
	}
	text, err := a.Store.Blobs.Get(ctx, o.Blob)
	if err != nil {
		return "", err
	}
	x, err := a.Desk.Exercise(text, o.Exercise, "")
	if err != nil {
		return "", err
	}
	of := sheet.NewMarks(x.Marks())
	for _, t := range x.Trials {
		if !t.Hidden {
			continue
		}
		for _, e := range t.Expect {
			if !e.Bonus {
				of = of.Sub(sheet.NewMarks(e.Marks))
			}
		}
	}
	return json.Number(of.String()), nil
}

// countable tells how many attempts count against a bound, and when the last was made: those that were cancelled, or
// could not be marked, do not.
func countable(attempts []store.Submission) (n int, last time.Time) {
	for _, s := range attempts {
		if s.State != wire.Cancelled && s.State != wire.Failed {
			n, last = n+1, s.Submitted
		}
	}
	return n, last
}

func (a *API) openings(r *request) (any, error) {
	whose := int64(0)
	if r.student() {
		whose = r.account.ID
	}
	all, err := a.Store.Openings(r, r.class.ID, whose)
	if err != nil {
		return nil, err
	}
	out := []wire.Opening{}
	for i := range all {
		if r.student() && a.Store.Now().Before(all[i].Opens) {
			continue
		}
		o, err := a.openingFor(r, &all[i])
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	if r.student() {
		return out, nil
	}
	means, err := a.Store.Means(r, r.class.ID)
	for i := range out {
		out[i].Mean = means[all[i].ID]
	}
	return out, err
}

func (a *API) opening(r *request) (any, error) {
	if r.opening == nil {
		return nil, store.ErrNotFound
	}
	return a.openingFor(r, r.opening)
}

// openingNow gives the opening again, after a change.
func (a *API) openingNow(r *request) (any, error) {
	var err error
	if r.opening, err = a.Store.Opening(r, r.class.ID, r.Param("exercise"), 0); err != nil {
		return nil, err
	}
	return a.opening(r)
}

func (a *API) open(r *request) (any, error) {
	in, err := body[wire.SetOpening](r)
	if err != nil {
		return nil, err
	}
	if in.Opens.IsZero() {
		if in.Opens = a.Store.Now(); r.opening != nil {
			in.Opens = r.opening.Opens
		}
	}
	if err := terms.Check(&in.Terms); err != nil {
		return nil, unfit("terms", "%s", err)
	}
	if err := a.Store.Open(r, r.account.Login, r.class.ID, r.Param("exercise"), *in); err != nil {
		return nil, err
	}
	return a.openingNow(r)
}

// putInForce makes another revision the one in force, and leaves everything else about the opening.
func (a *API) putInForce(r *request) (any, error) {
	in, err := body[wire.InForce](r)
	if err != nil {
		return nil, err
	}
	if in.Revision < 1 {
		return nil, unfit("revision", "revisions are counted from 1")
	}
	if err := a.Store.Open(r, r.account.Login, r.class.ID, r.opening.Exercise, wire.SetOpening{Revision: in.Revision, Terms: r.opening.Terms}); err != nil {
		return nil, err
	}
	return a.openingNow(r)
}

func (a *API) closeOpening(r *request) (any, error) {
	return nil, a.Store.CloseOpening(r, r.account.Login, r.opening)
}

func (a *API) release(r *request) (any, error) {
	in, err := body[wire.Release](r)
	if err != nil {
		return nil, err
	}
	if err := a.Store.SetReleased(r, r.account.Login, r.opening, in.Released); err != nil {
		return nil, err
	}
	return a.openingNow(r)
}

func (a *API) extensions(r *request) (any, error) { return r.opening.Extensions, nil }

func (a *API) putExtension(r *request) (any, error) {
	in, err := body[wire.Extension](r)
	if err != nil {
		return nil, err
	}
	switch in.Kind {
	case "student":
		if in.Who, err = auth.Login(in.Who); err != nil {
			return nil, unfit("who", "%s", err)
		}
		if _, err := a.Store.Student(r, r.class.ID, in.Who); err != nil {
			return nil, unfit("who", "the class has no student %s", in.Who)
		}
	case "group":
		members, err := a.Store.Members(r, r.class.ID)
		if err != nil {
			return nil, err
		}
		known := false
		for _, m := range members {
			known = known || m.Group == in.Who && in.Who != ""
		}
		if !known {
			return nil, unfit("who", "nobody of the class is in a group %.40q", in.Who)
		}
	default:
		return nil, unfit("kind", "an extension is for a student or a group, not for %.40q", in.Kind)
	}
	switch {
	case in.Due == nil && in.Closes == nil && in.Attempts == 0:
		return nil, unfit("extension", "an extension gives a due time, a closing time or attempts")
	case in.Attempts < 0 || in.Attempts > 1000:
		return nil, unfit("extension", "attempts are 0 to 1000, not %d", in.Attempts)
	case in.Reason == "" || len(in.Reason) > 500:
		return nil, unfit("reason", "an extension has a reason, of at most 500 bytes")
	}
	return nil, a.Store.PutExtension(r, r.account.Login, r.opening, *in)
}

func (a *API) dropExtension(r *request) (any, error) {
	who, err := url.PathUnescape(r.Param("who"))
	if err != nil {
		return nil, store.ErrNotFound
	}
	return nil, a.Store.DropExtension(r, r.account.Login, r.opening, r.Param("kind"), who)
}

func (a *API) brief(r *request) (any, error) {
	login := r.account.Login
	if who := r.Query("student"); who != "" && !r.student() {
		m, err := a.Store.Student(r, r.class.ID, who)
		if err != nil {
			return nil, err
		}
		login = m.Login
	}
	text, err := a.Store.Blobs.Get(r, r.opening.Blob)
	if err != nil {
		return nil, err
	}
	x, err := a.Desk.Exercise(text, r.opening.Exercise, login)
	if err != nil {
		return nil, err
	}
	out := &wire.Brief{Title: x.Title, Brief: x.Brief, Marks: r.opening.Marks, Parts: []wire.BriefPart{}}
	if r.student() {
		if out.Marks, err = a.visibleMarks(r, r.opening); err != nil {
			return nil, err
		}
	}
	if x.Chip != nil {
		out.Chip, out.Clock = x.Chip.Title, x.Clock.String()
	}
	for _, v := range x.Varied {
		out.Values = append(out.Values, wire.Value{Name: v.Name, Value: v.Value})
	}
	for _, p := range x.Parts {
		part := wire.BriefPart{Name: p.Name, Kind: p.Kind.Title, Doc: p.Kind.Doc, Pins: []wire.BriefPin{}}
		for i, at := range p.Wired {
			if at != "" {
				part.Pins = append(part.Pins, wire.BriefPin{Pin: p.Kind.Pins[i].Name, At: at})
			}
		}
		out.Parts = append(out.Parts, part)
	}
	out.Drawn = drawn(x)
	return out, nil
}
