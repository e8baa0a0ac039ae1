package store

import (
	"context"
	"crypto/sha256"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/wire"
)

func number(n int64) string { return strconv.FormatInt(n, 10) }

// Account is somebody who can sign in.
type Account struct {
	ID       int64     `json:"id"`
	Login    string    `json:"login"`
	Name     string    `json:"name"`
	Role     wire.Role `json:"role"`
	Password string    `json:"password"` // hashed; "" where there is none yet
	Disabled bool      `json:"disabled"`
	Created  time.Time `json:"created"`
	Home     int64     `json:"home"` // the class that it was made in; 0 for none
}

const accountColumns = `a.id, a.name AS login, a.full_name AS name, a.role, a.password, a.disabled, a.created_at AS created, coalesce(a.home_class_id, 0) AS home`

// Accounts counts the accounts.
func (s *Store) Accounts(ctx context.Context) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `SELECT count(*) FROM account`)
	return n, err
}

// ListAccounts lists the accounts by login.
func (s *Store) ListAccounts(ctx context.Context) ([]wire.Account, error) {
	return list[wire.Account](ctx, s, `SELECT name AS login, full_name AS name, role, disabled, created_at AS created FROM account ORDER BY name`)
}

// AddAccount makes an account; password is already hashed.
func (s *Store) AddAccount(ctx context.Context, by string, a Account) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := s.addAccount(ctx, tx, a); err != nil {
			return err
		}
		return s.audit(ctx, tx, by, 0, "account added", a.Login, string(a.Role))
	})
}

