package api

import (
	"errors"
	"net/http"
	"strings"

	"hemble/service/db"
	"hemble/service/web"
	"hemble/wire"
)

// token gives the token of a request, and whether a browser sent it by itself.
func token(r *web.Request) (token string, cookie bool) {
	if bearer, ok := strings.CutPrefix(r.GetHeader("Authorization"), "Bearer "); ok {
		return bearer, false
	}
	token, _ = r.Cookie(web.CookieName)
	return token, token != ""
}

// identifyCaller looks up who asks.
func (a *API) identifyCaller(r *web.Request) error {
	t, cookie := token(r)
	if t == "" {
		return nil
	}
	s, err := a.Store.People.Session(r, t)
	if errors.Is(err, db.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	if cookie && changing(r.Request.Method) && !sameOrigin(r.Request) {
		return web.NewProblem(http.StatusForbidden, "cross-site",
			"a browser's session can only change things from the service's own pages")
	}
	r.Session, r.Account = s, &s.Account
	return nil
}

func changing(method string) bool {
	return method != http.MethodGet && method != http.MethodHead && method != http.MethodOptions
}

// sameOrigin reports whether a browser says that a request comes from the service's own pages.
func sameOrigin(r *http.Request) bool {
	if site := r.Header.Get("Sec-Fetch-Site"); site != "" {
		return site == "same-origin" || site == "none"
	}
	_, host, found := strings.Cut(r.Header.Get("Origin"), "://")
	return found && host == r.Host
}

// admit looks up what a request is about, as who asks sees it, and reports whether they may. What they cannot see is
// not there.
func (a *API) admit(r *web.Request) error {
	if r.Route.Access == web.Anyone {
		if r.Account != nil { // a token does no more than its scope, whoever else may do it
			return a.inScope(r)
		}
		return nil
	}
	if r.Account == nil {
		return web.NewProblem(http.StatusUnauthorized, "sign-in", "sign in first")
	}
	if err := a.inScope(r); err != nil {
		return err
	}
	admin := r.Account.Role == wire.Admin
	forbidden := web.NewProblem(http.StatusForbidden, "forbidden", "your account may not do this")
	switch r.Route.Access {
	case web.SignedIn, web.Themselves:
		return nil
	case web.Admins:
		if !admin {
			return forbidden
		}
		return nil
	case web.Instructors:
		if !admin && r.Account.Role != wire.Instructor {
			return forbidden
		}
		return nil
	}
	if err := a.lookUp(r); err != nil {
		return err
	}
	role := r.Class.Role
	switch r.Route.Access {
	case web.Members:
		return nil
	case web.Owner:
		if role == wire.Student && r.Submission.AccountID != r.Account.ID {
			return db.ErrNotFound
		}
		return nil
	case web.Staff:
		if role == wire.Student {
			if r.Submission != nil && r.Submission.AccountID != r.Account.ID {
				return db.ErrNotFound
			}
			return forbidden
		}
		return nil
	case web.ClassInstructors:
		if role != wire.Instructor {
			return forbidden
		}
		return nil
	}
	return forbidden
}

// inScope holds personal tokens to what they are good for.
func (a *API) inScope(r *web.Request) error {
	outside := web.NewProblem(http.StatusForbidden, "scope",
		"the token's scope does not allow this: "+string(r.Session.Scope))
	if r.Session.Kind == "session" {
		return nil
	}
	switch {
	case r.Route.Access == web.Themselves:
		return outside
	case r.Session.Scope == wire.ScopeAll:
		return nil
	case changing(r.Request.Method) && !(r.Session.Scope == wire.ScopeSubmit && r.Route.Submits):
		return outside
	}
	return nil
}

// lookUp finds the class, the assignment and the submission that an address names.
func (a *API) lookUp(r *web.Request) (err error) {
	class := r.Param("class")
	if id := r.Param("submission"); id != "" {
		if r.Submission, err = a.Store.Submissions.Submission(r, id); err != nil {
			return err
		}
		class = r.Submission.Class
	}
	if r.Class, err = a.Store.Classes.Class(r, r.Account, class); err != nil {
		return err
	}
	switch name := r.Param("exercise"); {
	case r.Submission != nil:
		r.Assignment, err = a.Store.Exercises.AssignmentOf(r, r.Submission.ID)
	case name != "":
		whose := int64(0)
		if r.IsStudent() {
			whose = r.Account.ID
		}
		r.Assignment, err = a.Store.Exercises.Assignment(r, r.Class.ID, name, whose)
		if errors.Is(err, db.ErrNotFound) && r.Request.Method == http.MethodPut && r.Route.Path == web.AssignmentPath {
			err = nil // this opens it
		}
		if err == nil && r.Assignment != nil && r.IsStudent() && a.Store.Now().Before(r.Assignment.Opens) {
			err = db.ErrNotFound // not yet
		}
	}
	return err
}
