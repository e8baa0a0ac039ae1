// Package exercises has the exercises with their revisions, their assignments to classes, and their texts as each
// student has them.
package exercises

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// Store keeps exercises with their revisions, and how they are open to classes.
type Store struct{ *db.DB }

// File is a file of an exercise's folder.
type File struct {
	Path string
	Data []byte
}

// NewRevision is what a revision is made from: the exercise's text, checked, and the other files of its folder.
type NewRevision struct {
	Name, Title, Brief, Marks string
	Text                      []byte
	Files                     []File
	Fresh                     bool // a name that is taken is refused
}

// PutExercise adds a revision of an exercise, making the exercise where it is new. The same files as the latest
// revision's add none.
func (s *Store) PutExercise(ctx context.Context, by *record.Account, x NewRevision) error {
	blob, err := s.Blobs.Put(ctx, x.Text)
	if err != nil {
		return err
	}
	blobs := map[string]string{}
	for _, f := range x.Files {
		if blobs[f.Path], err = s.Blobs.Put(ctx, f.Data); err != nil {
			return err
		}
	}
	now := s.Now()
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if x.Fresh {
			if err := untaken(ctx, tx, x.Name); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO exercise (name, created_at) VALUES (?, ?) ON CONFLICT (name) DO NOTHING`, x.Name,
			now); err != nil {
			return err
		}
		var id int64
		if err := tx.GetContext(ctx, &id, `SELECT id FROM exercise WHERE name = ?`, x.Name); err != nil {
			return err
		}
		var last struct {
			ID     int64  `db:"id"`
			Number int    `db:"number"`
			Blob   string `db:"blob"`
		}
		err := tx.GetContext(ctx, &last,
			`SELECT id, number, blob FROM revision WHERE exercise_id = ? ORDER BY number DESC LIMIT 1`, id)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if last.Blob == blob {
			var before []struct{ Path, Blob string }
			if err := tx.SelectContext(ctx, &before,
				`SELECT path AS Path, blob AS Blob FROM revision_file WHERE revision_id = ?`, last.ID); err != nil {
				return err
			}
			known := map[string]string{}
			for _, f := range before {
				known[f.Path] = f.Blob
			}
			if maps.Equal(known, blobs) {
				return nil
			}
		}
		r, err := tx.ExecContext(ctx,
			`INSERT INTO revision (exercise_id, number, title, brief, marks, blob, created_at, account_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
			id, last.Number+1, x.Title, x.Brief, x.Marks, blob, now, by.ID)
		if err != nil {
			return err
		}
		revision, err := r.LastInsertId()
		if err != nil {
			return err
		}
		for _, path := range slices.Sorted(maps.Keys(blobs)) {
			if _, err := tx.ExecContext(ctx, `INSERT INTO revision_file (revision_id, path, blob) VALUES (?, ?, ?)`,
				revision, path, blobs[path]); err != nil {
				return err
			}
		}
		return s.Note(ctx, tx, by.Login, 0, "exercise revised", x.Name, "revision "+db.Number(int64(last.Number)+1))
	})
}

// untaken refuses a name that an exercise has, and tells one that none has.
func untaken(ctx context.Context, tx *sqlx.Tx, name string) error {
	var title string
	err := tx.GetContext(ctx, &title,
		`SELECT title FROM revision r JOIN exercise e ON e.id = r.exercise_id WHERE e.name = ? ORDER BY number DESC LIMIT 1`, name)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	for n := 2; ; n++ {
		free := name + "-" + db.Number(int64(n))
		var taken int
		if err := tx.GetContext(ctx, &taken, `SELECT count(*) FROM exercise WHERE name = ?`, free); err != nil {
			return err
		}
		if taken == 0 {
			return db.Refused("taken",
				"an exercise is called %s already (%q): %s is free. To change that one, open it and save a revision",
				name, title, free)
		}
	}
}

// AssignedTo is a class that an exercise is open to.
type AssignedTo struct {
	Class    string `db:"class"`
	Title    string `db:"title"`
	Revision int    `db:"revision"` // current there
}

// AssignedTo lists the classes that an exercise is open to, with the revision current: those that an account marks,
// for an administrator all.
func (s *Store) AssignedTo(ctx context.Context, exercise string, a *record.Account) ([]AssignedTo, error) {
	return db.List[AssignedTo](ctx, s.DB,
		`SELECT c.name AS class, c.title, r.number AS revision FROM assignment o JOIN class c ON c.id = o.class_id JOIN exercise e ON e.id = o.exercise_id JOIN revision r ON r.id = o.revision_id
		WHERE e.name = ?1 AND NOT c.archived AND (?2 = 'admin' OR EXISTS (SELECT 1 FROM member m WHERE m.class_id = c.id AND m.account_id = ?3 AND m.role <> 'student')) ORDER BY c.name`,
		exercise, a.Role, a.ID)
}

