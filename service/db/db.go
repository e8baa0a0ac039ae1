// Package db is one data folder: a SQLite database and, beside it, files by their content. It reads, writes and
// records what was changed; each subject defines its own tables.
package db

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
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

// File is the name of the File in a data folder.
const File = "hemble.db"

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

// Refused makes a refusal.
func Refused(code, format string, args ...any) error {
	return &Refusal{code, fmt.Sprintf(format, args...)}
}

// DB is one data folder, held by one process.
type DB struct {
	Reads  *sqlx.DB
	Writes *sqlx.DB // one connection, so that writes come in turn, and none has to ask again and again
	Dir    string
	Blobs  ports.Blobs
	Files  blobs.Local // the same, as a folder
	lock   *os.File
	now    func() time.Time
}

// Open takes hold of a data folder, making it where it is new, and brings the File up to date. now is the clock;
// nil is the machine's.
func Open(ctx context.Context, dir string, now func() time.Time) (*DB, error) {
	if now == nil {
		now = time.Now
	}
	if _, err := os.Stat(filepath.Join(dir, File)); errors.Is(err, fs.ErrNotExist) {
		if hasWork(dir) {
			return nil, Missing(dir)
		}
	}
	for _, d := range []string{dir, filepath.Join(dir, "files"), filepath.Join(dir, "receipts"),
		filepath.Join(dir, "reels")} {
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
	reads, err := connect(dir, "&_query_only=on")
	if err != nil {
		write.Close()
		lock.Close()
		return nil, err
	}
	files := FilesOf(dir)
	s := &DB{Reads: reads, Writes: write, Dir: dir, lock: lock, Blobs: files, Files: files,
		now: func() time.Time { return now().UTC().Truncate(time.Millisecond) }}
	if err := s.start(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// FilesOf is the folder of files of a data folder.
func FilesOf(dir string) blobs.Local { return blobs.Local{Dir: filepath.Join(dir, "files")} }

func connect(dir, more string) (*sqlx.DB, error) {
	db, err := sqlx.Open("sqlite3",
		"file:"+filepath.Join(dir, File)+"?_journal_mode=WAL&_synchronous=FULL&_foreign_keys=on&_busy_timeout=10000"+
			more)
	if err == nil {
		db.Mapper = mapper
	}
	return db, err
}

// View looks at a database file as it is, and neither locks nor changes anything; options are those of the driver. dir
// is the data folder that it belongs to.
func View(dir, file, options string) (*DB, error) {
	reads, err := sqlx.Open("sqlite3", "file:"+file+"?"+options)
	if err != nil {
		return nil, err
	}
	reads.Mapper = mapper
	return &DB{Reads: reads, Dir: dir, Blobs: FilesOf(dir)}, nil
}

// CopyTo writes the database as it is at this moment to a file. Neither reads nor writes wait for it.
func (s *DB) CopyTo(ctx context.Context, file string) error {
	own, err := connect(s.Dir, "")
	if err != nil {
		return err
	}
	defer own.Close()
	_, err = own.ExecContext(ctx, `VACUUM INTO ?`, file)
	return err
}

// mapper: columns go by the tags of rows.
var mapper = reflectx.NewMapper("db")

func (s *DB) start(ctx context.Context) error {
	provider, err := Migrations(s.Writes.DB)
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
	if version == 0 && hasWork(s.Dir) {
		return Missing(s.Dir)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing the File up to date: %w", err)
	}
	return nil
}

// Migrations are the steps that bring a database up to date.
func Migrations(of *sql.DB) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectSQLite3, of, files, goose.WithGoMigrations(renameInSheets))
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

// Full reports whether an error says that the disk takes no more, or nothing.
func Full(err error) bool {
	var e sqlite3.Error
	if errors.As(err, &e) && (e.Code == sqlite3.ErrFull || e.Code == sqlite3.ErrReadonly ||
		e.Code == sqlite3.ErrIoErr) {
		return true
	}
	return errors.Is(err, unix.ENOSPC) || errors.Is(err, unix.EDQUOT) || errors.Is(err, unix.EROFS)
}

// Writable reports whether work could be kept now: it writes a file as a receipt is written, and to the database.
func (s *DB) Writable(ctx context.Context) error {
	if err := durable.Write(filepath.Join(s.Dir, "receipts", ".probe"), make([]byte, 4096)); err != nil {
		return err
	}
	return s.Set(ctx, "probe", s.now().Format(time.RFC3339Nano))
}

// Now is the time by the store's clock.
func (s *DB) Now() time.Time { return s.now() }

// Setting gives a setting, "" where it is not set.
func (s *DB) Setting(ctx context.Context, key string) (value string, err error) {
	err = s.Reads.GetContext(ctx, &value, `SELECT value FROM setting WHERE key = ?`, key)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return value, err
}

// Set keeps a setting.
func (s *DB) Set(ctx context.Context, key, value string) error {
	_, err := s.Writes.ExecContext(ctx,
		`INSERT INTO setting (key, value) VALUES (?, ?) ON CONFLICT DO UPDATE SET value = excluded.value`, key, value)
	return err
}

// Get reads one row; ErrNotFound where there is none.
func (s *DB) Get(ctx context.Context, out any, query string, args ...any) error {
	err := s.Reads.GetContext(ctx, out, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// List reads rows; there is a list even where there are none.
func List[T any](ctx context.Context, s *DB, query string, args ...any) ([]T, error) {
	out := []T{}
	return out, s.Reads.SelectContext(ctx, &out, query, args...)
}

// Change runs one statement, and gives ErrNotFound where it changed nothing.
func Change(ctx context.Context, db sqlx.ExecerContext, query string, args ...any) error {
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
func (s *DB) Close() error {
	return errors.Join(s.Reads.Close(), s.Writes.Close(), s.lock.Close())
}

// InTx runs f in one transaction, a change of what ctx says (Changing, Holding).
func (s *DB) InTx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.Writes.BeginTxx(ctx, nil)
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

// ChangeOne is Change in a transaction of its own.
func (s *DB) ChangeOne(ctx context.Context, query string, args ...any) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error { return Change(ctx, tx, query, args...) })
}

// hasWork reports whether a folder holds anything that a File should speak of.
func hasWork(dir string) bool {
	for _, pattern := range []string{"receipts/*.json", "files/*/*"} {
		if some, _ := filepath.Glob(filepath.Join(dir, filepath.FromSlash(pattern))); len(some) > 0 {
			return true
		}
	}
	return false
}

// Missing is the error of a data folder without its database.
func Missing(dir string) error {
	if !hasWork(dir) {
		return fmt.Errorf("%s is no data folder: it has no %s", dir, File)
	}
	receipts, _ := filepath.Glob(filepath.Join(dir, "receipts", "*.json"))
	return fmt.Errorf("%s has files, the receipts of %d submissions, and no database: put %s back, or restore a backup to a new folder; nothing was changed",
		dir, len(receipts), File)
}

// check looks at the database of a folder before anything is done with it.
func (s *DB) check(ctx context.Context) error {
	var verdicts []string
	err := s.Writes.SelectContext(ctx, &verdicts, `PRAGMA quick_check(1)`)
	if err == nil && !slices.Equal(verdicts, []string{"ok"}) {
		err = errors.New(strings.Join(verdicts, "; "))
	}
	if err != nil && !Full(err) && ctx.Err() == nil {
		return fmt.Errorf("the database %s is damaged: %w; `hemble verify` lists what is left, `hemble restore` makes a new folder from a backup",
			filepath.Join(s.Dir, File), err)
	}
	return err
}
