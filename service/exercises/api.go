package exercises

import (
	"archive/zip"
	"bytes"
	"errors"
	"path"
	"slices"
	"strings"

	"github.com/aymanbagabas/go-udiff"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/glyph"
	"hemble/core/schematic"
	"hemble/core/sheet"
	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls about exercises and about how they are open to classes.
type API struct {
	Store   *Store
	Classes *classes.Store
	Reader  *Reader

	// Shown is an assignment as who asks may see it, with where a student stands.
	Shown func(r *web.Request, o *record.Assignment) (wire.Assignment, error)
}

func (a *API) exercises(r *web.Request) (any, error) {
	all, err := a.Store.Exercises(r)
	out := []wire.Exercise{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out, err
}

func (a *API) exercise(r *web.Request) (any, error) { return a.whole(r, r.Param("exercise")) }

// whole is an exercise with the caller's classes that it is open to.
func (a *API) whole(r *web.Request, name string) (*wire.Exercise, error) {
	x, err := a.Store.Exercise(r, name)
	if err != nil {
		return nil, err
	}
	out := x.Wire()
	if out.Works, err = a.Reader.WorksFor(r, x); err != nil {
		return nil, err
	}
	open, err := a.Store.AssignedTo(r, name, r.Account)
	for _, o := range open {
		out.Assigned = append(out.Assigned, wire.AssignedTo(o))
	}
	return &out, err
}

// changes returns how one text differs from another, as a unified diff.
func changes(was, now string) string { return udiff.Unified("before", "now", was, now) }

// changesOf returns what a revision changes from the one before; empty for the first.
func (a *API) changesOf(r *web.Request, rev *Revision) (string, error) {
	if rev.Number < 2 {
		return "", nil
	}
	before, err := a.Store.Revision(r, r.Param("exercise"), rev.Number-1)
	if err != nil {
		return "", err
	}
	return changes(before.Text, rev.Text), nil
}

// compare returns how a text differs from the newest revision.
func (a *API) compare(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxBody)
	if err != nil {
		return nil, err
	}
	newest, err := a.Store.Revision(r, r.Param("exercise"), 0)
	if err != nil {
		return nil, err
	}
	return wire.Compared{Revision: newest.Number, By: newest.By, Created: newest.Created,
		Changes: changes(newest.Text, string(text))}, nil
}

// checked reads an exercise's text; what is wrong in it is an error with its places.
func checked(text []byte) (*exercise.Exercise, error) {
	x, problems := exercise.Read(FileName, text)
	if x == nil {
		return nil, web.Invalid(problems)
	}
	return x, nil
}

func (a *API) check(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxBody)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Read(FileName, text)
	out := wire.Checked{Valid: x != nil}
	if x != nil {
		out.Title = x.Title
		problems = append(problems, author.Check(FileName, x)...)
		out.Drawn = drawn(x)
	}
	out.Mistakes = web.Mistakes(problems)
	return out, nil
}

func (a *API) putExercise(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxBody)
	if err != nil {
		return nil, err
	}
	var files []File
	switch last, err := a.Store.Revision(r, r.Param("exercise"), 0); {
	case err == db.ErrNotFound:
	case err != nil:
		return nil, err
	default:
		if files, err = a.Store.Folder(r, last.ID); err != nil {
			return nil, err
		}
	}
	return a.revise(r, text, files, onlyNew(r))
}

// onlyNew reports whether no exercise may have the name yet.
func onlyNew(r *web.Request) bool { return r.GetHeader("If-None-Match") == "*" }

func (a *API) revise(r *web.Request, text []byte, files []File, fresh bool) (any, error) {
	x, err := checked(text)
	if err != nil {
		return nil, err
	}
	if x.Name != r.Param("exercise") {
		return nil, web.Unfit("name", "the file says name: %s, the address %s", x.Name, r.Param("exercise"))
	}
	if err := a.Store.PutExercise(r, r.Account,
		NewRevision{Name: x.Name, Title: x.Title, Brief: x.Brief, Marks: sheet.NewMarks(x.Marks()).String(), Text: text,
			Files: files, Fresh: fresh}); err != nil {
		return nil, err
	}
	saved, err := a.Store.Revision(r, x.Name, 0)
	if err != nil {
		return nil, err
	}
	out, err := a.whole(r, x.Name)
	if err != nil {
		return nil, err
	}
	out.Changes, err = a.changesOf(r, saved)
	return out, err
}

// FileName is the name of an exercise's text in its folder.
const FileName = "exercise.yaml"

func (a *API) exportExercise(r *web.Request) (any, error) {
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
	for _, f := range append([]File{{Path: FileName, Data: []byte(rev.Text)}}, files...) {
		w, err := z.CreateHeader(&zip.FileHeader{Name: path.Join(r.Param("exercise"), f.Path), Method: zip.Deflate,
			Modified: rev.Created})
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.Data); err != nil {
			return nil, err
		}
	}
	err = z.Close()
	return web.Raw{Data: b.Bytes(), Name: r.Param("exercise") + ".zip"}, err
}

func (a *API) importExercise(r *web.Request) (any, error) {
	data, err := web.Content(r, maxFolder)
	if err != nil {
		return nil, err
	}
	files, err := Unzip(data, maxFolder, 500)
	if err != nil {
		return nil, web.Unfit("zip", "%s", err)
	}
	i := slices.IndexFunc(files,
		func(f File) bool { return path.Base(f.Path) == FileName && strings.Count(f.Path, "/") < 2 })
	if i < 0 {
		return nil, web.Unfit("zip", "the archive has no %s at its top", FileName)
	}
	text, root := files[i].Data, strings.TrimSuffix(files[i].Path, FileName)
	var rest []File
	for k, f := range files {
		name, inside := strings.CutPrefix(f.Path, root)
		if k != i && inside {
			rest = append(rest, File{Path: name, Data: f.Data})
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
	if x, problems := (exercise.Reader{File: FileName, Open: open}).Read(text); x == nil {
		return nil, web.Invalid(problems)
	}
	if text, err = exercise.Flatten(text, open); err != nil {
		return nil, web.Unfit("include", "%s", err)
	}
	return a.revise(r, text, rest, onlyNew(r))
}

// maxFolder bounds an exercise's folder, packed and unpacked.
const maxFolder = 16 << 20

func (a *API) revisions(r *web.Request) (any, error) {
	all, err := a.Store.Revisions(r, r.Param("exercise"))
	out := []wire.Revision{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out, err
}

func (a *API) revision(r *web.Request) (any, error) {
	n, err := web.Numbered(r, "revision")
	if err != nil || n == 0 {
		return nil, db.ErrNotFound
	}
	rev, err := a.Store.Revision(r, r.Param("exercise"), int(n))
	if err != nil {
		return nil, err
	}
	out := rev.Wire()
	out.Changes, err = a.changesOf(r, rev)
	return out, err
}

func (a *API) schema(*web.Request) (any, error) { return exercise.Schema(), nil }

func (a *API) characterROM(r *web.Request) (any, error) { return glyph.Table(), nil }

// drawn is the bench of an exercise as a diagram and as a table.
func drawn(x *exercise.Exercise) wire.Drawn {
	out := wire.Drawn{Schematic: schematic.Draw(x), Wires: schematic.Wires(x)}
	for _, other := range x.Others {
		out.Others = append(out.Others, wire.OnChip{Chip: other.Chip.Title, Clock: other.Clock.String(),
			Schematic: schematic.Draw(other), Wires: schematic.Wires(other)})
	}
	return out
}
