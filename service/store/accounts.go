package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"time"
)

// Account is somebody who can sign in.
type Account struct {
	ID       int64  `db:"id"`
	Name     string `db:"name"`
	Role     string `db:"role"`
	Password string `db:"password"`
}

// Accounts counts the accounts.
func (s *Store) Accounts(ctx context.Context) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `SELECT count(*) FROM account`)
	return n, err
}

// AddAccount makes an account; password is already hashed.
func (s *Store) AddAccount(ctx context.Context, name, role, password string) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO account (name, role, password, created_at) VALUES (?, ?, ?, ?)`, name, role, password, time.Now().UTC())
	return err
}

// Account finds an account by name.
func (s *Store) Account(ctx context.Context, name string) (*Account, error) {
	return s.account(ctx, `SELECT id, name, role, password FROM account WHERE name = ?`, name)
}

func (s *Store) account(ctx context.Context, query string, args ...any) (*Account, error) {
	var a Account
	switch err := s.db.GetContext(ctx, &a, query, args...); {
	case errors.Is(err, sql.ErrNoRows):
		return nil, ErrNotFound
	case err != nil:
		return nil, err
	}
	return &a, nil
}

// AddSession keeps a session by the hash of its token.
func (s *Store) AddSession(ctx context.Context, account int64, token string, expires time.Time) error {
	hash := sha256.Sum256([]byte(token))
	now := time.Now().UTC()
	if _, err := s.db.ExecContext(ctx, `DELETE FROM session WHERE expires_at < ?`, now); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `INSERT INTO session (token_hash, account_id, created_at, expires_at) VALUES (?, ?, ?, ?)`, hash[:], account, now, expires.UTC())
	return err
}

// SessionAccount finds who a token belongs to.
func (s *Store) SessionAccount(ctx context.Context, token string) (*Account, error) {
	hash := sha256.Sum256([]byte(token))
	return s.account(ctx, `SELECT a.id, a.name, a.role, a.password FROM session s JOIN account a ON a.id = s.account_id WHERE s.token_hash = ? AND s.expires_at > ?`, hash[:], time.Now().UTC())
}

// EndSession forgets a token.
func (s *Store) EndSession(ctx context.Context, token string) error {
	hash := sha256.Sum256([]byte(token))
	_, err := s.db.ExecContext(ctx, `DELETE FROM session WHERE token_hash = ?`, hash[:])
	return err
}
