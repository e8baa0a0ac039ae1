// Package store keeps everything that the service must not lose: a SQLite database and, beside it,
// files by their content.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/jmoiron/sqlx/reflectx"
	"github.com/mattn/go-sqlite3"
	"github.com/pressly/goose/v3"
	"golang.org/x/sys/unix"

	"hemble/service/blobs"
	"hemble/service/durable"
	"hemble/service/ports"
)

// ErrNotFound is for what is not there.
var ErrNotFound = errors.New("not found")

//go:embed migrations/*.sql
var migrations embed.FS

// Refusal is a change that cannot be made as things stand; nothing was changed.
type Refusal struct {
	Code string
	Text string
}

func (r *Refusal) Error() string { return r.Text }

func refused(code, format string, args ...any) error {
	return &Refusal{code, fmt.Sprintf(format, args...)}
}

// Store is one data folder, held by one process.
type Store struct {
	db    *sqlx.DB // reads
	write *sqlx.DB // writes: one connection, so that they come in turn, and none has to ask again and again
	dir   string
	lock  *os.File
	now   func() time.Time
	Blobs ports.Blobs
	files blobs.Local // the same, as a folder
	reels reels
}

// Open takes hold of a data folder, making it where it is new, and brings the database up to date. now is the clock;
// nil is the machine's.
func Open(ctx context.Context, dir string, now func() time.Time) (*Store, error) {
	if now == nil {
		now = time.Now
	}
	if _, err := os.Stat(filepath.Join(dir, database)); errors.Is(err, fs.ErrNotExist) {
		if hasWork(dir) {
			return nil, missing(dir)
		}
	}
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
	if err := tidy(dir); err != nil {
		lock.Close()
		return nil, err
	}
	write, err := connect(dir, "&_txlock=immediate")
	if err != nil {
		lock.Close()
		return nil, err
	}
	write.SetMaxOpenConns(1)
	db, err := connect(dir, "&_query_only=on")
	if err != nil {
		write.Close()
		lock.Close()
		return nil, err
	}
	files := filesOf(dir)
	s := &Store{db: db, write: write, dir: dir, lock: lock, Blobs: files, files: files, now: func() time.Time { return now().UTC().Truncate(time.Millisecond) }}
	if err := s.start(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// filesOf is the folder of files of a data folder.
func filesOf(dir string) blobs.Local { return blobs.Local{Dir: filepath.Join(dir, "files")} }

func connect(dir, more string) (*sqlx.DB, error) {
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(dir, database)+"?_journal_mode=WAL&_synchronous=FULL&_foreign_keys=on&_busy_timeout=10000"+more)
	if err == nil {
		db.Mapper = mapper
	}
	return db, err
}

// mapper: columns go by the names that the API gives them.
var mapper = reflectx.NewMapper("json")

func (s *Store) start(ctx context.Context) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.write.DB, sub)
	if err != nil {
		return err
	}
	if err := s.check(ctx); err != nil {
		return err
	}
	version, err := known(ctx, provider)
	if err != nil {
		return err
	}
	if version == 0 && hasWork(s.dir) {
		return missing(s.dir)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database up to date: %w", err)
	}
	if err := s.endLeases(ctx); err != nil {
		return err
	}
	return s.adoptReceipts(ctx)
}

// known refuses a database that a newer release has brought further than this one knows.
func known(ctx context.Context, provider *goose.Provider) (is int64, err error) {
	if is, err = provider.GetDBVersion(ctx); err != nil {
		return 0, fmt.Errorf("looking at the database: %w", err)
	}
	sources := provider.ListSources()
	if newest := sources[len(sources)-1].Version; is > newest {
		return is, fmt.Errorf("the database is of a newer release (schema %d, this release knows %d): start that release, or restore a backup of this one's", is, newest)
	}
	return is, nil
}

// Full tells whether an error says that the disk takes no more, or nothing.
func Full(err error) bool {
	var e sqlite3.Error
	if errors.As(err, &e) && (e.Code == sqlite3.ErrFull || e.Code == sqlite3.ErrReadonly || e.Code == sqlite3.ErrIoErr) {
		return true
	}
	return errors.Is(err, unix.ENOSPC) || errors.Is(err, unix.EDQUOT) || errors.Is(err, unix.EROFS)
}

// Writable tells whether work could be kept now: it writes a file as a receipt is written, and to the database.
func (s *Store) Writable(ctx context.Context) error {
	if err := durable.Write(filepath.Join(s.dir, "receipts", ".probe"), make([]byte, 4096)); err != nil {
		return err
	}
	return s.Set(ctx, "probe", s.now().Format(time.RFC3339Nano))
}

// Now is the time by the store's clock.
func (s *Store) Now() time.Time { return s.now() }

// Setting gives a setting, "" where it is not set.
func (s *Store) Setting(ctx context.Context, key string) (value string, err error) {
	err = s.db.GetContext(ctx, &value, `SELECT value FROM setting WHERE key = ?`, key)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return value, err
}

// Set keeps a setting.
func (s *Store) Set(ctx context.Context, key, value string) error {
	_, err := s.write.ExecContext(ctx, `INSERT INTO setting (key, value) VALUES (?, ?) ON CONFLICT DO UPDATE SET value = excluded.value`, key, value)
	return err
}

// get reads one row; ErrNotFound where there is none.
func (s *Store) get(ctx context.Context, out any, query string, args ...any) error {
	err := s.db.GetContext(ctx, out, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// list reads rows; there is a list even where there are none.
func list[T any](ctx context.Context, s *Store, query string, args ...any) ([]T, error) {
	out := []T{}
	return out, s.db.SelectContext(ctx, &out, query, args...)
}

// change runs one statement, and gives ErrNotFound where it changed nothing.
func change(ctx context.Context, db sqlx.ExecerContext, query string, args ...any) error {
	r, err := db.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	return ErrNotFound
}

// Close lets go of the folder.
func (s *Store) Close() error {
	return errors.Join(s.db.Close(), s.write.Close(), s.lock.Close())
}

// inTx runs f in one transaction, a change of what ctx says (Changing, Holding).
func (s *Store) inTx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.write.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := s.version(ctx, tx); err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return err
	}
	settled(ctx)
	return nil
}

// changeOne is change in a transaction of its own.
func (s *Store) changeOne(ctx context.Context, query string, args ...any) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error { return change(ctx, tx, query, args...) })
}
