package api

import (
	"net/http"
	"strconv"
	"time"

	"hemble/service/auth"
	"hemble/service/store"
	"hemble/wire"
)

func (a *API) client(r *request) auth.Client {
	return auth.Client{Agent: r.Request.UserAgent(), Address: r.ClientIP()}
}

func (a *API) setCookie(r *request, value string, age time.Duration) {
	seconds := int(age.Seconds())
	if value == "" {
		seconds = -1
	}
	http.SetCookie(r.Writer, &http.Cookie{Name: cookieName, Value: value, Path: a.BasePath + "/", MaxAge: seconds, HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: a.secureTransport(r.Context)})
}

// begun answers with a session that has begun.
func (a *API) begun(r *request, account *store.Account, token string, expires time.Time) (*wire.Session, error) {
	a.setCookie(r, token, auth.SessionLength)
	return a.who(r, account, token, &expires)
}

func (a *API) who(r *request, account *store.Account, token string, expires *time.Time) (*wire.Session, error) {
	out := &wire.Session{Login: account.Login, Name: account.Name, Role: account.Role, Token: token, Expires: expires}
	classes, err := a.Store.Classes(r, account)
	for i := range classes {
		out.Classes = append(out.Classes, seenBy(&classes[i]))
	}
	return out, err
}

func (a *API) setUp(r *request) (any, error) {
	n, err := a.Store.Accounts(r)
	return wire.SetUp{Needed: n == 0}, err
}

func (a *API) first(r *request) (any, error) {
	in, err := body[wire.First](r)
	if err != nil {
		return nil, err
	}
	if err := a.Keeper.First(r, in.Token, store.Account{Login: in.Login, Name: in.Name}, in.Password, a.client(r)); err != nil {
		return nil, err
	}
	return a.signInAs(r, in.Login, in.Password)
}

func (a *API) signIn(r *request) (any, error) {
	in, err := body[wire.SignIn](r)
	if err != nil {
		return nil, err
	}
	return a.signInAs(r, in.Login, in.Password)
}

func (a *API) signInAs(r *request, login, password string) (any, error) {
	account, token, expires, err := a.Keeper.SignIn(r, login, password, a.client(r))
	if err != nil {
		return nil, err
	}
	return a.begun(r, account, token, expires)
}

func (a *API) session(r *request) (any, error) { return a.who(r, r.account, "", &r.session.Expires) }

func (a *API) signOut(r *request) (any, error) {
	a.setCookie(r, "", 0)
	return nil, a.Store.EndSession(r, r.account.ID, r.session.ID)
}

