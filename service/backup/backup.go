// Package backup copies a data folder while its service runs, verifies folders and copies, and restores a folder from
// a copy.
package backup

import (
	"archive/tar"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strings"

	"hemble/service/blobs"
	"hemble/service/db"
	"hemble/service/durable"
)

// damagedList is the file of a backup that says what could not be copied whole.
const damagedList = "damaged.json"

// Write writes a copy of everything that must not be lost, as a tar archive packed with gzip: the database as it is at
// this moment, and the files and receipts that it speaks of. The service continues meanwhile. Each file is looked at on
// the way; one that is missing or damaged is named in the archive and left out, and the rest continues.
func Write(ctx context.Context, s *db.DB, w io.Writer) ([]Damage, error) {
	dir, err := os.MkdirTemp(s.Dir, db.BackupFolder)
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	copied := filepath.Join(dir, db.File)
	if err := s.CopyTo(ctx, copied); err != nil {
		return nil, err
	}
	now, err := db.View(s.Dir, copied, "mode=ro")
	if err != nil {
		return nil, err
	}
	defer now.Reads.Close()
	files, err := db.List[needed](ctx, now, blobQuery)
	if err != nil {
		return nil, err
	}
	var receipts []string
	if err := now.Reads.SelectContext(ctx, &receipts, `SELECT id FROM submission ORDER BY id`); err != nil {
		return nil, err
	}
	z := gzip.NewWriter(w)
	t := tar.NewWriter(z)
	if err := addFile(t, db.File, copied); err != nil {
		return nil, err
	}
	report := &Report{}
	for _, b := range files {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		file := s.Files.Path(b.Blob)
		name := path.Join("files", b.Blob[:2], filepath.Base(file))
		data, err := os.ReadFile(file)
		if err == nil {
			_, err = blobs.Content(b.Blob, filepath.Base(file), data)
		}
		if err != nil {
			report.damage(name, "%s: %s", b.Why, plainly(err))
			continue
		}
		if err := addBytes(t, name, data); err != nil {
			return nil, err
		}
	}
	for _, id := range receipts {
		name := "receipts/" + id + ".json"
		data, err := os.ReadFile(filepath.Join(s.Dir, filepath.FromSlash(name)))
		if err != nil {
			report.damage(name, "%s", plainly(err))
			continue
		}
		if err := addBytes(t, name, data); err != nil {
			return nil, err
		}
	}
	for _, d := range report.Damaged {
		slog.Error("a file could not be backed up", "file", d.What, "why", d.Text)
	}
	if len(report.Damaged) > 0 {
		text, err := json.MarshalIndent(report.Damaged, "", "\t")
		if err != nil {
			return nil, err
		}
		if err := addBytes(t, damagedList, text); err != nil {
			return nil, err
		}
	}
	return report.Damaged, errors.Join(t.Close(), z.Close())
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
	if err := t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: info.Size(), ModTime: info.ModTime(),
		Typeflag: tar.TypeReg}); err != nil {
		return err
	}
	_, err = io.Copy(t, f)
	return err
}

func addBytes(t *tar.Writer, name string, data []byte) error {
	if err := t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: int64(len(data)),
		Typeflag: tar.TypeReg}); err != nil {
		return err
	}
	_, err := t.Write(data)
	return err
}

var inBackup = regexp.MustCompile(`^(hemble\.db|damaged\.json|files/[0-9a-f]{2}/[0-9a-f]{64}(\.gz)?|receipts/[0-9a-f]+\.json)$`)

// maxPacked bounds a file of a backup other than the db.File, in bytes.
const maxPacked = 300 << 20

// unpackBackup reads a backup into a folder, as far as it is whole. An archive that holds anything that no backup does
// is an error; what is damaged is in the report. Content is bounded by what the archive really has: nothing that it
// announces.
func unpackBackup(ctx context.Context, r io.Reader, dir string) (*Report, error) {
	out := &Report{}
	z, err := gzip.NewReader(r)
	if err != nil {
		return nil, fmt.Errorf("this is no backup: %w", err)
	}
	seen := map[string]bool{}
	for t := tar.NewReader(z); ctx.Err() == nil; {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			if len(seen) == 0 {
				return nil, fmt.Errorf("this is no backup: %w", err)
			}
			out.damage("the archive", "it is damaged or cut off behind %d files: %s", len(seen), err)
			return out, nil
		}
		if h.Typeflag != tar.TypeReg || !inBackup.MatchString(h.Name) {
			return nil, fmt.Errorf("this is no backup: it holds %q", h.Name)
		}
		if seen[h.Name] {
			out.damage(h.Name, "it is in the archive twice")
			continue
		}
		seen[h.Name] = true
		if err := unpackFile(t, filepath.Join(dir, filepath.FromSlash(h.Name))); err != nil {
			if db.Full(err) {
				return nil, err
			}
			out.damage(h.Name, "%s", err)
		}
	}
	return nil, ctx.Err()
}

