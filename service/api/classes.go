package api

import (
	"bytes"
	"net/http"
	"path"
	"slices"
	"strings"

	"hemble/build"
	"hemble/core/spec"
	"hemble/service/auth"
	"hemble/service/roster"
	"hemble/service/store"
	"hemble/wire"
)

// seenBy leaves out of a class what its role in it may not see.
func seenBy(c *store.Class) wire.Class {
	out := c.Class
	if out.Role != wire.Instructor {
		out.JoinCode = ""
	}
	if out.Role == wire.Student {
		out.Students, out.Waiting, out.Exercises = 0, 0, 0
	}
	return out
}

func (a *API) classes(r *request) (any, error) {
	all, err := a.Store.Classes(r, r.account)
	out := []wire.Class{}
	for i := range all {
		out = append(out, seenBy(&all[i]))
	}
	return out, err
}

func (a *API) class(r *request) (any, error) { return seenBy(r.class), nil }

func classTitle(in *wire.SetClass) (err error) {
	if in.Title, err = auth.Name(in.Title); err != nil {
		return unfit("title", "a class has a title of 1 to 120 characters")
	}
	return nil
}

func (a *API) addClass(r *request) (any, error) {
	in, err := body[wire.SetClass](r)
	if err != nil {
		return nil, err
	}
	name := r.Param("class")
	if !spec.IsName(name) || len(name) > 64 {
		return nil, unfit("name", "a class is named by lower-case letters, digits and hyphens, not %.40q", name)
	}
	if err := classTitle(in); err != nil {
		return nil, err
	}
	if err := a.Store.AddClass(r, r.account, name, in.Title); err != nil {
		return nil, err
	}
	return a.classNow(r, name)
}

func (a *API) classNow(r *request, name string) (any, error) {
	c, err := a.Store.Class(r, r.account, name)
	if err != nil {
		return nil, err
	}
	return seenBy(c), nil
}

func (a *API) setClass(r *request) (any, error) {
	in, err := body[wire.SetClass](r)
	if err != nil {
		return nil, err
	}
	if err := classTitle(in); err != nil {
		return nil, err
	}
	if err := a.Store.SetClass(r, r.account.Login, r.class.ID, *in); err != nil {
		return nil, err
	}
	return a.classNow(r, r.class.Name)
}

func (a *API) newJoinCode(r *request) (any, error) {
	if err := a.Store.SetJoinCode(r, r.account.Login, r.class.ID, auth.JoinCode()); err != nil {
		return nil, err
	}
	return a.classNow(r, r.class.Name)
}

func (a *API) dropJoinCode(r *request) (any, error) {
	return nil, a.Store.SetJoinCode(r, r.account.Login, r.class.ID, "")
}

func (a *API) members(r *request) (any, error) {
	all, err := a.Store.Members(r, r.class.ID)
	if err != nil || r.class.Role != wire.Instructor && r.account.Role != wire.Admin {
		return plainMembers(all), err
	}
	linked, err := a.Store.Linked(r, r.class.ID)
	for i := range all {
		if until, open := linked[all[i].Login]; open {
			all[i].LinkUntil = &until
		}
	}
	return plainMembers(all), err
}

func plainMembers(all []store.Member) []wire.Member {
	out := []wire.Member{}
	for _, m := range all {
		out = append(out, m.Member)
	}
	return out
}

func (a *API) putMember(r *request) (any, error) {
	in, err := body[wire.SetMember](r)
	if err != nil {
		return nil, err
	}
	login, err := person(r.Param("login"), &in.Name)
	if err != nil {
		return nil, err
	}
	if in.Role != wire.Instructor && in.Role != wire.Assistant && in.Role != wire.Student {
		return nil, unfit("role", "a member is instructor, assistant or student, not %q", in.Role)
	}
	if len(in.Group) > 64 || len(in.Number) > 64 {
		return nil, unfit("group", "a group and a number have at most 64 characters")
	}
	return nil, a.Store.PutMember(r, r.account.Login, r.class.ID, login, *in)
}

func (a *API) dropMember(r *request) (any, error) {
	return nil, a.Store.DropMember(r, r.account.Login, r.class.ID, r.Param("login"))
}

// memberLink signs a student or an assistant in. Nobody gets into an account by way of a class that has more rights than
// the class gives, or that belongs to another class, too, unless it was made in this one: taking a student in takes nothing
// from those who answered for them before.
func (a *API) memberLink(r *request) (any, error) {
	all, err := a.Store.Members(r, r.class.ID)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(m store.Member) bool { return m.Login == r.Param("login") })
	if i < 0 {
		return nil, store.ErrNotFound
	}
	return a.linkFor(r, &all[i])
}

