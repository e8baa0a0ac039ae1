package exercises

import (
	"net/url"

	"hemble/service/db"
	"hemble/service/exercises/policy"
	"hemble/service/people"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// now answers with the assignment as it is after a change.
func (a *API) now(r *web.Request) (any, error) {
	var err error
	if r.Assignment, err = a.Store.Assignment(r, r.Class.ID, r.Param("exercise"), 0); err != nil {
		return nil, err
	}
	return a.Shown(r, r.Assignment)
}

func (a *API) assign(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetAssignment](r)
	if err != nil {
		return nil, err
	}
	if in.Opens.IsZero() {
		if in.Opens = a.Store.Now(); r.Assignment != nil {
			in.Opens = r.Assignment.Opens
		}
	}
	asked := record.PolicyOf(in.Policy)
	if err := policy.Check(&asked); err != nil {
		return nil, web.Unfit("policy", "%s", err)
	}
	if err := a.Store.Assign(r, r.Account.Login, r.Class.ID, r.Param("exercise"), in.Revision, asked); err != nil {
		return nil, err
	}
	return a.now(r)
}

// putInForce makes another revision the one current, and leaves everything else about the assignment.
func (a *API) putInForce(r *web.Request) (any, error) {
	in, err := web.Body[wire.InForce](r)
	if err != nil {
		return nil, err
	}
	if in.Revision < 1 {
		return nil, web.Unfit("revision", "revisions are counted from 1")
	}
	if err := a.Store.Assign(r, r.Account.Login, r.Class.ID, r.Assignment.Exercise, in.Revision,
		r.Assignment.Policy); err != nil {
		return nil, err
	}
	return a.now(r)
}

func (a *API) unassign(r *web.Request) (any, error) {
	return nil, a.Store.Unassign(r, r.Account.Login, r.Assignment)
}

func (a *API) release(r *web.Request) (any, error) {
	in, err := web.Body[wire.Release](r)
	if err != nil {
		return nil, err
	}
	if err := a.Store.SetReleased(r, r.Account.Login, r.Assignment, in.Released); err != nil {
		return nil, err
	}
	return a.now(r)
}

func (a *API) extensions(r *web.Request) (any, error) {
	out := []wire.Extension{}
	for i := range r.Assignment.Extensions {
		out = append(out, r.Assignment.Extensions[i].Wire())
	}
	return out, nil
}

func (a *API) putExtension(r *web.Request) (any, error) {
	in, err := web.Body[wire.Extension](r)
	if err != nil {
		return nil, err
	}
	switch in.Kind {
	case "student":
		if in.Who, err = people.Login(in.Who); err != nil {
			return nil, web.Unfit("who", "%s", err)
		}
		if _, err := a.Classes.Student(r, r.Class.ID, in.Who); err != nil {
			return nil, web.Unfit("who", "the class has no student %s", in.Who)
		}
	case "group":
		members, err := a.Classes.Members(r, r.Class.ID)
		if err != nil {
			return nil, err
		}
		known := false
		for _, m := range members {
			known = known || m.Group == in.Who && in.Who != ""
		}
		if !known {
			return nil, web.Unfit("who", "the class has no group %.40q", in.Who)
		}
	default:
		return nil, web.Unfit("kind", "expected student or group, got %.40q", in.Kind)
	}
	switch {
	case in.Due == nil && in.Closes == nil && in.Attempts == 0:
		return nil, web.Unfit("extension", "expected a due time, a closing time or attempts")
	case in.Attempts < 0 || in.Attempts > 1000:
		return nil, web.Unfit("extension", "expected 0 to 1000 attempts, got %d", in.Attempts)
	case in.Reason == "" || len(in.Reason) > 500:
		return nil, web.Unfit("reason", "a reason of at most 500 bytes is required")
	}
	return nil, a.Store.PutExtension(r, r.Account.Login, r.Assignment, record.Extension(*in))
}

func (a *API) dropExtension(r *web.Request) (any, error) {
	who, err := url.PathUnescape(r.Param("who"))
	if err != nil {
		return nil, db.ErrNotFound
	}
	return nil, a.Store.DropExtension(r, r.Account.Login, r.Assignment, r.Param("kind"), who)
}

func (a *API) brief(r *web.Request) (any, error) {
	login := r.Account.Login
	if who := r.Query("student"); who != "" && !r.IsStudent() {
		m, err := a.Classes.Student(r, r.Class.ID, who)
		if err != nil {
			return nil, err
		}
		login = m.Login
	}
	x, err := a.Reader.Of(r, r.Assignment, login)
	if err != nil {
		return nil, err
	}
	out := &wire.Brief{Title: x.Title, Brief: x.Brief, Marks: r.Assignment.Marks, Parts: []wire.BriefPart{}}
	if r.IsStudent() {
		if out.Marks, err = a.Reader.VisibleMarks(r, r.Assignment); err != nil {
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
