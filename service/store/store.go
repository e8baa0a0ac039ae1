// Package store keeps everything that the service must not lose: a SQLite database and, beside it,
// files by their content.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/jmoiron/sqlx"
	_ "github.com/mattn/go-sqlite3" // the driver
	"github.com/pressly/goose/v3"
	"golang.org/x/sys/unix"
)

// ErrNotFound is for what is not there.
var ErrNotFound = errors.New("not found")

//go:embed migrations/*.sql
var migrations embed.FS

// Store is one data folder, held by one process.
type Store struct {
	db    *sqlx.DB
	dir   string
	lock  *os.File
	Epoch int64 // of this start; grows with each
}

// Open takes hold of a data folder, making it where it is new, and brings the database up to date.
func Open(ctx context.Context, dir string) (*Store, error) {
	for _, d := range []string{dir, filepath.Join(dir, "files"), filepath.Join(dir, "receipts"), filepath.Join(dir, "reels")} {
		if err := os.MkdirAll(d, 0o700); err != nil {
			return nil, err
		}
	}
	lock, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := unix.Flock(int(lock.Fd()), unix.LOCK_EX|unix.LOCK_NB); err != nil {
		lock.Close()
		return nil, fmt.Errorf("%s is in use by another hemble service", dir)
	}
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(dir, "hemble.db")+"?_journal_mode=WAL&_synchronous=FULL&_foreign_keys=on&_busy_timeout=10000&_txlock=immediate")
	if err != nil {
		lock.Close()
		return nil, err
	}
	s := &Store{db: db, dir: dir, lock: lock}
	if err := s.start(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

func (s *Store) start(ctx context.Context) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.db.DB, sub)
	if err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database up to date: %w", err)
	}
	if err := s.newEpoch(ctx); err != nil {
		return err
	}
	return s.adoptReceipts(ctx)
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// Close lets go of the folder.
func (s *Store) Close() error {
	return errors.Join(s.db.Close(), s.lock.Close())
}

// inTx runs f in one transaction.
func (s *Store) inTx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}
