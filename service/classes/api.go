package classes

import (
	"bytes"
	"context"
	"net/http"
	"path"
	"slices"
	"strings"

	"hemble/build"
	"hemble/core/spec"
	"hemble/service/classes/roster"
	"hemble/service/db"
	"hemble/service/people"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls about classes.
type API struct {
	Store         *Store
	People        *people.Store
	Authenticator *people.Authenticator
	SignIn        *people.API
}

func (a *API) classes(r *web.Request) (any, error) { return a.Of(r, r.Account) }

// Of lists the classes of an account, as it sees them.
func (a *API) Of(ctx context.Context, account *record.Account) ([]wire.Class, error) {
	all, err := a.Store.Classes(ctx, account)
	out := []wire.Class{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out, err
}

func (a *API) class(r *web.Request) (any, error) { return r.Class.Wire(), nil }

func classTitle(in *wire.SetClass) (err error) {
	if in.Title, err = people.Name(in.Title); err != nil {
		return web.Unfit("title", "a title of 1 to 120 characters is required")
	}
	return nil
}

func (a *API) addClass(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetClass](r)
	if err != nil {
		return nil, err
	}
	name := r.Param("class")
	if !spec.IsName(name) || len(name) > 64 {
		return nil, web.Unfit("name", "a class name has lower-case letters, digits and hyphens, got %.40q", name)
	}
	if err := classTitle(in); err != nil {
		return nil, err
	}
	if err := a.Store.AddClass(r, r.Account, name, in.Title); err != nil {
		return nil, err
	}
	return a.classNow(r, name)
}

func (a *API) classNow(r *web.Request, name string) (any, error) {
	c, err := a.Store.Class(r, r.Account, name)
	if err != nil {
		return nil, err
	}
	return c.Wire(), nil
}

func (a *API) setClass(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetClass](r)
	if err != nil {
		return nil, err
	}
	if err := classTitle(in); err != nil {
		return nil, err
	}
	if err := a.Store.SetClass(r, r.Account.Login, r.Class.ID, *in); err != nil {
		return nil, err
	}
	return a.classNow(r, r.Class.Name)
}

func (a *API) newJoinCode(r *web.Request) (any, error) {
	if err := a.Store.SetJoinCode(r, r.Account.Login, r.Class.ID, people.JoinCode()); err != nil {
		return nil, err
	}
	return a.classNow(r, r.Class.Name)
}

func (a *API) dropJoinCode(r *web.Request) (any, error) {
	return nil, a.Store.SetJoinCode(r, r.Account.Login, r.Class.ID, "")
}

func (a *API) members(r *web.Request) (any, error) {
	all, err := a.Store.Members(r, r.Class.ID)
	if err != nil || r.Class.Role != wire.Instructor && r.Account.Role != wire.Admin {
		return record.WireMembers(all), err
	}
	linked, err := a.Store.Linked(r, r.Class.ID)
	out := record.WireMembers(all)
	for i := range out {
		if until, open := linked[out[i].Login]; open {
			out[i].LinkUntil = &until
		}
	}
	return out, err
}

func (a *API) putMember(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetMember](r)
	if err != nil {
		return nil, err
	}
	login, err := people.Person(r.Param("login"), &in.Name)
	if err != nil {
		return nil, err
	}
	if in.Role != wire.Instructor && in.Role != wire.Assistant && in.Role != wire.Student {
		return nil, web.Unfit("role", "expected the role instructor, assistant or student, got %q", in.Role)
	}
	if len(in.Group) > 64 || len(in.Number) > 64 {
		return nil, web.Unfit("group", "a group and a number have at most 64 characters")
	}
	return nil, a.Store.PutMember(r, r.Account.Login, r.Class.ID, login, *in)
}

func (a *API) dropMember(r *web.Request) (any, error) {
	return nil, a.Store.DropMember(r, r.Account.Login, r.Class.ID, r.Param("login"))
}

// memberLink signs a student or an assistant in. Nobody gets into an account by way of a class that has more rights
// than the class gives, or that belongs to another class, too, unless it was made in this one: taking a student in
// takes nothing from those who answered for them before.
func (a *API) memberLink(r *web.Request) (any, error) {
	all, err := a.Store.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(m record.Member) bool { return m.Login == r.Param("login") })
	if i < 0 {
		return nil, db.ErrNotFound
	}
	return a.linkFor(r, &all[i])
}

