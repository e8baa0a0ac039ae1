package api

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/aymanbagabas/go-udiff"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/core/sheet"
	"hemble/service/store"
	"hemble/wire"
)

func (a *API) exercises(r *request) (any, error) { return a.Store.Exercises(r) }

func (a *API) exercise(r *request) (any, error) {
	out, err := a.Store.Exercise(r, r.Param("exercise"))
	if err != nil {
		return nil, err
	}
	out.Open, err = a.Store.OpenTo(r, out.Name, r.account)
	return out, err
}

// changes tells how one text differs from another, as a unified diff.
func changes(was, now string) string { return udiff.Unified("before", "now", was, now) }

// changesOf tells what a revision changes from the one before; empty for the first.
func (a *API) changesOf(r *request, rev *store.Revision) (string, error) {
	if rev.Number < 2 {
		return "", nil
	}
	before, err := a.Store.Revision(r, r.Param("exercise"), rev.Number-1)
	if err != nil {
		return "", err
	}
	return changes(before.Text, rev.Text), nil
}

// compare tells how a text differs from the newest revision.
func (a *API) compare(r *request) (any, error) {
	text, err := content(r, maxBody)
	if err != nil {
		return nil, err
	}
	newest, err := a.Store.Revision(r, r.Param("exercise"), 0)
	if err != nil {
		return nil, err
	}
	return wire.Compared{Revision: newest.Number, By: newest.By, Created: newest.Created, Changes: changes(newest.Text, string(text))}, nil
}

// checked reads an exercise's text; what is wrong in it is an error with its places.
func checked(text []byte) (*exercise.Exercise, error) {
	x, problems := exercise.Read("exercise.yaml", text)
	if x == nil {
		return nil, invalid(problems)
	}
	return x, nil
}

func (a *API) check(r *request) (any, error) {
	text, err := content(r, maxBody)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Read("exercise.yaml", text)
	out := wire.Checked{Valid: x != nil}
	if x != nil {
		out.Title = x.Title
		problems = append(problems, author.Check("exercise.yaml", x)...)
		out.Drawn = drawn(x)
	}
	out.Mistakes = mistakes(problems)
	return out, nil
}

func (a *API) putExercise(r *request) (any, error) {
	text, err := content(r, maxBody)
	if err != nil {
		return nil, err
	}
	var files []store.File
	switch last, err := a.Store.Revision(r, r.Param("exercise"), 0); {
	case err == store.ErrNotFound:
	case err != nil:
		return nil, err
	default:
		if files, err = a.Store.Folder(r, last.ID); err != nil {
			return nil, err
		}
	}
	return a.revise(r, text, files)
}

func (a *API) revise(r *request, text []byte, files []store.File) (any, error) {
	x, err := checked(text)
	if err != nil {
		return nil, err
	}
	if x.Name != r.Param("exercise") {
		return nil, unfit("name", "the file says name: %s, the address %s", x.Name, r.Param("exercise"))
	}
	fresh := r.GetHeader("If-None-Match") == "*"
	if err := a.Store.PutExercise(r, r.account, store.NewRevision{Name: x.Name, Title: x.Title, Brief: x.Brief, Marks: sheet.NewMarks(x.Marks()).String(), Text: text, Files: files, Fresh: fresh}); err != nil {
		return nil, err
	}
	saved, err := a.Store.Revision(r, x.Name, 0)
	if err != nil {
		return nil, err
	}
	out, err := a.Store.Exercise(r, x.Name)
	if err != nil {
		return nil, err
	}
	if out.Changes, err = a.changesOf(r, saved); err != nil {
		return nil, err
	}
	out.Open, err = a.Store.OpenTo(r, x.Name, r.account)
	return out, err
}

const exerciseFile = "exercise.yaml"