// unpackFile writes one file of a backup; one that names its content is held to it.
func unpackFile(r io.Reader, file string) error {
	name := filepath.Base(file)
	if name == db.File {
		return stream(r, file)
	}
	data, err := io.ReadAll(io.LimitReader(r, maxPacked+1))
	if err != nil {
		return err
	}
	if len(data) > maxPacked {
		return fmt.Errorf("it has more than %d MB", maxPacked>>20)
	}
	if hash, _ := strings.CutSuffix(name, blobs.Packed); len(hash) == 2*sha256.Size {
		if _, err := blobs.Content(hash, name, data); err != nil {
			return err
		}
	}
	return durable.Write(file, data)
}

// stream writes a file of any size.
func stream(r io.Reader, file string) error {
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return err
	}
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	if _, err := io.Copy(f, r); err != nil {
		f.Close()
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// unpacked has a backup unpacked to a new folder beside dir, which its caller removes, and looked through.
func unpacked(ctx context.Context, r io.Reader, beside string) (dir string, out *Report, err error) {
	if err := os.MkdirAll(beside, 0o700); err != nil {
		return "", nil, err
	}
	if dir, err = os.MkdirTemp(beside, db.RestoreFolder); err != nil {
		return "", nil, err
	}
	inArchive, err := unpackBackup(ctx, r, dir)
	if err != nil {
		return dir, nil, err
	}
	if _, err := os.Stat(filepath.Join(dir, db.File)); err != nil {
		return dir, nil, errors.New("this is no backup: it holds no database")
	}
	if out, err = Verify(ctx, dir); err != nil {
		return dir, nil, err
	}
	// What the archive says was lost when it was made, or is damaged in it, is missing now: it is told once, with its
	// reason.
	reasons := map[string]string{}
	for _, d := range inArchive.Damaged {
		reasons[strings.TrimSuffix(d.What, blobs.Packed)] = d.Text
	}
	var before []Damage
	if text, err := os.ReadFile(filepath.Join(dir, damagedList)); err == nil && json.Unmarshal(text, &before) == nil {
		for _, d := range before {
			reasons[strings.TrimSuffix(d.What, blobs.Packed)] = d.Text + " (when the backup was made)"
		}
	}
	for i, d := range out.Damaged {
		if why, ok := reasons[d.What]; ok {
			out.Damaged[i].Text = why
			delete(reasons, d.What)
		}
	}
	for _, d := range inArchive.Damaged {
		if _, open := reasons[strings.TrimSuffix(d.What, blobs.Packed)]; open {
			out.Damaged = append(out.Damaged, d)
		}
	}
	return dir, out, nil
}

// VerifyBackup looks through a backup: everything that it should hold, by its content. It needs as much room as the
// backup takes unpacked, in the system's folder for temporary files.
func VerifyBackup(ctx context.Context, r io.Reader) (*Report, error) {
	dir, out, err := unpacked(ctx, r, os.TempDir())
	if dir != "" {
		defer os.RemoveAll(dir)
	}
	return out, err
}

// Restore makes a data folder from a backup. The folder must be empty or missing. All that is whole is brought back,
// and the report lists the rest; an archive without a whole db.File, or with anything that no backup holds, leaves no
// folder behind.
func Restore(ctx context.Context, r io.Reader, dir string) (*Report, error) {
	if entries, err := os.ReadDir(dir); err == nil && len(entries) > 0 {
		return nil, fmt.Errorf("%s is not empty: a backup is restored to a new folder", dir)
	}
	made, out, err := unpacked(ctx, r, filepath.Dir(filepath.Clean(dir)))
	if made != "" {
		defer os.RemoveAll(made)
	}
	if err != nil {
		return nil, err
	}
	for _, d := range out.Damaged {
		if d.What == db.File {
			return nil, fmt.Errorf("the database of the backup is damaged: %s", d.Text)
		}
	}
	if err := os.Remove(filepath.Join(made, damagedList)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	if err := os.Remove(dir); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	return out, os.Rename(made, dir)
}
