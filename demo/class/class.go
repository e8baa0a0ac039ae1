// Package class brings the demo course into a service through the API, as an instructor would: a class, its students
// and their submissions.
package class

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"time"

	"hemble/client"
	"hemble/demo"
	"hemble/wire"
)

// The class of the demo course, and who signs in to see it. Its service listens on this machine only.
const (
	Name       = "lock-house"
	Title      = "Wherry Lock, first year"
	Instructor = "instructor"
	Assistant  = "assistant"
	Student    = "marsh"
	Password   = "wherry-lock"
)

// Set makes the class with its students, its exercises and its libraries. What is there already stays.
func Set(ctx context.Context, api *client.Client, now time.Time) error {
	if _, err := api.AddClass(ctx, Name, Title); client.Code(err) == "taken" {
		return nil // the folder was kept
	} else if err != nil {
		return err
	}
	var list bytes.Buffer
	w := csv.NewWriter(&list)
	rows := [][]string{{"login", "name", "number", "group"}}
	for _, s := range demo.Students() {
		rows = append(rows, []string{s.Login, s.Name, s.Number, s.Group})
	}
	if err := w.WriteAll(rows); err != nil {
		return err
	}
	if _, err := api.PutRoster(ctx, Name, list.Bytes(), false); err != nil {
		return err
	}
	if err := api.PutMember(ctx, Name, Assistant,
		wire.SetMember{Name: "C. Waterman", Role: wire.Assistant}); err != nil {
		return err
	}
	for _, login := range []string{Assistant, Student} {
		link, err := api.MemberLink(ctx, Name, login)
		if err != nil {
			return err
		}
		if _, err := client.New(api.Server, "").UseLink(ctx, link.Token, Password); err != nil {
			return err
		}
	}
	if err := libraries(ctx, api); err != nil {
		return err
	}
	course, err := demo.Course()
	if err != nil {
		return err
	}
	for i, x := range course {
		folder, err := archive(map[string][]byte{"exercise.yaml": x.Text, x.ReferenceName: x.Reference})
		if err != nil {
			return err
		}
		if _, err := api.PutExerciseFolder(ctx, x.Name, folder); err != nil {
			return err
		}
		opens, due := now.AddDate(0, 0, i-len(course)), now.AddDate(0, 0, 2+i/3)
		if _, err := api.Assign(ctx, Name, x.Name,
			wire.SetAssignment{Policy: wire.Policy{Opens: opens, Due: &due, Late: wire.LatePerDay, PerDay: 10,
				Counts: wire.CountsBest}}); err != nil {
			return err
		}
	}
	return nil
}

// libraries registers the course's libraries with the class.
func libraries(ctx context.Context, api *client.Client) error {
	all := demo.Library()
	dirs, err := fs.ReadDir(all, ".")
	if err != nil {
		return err
	}
	for _, d := range dirs {
		names, err := fs.Glob(all, path.Join(d.Name(), "*"))
		if err != nil {
			return err
		}
		files := map[string][]byte{}
		for _, f := range names {
			if files[path.Base(f)], err = fs.ReadFile(all, f); err != nil {
				return err
			}
		}
		packed, err := archive(files)
		if err != nil {
			return err
		}
		if err := api.PutLibrary(ctx, Name, d.Name(), packed); err != nil {
			return fmt.Errorf("the library %s: %w", d.Name(), err)
		}
	}
	return nil
}

// archive packs files by their names.
func archive(files map[string][]byte) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range slices.Sorted(maps.Keys(files)) {
		w, err := z.Create(name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(files[name]); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return b.Bytes(), err
}

// HandIn submits what the course's students made for one exercise, as far as want picks it (nil for all), and gives
// the submissions' ids.
func HandIn(ctx context.Context, api *client.Client, x demo.Exercise,
	want func(exercise, file string) bool) (ids []string, err error) {
	for _, f := range x.Files {
		if want != nil && !want(x.Name, f.Name) {
			continue
		}
		r, err := api.Submit(ctx, Name, x.Name, client.Work{Student: f.Login, File: f.Name, Data: f.Data})
		if err != nil {
			return nil, err
		}
		ids = append(ids, r.ID)
	}
	return ids, nil
}
