package db

import (
	"database/sql"
	"os"
	"path/filepath"

	"golang.org/x/sys/unix"
)

// Waits returns how often, and how long, writes waited for each other.
func (s *DB) Waits() sql.DBStats { return s.Writes.Stats() }

// Usage is what the database takes of the disk of a data folder, in bytes, and what is left.
type Usage struct{ Free, Database int64 }

// Usage measures the data folder.
func (s *DB) Usage() (u Usage, err error) {
	var fs unix.Statfs_t
	if err := unix.Statfs(s.Dir, &fs); err != nil {
		return u, err
	}
	u.Free = int64(fs.Bavail) * fs.Bsize
	for _, end := range []string{"", "-wal"} {
		if info, err := os.Stat(filepath.Join(s.Dir, File+end)); err == nil {
			u.Database += info.Size()
		}
	}
	return u, nil
}
