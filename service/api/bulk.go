package api

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"hemble/build"
	"hemble/service/roster"
	"hemble/service/store"
	"hemble/wire"
)

// mostBulk bounds the files that are handed in at once.
const mostBulk = 2000

func (a *API) addBulk(r *request) (any, error) {
	kinds, err := a.takes(r, r.opening)
	if err != nil {
		return nil, err
	}
	form, err := readForm(r, maxBulk, mostBulk)
	if err != nil {
		return nil, err
	}
	var given []store.File
	for _, f := range form.files {
		if f.key == "file" {
			given = append(given, store.File{Path: f.name, Data: f.data})
		}
	}
	if len(given) == 0 {
		return nil, bad("a bulk is a form with one or more file")
	}
	if len(given) == 1 && strings.EqualFold(path.Ext(given[0].Path), ".zip") {
		inside, err := unzip(given[0].Data, maxBulk, mostBulk*20)
		if err != nil {
			return nil, unfit("zip", "%s: %s", given[0].Path, err)
		}
		if given, err = works(inside); err != nil {
			return nil, err
		}
	}
	members, err := a.Store.Members(r, r.class.ID)
	if err != nil {
		return nil, err
	}
	matcher := roster.NewMatcher(plainMembers(members))
	var paths []string
	for _, f := range given {
		paths = append(paths, f.Path)
	}
	matcher.Learn(paths, r.opening.Exercise, r.opening.Title)
	var files []store.BulkFile
	for i, f := range given {
		b := store.BulkFile{Data: f.Data, BulkFile: wire.BulkFile{Number: i, Name: f.Path, Size: len(f.Data), How: "nobody"}}
		if err := taken(kinds, path.Base(f.Path), f.Data); err != nil {
			b.Problem = err.Error()
		} else {
			m := matcher.Match(f.Path)
			b.Login, b.How, b.Sure, b.Candidates = m.Login, m.How, m.Sure, m.Candidates
		}
		files = append(files, b)
	}
	twice(files)
	id, err := a.Store.AddBulk(r, r.account, r.opening.ID, files)
	if err != nil {
		return nil, err
	}
	out, _, err := a.Store.Bulk(r, r.opening.ID, id)
	return out, err
}

// twice makes files doubtful that are taken for the same student's: which of them is the newer nobody can tell.
func twice(files []store.BulkFile) {
	count := map[string]int{}
	for _, f := range files {
		count[f.Login]++
	}
	for i := range files {
		if files[i].Login != "" && count[files[i].Login] > 1 {
			files[i].Sure, files[i].How, files[i].Candidates = false, files[i].How+", one of several", []string{files[i].Login}
		}
	}
}

// works makes pieces of work from the files of an archive: each folder with source files is one, packed again, as is each
// file elsewhere. A folder that holds all others is looked through.
func works(files []store.File) ([]store.File, error) {
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
	folders := map[string][]store.File{}
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
	var out []store.File
	for _, name := range order {
		inside := folders[name]
		sources := slices.ContainsFunc(inside, func(f store.File) bool { return build.IsSource(f.Path, nil) })
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
		out = append(out, store.File{Path: name + ".zip", Data: b.Bytes()})
	}
	if len(out) > mostBulk {
		return nil, unfit("zip", "the archive has %d pieces of work; %d are taken at once", len(out), mostBulk)
	}
	return out, nil
}

func (a *API) bulk(r *request) (any, error) {
	out, _, err := a.Store.Bulk(r, r.opening.ID, r.Param("bulk"))
	if err != nil {
		return nil, err
	}
	return out, nil
}

// confirmBulk hands in what is sure and what was confirmed. It can be done again where it broke off: work that was handed
// in is not handed in twice.
func (a *API) confirmBulk(r *request) (any, error) {
	in, err := body[wire.Confirm](r)
	if err != nil {
		return nil, err
	}
	out, files, err := a.Store.Bulk(r, r.opening.ID, r.Param("bulk"))
	if err != nil {
		return nil, err
	}
	if out.Done {
		return nil, &store.Refusal{Code: "done", Text: "these files were handed in already"}
	}
	whose := map[int]*store.Member{}
	for _, f := range files {
		login, named := in.Logins[f.Number]
		switch {
		case named && login != "" && f.Problem != "":
			return nil, unfit("file", "%s cannot be taken: %s", f.Name, f.Problem)
		case f.Problem != "":
			continue
		case !named && f.Sure:
			login = f.Login
		}
		if login == "" {
			continue
		}
		m, err := a.Store.Student(r, r.class.ID, login)
		if errors.Is(err, store.ErrNotFound) {
			return nil, unfit("student", "%s: the class has no student %.64q", f.Name, login)
		}
		if err != nil {
			return nil, err
		}
		whose[f.Number] = m
	}
	for n := range in.Logins {
		if n < 0 || n >= len(files) {
			return nil, unfit("file", "there is no file %d", n)
		}
	}
	slices.SortFunc(files, func(x, y store.BulkFile) int { return x.Number - y.Number })
	for _, f := range files {
		m := whose[f.Number]
		if m == nil || f.Submission != "" {
			continue
		}
		data, err := a.Store.Blobs.Get(r, f.Blob)
		if err != nil {
			return nil, err
		}
		receipt, err := a.hand(r, store.Handed{Opening: r.opening, Student: m, By: r.account, File: fileName(f.Name), Data: data})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		if err := a.Store.BulkTaken(r, out.ID, f.Number, m.Login, receipt.ID); err != nil {
			return nil, err
		}
	}
	if err := a.Store.BulkDone(r, out.ID); err != nil {
		return nil, err
	}
	return a.bulk(r)
}