func (a *API) useLink(r *request) (any, error) {
	in, err := body[wire.Link](r)
	if err != nil {
		return nil, err
	}
	gone := &problem{http.StatusUnauthorized, "link", "this link was used already, or its time is over: ask for a new one"}
	switch ok, err := a.Store.LinkWorks(r, in.Token); {
	case err != nil:
		return nil, err
	case !ok:
		return nil, gone
	}
	hash := ""
	if in.Password != "" { // before the link is used up
		if hash, err = a.Keeper.Hash(r, in.Password); err != nil {
			return nil, err
		}
	}
	account, err := a.Store.UseLink(r, in.Token)
	if err == store.ErrNotFound {
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
	token, expires, err := a.Keeper.Begin(r, account, a.client(r))
	if err != nil {
		return nil, err
	}
	return a.begun(r, account, token, expires)
}

func (a *API) join(r *request) (any, error) {
	in, err := body[wire.Join](r)
	if err != nil {
		return nil, err
	}
	in.Code = auth.ReadCode(in.Code)
	// A password costs something to hash: only where there is a class to join.
	switch ok, err := a.Store.CodeWorks(r, in.Code); {
	case err != nil:
		return nil, err
	case !ok:
		return nil, &problem{http.StatusNotFound, "code", "no class has this code"}
	}
	account := r.account
	if account == nil {
		if listed, err := a.Store.Listed(r, in.Code, in.Login, in.Name); err != nil {
			return nil, err
		} else if listed {
			return nil, &problem{http.StatusConflict, "on-roster", "you are on the list of this class already: ask your instructor for the link that signs you in. If somebody else of this class has your name, ask to be put in by another login"}
		}
		if account, err = a.newStudent(r, in); err != nil {
			return nil, err
		}
	}
	if _, err := a.Store.Join(r, in.Code, account); err == store.ErrNotFound {
		return nil, &problem{http.StatusNotFound, "code", "no class has this code"}
	} else if err != nil {
		return nil, err
	}
	if r.account != nil {
		return a.who(r, account, "", &r.session.Expires)
	}
	token, expires, err := a.Keeper.Begin(r, account, a.client(r))
	if err != nil {
		return nil, err
	}
	return a.begun(r, account, token, expires)
}

// person brings a login and a name into form, or tells what is wrong with them.
func person(login string, name *string) (string, error) {
	login, err := auth.Login(login)
	if err != nil {
		return "", unfit("login", "%s", err)
	}
	if *name, err = auth.Name(*name); err != nil {
		return "", unfit("name", "%s", err)
	}
	return login, nil
}

func (a *API) newStudent(r *request, in *wire.Join) (*store.Account, error) {
	login, err := person(in.Login, &in.Name)
	if err != nil {
		return nil, err
	}
	hash, err := a.Keeper.Hash(r, in.Password)
	return &store.Account{Login: login, Name: in.Name, Role: wire.Person, Password: hash}, err
}

func (a *API) password(r *request) (any, error) {
	in, err := body[wire.Password](r)
	if err != nil {
		return nil, err
	}
	return nil, a.Keeper.ChangePassword(r, r.account, in.Old, in.New, r.session.ID)
}

func (a *API) sessions(r *request) (any, error) { return a.ways(r, "session") }
func (a *API) tokens(r *request) (any, error)   { return a.ways(r, "token") }

func (a *API) ways(r *request, kind string) (any, error) {
	all, err := a.Store.Sessions(r, r.account.ID, kind)
	for i := range all {
		all[i].This = all[i].ID == r.session.ID
	}
	return all, err
}

func (a *API) signOutEverywhere(r *request) (any, error) {
	a.setCookie(r, "", 0)
	return nil, a.Store.EndSessions(r, r.account.ID)
}

func (a *API) endAccess(r *request) (any, error) {
	id, err := numbered(r, "access")
	if err != nil {
		return nil, err
	}
	return nil, a.Store.EndSession(r, r.account.ID, id)
}

// numbered reads a parameter of the address that is a number; what is none is not there.
func numbered(r *request, name string) (int64, error) {
	n, err := strconv.ParseInt(r.Param(name), 10, 64)
	if err != nil || n < 0 {
		return 0, store.ErrNotFound
	}
	return n, nil
}

func (a *API) newToken(r *request) (any, error) {
	in, err := body[wire.NewToken](r)
	if err != nil {
		return nil, err
	}
	return a.Keeper.Token(r, r.account, *in)
}

func (a *API) accounts(r *request) (any, error) { return a.Store.ListAccounts(r) }

func (a *API) setAccount(r *request) (any, error) {
	in, err := body[wire.SetAccount](r)
	if err != nil {
		return nil, err
	}
	login, err := person(r.Param("login"), &in.Name)
	if err != nil {
		return nil, err
	}
	if in.Role != wire.Admin && in.Role != wire.Instructor && in.Role != wire.Person {
		return nil, unfit("role", "an account is admin, instructor or person, not %q", in.Role)
	}
	if err := a.Store.SetAccount(r, r.account.Login, login, *in); err != store.ErrNotFound {
		return nil, err
	}
	return nil, a.Store.AddAccount(r, r.account.Login, store.Account{Login: login, Name: in.Name, Role: in.Role})
}

func (a *API) accountLink(r *request) (any, error) {
	return a.Keeper.Link(r, r.account.Login, 0, r.Param("login"))
}
