package grading

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"hemble/core/reel"
	"hemble/service/db"
	"hemble/service/durable"
)

// reels is the cache of what the displays showed. It may be deleted at any time: a reel can always be made again.
type reels struct {
	lock sync.Mutex
	size int64 // bytes; 0 until it was looked up
	Most int64 // bytes
}

// MostReels bounds the cache of reels, in bytes.
func (s *Store) MostReels(bytes int64) { s.reels.Most = bytes }

func (s *Store) reelPath(job int64, trial int) string {
	return filepath.Join(s.Dir, "reels", fmt.Sprintf("%d-%d.reel.gz", job, trial))
}

// PutReel caches a reel of a job.
func (s *Store) PutReel(job int64, trial int, r *reel.Reel) error {
	text, err := json.Marshal(r)
	if err != nil {
		return err
	}
	data, err := durable.Pack(text)
	if err != nil {
		return err
	}
	path := s.reelPath(job, trial)
	if err := os.WriteFile(path+".new", data, 0o600); err != nil {
		return err
	}
	if err := os.Rename(path+".new", path); err != nil {
		return err
	}
	return s.reels.added(filepath.Dir(path), int64(len(data)))
}

// Reel gives the JSON of a cached reel, db.ErrNotFound if it is not there or damaged.
func (s *Store) Reel(job int64, trial int) ([]byte, error) {
	path := s.reelPath(job, trial)
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, db.ErrNotFound
	}
	text, err := durable.Unpack(data)
	if err != nil || !json.Valid(text) {
		return nil, db.ErrNotFound
	}
	now := time.Now() // of the disk, as are the times of the other files
	_ = os.Chtimes(path, now, now)
	return text, nil
}

// added counts what came to the cache, and where it is too large takes away what was looked at longest ago, down to
// three quarters.
func (c *reels) added(dir string, n int64) error {
	c.lock.Lock()
	defer c.lock.Unlock()
	if c.Most == 0 || c.size > 0 && c.size+n <= c.Most {
		c.size += n
		return nil
	}
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	var files []fs.FileInfo
	c.size = 0
	for _, e := range entries {
		if f, err := e.Info(); err == nil {
			files = append(files, f)
			c.size += f.Size()
		}
	}
	if c.size <= c.Most {
		return nil
	}
	slices.SortFunc(files, func(a, b fs.FileInfo) int { return a.ModTime().Compare(b.ModTime()) })
	for _, f := range files {
		if c.size <= c.Most*3/4 {
			break
		}
		if os.Remove(filepath.Join(dir, f.Name())) == nil {
			c.size -= f.Size()
		}
	}
	return nil
}

// ReelBytes is what the cache of reels takes, as far as it was looked up.
func (s *Store) ReelBytes() int64 {
	s.reels.lock.Lock()
	defer s.reels.lock.Unlock()
	return s.reels.size
}
