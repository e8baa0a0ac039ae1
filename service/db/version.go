package db

import (
	"context"
	"database/sql"
	"errors"
	"strconv"

	"github.com/jmoiron/sqlx"
)

// ErrChanged is for a change whose grounds have changed meanwhile: nothing of it was made, and it may be computed
// again.
var ErrChanged = errors.New("what this change depends on has changed meanwhile")

// ClassKey names what belongs to a class, for versions.
func ClassKey(class int64) string { return "class " + strconv.FormatInt(class, 10) }

// ExerciseKey names an exercise, for versions.
func ExerciseKey(name string) string { return "exercise " + name }

// AccountKey names an account, for versions.
func AccountKey(login string) string { return "account " + login }

type holdingKey struct{}

// holding is what the changes of a call concern, and the version that they were computed from: -1 for none.
type holding struct {
	key string
	at  int64
}

// Version returns how often what a key names was changed.
func (s *DB) Version(ctx context.Context, key string) (n int64, err error) {
	err = s.Reads.GetContext(ctx, &n, `SELECT number FROM version WHERE key = ?`, key)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return n, err
}

// Changing marks the changes that are made with the context it gives as changes of what a key names.
func Changing(ctx context.Context, key string) context.Context {
	return context.WithValue(ctx, holdingKey{}, &holding{key, -1})
}

// Holding is Changing, and the first of the changes is refused with ErrChanged where that is not at this version any
// more.
func Holding(ctx context.Context, key string, at int64) context.Context {
	return context.WithValue(ctx, holdingKey{}, &holding{key, at})
}

// Held reports whether changes made with a context are held to a version.
func Held(ctx context.Context) bool {
	h, _ := ctx.Value(holdingKey{}).(*holding)
	return h != nil && h.at >= 0
}

// version counts a change, and refuses it where it was computed from another version.
func (s *DB) version(ctx context.Context, tx *sqlx.Tx) error {
	h, _ := ctx.Value(holdingKey{}).(*holding)
	if h == nil {
		return nil
	}
	if h.at >= 0 {
		var now int64
		if err := tx.GetContext(ctx, &now, `SELECT coalesce((SELECT number FROM version WHERE key = ?), 0)`,
			h.key); err != nil {
			return err
		}
		if now != h.at {
			return ErrChanged
		}
	}
	return Bump(ctx, tx, h.key)
}

func Bump(ctx context.Context, tx *sqlx.Tx, key string) error {
	_, err := tx.ExecContext(ctx,
		`INSERT INTO version (key, number) VALUES (?, 1) ON CONFLICT DO UPDATE SET number = number + 1`, key)
	return err
}

// settled remembers that a call's change was made: what it changes further continues from there.
func settled(ctx context.Context) {
	if h, _ := ctx.Value(holdingKey{}).(*holding); h != nil {
		h.at = -1
	}
}
