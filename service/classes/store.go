// Package classes has the classes: their members (by roster, by join code or by name) and the libraries that source
// may use.
package classes

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/service/db"
	"hemble/service/people"
	"hemble/service/record"
	"hemble/wire"
)

// Store keeps classes, who is in them, and their libraries.
type Store struct {
	*db.DB
	People *people.Store
}

const classQuery = `SELECT c.id, c.name, c.title, c.archived, coalesce(c.join_code, '') AS join_code, c.created_at AS created, ? AS role,
	(SELECT count(*) FROM member m WHERE m.class_id = c.id AND m.role = 'student') AS students,
	(SELECT count(*) FROM assignment o WHERE o.class_id = c.id) AS exercises,
	(SELECT count(*) FROM job j CROSS JOIN submission s ON s.id = j.submission_id AND s.job_id = j.id CROSS JOIN assignment o ON o.id = s.assignment_id WHERE j.state IN ('queued', 'running') AND o.class_id = c.id) AS waiting
FROM class c`

// AddClass makes a class, its maker its instructor.
func (s *Store) AddClass(ctx context.Context, by *record.Account, name, title string) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx,
			`INSERT INTO class (name, title, created_at) VALUES (?, ?, ?) ON CONFLICT DO NOTHING`, name, title, s.Now())
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return db.Refused("taken", "there is a class %s already", name)
		}
		id, err := r.LastInsertId()
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO member (class_id, account_id, role, created_at) VALUES (?, ?, 'instructor', ?)`, id, by.ID,
			s.Now()); err != nil {
			return err
		}
		return s.Note(ctx, tx, by.Login, id, "class created", name, title)
	})
}

// SetClass changes a class.
func (s *Store) SetClass(ctx context.Context, by string, class int64, in wire.SetClass) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `UPDATE class SET title = ?, archived = ? WHERE id = ?`, in.Title, in.Archived,
			class); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "class changed", in.Title, fmt.Sprintf("archived: %t", in.Archived))
	})
}

// SetJoinCode gives a class a code by which students join; "" takes it away.
func (s *Store) SetJoinCode(ctx context.Context, by string, class int64, code string) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `UPDATE class SET join_code = nullif(?, '') WHERE id = ?`, code,
			class); err != nil {
			return err
		}
		action := "join code created"
		if code == "" {
			action = "join code removed"
		}
		return s.Note(ctx, tx, by, class, action, "", "")
	})
}

// Classes lists the classes of an account; all of them for an admin.
func (s *Store) Classes(ctx context.Context, a *record.Account) ([]record.Class, error) {
	all, err := db.List[record.Class](ctx, s.DB, classQuery+` ORDER BY c.archived, c.title, c.name`, "")
	if err != nil {
		return nil, err
	}
	roles, err := db.List[struct {
		Class int64     `db:"class_id"`
		Role  wire.Role `db:"role"`
	}](ctx, s.DB, `SELECT class_id, role FROM member WHERE account_id = ?`, a.ID)
	if err != nil {
		return nil, err
	}
	mine := map[int64]wire.Role{}
	for _, r := range roles {
		mine[r.Class] = r.Role
	}
	out := []record.Class{}
	for _, c := range all {
		if c.Role = mine[c.ID]; a.Role == wire.Admin {
			c.Role = wire.Instructor
		}
		if c.Role != "" {
			out = append(out, c)
		}
	}
	return out, nil
}

// Class finds a class as an account sees it, with its role there; db.ErrNotFound where it has none.
func (s *Store) Class(ctx context.Context, a *record.Account, name string) (*record.Class, error) {
	var c record.Class
	if err := s.Get(ctx, &c, classQuery+` WHERE c.name = ?`, "", name); err != nil {
		return nil, err
	}
	if a.Role == wire.Admin {
		c.Role = wire.Instructor
		return &c, nil
	}
	m, err := s.member(ctx, c.ID, a.Login)
	if err != nil {
		return nil, err
	}
	c.Role = m.Role
	return &c, nil
}

const memberQuery = `SELECT a.id AS account_id, a.name AS login, a.full_name AS name, m.role, m.team AS "group", m.number, m.created_at AS created, a.password <> '' AS signed_in
	FROM member m JOIN account a ON a.id = m.account_id WHERE m.class_id = ?`

// Members lists who is in a class, by role and name.
func (s *Store) Members(ctx context.Context, class int64) ([]record.Member, error) {
	return db.List[record.Member](ctx, s.DB,
		memberQuery+
			` ORDER BY CASE m.role WHEN 'instructor' THEN 0 WHEN 'assistant' THEN 1 ELSE 2 END, a.full_name, a.name`,
		class)
}

func (s *Store) member(ctx context.Context, class int64, login string) (*record.Member, error) {
	var m record.Member
	return &m, s.Get(ctx, &m, memberQuery+` AND a.name = ?`, class, login)
}

// Student finds a student of a class.
func (s *Store) Student(ctx context.Context, class int64, login string) (*record.Member, error) {
	m, err := s.member(ctx, class, login)
	if err == nil && m.Role != wire.Student {
		err = db.ErrNotFound
	}
	return m, err
}

// PutMember puts somebody into a class or changes what is said of them there, making the account where it is new. The
// name of an account that has signed in or is of another class is its own: it stays.
func (s *Store) PutMember(ctx context.Context, by string, class int64, login string, in wire.SetMember) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := s.putMember(ctx, tx, class, login, in); err != nil {
			return err
		}
		if err := s.hasInstructor(ctx, tx, class); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "member set", login, string(in.Role))
	})
}

// hasInstructor holds a class from losing its last instructor.
func (s *Store) hasInstructor(ctx context.Context, tx *sqlx.Tx, class int64) error {
	var left int
	if err := tx.GetContext(ctx, &left, `SELECT count(*) FROM member WHERE class_id = ? AND role = 'instructor'`,
		class); err != nil {
		return err
	}
	if left == 0 {
		return db.Refused("last-instructor", "a class needs at least one instructor")
	}
	return nil
}

func (s *Store) putMember(ctx context.Context, tx *sqlx.Tx, class int64, login string, in wire.SetMember) error {
	var id int64
	err := tx.GetContext(ctx, &id, `SELECT id FROM account WHERE name = ?`, login)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		if id, err = s.People.Add(ctx, tx, record.Account{Login: login, Name: in.Name, Role: wire.Person,
			Home: class}); err != nil {
			return err
		}
	case err != nil:
		return err
	default:
		if _, err := tx.ExecContext(ctx,
			`UPDATE account SET full_name = ? WHERE id = ? AND password = '' AND NOT EXISTS (SELECT 1 FROM member WHERE account_id = ? AND class_id <> ?)`,
			in.Name, id, id, class); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO member (class_id, account_id, role, team, number, created_at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT DO UPDATE SET role = excluded.role, team = excluded.team, number = excluded.number`, class, id,
		in.Role, in.Group, in.Number, s.Now())
	return err
}

