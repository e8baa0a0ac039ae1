package store

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"path/filepath"
)

// writeDurably writes a file so that after a crash it is there whole or not at all.
func writeDurably(path string, data []byte) error {
	dir := filepath.Dir(path)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, newFile+"*")
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

// A file lies under its SHA-256, packed with gzip; those of the first schema lie as they are, without the suffix.
const packed = ".gz"

func (s *Store) filePath(hash string) string {
	path := filepath.Join(s.dir, "files", hash[:2], hash)
	if _, err := os.Stat(path); err == nil {
		return path
	}
	return path + packed
}

// maxUnpacked bounds what anything that is kept unpacks to, in bytes.
const maxUnpacked = 512 << 20

// pack compresses.
func pack(data []byte) ([]byte, error) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	if _, err := z.Write(data); err != nil {
		return nil, err
	}
	err := z.Close()
	return b.Bytes(), err
}

// unpack gives what was compressed; what was not, as it is.
func unpack(data []byte) ([]byte, error) {
	if !bytes.HasPrefix(data, []byte{0x1f, 0x8b}) {
		return data, nil
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	out, err := io.ReadAll(io.LimitReader(z, maxUnpacked+1))
	if err == nil && len(out) > maxUnpacked {
		err = fmt.Errorf("it unpacks to more than %d MB", maxUnpacked>>20)
	}
	return out, err
}

// putFile keeps a file by its content and gives its hash.
func (s *Store) putFile(data []byte) (string, error) {
	sum := sha256.Sum256(data)
	hash := hex.EncodeToString(sum[:])
	path := s.filePath(hash)
	if _, err := os.Stat(path); err == nil {
		return hash, nil
	}
	small, err := pack(data)
	if err != nil {
		return "", err
	}
	return hash, writeDurably(path, small)
}

// File gives a file by its hash.
func (s *Store) File(hash string) ([]byte, error) {
	path := s.filePath(hash)
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	if data, err = content(hash, filepath.Base(path), data); err != nil {
		return nil, fmt.Errorf("the stored file %s: %w", hash[:12], err)
	}
	return data, nil
}