func (a *API) exportExercise(r *request) (any, error) {
	rev, err := a.Store.Revision(r, r.Param("exercise"), 0)
	if err != nil {
		return nil, err
	}
	files, err := a.Store.Folder(r, rev.ID)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range append([]store.File{{Path: exerciseFile, Data: []byte(rev.Text)}}, files...) {
		w, err := z.CreateHeader(&zip.FileHeader{Name: path.Join(r.Param("exercise"), f.Path), Method: zip.Deflate, Modified: rev.Created})
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.Data); err != nil {
			return nil, err
		}
	}
	err = z.Close()
	return raw{b.Bytes(), r.Param("exercise") + ".zip"}, err
}

func (a *API) importExercise(r *request) (any, error) {
	data, err := content(r, maxFolder)
	if err != nil {
		return nil, err
	}
	files, err := unzip(data, maxFolder, 500)
	if err != nil {
		return nil, unfit("zip", "%s", err)
	}
	i := slices.IndexFunc(files, func(f store.File) bool { return path.Base(f.Path) == exerciseFile && strings.Count(f.Path, "/") < 2 })
	if i < 0 {
		return nil, unfit("zip", "the archive has no %s at its top", exerciseFile)
	}
	text, root := files[i].Data, strings.TrimSuffix(files[i].Path, exerciseFile)
	var rest []store.File
	for k, f := range files {
		name, inside := strings.CutPrefix(f.Path, root)
		if k != i && inside {
			rest = append(rest, store.File{Path: name, Data: f.Data})
		}
	}
	open := func(name string) ([]byte, error) {
		for _, f := range files {
			if f.Path == path.Join(root, name) {
				return f.Data, nil
			}
		}
		return nil, errors.New("the archive has no such file")
	}
	if x, problems := (exercise.Reader{File: exerciseFile, Open: open}).Read(text); x == nil {
		return nil, invalid(problems)
	}
	if text, err = exercise.Flatten(text, open); err != nil {
		return nil, unfit("include", "%s", err)
	}
	return a.revise(r, text, rest)
}

// maxFolder bounds an exercise's folder, packed and unpacked.
const maxFolder = 16 << 20

// unzip unpacks an archive in memory, up to so many bytes and files. Paths that lead out, and names that no system takes,
// are errors; folders, and what archivers leave behind, are left out.
func unzip(data []byte, mostBytes int64, mostFiles int) (out []store.File, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("this is no zip archive, or a damaged one: %w", err)
	}
	left := mostBytes
	for _, f := range z.File {
		name := strings.ReplaceAll(f.Name, `\`, "/")
		clean := path.Clean(name)
		switch {
		case strings.HasSuffix(name, "/") || f.FileInfo().IsDir():
			continue
		case !f.Mode().IsRegular():
			return nil, fmt.Errorf("%.60q is not a plain file", f.Name)
		case path.IsAbs(clean) || clean == ".." || strings.HasPrefix(clean, "../") || strings.Contains(clean, ":") || strings.ContainsAny(clean, "\x00\n\r") || len(clean) > 250:
			return nil, fmt.Errorf("the name %.60q leads out of the archive", f.Name)
		case strings.HasPrefix(path.Base(clean), ".") || strings.HasPrefix(clean, "__MACOSX/"):
			continue
		case len(out) == mostFiles:
			return nil, fmt.Errorf("the archive has more than %d files", mostFiles)
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", clean, err)
		}
		content, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", clean, err)
		}
		if left -= int64(len(content)); left < 0 {
			return nil, fmt.Errorf("the archive unpacks to more than %d bytes", mostBytes)
		}
		out = append(out, store.File{Path: clean, Data: content})
	}
	return out, nil
}

func (a *API) revisions(r *request) (any, error) { return a.Store.Revisions(r, r.Param("exercise")) }

func (a *API) revision(r *request) (any, error) {
	n, err := numbered(r, "revision")
	if err != nil || n == 0 {
		return nil, store.ErrNotFound
	}
	rev, err := a.Store.Revision(r, r.Param("exercise"), int(n))
	if err != nil {
		return nil, err
	}
	rev.Changes, err = a.changesOf(r, rev)
	return rev.Revision, err
}

func (a *API) schema(*request) (any, error) { return exercise.Schema(), nil }

func (a *API) characterROM(r *request) (any, error) { return glyph.Table(), nil }
