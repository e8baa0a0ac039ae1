package store

import (
	"archive/tar"
	"compress/gzip"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"crypto/sha256"

	"github.com/jmoiron/sqlx"
)

const database = "hemble.db"

// Backup writes a copy of everything that must not be lost, as a tar archive packed with gzip: the database as it is at
// this moment, and the files and receipts that it speaks of. The service goes on meanwhile.
func (s *Store) Backup(ctx context.Context, w io.Writer) error {
	dir, err := os.MkdirTemp(s.dir, ".backup-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	copied := filepath.Join(dir, database)
	own, err := connect(s.dir, "") // a connection of its own: neither reads nor writes wait for it
	if err != nil {
		return err
	}
	defer own.Close()
	if _, err := own.ExecContext(ctx, `VACUUM INTO ?`, copied); err != nil {
		return err
	}
	db, err := sqlx.Open("sqlite3", "file:"+copied+"?mode=ro")
	if err != nil {
		return err
	}
	defer db.Close()
	var blobs, receipts []string
	if err := db.SelectContext(ctx, &blobs, `SELECT blob FROM revision UNION SELECT blob FROM revision_file UNION SELECT blob FROM submission UNION SELECT wiring FROM submission
		UNION SELECT blob FROM bulk_file UNION SELECT blob FROM library ORDER BY 1`); err != nil {
		return err
	}
	if err := db.SelectContext(ctx, &receipts, `SELECT id FROM submission ORDER BY id`); err != nil {
		return err
	}
	z := gzip.NewWriter(w)
	t := tar.NewWriter(z)
	if err := addFile(t, database, copied); err != nil {
		return err
	}
	for _, b := range blobs {
		if b == "" {
			continue
		}
		file := s.filePath(b)
		if err := addFile(t, path.Join("files", b[:2], filepath.Base(file)), file); err != nil {
			return err
		}
	}
	for _, id := range receipts {
		err := addFile(t, "receipts/"+id+".json", filepath.Join(s.dir, "receipts", id+".json"))
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return errors.Join(t.Close(), z.Close())
}

func addFile(t *tar.Writer, name, file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	if err := t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: info.Size(), ModTime: info.ModTime(), Typeflag: tar.TypeReg}); err != nil {
		return err
	}
	_, err = io.Copy(t, f)
	return err
}

var inBackup = regexp.MustCompile(`^(hemble\.db|files/[0-9a-f]{2}/[0-9a-f]{64}(\.gz)?|receipts/[0-9a-f]+\.json)$`)

// Restore makes a data folder from a backup. The folder must be empty or missing. An archive that is damaged, or holds
// anything that no backup does, leaves no folder behind.
func Restore(ctx context.Context, r io.Reader, dir string) (err error) {
	if entries, err := os.ReadDir(dir); err == nil && len(entries) > 0 {
		return fmt.Errorf("%s is not empty: a backup is restored to a new folder", dir)
	}
	if err := os.MkdirAll(filepath.Dir(filepath.Clean(dir)), 0o700); err != nil {
		return err
	}
	made, err := os.MkdirTemp(filepath.Dir(filepath.Clean(dir)), ".restore-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(made)
	z, err := gzip.NewReader(r)
	if err != nil {
		return fmt.Errorf("this is no backup: %w", err)
	}
	for t := tar.NewReader(z); ; {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("the backup is damaged: %w", err)
		}
		if h.Typeflag != tar.TypeReg || !inBackup.MatchString(h.Name) {
			return fmt.Errorf("this is no backup: it holds %q", h.Name)
		}
		if err := unpackFile(t, filepath.Join(made, filepath.FromSlash(h.Name))); err != nil {
			return fmt.Errorf("restoring %s: %w", h.Name, err)
		}
	}
	if err := checkDatabase(ctx, filepath.Join(made, database)); err != nil {
		return err
	}
	if err := os.Remove(dir); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return os.Rename(made, dir)
}

func unpackFile(r io.Reader, file string) error {
	data, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	if name, isPacked := strings.CutSuffix(filepath.Base(file), packed); len(name) == 2*sha256.Size {
		content := data
		if isPacked {
			if content, err = unpack(data); err != nil {
				return err
			}
		}
		if sum := sha256.Sum256(content); hex.EncodeToString(sum[:]) != name {
			return errors.New("its content is not what its name says")
		}
	}
	return writeDurably(file, data)
}

func checkDatabase(ctx context.Context, file string) error {
	if _, err := os.Stat(file); err != nil {
		return errors.New("this is no backup: it holds no database")
	}
	db, err := sqlx.Open("sqlite3", "file:"+file)
	if err != nil {
		return err
	}
	defer db.Close()
	var verdict string
	if err := db.GetContext(ctx, &verdict, `PRAGMA integrity_check`); err != nil || verdict != "ok" {
		return fmt.Errorf("the database of the backup is damaged: %s %w", verdict, err)
	}
	return nil
}
