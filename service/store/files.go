package store

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"hemble/core/reel"
)

// writeDurably writes a file so that after a crash it is there whole or not at all.
func writeDurably(path string, data []byte) error {
	dir := filepath.Dir(path)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, ".new-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if _, err := f.Write(data); err != nil {
		f.Close()
		return err
	}
	if err := f.Sync(); err != nil {
		f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return err
	}
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}

func (s *Store) filePath(hash string) string {
	return filepath.Join(s.dir, "files", hash[:2], hash)
}

// putFile keeps a file by its content and gives its hash.
func (s *Store) putFile(data []byte) (string, error) {
	sum := sha256.Sum256(data)
	hash := hex.EncodeToString(sum[:])
	path := s.filePath(hash)
	if _, err := os.Stat(path); err == nil {
		return hash, nil
	}
	return hash, writeDurably(path, data)
}

// File gives a file by its hash.
func (s *Store) File(hash string) ([]byte, error) {
	data, err := os.ReadFile(s.filePath(hash))
	if err != nil {
		return nil, err
	}
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != hash {
		return nil, fmt.Errorf("the stored file %s is damaged", hash[:12])
	}
	return data, nil
}

func (s *Store) reelPath(submission string, trial int) string {
	return filepath.Join(s.dir, "reels", submission, fmt.Sprintf("%d.json.gz", trial))
}

// PutReel caches a reel; it can always be made again from the submission.
func (s *Store) PutReel(submission string, trial int, r *reel.Reel) error {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	if err := json.NewEncoder(z).Encode(r); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	path := s.reelPath(submission, trial)
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	if err := os.WriteFile(path+".new", b.Bytes(), 0o600); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}

// Reel gives the JSON of a cached reel, ErrNotFound if it is not there or damaged.
func (s *Store) Reel(submission string, trial int) ([]byte, error) {
	f, err := os.Open(s.reelPath(submission, trial))
	if err != nil {
		return nil, ErrNotFound
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		return nil, ErrNotFound
	}
	data, err := io.ReadAll(z)
	if err != nil {
		return nil, ErrNotFound
	}
	return data, nil
}
