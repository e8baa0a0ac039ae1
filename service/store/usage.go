package store

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"time"

	"golang.org/x/sys/unix"
)

// Load is how many jobs of a kind are in a state, and since when the oldest is.
type Load struct {
	Kind   string
	State  string
	Jobs   int
	Oldest *time.Time // nil for none
}

// Loads counts the jobs that are not done, of each kind and state.
func (s *Store) Loads(ctx context.Context) (out []Load, err error) {
	for _, kind := range []string{"first", "again"} {
		for _, state := range []string{"queued", "running", "failed"} {
			l := Load{Kind: kind, State: state}
			if err := s.get(ctx, &l.Jobs, `SELECT count(*) FROM job WHERE state = ? AND kind = ?`, state, kind); err != nil {
				return nil, err
			}
			if l.Jobs > 0 {
				l.Oldest = &time.Time{}
				if err := s.get(ctx, l.Oldest, `SELECT queued_at FROM job WHERE state = ? AND kind = ? ORDER BY id LIMIT 1`, state, kind); err != nil && err != ErrNotFound {
					return nil, err
				}
			}
			out = append(out, l)
		}
	}
	return out, nil
}

// Waits tells how often, and how long, writes waited for each other.
func (s *Store) Waits() sql.DBStats { return s.write.Stats() }

// Usage is what a data folder takes, in bytes, and what is left.
type Usage struct{ Free, Database, Reels int64 }

// Usage measures the data folder.
func (s *Store) Usage() (u Usage, err error) {
	var fs unix.Statfs_t
	if err := unix.Statfs(s.dir, &fs); err != nil {
		return u, err
	}
	u.Free = int64(fs.Bavail) * fs.Bsize
	for _, end := range []string{"", "-wal"} {
		if info, err := os.Stat(filepath.Join(s.dir, database+end)); err == nil {
			u.Database += info.Size()
		}
	}
	s.reels.lock.Lock()
	defer s.reels.lock.Unlock()
	u.Reels = s.reels.size
	return u, nil
}
