package api

import (
	"errors"
	"net/http"
	"strings"

	"hemble/service/store"
	"hemble/wire"
)

// token gives the token of a request, and whether a browser sent it by itself.
func token(r *request) (token string, cookie bool) {
	if bearer, ok := strings.CutPrefix(r.GetHeader("Authorization"), "Bearer "); ok {
		return bearer, false
	}
	token, _ = r.Cookie(cookieName)
	return token, token != ""
}

// identifyCaller looks up who asks.
func (a *API) identifyCaller(r *request) error {
	t, cookie := token(r)
	if t == "" {
		return nil
	}
	s, err := a.Store.Session(r, t)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	if cookie && changing(r.Request.Method) && !sameOrigin(r.Request) {
		return &problem{http.StatusForbidden, "cross-site", "a browser's sign-in makes changes from the service's own pages only"}
	}
	r.session, r.account = s, &s.Account
	return nil
}

func changing(method string) bool {
	return method != http.MethodGet && method != http.MethodHead && method != http.MethodOptions
}

// sameOrigin tells whether a browser says that a request comes from the service's own pages.
func sameOrigin(r *http.Request) bool {
	if site := r.Header.Get("Sec-Fetch-Site"); site != "" {
		return site == "same-origin" || site == "none"
	}
	_, host, found := strings.Cut(r.Header.Get("Origin"), "://")
	return found && host == r.Host
}

// admit looks up what a request is about, as who asks sees it, and tells whether they may. What they cannot see is not
// there.
func (a *API) admit(r *request) error {
	if r.route.Access == Anyone {
		if r.account != nil { // a token does no more than its scope, whoever else may do it
			return a.inScope(r)
		}
		return nil
	}
	if r.account == nil {
		return &problem{http.StatusUnauthorized, "sign-in", "sign in first"}
	}
	if err := a.inScope(r); err != nil {
		return err
	}
	admin := r.account.Role == wire.Admin
	forbidden := &problem{http.StatusForbidden, "forbidden", "your account may not do this"}
	switch r.route.Access {
	case SignedIn, Themselves:
		return nil
	case Admins:
		if !admin {
			return forbidden
		}
		return nil
	case Instructors:
		if !admin && r.account.Role != wire.Instructor {
			return forbidden
		}
		return nil
	}
	if err := a.lookUp(r); err != nil {
		return err
	}
	role := r.class.Role
	switch r.route.Access {
	case Members:
		return nil
	case Owner:
		if role == wire.Student && r.submission.AccountID != r.account.ID {
			return store.ErrNotFound
		}
		return nil
	case Staff:
		if role == wire.Student {
			if r.submission != nil && r.submission.AccountID != r.account.ID {
				return store.ErrNotFound
			}
			return forbidden
		}
		return nil
	case ClassInstructors:
		if role != wire.Instructor {
			return forbidden
		}
		return nil
	}
	return forbidden
}

// inScope holds personal tokens to what they are good for.
func (a *API) inScope(r *request) error {
	outside := &problem{http.StatusForbidden, "scope", "this token is not good for that: its scope is " + string(r.session.Scope)}
	if r.session.Kind == "session" {
		return nil
	}
	switch {
	case r.route.Access == Themselves:
		return outside
	case r.session.Scope == wire.ScopeAll:
		return nil
	case changing(r.Request.Method) && !(r.session.Scope == wire.ScopeSubmit && r.route.Submits):
		return outside
	}
	return nil
}

// lookUp finds the class, the opening and the submission that an address names.
func (a *API) lookUp(r *request) (err error) {
	class := r.Param("class")
	if id := r.Param("submission"); id != "" {
		if r.submission, err = a.Store.Submission(r, id); err != nil {
			return err
		}
		class = r.submission.Class
	}
	if r.class, err = a.Store.Class(r, r.account, class); err != nil {
		return err
	}
	switch name := r.Param("exercise"); {
	case r.submission != nil:
		r.opening, err = a.Store.OpeningOf(r, r.submission.ID)
	case name != "":
		whose := int64(0)
		if r.student() {
			whose = r.account.ID
		}
		r.opening, err = a.Store.Opening(r, r.class.ID, name, whose)
		if errors.Is(err, store.ErrNotFound) && r.Request.Method == http.MethodPut && r.route.Path == openingPath {
			err = nil // this opens it
		}
		if err == nil && r.opening != nil && r.student() && a.Store.Now().Before(r.opening.Opens) {
			err = store.ErrNotFound // not yet
		}
	}
	return err
}

// student tells whether who asks sees the class as one of its students.
func (r *request) student() bool { return r.class != nil && r.class.Role == wire.Student }
