package db

import (
	"strconv"
	"time"
)

// Number writes an id.
func Number(n int64) string { return strconv.FormatInt(n, 10) }

// UTC is a time as it is kept: in UTC, to the millisecond; nil for none.
func UTC(t *time.Time) *time.Time {
	if t == nil {
		return nil
	}
	u := t.UTC().Truncate(time.Millisecond)
	return &u
}