// memberLinks makes links for all students who have not signed in yet. An open link is replaced only where that is asked for: the
// one that was given out would be void.
func (a *API) memberLinks(r *request) (any, error) {
	in, err := body[wire.MakeLinks](r)
	if err != nil {
		return nil, err
	}
	all, err := a.Store.Members(r, r.class.ID)
	if err != nil {
		return nil, err
	}
	linked, err := a.Store.Linked(r, r.class.ID)
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
			m.LinkUntil = &until
			out.Kept = append(out.Kept, m.Member)
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

func (a *API) linkFor(r *request, m *store.Member) (*wire.OneTime, error) {
	account, err := a.Store.Account(r, m.Login)
	if err != nil {
		return nil, err
	}
	if m.Role == wire.Instructor || account.Role != wire.Person {
		return nil, &problem{http.StatusForbidden, "forbidden", "an instructor's link is made by who runs the service"}
	}
	if r.account.Role != wire.Admin && account.Home != r.class.ID {
		theirs, err := a.Store.Classes(r, account)
		if err != nil {
			return nil, err
		}
		mine, err := a.Store.Classes(r, r.account)
		if err != nil {
			return nil, err
		}
		for _, c := range theirs {
			if !slices.ContainsFunc(mine, func(m store.Class) bool { return m.ID == c.ID && m.Role == wire.Instructor }) {
				return nil, &problem{http.StatusForbidden, "forbidden", "this account belongs to another class, too: who runs the service makes its link"}
			}
		}
	}
	return a.Keeper.Link(r, r.account.Login, r.class.ID, m.Login)
}

func (a *API) roster(r *request) (any, error) {
	all, err := a.Store.Members(r, r.class.ID)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = roster.Write(&b, plainMembers(all))
	return raw{b.Bytes(), r.class.Name + "-roster.csv"}, err
}

func (a *API) putRoster(r *request) (any, error) {
	text, err := content(r, maxBody)
	if err != nil {
		return nil, err
	}
	read, err := roster.Read(text)
	if err != nil {
		return nil, unfit("csv", "%s", err)
	}
	have, err := a.Store.Members(r, r.class.ID)
	if err != nil {
		return nil, err
	}
	out := wire.RosterChange{Added: []wire.Member{}, Changed: []wire.Member{}, Missing: []wire.Member{}, Wrong: read.Wrong, Encoding: string(read.Encoding)}
	known := map[string]wire.Member{}
	for _, m := range have {
		known[m.Login] = m.Member
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
			out.Wrong = append(out.Wrong, wire.Mistake{File: "roster", Text: m.Login + " is " + string(was.Role) + " of this class and stays so"})
		case was.Name != m.Name || was.Group != m.Group || was.Number != m.Number:
			out.Changed = append(out.Changed, m)
			put = append(put, m)
		}
	}
	for _, m := range have {
		if m.Role == wire.Student && !listed[m.Login] {
			out.Missing = append(out.Missing, m.Member)
		}
	}
	if r.Query("try") != "" || len(put) == 0 {
		return out, nil
	}
	out.Done = true
	return out, a.Store.PutRoster(r, r.account.Login, r.class.ID, put)
}

func (a *API) libraries(r *request) (any, error) {
	all, err := a.Store.Libraries(r, r.class.ID)
	out := []wire.Library{}
	for _, l := range all {
		out = append(out, wire.Library{Name: l.Name, Headers: strings.Split(l.Headers, "\n"), Created: l.Created})
	}
	return out, err
}

func (a *API) putLibrary(r *request) (any, error) {
	name := r.Param("library")
	if ok := len(name) <= 64 && name != "" && !strings.ContainsFunc(name, func(c rune) bool {
		return !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '_')
	}); !ok {
		return nil, unfit("name", "a library is named by letters, digits, - and _, not %.40q", name)
	}
	data, err := content(r, maxUpload)
	if err != nil {
		return nil, err
	}
	source, err := build.FromFile(name+".zip", data)
	if err != nil || !bytes.HasPrefix(data, []byte("PK")) {
		return nil, unfit("library", "a library is a zip archive of its folder: %v", err)
	}
	var headers []string
	for _, f := range source.Files {
		if dir := path.Dir(f.Path); strings.HasPrefix(path.Ext(f.Path), ".h") && (dir == "." || dir == "src") {
			headers = append(headers, path.Base(f.Path))
		}
	}
	if len(headers) == 0 {
		return nil, unfit("library", "a library is found by its headers: this one has none, at its top or under src")
	}
	slices.Sort(headers)
	return nil, a.Store.PutLibrary(r, r.account.Login, r.class.ID, name, headers, data)
}

func (a *API) dropLibrary(r *request) (any, error) {
	return nil, a.Store.DropLibrary(r, r.account.Login, r.class.ID, r.Param("library"))
}