// PutRoster puts many students into a class, all or none.
func (s *Store) PutRoster(ctx context.Context, by string, class int64, members []wire.Member) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		for _, m := range members {
			if err := s.putMember(ctx, tx, class, m.Login,
				wire.SetMember{Name: m.Name, Role: m.Role, Group: m.Group, Number: m.Number}); err != nil {
				return err
			}
		}
		return s.Note(ctx, tx, by, class, "roster imported", fmt.Sprintf("%d students", len(members)), "")
	})
}

// DropMember takes somebody out of a class. A student who has submitted stays: marks belong to somebody.
func (s *Store) DropMember(ctx context.Context, by string, class int64, login string) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		var n int
		if err := tx.GetContext(ctx, &n,
			`SELECT count(*) FROM submission s JOIN assignment o ON o.id = s.assignment_id JOIN account a ON a.id = s.account_id WHERE o.class_id = ? AND a.name = ?`,
			class, login); err != nil {
			return err
		}
		if n > 0 {
			return db.Refused("has-work", "%s has submitted work in this class", login)
		}
		if err := db.Change(ctx, tx,
			`DELETE FROM member WHERE class_id = ? AND account_id = (SELECT id FROM account WHERE name = ?)`, class,
			login); err != nil {
			return err
		}
		if err := s.hasInstructor(ctx, tx, class); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "member removed", login, "")
	})
}