// memberLinks makes links for all students who have not signed in yet. An open link is replaced only where that is
// asked for: the one that was given out would be void.
func (a *API) memberLinks(r *web.Request) (any, error) {
	in, err := web.Body[wire.MakeLinks](r)
	if err != nil {
		return nil, err
	}
	all, err := a.Store.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	linked, err := a.Store.Linked(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	out := wire.Links{Links: []wire.StudentLink{}, Kept: []wire.Member{}}
	for i := range all {
		m := &all[i]
		if m.Role != wire.Student || m.SignedIn {
			continue
		}
		if until, open := linked[m.Login]; open && !slices.Contains(in.Replace, m.Login) {
			kept := m.Wire()
			kept.LinkUntil = &until
			out.Kept = append(out.Kept, kept)
			continue
		}
		l, err := a.linkFor(r, m)
		if err != nil {
			return nil, err
		}
		out.Links = append(out.Links, wire.StudentLink{OneTime: *l, Name: m.Name, Group: m.Group})
	}
	return out, nil
}

func (a *API) linkFor(r *web.Request, m *record.Member) (*wire.OneTime, error) {
	account, err := a.People.Account(r, m.Login)
	if err != nil {
		return nil, err
	}
	if m.Role == wire.Instructor || account.Role != wire.Person {
		return nil, web.NewProblem(http.StatusForbidden, "forbidden",
			"only an administrator can create a link for an instructor")
	}
	if r.Account.Role != wire.Admin && account.Home != r.Class.ID {
		theirs, err := a.Store.Classes(r, account)
		if err != nil {
			return nil, err
		}
		mine, err := a.Store.Classes(r, r.Account)
		if err != nil {
			return nil, err
		}
		for _, c := range theirs {
			if !slices.ContainsFunc(mine,
				func(m record.Class) bool { return m.ID == c.ID && m.Role == wire.Instructor }) {
				return nil, web.NewProblem(http.StatusForbidden, "forbidden",
					"this account belongs to another class too; an administrator has to create its link")
			}
		}
	}
	return a.Authenticator.Link(r, r.Account.Login, r.Class.ID, m.Login)
}

func (a *API) roster(r *web.Request) (any, error) {
	all, err := a.Store.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = roster.Write(&b, record.WireMembers(all))
	return web.Raw{Data: b.Bytes(), Name: r.Class.Name + "-roster.csv"}, err
}

func (a *API) putRoster(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxBody)
	if err != nil {
		return nil, err
	}
	read, err := roster.Read(text)
	if err != nil {
		return nil, web.Unfit("csv", "%s", err)
	}
	have, err := a.Store.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	out := wire.RosterChange{Added: []wire.Member{}, Changed: []wire.Member{}, Missing: []wire.Member{},
		Wrong: read.Wrong, Encoding: string(read.Encoding)}
	known := map[string]wire.Member{}
	for _, m := range have {
		known[m.Login] = m.Wire()
	}
	var put []wire.Member
	listed := map[string]bool{}
	for _, m := range read.Members {
		listed[m.Login] = true
		was, there := known[m.Login]
		switch {
		case !there:
			out.Added = append(out.Added, m)
			put = append(put, m)
		case was.Role != wire.Student:
			out.Wrong = append(out.Wrong,
				wire.Mistake{File: "roster", Text: m.Login + " is " + string(was.Role) + " of this class and stays so"})
		case was.Name != m.Name || was.Group != m.Group || was.Number != m.Number:
			out.Changed = append(out.Changed, m)
			put = append(put, m)
		}
	}
	for _, m := range have {
		if m.Role == wire.Student && !listed[m.Login] {
			out.Missing = append(out.Missing, m.Wire())
		}
	}
	if r.Query("try") != "" || len(put) == 0 {
		return out, nil
	}
	out.Done = true
	return out, a.Store.PutRoster(r, r.Account.Login, r.Class.ID, put)
}

func (a *API) libraries(r *web.Request) (any, error) {
	all, err := a.Store.Libraries(r, r.Class.ID)
	out := []wire.Library{}
	for _, l := range all {
		out = append(out, wire.Library{Name: l.Name, Headers: strings.Split(l.Headers, "\n"), Created: l.Created})
	}
	return out, err
}

func (a *API) putLibrary(r *web.Request) (any, error) {
	name := r.Param("library")
	if ok := len(name) <= 64 && name != "" && !strings.ContainsFunc(name, func(c rune) bool {
		return !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '_')
	}); !ok {
		return nil, web.Unfit("name", "a library name has letters, digits, - and _, got %.40q", name)
	}
	data, err := web.Content(r, web.MaxUpload)
	if err != nil {
		return nil, err
	}
	source, err := build.FromFile(name+".zip", data)
	if err != nil || !bytes.HasPrefix(data, []byte("PK")) {
		return nil, web.Unfit("library", "expected a zip archive of the library's folder: %v", err)
	}
	var headers []string
	for _, f := range source.Files {
		if dir := path.Dir(f.Path); strings.HasPrefix(path.Ext(f.Path), ".h") && (dir == "." || dir == "src") {
			headers = append(headers, path.Base(f.Path))
		}
	}
	if len(headers) == 0 {
		return nil, web.Unfit("library",
			"the library has no headers at its top level or in src")
	}
	slices.Sort(headers)
	return nil, a.Store.PutLibrary(r, r.Account.Login, r.Class.ID, name, headers, data)
}

func (a *API) dropLibrary(r *web.Request) (any, error) {
	return nil, a.Store.DropLibrary(r, r.Account.Login, r.Class.ID, r.Param("library"))
}
