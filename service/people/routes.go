package people

import (
	"net/http"

	"hemble/service/web"
	"hemble/wire"
)

// Routes lists the calls of the API about people.
func (a *API) Routes() []web.Route {
	return []web.Route{
		{Method: http.MethodGet, Path: "/setup", Access: web.Anyone, Doc: "whether the service has no account yet",
			Answer: wire.SetUp{}, Do: a.setUp},
		{Method: http.MethodPost, Path: "/setup", Access: web.Anyone,
			Doc: "creates the first account, with the token of the set-up link", Body: wire.First{}, Answer: wire.Session{},
			Status: 201, Do: a.first},
		{Method: http.MethodPost, Path: "/session", Access: web.Anyone, Doc: "signs in", Body: wire.SignIn{},
			Answer: wire.Session{}, Status: 201, Do: a.signIn},
		{Method: http.MethodGet, Path: "/session", Access: web.SignedIn, Doc: "the signed-in account and its classes",
			Answer: wire.Session{}, Do: a.session},
		{Method: http.MethodDelete, Path: "/session", Access: web.SignedIn, Doc: "signs out", Do: a.signOut},
		{Method: http.MethodPost, Path: "/link", Access: web.Anyone, Doc: "signs in by a one-time link",
			Body: wire.Link{}, Answer: wire.Session{}, Status: 201, Do: a.useLink},
		{Method: http.MethodPut, Path: "/account/password", Access: web.Themselves,
			Doc: "changes the caller's password; all other sessions and all tokens end", Body: wire.Password{},
			Do: a.password},
		{Method: http.MethodGet, Path: "/account/sessions", Access: web.Themselves, Doc: "the caller's sessions",
			Answer: []wire.Access{}, Do: a.sessions},
		{Method: http.MethodDelete, Path: "/account/sessions", Access: web.Themselves, Doc: "signs out everywhere",
			Do: a.signOutEverywhere},
		{Method: http.MethodDelete, Path: "/account/sessions/:access", Access: web.Themselves,
			Doc: "ends one of the caller's sessions", Do: a.endAccess},
		{Method: http.MethodGet, Path: "/account/tokens", Access: web.Themselves, Doc: "the caller's personal tokens",
			Answer: []wire.Access{}, Do: a.tokens},
		{Method: http.MethodPost, Path: "/account/tokens", Access: web.Themselves,
			Doc: "creates a personal token; it is shown only this once", Body: wire.NewToken{}, Answer: wire.Access{},
			Status: 201, Do: a.newToken},
		{Method: http.MethodDelete, Path: "/account/tokens/:access", Access: web.Themselves,
			Doc: "revokes one of the caller's tokens", Do: a.endAccess},
		{Method: http.MethodGet, Path: "/accounts", Access: web.Admins, Doc: "all accounts", Answer: []wire.Account{},
			Do: a.accounts},
		{Method: http.MethodPut, Path: "/accounts/:login", Access: web.Admins, Doc: "creates or changes an account",
			Body: wire.SetAccount{}, Do: a.setAccount},
		{Method: http.MethodPost, Path: "/accounts/:login/link", Access: web.Admins,
			Doc: "creates a one-time sign-in link for an account", Answer: wire.OneTime{}, Status: 201, Do: a.accountLink},
	}
}
