package submissions

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"hemble/build"
	"hemble/service/classes/roster"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

// mostBulk bounds the files that are submitted at once.
const mostBulk = 2000

func (a *API) addBulk(r *web.Request) (any, error) {
	kinds, err := a.Reader.Takes(r, r.Assignment)
	if err != nil {
		return nil, err
	}
	form, err := web.ReadForm(r, web.MaxBulk, mostBulk)
	if err != nil {
		return nil, err
	}
	var given []exercises.File
	for _, f := range form.All("file") {
		given = append(given, exercises.File{Path: f.Name, Data: f.Data})
	}
	if len(given) == 0 {
		return nil, web.Bad("expected a form with one or more files")
	}
	if len(given) == 1 && strings.EqualFold(path.Ext(given[0].Path), ".zip") {
		inside, err := exercises.Unzip(given[0].Data, web.MaxBulk, mostBulk*20)
		if err != nil {
			return nil, web.Unfit("zip", "%s: %s", given[0].Path, err)
		}
		if given, err = works(inside); err != nil {
			return nil, err
		}
	}
	members, err := a.Classes.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	matcher := roster.NewMatcher(record.WireMembers(members))
	var paths []string
	for _, f := range given {
		paths = append(paths, f.Path)
	}
	matcher.Learn(paths, r.Assignment.Exercise, r.Assignment.Title)
	var files []BulkFile
	for i, f := range given {
		b := BulkFile{Data: f.Data, Number: i, Name: f.Path, Size: len(f.Data), How: "nobody"}
		if err := taken(kinds, path.Base(f.Path), f.Data); err != nil {
			b.Problem = err.Error()
		} else {
			m := matcher.Match(f.Path)
			b.Login, b.How, b.Sure, b.Candidates = m.Login, m.How, m.Sure, m.Candidates
		}
		files = append(files, b)
	}
	twice(files)
	id, err := a.Store.AddBulk(r, r.Account, r.Assignment.ID, files)
	if err != nil {
		return nil, err
	}
	return a.bulkNow(r, id)
}

// twice makes files doubtful that are taken for the same student's: which of them is the newer nobody can tell.
func twice(files []BulkFile) {
	count := map[string]int{}
	for _, f := range files {
		count[f.Login]++
	}
	for i := range files {
		if files[i].Login != "" && count[files[i].Login] > 1 {
			files[i].Sure, files[i].How, files[i].Candidates = false, files[i].How+
				", one of several", []string{files[i].Login}
		}
	}
}

// works makes pieces of work from the files of an archive: each folder with source files is one, packed again, as is
// each file elsewhere. A folder that holds all others is looked through.
func works(files []exercises.File) ([]exercises.File, error) {
	for len(files) > 0 {
		top, _, nested := strings.Cut(files[0].Path, "/")
		deep := false
		for _, f := range files {
			rest, inside := strings.CutPrefix(f.Path, top+"/")
			nested = nested && inside
			deep = deep || strings.Contains(rest, "/")
		}
		if !nested || !deep {
			break
		}
		for i := range files {
			files[i].Path = strings.TrimPrefix(files[i].Path, top+"/")
		}
	}
	folders := map[string][]exercises.File{}
	var order []string
	for _, f := range files {
		top, _, nested := strings.Cut(f.Path, "/")
		if !nested {
			top = f.Path
		}
		if folders[top] == nil {
			order = append(order, top)
		}
		folders[top] = append(folders[top], f)
	}
	var out []exercises.File
	for _, name := range order {
		inside := folders[name]
		sources := slices.ContainsFunc(inside, func(f exercises.File) bool { return build.IsSource(f.Path, nil) })
		if len(inside) == 1 || !sources {
			out = append(out, inside...)
			continue
		}
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, f := range inside {
			w, err := z.Create(strings.TrimPrefix(f.Path, name+"/"))
			if err != nil {
				return nil, err
			}
			if _, err := w.Write(f.Data); err != nil {
				return nil, err
			}
		}
		if err := z.Close(); err != nil {
			return nil, err
		}
		out = append(out, exercises.File{Path: name + ".zip", Data: b.Bytes()})
	}
	if len(out) > mostBulk {
		return nil, web.Unfit("zip", "the archive has %d submissions; the limit is %d", len(out), mostBulk)
	}
	return out, nil
}

func (a *API) bulk(r *web.Request) (any, error) {
	return a.bulkNow(r, r.Param("bulk"))
}

func (a *API) bulkNow(r *web.Request, id string) (*wire.Bulk, error) {
	b, err := a.Store.Bulk(r, r.Assignment.ID, id)
	if err != nil {
		return nil, err
	}
	out := b.Wire()
	return &out, nil
}

// confirmBulk submits what is sure and what was confirmed. It can be done again where it broke off: work that was
// submitted is not submitted twice.
func (a *API) confirmBulk(r *web.Request) (any, error) {
	in, err := web.Body[wire.Confirm](r)
	if err != nil {
		return nil, err
	}
	bulk, err := a.Store.Bulk(r, r.Assignment.ID, r.Param("bulk"))
	if err != nil {
		return nil, err
	}
	files := bulk.Files
	if bulk.Done {
		return nil, &db.Refusal{Code: "done", Text: "these files have been submitted already"}
	}
	whose := map[int]*record.Member{}
	for _, f := range files {
		login, named := in.Logins[f.Number]
		switch {
		case named && login != "" && f.Problem != "":
			return nil, web.Unfit("file", "%s cannot be accepted: %s", f.Name, f.Problem)
		case f.Problem != "":
			continue
		case !named && f.Sure:
			login = f.Login
		}
		if login == "" {
			continue
		}
		m, err := a.Classes.Student(r, r.Class.ID, login)
		if errors.Is(err, db.ErrNotFound) {
			return nil, web.Unfit("student", "%s: the class has no student %.64q", f.Name, login)
		}
		if err != nil {
			return nil, err
		}
		whose[f.Number] = m
	}
	for n := range in.Logins {
		if n < 0 || n >= len(files) {
			return nil, web.Unfit("file", "there is no file %d", n)
		}
	}
	slices.SortFunc(files, func(x, y BulkFile) int { return x.Number - y.Number })
	for _, f := range files {
		m := whose[f.Number]
		if m == nil || f.Submission != "" {
			continue
		}
		data, err := a.Store.Blobs.Get(r, f.Blob)
		if err != nil {
			return nil, err
		}
		receipt, err := a.hand(r, Work{Assignment: r.Assignment, Student: m, By: r.Account, File: web.FileName(f.Name),
			Data: data})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		if err := a.Store.BulkTaken(r, bulk.ID, f.Number, m.Login, receipt.ID); err != nil {
			return nil, err
		}
	}
	if err := a.Store.BulkDone(r, bulk.ID); err != nil {
		return nil, err
	}
	return a.bulk(r)
}
