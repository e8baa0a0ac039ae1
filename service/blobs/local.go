// Package blobs stores files by the hash of their content in a local folder.
package blobs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"hemble/service/durable"
	"hemble/service/ports"
)

// Packed is the suffix of a file that is compressed; those of the first releases are not.
const Packed = ".gz"

// Local is a folder of files, each under its hash, compressed.
type Local struct{ Dir string }

var _ ports.Blobs = Local{}

// Path is where a file lies, or would.
func (l Local) Path(hash string) string {
	path := filepath.Join(l.Dir, hash[:2], hash)
	if _, err := os.Stat(path); err == nil {
		return path
	}
	return path + Packed
}

// Put keeps a file.
func (l Local) Put(_ context.Context, data []byte) (string, error) {
	hash := sum(data)
	path := l.Path(hash)
	if _, err := os.Stat(path); err == nil {
		return hash, nil
	}
	small, err := durable.Pack(data)
	if err != nil {
		return "", err
	}
	return hash, durable.Write(path, small)
}

// Get gives a file.
func (l Local) Get(_ context.Context, hash string) ([]byte, error) {
	path := l.Path(hash)
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	if data, err = Content(hash, filepath.Base(path), data); err != nil {
		return nil, fmt.Errorf("the stored file %s: %w", hash[:12], err)
	}
	return data, nil
}

// Has reports whether a file is there.
func (l Local) Has(_ context.Context, hash string) (bool, error) {
	if hash == "" {
		return false, nil
	}
	_, err := os.Stat(l.Path(hash))
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	return err == nil, err
}

// Content unpacks a file of this folder, and sees that it is what its hash says.
func Content(hash, name string, data []byte) ([]byte, error) {
	if strings.HasSuffix(name, Packed) {
		var err error
		if data, err = durable.Unpack(data); err != nil {
			return nil, fmt.Errorf("it is damaged: %w", err)
		}
	}
	if sum(data) != hash {
		return nil, errors.New("it is damaged: its content is not what its name says")
	}
	return data, nil
}

func sum(data []byte) string {
	s := sha256.Sum256(data)
	return hex.EncodeToString(s[:])
}
