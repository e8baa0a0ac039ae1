package classes

import (
	"net/http"

	"hemble/service/db"
	"hemble/service/people"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) join(r *web.Request) (any, error) {
	in, err := web.Body[wire.Join](r)
	if err != nil {
		return nil, err
	}
	in.Code = people.ReadCode(in.Code)
	// A password costs something to hash: only where there is a class to join.
	switch ok, err := a.Store.CodeWorks(r, in.Code); {
	case err != nil:
		return nil, err
	case !ok:
		return nil, web.NewProblem(http.StatusNotFound, "code", "no class has this code")
	}
	account := r.Account
	if account == nil {
		if listed, err := a.Store.Listed(r, in.Code, in.Login, in.Name); err != nil {
			return nil, err
		} else if listed {
			return nil, web.NewProblem(http.StatusConflict, "on-roster",
				"you are on the roster of this class; ask your instructor for your sign-in link. If another person in this class has your name, ask for another login")
		}
		if account, err = a.newStudent(r, in); err != nil {
			return nil, err
		}
	}
	if _, err := a.Store.Join(r, in.Code, account); err == db.ErrNotFound {
		return nil, web.NewProblem(http.StatusNotFound, "code", "no class has this code")
	} else if err != nil {
		return nil, err
	}
	if r.Account != nil {
		return a.SignIn.Who(r, account, "", &r.Session.Expires)
	}
	token, expires, err := a.Authenticator.Begin(r, account, people.ClientOf(r))
	if err != nil {
		return nil, err
	}
	return a.SignIn.Begun(r, account, token, expires)
}

func (a *API) newStudent(r *web.Request, in *wire.Join) (*record.Account, error) {
	login, err := people.Person(in.Login, &in.Name)
	if err != nil {
		return nil, err
	}
	hash, err := a.Authenticator.Hash(r, in.Password)
	return &record.Account{Login: login, Name: in.Name, Role: wire.Person, Password: hash}, err
}