// AddFirst makes the first account; where there is one already it does nothing, and says so.
func (s *Store) AddFirst(ctx context.Context, a Account) (made bool, err error) {
	return made, s.inTx(ctx, func(tx *sqlx.Tx) error {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM account`); err != nil || n > 0 {
			return err
		}
		made = true
		if _, err := s.addAccount(ctx, tx, a); err != nil {
			return err
		}
		return s.audit(ctx, tx, a.Login, 0, "account added", a.Login, string(a.Role))
	})
}

func (s *Store) addAccount(ctx context.Context, tx *sqlx.Tx, a Account) (int64, error) {
	r, err := tx.ExecContext(ctx, `INSERT INTO account (name, full_name, role, password, created_at, home_class_id) VALUES (?, ?, ?, ?, ?, nullif(?, 0)) ON CONFLICT DO NOTHING`, a.Login, a.Name, a.Role, a.Password, s.now(), a.Home)
	if err != nil {
		return 0, err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return 0, refused("taken", "the login %s is taken", a.Login)
	}
	return r.LastInsertId()
}

// SetAccount changes name, role and whether an account may sign in. Nobody can shut out the last admin.
func (s *Store) SetAccount(ctx context.Context, by, login string, in wire.SetAccount) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := change(ctx, tx, `UPDATE account SET full_name = ?, role = ?, disabled = ? WHERE name = ?`, in.Name, in.Role, in.Disabled, login); err != nil {
			return err
		}
		var admins int
		if err := tx.GetContext(ctx, &admins, `SELECT count(*) FROM account WHERE role = 'admin' AND disabled = 0`); err != nil {
			return err
		}
		if admins == 0 {
			return refused("last-admin", "%s is the last admin: make another one first", login)
		}
		if in.Disabled {
			if _, err := tx.ExecContext(ctx, `DELETE FROM session WHERE account_id = (SELECT id FROM account WHERE name = ?)`, login); err != nil {
				return err
			}
		}
		detail := string(in.Role)
		if in.Disabled {
			detail += ", shut out"
		}
		return s.audit(ctx, tx, by, 0, "account changed", login, detail)
	})
}

// Account finds an account by login.
func (s *Store) Account(ctx context.Context, login string) (*Account, error) {
	var a Account
	return &a, s.get(ctx, &a, `SELECT `+accountColumns+` FROM account a WHERE a.name = ?`, login)
}

// SetPassword keeps a new password, already hashed, and ends every session and token but one (0 for all), and every link.
func (s *Store) SetPassword(ctx context.Context, account int64, password string, but int64) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := change(ctx, tx, `UPDATE account SET password = ? WHERE id = ?`, password, account); err != nil {
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
	return s.changeOne(ctx, `UPDATE account SET password = ? WHERE id = ?`, password, account)
}

// Session is a way in with whose it is.
type Session struct {
	wire.Access
	Account Account
}

func hashed(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// AddSession keeps a session or a personal token by its hash.
func (s *Store) AddSession(ctx context.Context, account int64, token string, a wire.Access) (int64, error) {
	if _, err := s.write.ExecContext(ctx, `DELETE FROM session WHERE expires_at < ?`, s.now()); err != nil {
		return 0, err
	}
	r, err := s.write.ExecContext(ctx, `INSERT INTO session (token_hash, account_id, kind, name, scope, agent, address, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		hashed(token), account, a.Kind, a.Name, a.Scope, a.Agent, a.Address, s.now(), a.Expires.UTC())
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

const accessColumns = `s.id, s.kind, s.name, s.scope, s.agent, s.address, s.created_at AS created, s.seen_at AS seen, s.expires_at AS expires`

// seenEvery is how exactly it is known when a session was last used.
const seenEvery = 5 * time.Minute

// Session finds who a token belongs to.
func (s *Store) Session(ctx context.Context, token string) (*Session, error) {
	var row struct {
		wire.Access
		AccountID int64 `json:"account_id"`
	}
	now := s.now()
	if err := s.get(ctx, &row, `SELECT `+accessColumns+`, s.account_id FROM session s WHERE s.token_hash = ? AND s.expires_at > ?`, hashed(token), now); err != nil {
		return nil, err
	}
	out := &Session{Access: row.Access}
	if err := s.get(ctx, &out.Account, `SELECT `+accountColumns+` FROM account a WHERE a.id = ? AND a.disabled = 0`, row.AccountID); err != nil {
		return nil, err
	}
	if row.Seen == nil || now.Sub(*row.Seen) > seenEvery {
		if _, err := s.write.ExecContext(ctx, `UPDATE session SET seen_at = ? WHERE id = ?`, now, row.ID); err != nil && !Full(err) {
			return nil, err
		}
	}
	return out, nil
}

// Sessions lists an account's ways in, sessions or tokens.
func (s *Store) Sessions(ctx context.Context, account int64, kind string) ([]wire.Access, error) {
	return list[wire.Access](ctx, s, `SELECT `+accessColumns+` FROM session s WHERE s.account_id = ? AND s.kind = ? AND s.expires_at > ? ORDER BY s.id DESC`, account, kind, s.now())
}

// EndSession forgets one way in of an account.
func (s *Store) EndSession(ctx context.Context, account, id int64) error {
	return s.changeOne(ctx, `DELETE FROM session WHERE id = ? AND account_id = ?`, id, account)
}

// EndSessions forgets all sessions of an account; its tokens stay.
func (s *Store) EndSessions(ctx context.Context, account int64) error {
	_, err := s.write.ExecContext(ctx, `DELETE FROM session WHERE account_id = ? AND kind = 'session'`, account)
	return err
}

// AddLink keeps a one-time link by its hash; earlier ones of the account are void.
func (s *Store) AddLink(ctx context.Context, by string, class int64, login, token string, expires time.Time) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM link WHERE account_id = (SELECT id FROM account WHERE name = ?)`, login); err != nil {
			return err
		}
		if err := change(ctx, tx, `INSERT INTO link (token_hash, account_id, created_at, expires_at) SELECT ?, id, ?, ? FROM account WHERE name = ?`, hashed(token), s.now(), expires.UTC(), login); err != nil {
			return err
		}
		return s.audit(ctx, tx, by, class, "sign-in link made", login, "")
	})
}

// UseLink gives whose a one-time link is, once.
func (s *Store) UseLink(ctx context.Context, token string) (*Account, error) {
	var a Account
	return &a, s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := change(ctx, tx, `UPDATE link SET used_at = ? WHERE token_hash = ? AND used_at IS NULL AND expires_at > ?`, s.now(), hashed(token), s.now()); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &a, `SELECT `+accountColumns+` FROM account a JOIN link l ON l.account_id = a.id WHERE l.token_hash = ?`, hashed(token)); err != nil {
			return err
		}
		if a.Disabled {
			return refused("disabled", "the account %s is disabled: whoever runs the service can open it again", a.Login)
		}
		return nil
	})
}

// LinkWorks tells whether a one-time link could be used now.
func (s *Store) LinkWorks(ctx context.Context, token string) (ok bool, err error) {
	err = s.db.GetContext(ctx, &ok, `SELECT EXISTS (SELECT 1 FROM link WHERE token_hash = ? AND used_at IS NULL AND expires_at > ?)`, hashed(token), s.now())
	return ok, err
}