const exerciseQuery = `
SELECT e.name, r.title, r.brief, r.number AS revision, r.marks, r.created_at AS created, r.blob, r.id AS revision_id,
	(SELECT count(*) FROM assignment o WHERE o.exercise_id = e.id) AS classes
FROM exercise e JOIN revision r ON r.exercise_id = e.id AND r.number = (SELECT max(number) FROM revision WHERE exercise_id = e.id)`

// Exercise is an exercise by its newest revision.
type Exercise struct {
	Name       string      `db:"name"`
	Title      string      `db:"title"`
	Brief      string      `db:"brief"`
	Revision   int         `db:"revision"`
	RevisionID int64       `db:"revision_id"`
	Marks      json.Number `db:"marks"`
	Classes    int         `db:"classes"` // it is opened to
	Created    time.Time   `db:"created"`
	Blob       string      `db:"blob"` // its text

	Text  string   `db:"-"` // where one is asked for
	Files []string `db:"-"` // of its folder, there too
}

// Wire is what the API says of it.
func (x *Exercise) Wire() wire.Exercise {
	return wire.Exercise{Name: x.Name, Title: x.Title, Brief: x.Brief, Revision: x.Revision, Marks: x.Marks,
		Classes: x.Classes,
		Created: x.Created, Text: x.Text, Files: x.Files}
}

// Exercises lists the exercises by name.
func (s *Store) Exercises(ctx context.Context) ([]Exercise, error) {
	return db.List[Exercise](ctx, s.DB, exerciseQuery+` ORDER BY e.name`)
}

// Exercise gives one exercise with its text and the names of its files.
func (s *Store) Exercise(ctx context.Context, name string) (*Exercise, error) {
	var x Exercise
	if err := s.Get(ctx, &x, exerciseQuery+` WHERE e.name = ?`, name); err != nil {
		return nil, err
	}
	text, err := s.Blobs.Get(ctx, x.Blob)
	if err != nil {
		return nil, err
	}
	x.Text = string(text)
	err = s.Reads.SelectContext(ctx, &x.Files, `SELECT path FROM revision_file WHERE revision_id = ? ORDER BY path`,
		x.RevisionID)
	return &x, err
}

const revisionQuery = `SELECT r.number, r.title, r.marks, coalesce(a.name, '') AS by, r.created_at AS created, r.blob, r.id
	FROM revision r JOIN exercise e ON e.id = r.exercise_id LEFT JOIN account a ON a.id = r.account_id WHERE e.name = ?`

// Revision is one revision of an exercise.
type Revision struct {
	ID      int64       `db:"id"`
	Number  int         `db:"number"`
	Title   string      `db:"title"`
	Marks   json.Number `db:"marks"`
	By      string      `db:"by"`
	Created time.Time   `db:"created"`
	Blob    string      `db:"blob"` // its text

	Text string `db:"-"` // where one is asked for
}

// Wire is what the API says of it.
func (r *Revision) Wire() wire.Revision {
	return wire.Revision{Number: r.Number, Title: r.Title, Marks: r.Marks, By: r.By, Created: r.Created, Text: r.Text}
}

// Revisions lists the revisions of an exercise, the newest first.
func (s *Store) Revisions(ctx context.Context, exercise string) ([]Revision, error) {
	rows, err := db.List[Revision](ctx, s.DB, revisionQuery+` ORDER BY r.number DESC`, exercise)
	if err == nil && len(rows) == 0 {
		err = db.ErrNotFound
	}
	return rows, err
}

// Revision gives one revision with its text; number 0 is the newest.
func (s *Store) Revision(ctx context.Context, exercise string, number int) (*Revision, error) {
	var r Revision
	if err := s.Get(ctx, &r, revisionQuery+` AND (?2 = 0 OR r.number = ?2) ORDER BY r.number DESC LIMIT 1`, exercise,
		number); err != nil {
		return nil, err
	}
	text, err := s.Blobs.Get(ctx, r.Blob)
	r.Text = string(text)
	return &r, err
}

// Folder gives the files of a revision beside its text.
func (s *Store) Folder(ctx context.Context, revision int64) (out []File, err error) {
	rows, err := db.List[struct {
		Path string `db:"path"`
		Blob string `db:"blob"`
	}](ctx, s.DB, `SELECT path, blob FROM revision_file WHERE revision_id = ? ORDER BY path`, revision)
	for _, r := range rows {
		data, err := s.Blobs.Get(ctx, r.Blob)
		if err != nil {
			return nil, err
		}
		out = append(out, File{r.Path, data})
	}
	return out, err
}
