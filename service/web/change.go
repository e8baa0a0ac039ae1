package web

import (
	"errors"

	"hemble/service/db"
)

// MaxTries is how often a change is computed again whose grounds have changed meanwhile.
const MaxTries = 10

// Consistently makes a change that is computed from what is there, again where that has changed meanwhile.
func Consistently(r *Request, s *db.DB, f func() error) error {
	base, key := r.Request.Context(), r.Key()
	if db.Held(base) {
		return f()
	}
	for range MaxTries {
		at, err := s.Version(base, key)
		if err != nil {
			return err
		}
		r.Request = r.Request.WithContext(db.Holding(base, key, at))
		if err := f(); !errors.Is(err, db.ErrChanged) {
			return err
		}
	}
	return ErrChanged
}