// Join puts an account into the class of a code, making the account (ID 0) where it is new. Who is a member stays as
// they are.
func (s *Store) Join(ctx context.Context, code string, a *record.Account) (class string, err error) {
	return class, s.InTx(ctx, func(tx *sqlx.Tx) error {
		var c struct {
			ID   int64  `db:"id"`
			Name string `db:"name"`
		}
		switch err := tx.GetContext(ctx, &c, `SELECT id, name FROM class WHERE join_code = ? AND archived = 0`, code); {
		case errors.Is(err, sql.ErrNoRows):
			return db.ErrNotFound
		case err != nil:
			return err
		}
		class = c.Name
		if a.ID == 0 {
			a.Home = c.ID
			id, err := s.People.Add(ctx, tx, *a)
			if err != nil {
				return err
			}
			a.ID = id
		}
		r, err := tx.ExecContext(ctx,
			`INSERT INTO member (class_id, account_id, role, created_at) VALUES (?, ?, 'student', ?) ON CONFLICT DO NOTHING`,
			c.ID, a.ID, s.Now())
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return err
		}
		return s.Note(ctx, tx, a.Login, c.ID, "joined by code", a.Login, "")
	})
}

// Listed reports whether a class that a code is of has a student of this login, or of this name, who has never signed
// in: somebody whom a link is meant for.
func (s *Store) Listed(ctx context.Context, code, login, name string) (bool, error) {
	all, err := db.List[struct {
		Login string `db:"login"`
		Name  string `db:"name"`
	}](ctx, s.DB,
		`SELECT a.name AS login, a.full_name AS name FROM member m JOIN account a ON a.id = m.account_id JOIN class c ON c.id = m.class_id WHERE c.join_code = ? AND c.archived = 0 AND m.role = 'student' AND a.password = ''`, code)
	fold := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	for _, m := range all {
		if strings.EqualFold(m.Login, strings.TrimSpace(login)) || fold(m.Name) == fold(name) {
			return true, err
		}
	}
	return false, err
}

// Linked lists the students of a class who have an open link, by login, with when it ends.
func (s *Store) Linked(ctx context.Context, class int64) (map[string]time.Time, error) {
	all, err := db.List[struct {
		Login   string    `db:"login"`
		Expires time.Time `db:"expires"`
	}](ctx, s.DB,
		`SELECT a.name AS login, l.expires_at AS expires FROM link l JOIN account a ON a.id = l.account_id JOIN member m ON m.account_id = a.id WHERE m.class_id = ? AND l.used_at IS NULL AND l.expires_at > ?`, class, s.Now())
	out := map[string]time.Time{}
	for _, l := range all {
		out[l.Login] = l.Expires
	}
	return out, err
}

// CodeWorks reports whether a class can be joined by a code.
func (s *Store) CodeWorks(ctx context.Context, code string) (ok bool, err error) {
	err = s.Reads.GetContext(ctx, &ok, `SELECT EXISTS (SELECT 1 FROM class WHERE join_code = ? AND archived = 0)`, code)
	return ok, err
}

// Library is a library of a class.
type Library struct {
	Name    string    `db:"name"`
	Headers string    `db:"headers"` // one in a line
	Blob    string    `db:"blob"`
	Created time.Time `db:"created"`
}

// Libraries lists those of a class.
func (s *Store) Libraries(ctx context.Context, class int64) ([]Library, error) {
	return db.List[Library](ctx, s.DB,
		`SELECT name, headers, blob, created_at AS created FROM library WHERE class_id = ? ORDER BY name`, class)
}

// PutLibrary keeps a library, a zip archive, in place of one of the same name.
func (s *Store) PutLibrary(ctx context.Context, by string, class int64, name string, headers []string,
	archive []byte) error {
	blob, err := s.Blobs.Put(ctx, archive)
	if err != nil {
		return err
	}
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO library (class_id, name, headers, blob, created_at) VALUES (?, ?, ?, ?, ?)
			ON CONFLICT DO UPDATE SET headers = excluded.headers, blob = excluded.blob, created_at = excluded.created_at`,
			class, name, strings.Join(headers, "\n"), blob, s.Now()); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "library uploaded", name, blob[:12])
	})
}

// DropLibrary forgets a library.
func (s *Store) DropLibrary(ctx context.Context, by string, class int64, name string) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `DELETE FROM library WHERE class_id = ? AND name = ?`, class, name); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "library deleted", name, "")
	})
}
