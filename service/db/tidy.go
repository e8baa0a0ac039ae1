package db

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"hemble/service/durable"
)

// How the names of what is only half made begin; what is left of it is that of a service that was killed.
const (
	BackupFolder  = ".backup-"
	RestoreFolder = ".restore-"
)

// tidy makes a data folder its owner's alone, whatever it was before, and sweeps out what a killed service left half
// made.
func tidy(dir string) error {
	for name, mode := range map[string]fs.FileMode{".": 0o700, "files": 0o700, "receipts": 0o700, "reels": 0o700,
		"cache": 0o700,
		File:    0o600, File + "-wal": 0o600, File + "-shm": 0o600, "lock": 0o600} {
		if err := os.Chmod(filepath.Join(dir, name), mode); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	left := func(name string) bool {
		return strings.HasPrefix(name, durable.Begun) || strings.HasPrefix(name, BackupFolder)
	}
	for _, folder := range []string{".", "receipts", "files/*"} {
		names, err := filepath.Glob(filepath.Join(dir, folder, ".*"))
		if err != nil {
			return err
		}
		for _, name := range names {
			if left(filepath.Base(name)) {
				if err := os.RemoveAll(name); err != nil {
					return err
				}
			}
		}
	}
	// Reels that earlier releases wrote have other names for what is in them.
	for _, pattern := range []string{"reels/*.new", "reels/*.json.gz", "cache/build/making-*",
		"cache/class-libraries/*/*.new"} {
		names, err := filepath.Glob(filepath.Join(dir, filepath.FromSlash(pattern)))
		if err != nil {
			return err
		}
		for _, name := range names {
			if err := os.RemoveAll(name); err != nil {
				return err
			}
		}
	}
	return nil
}
