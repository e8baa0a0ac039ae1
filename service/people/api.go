package people

import (
	"context"
	"net/http"
	"time"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls about people.
type API struct {
	Store         *Store
	Authenticator *Authenticator

	// SetCookie leaves a session's token with a browser, "" takes it away.
	SetCookie func(r *web.Request, token string, age time.Duration)
	// ClassesOf lists the classes of an account as it sees them.
	ClassesOf func(ctx context.Context, a *record.Account) ([]wire.Class, error)
}

// ClientOf tells from where a call comes.
func ClientOf(r *web.Request) Client {
	return Client{Agent: r.Request.UserAgent(), Address: r.ClientIP()}
}

// Begun answers with a session that has begun.
func (a *API) Begun(r *web.Request, account *record.Account, token string, expires time.Time) (*wire.Session, error) {
	a.SetCookie(r, token, SessionLength)
	return a.Who(r, account, token, &expires)
}

// Who is the answer that tells who is signed in.
func (a *API) Who(r *web.Request, account *record.Account, token string, expires *time.Time) (*wire.Session, error) {
	out := &wire.Session{Login: account.Login, Name: account.Name, Role: account.Role, Token: token, Expires: expires}
	var err error
	out.Classes, err = a.ClassesOf(r, account)
	return out, err
}

func (a *API) setUp(r *web.Request) (any, error) {
	n, err := a.Store.Accounts(r)
	return wire.SetUp{Needed: n == 0}, err
}

func (a *API) first(r *web.Request) (any, error) {
	in, err := web.Body[wire.First](r)
	if err != nil {
		return nil, err
	}
	if err := a.Authenticator.First(r, in.Token, record.Account{Login: in.Login, Name: in.Name}, in.Password,
		ClientOf(r)); err != nil {
		return nil, err
	}
	return a.signInAs(r, in.Login, in.Password)
}

func (a *API) signIn(r *web.Request) (any, error) {
	in, err := web.Body[wire.SignIn](r)
	if err != nil {
		return nil, err
	}
	return a.signInAs(r, in.Login, in.Password)
}

func (a *API) signInAs(r *web.Request, login, password string) (any, error) {
	account, token, expires, err := a.Authenticator.SignIn(r, login, password, ClientOf(r))
	if err != nil {
		return nil, err
	}
	return a.Begun(r, account, token, expires)
}

func (a *API) session(r *web.Request) (any, error) {
	return a.Who(r, r.Account, "", &r.Session.Expires)
}

func (a *API) signOut(r *web.Request) (any, error) {
	a.SetCookie(r, "", 0)
	return nil, a.Store.EndSession(r, r.Account.ID, r.Session.ID)
}

func (a *API) useLink(r *web.Request) (any, error) {
	in, err := web.Body[wire.Link](r)
	if err != nil {
		return nil, err
	}
	gone := web.NewProblem(http.StatusUnauthorized, "link",
		"this link was used or has expired; ask for a new one")
	switch ok, err := a.Store.LinkWorks(r, in.Token); {
	case err != nil:
		return nil, err
	case !ok:
		return nil, gone
	}
	hash := ""
	if in.Password != "" { // before the link is used up
		if hash, err = a.Authenticator.Hash(r, in.Password); err != nil {
			return nil, err
		}
	}
	account, err := a.Store.UseLink(r, in.Token)
	if err == db.ErrNotFound {
		return nil, gone
	}
	if err != nil {
		return nil, err
	}
	if hash != "" {
		if err := a.Store.SetPassword(r, account.ID, hash, 0); err != nil {
			return nil, err
		}
	}
	token, expires, err := a.Authenticator.Begin(r, account, ClientOf(r))
	if err != nil {
		return nil, err
	}
	return a.Begun(r, account, token, expires)
}

// Person brings a login and a name into form, or returns what is wrong with them.
func Person(login string, name *string) (string, error) {
	login, err := Login(login)
	if err != nil {
		return "", web.Unfit("login", "%s", err)
	}
	if *name, err = Name(*name); err != nil {
		return "", web.Unfit("name", "%s", err)
	}
	return login, nil
}

func (a *API) password(r *web.Request) (any, error) {
	in, err := web.Body[wire.Password](r)
	if err != nil {
		return nil, err
	}
	return nil, a.Authenticator.ChangePassword(r, r.Account, in.Old, in.New, r.Session.ID)
}

func (a *API) sessions(r *web.Request) (any, error) { return a.ways(r, "session") }
func (a *API) tokens(r *web.Request) (any, error)   { return a.ways(r, "token") }

func (a *API) ways(r *web.Request, kind string) (any, error) {
	all, err := a.Store.Sessions(r, r.Account.ID, kind)
	out := []wire.Access{}
	for i := range all {
		w := all[i].Wire()
		w.This = w.ID == r.Session.ID
		out = append(out, w)
	}
	return out, err
}

func (a *API) signOutEverywhere(r *web.Request) (any, error) {
	a.SetCookie(r, "", 0)
	return nil, a.Store.EndSessions(r, r.Account.ID)
}

func (a *API) endAccess(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "access")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.EndSession(r, r.Account.ID, id)
}

func (a *API) newToken(r *web.Request) (any, error) {
	in, err := web.Body[wire.NewToken](r)
	if err != nil {
		return nil, err
	}
	return a.Authenticator.Token(r, r.Account, *in)
}

func (a *API) accounts(r *web.Request) (any, error) {
	all, err := a.Store.List(r)
	out := []wire.Account{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out, err
}

func (a *API) setAccount(r *web.Request) (any, error) {
	in, err := web.Body[wire.SetAccount](r)
	if err != nil {
		return nil, err
	}
	login, err := Person(r.Param("login"), &in.Name)
	if err != nil {
		return nil, err
	}
	if in.Role != wire.Admin && in.Role != wire.Instructor && in.Role != wire.Person {
		return nil, web.Unfit("role", "expected the role admin, instructor or person, got %q", in.Role)
	}
	if err := a.Store.SetAccount(r, r.Account.Login, login, *in); err != db.ErrNotFound {
		return nil, err
	}
	return nil, a.Store.AddAccount(r, r.Account.Login, record.Account{Login: login, Name: in.Name, Role: in.Role})
}

func (a *API) accountLink(r *web.Request) (any, error) {
	return a.Authenticator.Link(r, r.Account.Login, 0, r.Param("login"))
}
