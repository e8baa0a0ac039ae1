package people

import (
	"context"
	"crypto/sha256"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// Store keeps accounts, their sessions and tokens, one-time links, and what was tried to get in.
type Store struct{ *db.DB }

const accountColumns = `a.id, a.name AS login, a.full_name AS name, a.role, a.password, a.disabled, a.created_at AS created, coalesce(a.home_class_id, 0) AS home`

// Accounts counts the accounts.
func (s *Store) Accounts(ctx context.Context) (n int, err error) {
	err = s.Reads.GetContext(ctx, &n, `SELECT count(*) FROM account`)
	return n, err
}

// List lists the accounts by login.
func (s *Store) List(ctx context.Context) ([]record.Account, error) {
	return db.List[record.Account](ctx, s.DB, `SELECT `+accountColumns+` FROM account a ORDER BY a.name`)
}

// AddAccount makes an account; password is already hashed.
func (s *Store) AddAccount(ctx context.Context, by string, a record.Account) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := s.Add(ctx, tx, a); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, 0, "account added", a.Login, string(a.Role))
	})
}

// AddFirst makes the first account; where there is one already it does nothing, and says so.
func (s *Store) AddFirst(ctx context.Context, a record.Account) (made bool, err error) {
	return made, s.InTx(ctx, func(tx *sqlx.Tx) error {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM account`); err != nil || n > 0 {
			return err
		}
		made = true
		if _, err := s.Add(ctx, tx, a); err != nil {
			return err
		}
		return s.Note(ctx, tx, a.Login, 0, "account added", a.Login, string(a.Role))
	})
}

// Add makes an account in a transaction.
func (s *Store) Add(ctx context.Context, tx *sqlx.Tx, a record.Account) (int64, error) {
	r, err := tx.ExecContext(ctx,
		`INSERT INTO account (name, full_name, role, password, created_at, home_class_id) VALUES (?, ?, ?, ?, ?, nullif(?, 0)) ON CONFLICT DO NOTHING`,
		a.Login, a.Name, a.Role, a.Password, s.Now(), a.Home)
	if err != nil {
		return 0, err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return 0, db.Refused("taken", "the login %s is taken", a.Login)
	}
	return r.LastInsertId()
}

// SetAccount changes name, role and whether an account may sign in. Nobody can shut out the last admin.
func (s *Store) SetAccount(ctx context.Context, by, login string, in wire.SetAccount) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `UPDATE account SET full_name = ?, role = ?, disabled = ? WHERE name = ?`, in.Name,
			in.Role, in.Disabled, login); err != nil {
			return err
		}
		var admins int
		if err := tx.GetContext(ctx, &admins,
			`SELECT count(*) FROM account WHERE role = 'admin' AND disabled = 0`); err != nil {
			return err
		}
		if admins == 0 {
			return db.Refused("last-admin", "%s is the last administrator; create another one first", login)
		}
		if in.Disabled {
			if _, err := tx.ExecContext(ctx,
				`DELETE FROM session WHERE account_id = (SELECT id FROM account WHERE name = ?)`, login); err != nil {
				return err
			}
		}
		detail := string(in.Role)
		if in.Disabled {
			detail += ", shut out"
		}
		return s.Note(ctx, tx, by, 0, "account changed", login, detail)
	})
}

// Account finds an account by login.
func (s *Store) Account(ctx context.Context, login string) (*record.Account, error) {
	var a record.Account
	return &a, s.Get(ctx, &a, `SELECT `+accountColumns+` FROM account a WHERE a.name = ?`, login)
}

// SetPassword keeps a new password, already hashed, and ends every session and token but one (0 for all), and every
// link.
func (s *Store) SetPassword(ctx context.Context, account int64, password string, but int64) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `UPDATE account SET password = ? WHERE id = ?`, password, account); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM link WHERE account_id = ?`, account); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = ? AND id <> ?`, account, but)
		return err
	})
}

// Rehash keeps the same password under another hash.
func (s *Store) Rehash(ctx context.Context, account int64, password string) error {
	return s.ChangeOne(ctx, `UPDATE account SET password = ? WHERE id = ?`, password, account)
}

func hashed(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// AddSession keeps a session or a personal token by its hash.
func (s *Store) AddSession(ctx context.Context, account int64, token string, a record.Session) (int64, error) {
	if _, err := s.Writes.ExecContext(ctx, `DELETE FROM session WHERE expires_at < ?`, s.Now()); err != nil {
		return 0, err
	}
	r, err := s.Writes.ExecContext(ctx,
		`INSERT INTO session (token_hash, account_id, kind, name, scope, agent, address, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		hashed(token), account, a.Kind, a.Name, a.Scope, a.Agent, a.Address, s.Now(), a.Expires.UTC())
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

const accessColumns = `s.id, s.account_id, s.kind, s.name, s.scope, s.agent, s.address, s.created_at AS created, s.seen_at AS seen, s.expires_at AS expires`

// seenEvery is how exactly it is known when a session was last used.
const seenEvery = 5 * time.Minute

// Session finds who a token belongs to.
func (s *Store) Session(ctx context.Context, token string) (*record.Session, error) {
	var out record.Session
	now := s.Now()
	if err := s.Get(ctx, &out, `SELECT `+accessColumns+` FROM session s WHERE s.token_hash = ? AND s.expires_at > ?`,
		hashed(token), now); err != nil {
		return nil, err
	}
	if err := s.Get(ctx, &out.Account, `SELECT `+accountColumns+` FROM account a WHERE a.id = ? AND a.disabled = 0`,
		out.AccountID); err != nil {
		return nil, err
	}
	if out.Seen == nil || now.Sub(*out.Seen) > seenEvery {
		if _, err := s.Writes.ExecContext(ctx, `UPDATE session SET seen_at = ? WHERE id = ?`, now,
			out.ID); err != nil && !db.Full(err) {
			return nil, err
		}
	}
	return &out, nil
}

// Sessions lists an account's ways in, sessions or tokens.
func (s *Store) Sessions(ctx context.Context, account int64, kind string) ([]record.Session, error) {
	return db.List[record.Session](ctx, s.DB,
		`SELECT `+accessColumns+
			` FROM session s WHERE s.account_id = ? AND s.kind = ? AND s.expires_at > ? ORDER BY s.id DESC`, account,
		kind, s.Now())
}

// EndSession forgets one way in of an account.
func (s *Store) EndSession(ctx context.Context, account, id int64) error {
	return s.ChangeOne(ctx, `DELETE FROM session WHERE id = ? AND account_id = ?`, id, account)
}

// EndSessions forgets all sessions of an account; its tokens stay.
func (s *Store) EndSessions(ctx context.Context, account int64) error {
	_, err := s.Writes.ExecContext(ctx, `DELETE FROM session WHERE account_id = ? AND kind = 'session'`, account)
	return err
}

// AddLink keeps a one-time link by its hash; earlier ones of the account are void.
func (s *Store) AddLink(ctx context.Context, by string, class int64, login, token string, expires time.Time) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM link WHERE account_id = (SELECT id FROM account WHERE name = ?)`,
			login); err != nil {
			return err
		}
		if err := db.Change(ctx, tx,
			`INSERT INTO link (token_hash, account_id, created_at, expires_at) SELECT ?, id, ?, ? FROM account WHERE name = ?`,
			hashed(token), s.Now(), expires.UTC(), login); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "sign-in link created", login, "")
	})
}

// UseLink gives whose a one-time link is, once.
func (s *Store) UseLink(ctx context.Context, token string) (*record.Account, error) {
	var a record.Account
	return &a, s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx,
			`UPDATE link SET used_at = ? WHERE token_hash = ? AND used_at IS NULL AND expires_at > ?`, s.Now(),
			hashed(token), s.Now()); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &a,
			`SELECT `+accountColumns+` FROM account a JOIN link l ON l.account_id = a.id WHERE l.token_hash = ?`,
			hashed(token)); err != nil {
			return err
		}
		if a.Disabled {
			return db.Refused("disabled", "the account %s is disabled; an administrator can enable it",
				a.Login)
		}
		return nil
	})
}

// LinkWorks reports whether a one-time link could be used now.
func (s *Store) LinkWorks(ctx context.Context, token string) (ok bool, err error) {
	err = s.Reads.GetContext(ctx, &ok,
		`SELECT EXISTS (SELECT 1 FROM link WHERE token_hash = ? AND used_at IS NULL AND expires_at > ?)`, hashed(token),
		s.Now())
	return ok, err
}
