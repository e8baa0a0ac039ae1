package exercises

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/ports"
	"hemble/service/record"
	"hemble/wire"
)

// secretSetting is the setting that values which vary follow from. It is made at the first start, and is in the
// database alone.
const secretSetting = "values-secret"

// Reader reads the texts of exercises as a student has them.
type Reader struct {
	blobs  ports.Blobs
	secret []byte
}

// NewReader makes one for a data folder; random gives a secret where there is none yet.
func NewReader(ctx context.Context, s *db.DB, random func() []byte) (*Reader, error) {
	text, err := s.Setting(ctx, secretSetting)
	if err == nil && text == "" {
		text = hex.EncodeToString(random())
		err = s.Set(ctx, secretSetting, text)
	}
	if err != nil {
		return nil, err
	}
	secret, err := hex.DecodeString(text)
	return &Reader{s.Blobs, secret}, err
}

// Read reads an exercise with the values of a student.
func (r *Reader) Read(text []byte, name, login string) (*exercise.Exercise, error) {
	x, problems := exercise.Reader{File: FileName, Student: exercise.StudentKey(r.secret, name, login)}.Read(text)
	if x == nil {
		return nil, fmt.Errorf("the exercise is no longer valid: %w", exercise.Error(problems))
	}
	return x, nil
}

// Bundle writes an exercise with the values of a student, or what of it they may have, for a live bench.
func (r *Reader) Bundle(text []byte, name, login string, p exercise.Share) ([]byte, error) {
	return exercise.Reader{File: FileName, Student: exercise.StudentKey(r.secret, name, login)}.Bundle(text, p)
}

// BundleOf is that of an assignment's exercise.
func (r *Reader) BundleOf(ctx context.Context, o *record.Assignment, login string, p exercise.Share) ([]byte, error) {
	text, err := r.blobs.Get(ctx, o.Blob)
	if err != nil {
		return nil, err
	}
	return r.Bundle(text, o.Exercise, login, p)
}

// Of reads the exercise of an assignment with the values of a student; "" for nobody's.
func (r *Reader) Of(ctx context.Context, o *record.Assignment, login string) (*exercise.Exercise, error) {
	text, err := r.blobs.Get(ctx, o.Blob)
	if err != nil {
		return nil, err
	}
	return r.Read(text, o.Exercise, login)
}

// Works are kinds of work with how their files are called, for all chips of an exercise.
func Works(x *exercise.Exercise, kinds []string) []wire.Work {
	out := []wire.Work{}
	for _, kind := range kinds {
		w := wire.Work{Kind: kind, Endings: []string{}}
		if kind == exercise.Capture {
			w.Endings = append(w.Endings, ".vcd")
		}
		for _, one := range x.Every() {
			var endings []string
			switch {
			case one.Chip == nil:
			case kind == exercise.Firmware:
				endings = one.Chip.Firmware.Endings()
			case kind == exercise.Source:
				endings = build.Endings(one.Chip)
			}
			for _, e := range endings {
				if !slices.Contains(w.Endings, e) {
					w.Endings = append(w.Endings, e)
				}
			}
		}
		out = append(out, w)
	}
	return out
}

// WorksFor are those that chips of an exercise can be given.
func (r *Reader) WorksFor(ctx context.Context, x *Exercise) ([]wire.Work, error) {
	text, err := r.blobs.Get(ctx, x.Blob)
	if err != nil {
		return nil, err
	}
	read, err := r.Read(text, x.Name, "")
	if err != nil {
		return nil, err
	}
	return Works(read, []string{exercise.Firmware, exercise.Source}), nil
}

// Works are those that an assignment takes.
func (r *Reader) Works(ctx context.Context, o *record.Assignment) ([]wire.Work, error) {
	x, err := r.Of(ctx, o, "")
	if err != nil {
		return nil, err
	}
	if len(o.Takes) > 0 {
		return Works(x, o.Takes), nil
	}
	return Works(x, x.Takes), nil
}

// Takes are the kinds of work that an assignment takes: its own, or those of its exercise.
func (r *Reader) Takes(ctx context.Context, o *record.Assignment) ([]string, error) {
	if len(o.Takes) > 0 {
		return o.Takes, nil
	}
	x, err := r.Of(ctx, o, "")
	if err != nil {
		return nil, err
	}
	return x.Takes, nil
}

// VisibleMarks are the marks of an exercise without those of hidden trials: before the release nothing tells of them.
func (r *Reader) VisibleMarks(ctx context.Context, o *record.Assignment) (n json.Number, err error) {
	if o.Released != nil {
		return o.Marks, nil
	}
	x, err := r.Of(ctx, o, "")
	if err != nil {
		return "", err
	}
	of := sheet.NewMarks(x.Marks())
	for _, t := range x.Trials {
		if !t.Hidden {
			continue
		}
		for _, e := range t.Expect {
			if !e.Bonus {
				of = of.Sub(sheet.NewMarks(e.Marks))
			}
		}
	}
	return json.Number(of.String()), nil
}
