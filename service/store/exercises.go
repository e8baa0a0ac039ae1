package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/wire"
)

// Revision is one revision of an exercise.
type Revision struct {
	ID         int64  `db:"id"`
	ExerciseID int64  `db:"exercise_id"`
	Number     int    `db:"number"`
	Blob       string `db:"blob"`
}

// PutExercise adds a revision of an exercise, making the exercise where it is new. The same text as
// the latest revision's adds none.
func (s *Store) PutExercise(ctx context.Context, name, title, brief, marks string, text []byte) error {
	blob, err := s.putFile(text)
	if err != nil {
		return err
	}
	now := time.Now().UTC()
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO exercise (name, created_at) VALUES (?, ?) ON CONFLICT (name) DO NOTHING`, name, now); err != nil {
			return err
		}
		var id int64
		if err := tx.GetContext(ctx, &id, `SELECT id FROM exercise WHERE name = ?`, name); err != nil {
			return err
		}
		var last Revision
		err := tx.GetContext(ctx, &last, `SELECT id, exercise_id, number, blob FROM revision WHERE exercise_id = ? ORDER BY number DESC LIMIT 1`, id)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if last.Blob == blob {
			return nil
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO revision (exercise_id, number, title, brief, marks, blob, created_at) VALUES (?, ?, ?, ?, ?, ?, ?)`,
			id, last.Number+1, title, brief, marks, blob, now)
		return err
	})
}

const exerciseQuery = `
SELECT e.name, r.title, r.brief, r.number AS revision, r.marks, r.blob, r.created_at,
	(SELECT count(*) FROM submission s WHERE s.exercise_id = e.id) AS submissions,
	(SELECT count(DISTINCT student) FROM submission s WHERE s.exercise_id = e.id) AS students,
	(SELECT count(*) FROM submission s JOIN job j ON j.submission_id = s.id WHERE s.exercise_id = e.id AND j.state IN ('queued', 'running')) AS waiting,
	(SELECT avg(CAST(x.marks AS REAL)) FROM submission s JOIN result x ON x.submission_id = s.id WHERE s.exercise_id = e.id
		AND s.attempt = (SELECT max(attempt) FROM submission t WHERE t.exercise_id = s.exercise_id AND t.student = s.student)) AS mean
FROM exercise e JOIN revision r ON r.exercise_id = e.id AND r.number = (SELECT max(number) FROM revision WHERE exercise_id = e.id)`

type exerciseRow struct {
	Name        string          `db:"name"`
	Title       string          `db:"title"`
	Brief       string          `db:"brief"`
	Revision    int             `db:"revision"`
	Marks       string          `db:"marks"`
	Blob        string          `db:"blob"`
	CreatedAt   time.Time       `db:"created_at"`
	Submissions int             `db:"submissions"`
	Students    int             `db:"students"`
	Waiting     int             `db:"waiting"`
	Mean        sql.NullFloat64 `db:"mean"`
}

func (r exerciseRow) wire() wire.Exercise {
	x := wire.Exercise{Name: r.Name, Title: r.Title, Brief: r.Brief, Revision: r.Revision, Marks: json.Number(r.Marks),
		Submissions: r.Submissions, Students: r.Students, Waiting: r.Waiting, Created: r.CreatedAt}
	if r.Mean.Valid {
		mean, _ := json.Marshal(float64(int(r.Mean.Float64*100+0.5)) / 100)
		x.Mean = json.Number(mean)
	}
	return x
}

// Exercises lists the exercises by name.
func (s *Store) Exercises(ctx context.Context) ([]wire.Exercise, error) {
	var rows []exerciseRow
	if err := s.db.SelectContext(ctx, &rows, exerciseQuery+` ORDER BY e.name`); err != nil {
		return nil, err
	}
	out := []wire.Exercise{}
	for _, r := range rows {
		out = append(out, r.wire())
	}
	return out, nil
}

// Exercise gives one exercise with its text.
func (s *Store) Exercise(ctx context.Context, name string) (*wire.Exercise, error) {
	var r exerciseRow
	switch err := s.db.GetContext(ctx, &r, exerciseQuery+` WHERE e.name = ?`, name); {
	case errors.Is(err, sql.ErrNoRows):
		return nil, ErrNotFound
	case err != nil:
		return nil, err
	}
	text, err := s.File(r.Blob)
	if err != nil {
		return nil, err
	}
	x := r.wire()
	x.Text = string(text)
	return &x, nil
}
