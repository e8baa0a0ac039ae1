package web

import (
	"strconv"

	"github.com/gin-gonic/gin"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// Request is a call under way, with what was looked up for it.
type Request struct {
	*gin.Context
	Route      *Route
	Session    *record.Session // nil where nobody is signed in
	Account    *record.Account
	Class      *record.Class
	Assignment *record.Assignment
	Submission *record.Submission
}

// Key names what a call changes, for versions; "" where nobody's change depends on it.
func (r *Request) Key() string {
	switch {
	case r.Class != nil:
		return db.ClassKey(r.Class.ID)
	case r.Param("exercise") != "":
		return db.ExerciseKey(r.Param("exercise"))
	case r.Param("login") != "":
		return db.AccountKey(r.Param("login"))
	}
	return ""
}

// IsStudent reports whether who asks sees the class as one of its students.
func (r *Request) IsStudent() bool { return r.Class != nil && r.Class.Role == wire.Student }

// Bounds of a page of a list.
const (
	usualPage = 100
	MostPage  = 1000
)

// Page reads limit and after.
func Page(r *Request) (limit, offset int, err error) {
	limit = usualPage
	if q := r.Query("limit"); q != "" {
		if limit, err = strconv.Atoi(q); err != nil || limit < 1 || limit > MostPage {
			return 0, 0, Bad("limit: expected 1 to %d, got %.20q", MostPage, q)
		}
	}
	if q := r.Query("after"); q != "" {
		if offset, err = strconv.Atoi(q); err != nil || offset < 0 {
			return 0, 0, Bad("after: expected the next of the previous page, got %.20q", q)
		}
	}
	return limit, offset, nil
}

// Numbered reads a parameter of the address that is a number; what is none is not there.
func Numbered(r *Request, name string) (int64, error) {
	n, err := strconv.ParseInt(r.Param(name), 10, 64)
	if err != nil || n < 0 {
		return 0, db.ErrNotFound
	}
	return n, nil
}
