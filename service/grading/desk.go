package grading

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"hemble/build"
	"hemble/core/bench"
	"hemble/core/capture"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/core/source"
	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/submissions"
)

// Grader works over one store.
type Grader struct {
	Builder   *build.Builder // of source; nil where building is off
	NoBuilder string         // why it is

	Built, Ran func(took time.Duration) // told how long builds and runs took; nil for nobody

	store     *Store
	classes   *classes.Store
	reader    *exercises.Reader
	libraries string // folder where libraries of classes are unpacked
	unpacking sync.Mutex
	marker    marking.Marker
}

// NewGrader makes a desk; cache is a folder for what can be made again.
func NewGrader(s *Store, c *classes.Store, reader *exercises.Reader, cache string) *Grader {
	return &Grader{store: s, classes: c, reader: reader, libraries: filepath.Join(cache, "class-libraries"),
		marker: marking.Marker{Reels: true}}
}

// work is a piece of work that is ready to run.
type work struct {
	exercise *exercise.Exercise
	file     []byte          // firmware, or a capture
	source   *source.Program // that the firmware was built from; nil where it was handed in built
	messages []sheet.Message
	refused  *marking.Result // set where there is nothing to run: it says why
}

// prepare reads the exercise, applies a wiring and builds source.
func (d *Grader) prepare(ctx context.Context, m *Material) (*work, error) {
	x, err := d.reader.Read(m.Text, m.Exercise, m.Student)
	if err != nil {
		return nil, err
	}
	x = build.For(x, m.File, m.Data)
	w := &work{exercise: x, file: m.Data}
	if m.Wiring != nil {
		rewired, problems := x.Rewire("wiring.yaml", m.Wiring)
		for _, p := range problems {
			kind := "error"
			if p.Warning {
				kind = "warning"
			}
			w.messages = append(w.messages, sheet.Message{File: p.File, Line: p.Line, Column: p.Col, Kind: kind,
				Text: p.Text})
		}
		if rewired == nil {
			w.refused = marking.Unbuilt(x, m.File, "the wiring cannot be built", w.messages)
			return w, nil
		}
		w.exercise = rewired
	}
	if x.Chip == nil || !build.IsSource(m.File, m.Data) {
		return w, nil
	}
	dirs, err := d.classLibraries(ctx, m.Class)
	if err != nil {
		return nil, err
	}
	defer d.timed(d.Built)()
	made, err := d.build(ctx, Tried{m.File, m.Data}, dirs, x)
	if err != nil {
		return nil, err
	}
	w.messages = append(w.messages, made.Messages...)
	if made.Failed() {
		w.refused = marking.Unbuilt(x, m.File, made.Why(), w.messages)
	}
	w.file, w.source = made.ELF, made.Source
	return w, nil
}

// timed returns how long it is until the function that it gives is called.
func (d *Grader) timed(tell func(time.Duration)) func() {
	began := time.Now()
	return func() {
		if tell != nil {
			tell(time.Since(began))
		}
	}
}

func (d *Grader) build(ctx context.Context, f Tried, libraries []string, x *exercise.Exercise) (*build.Result, error) {
	if d.Builder == nil {
		return &build.Result{Messages: []sheet.Message{{Kind: "error", Text: d.NoBuilder}}}, nil
	}
	source, err := build.FromFile(f.File, f.Data)
	if err != nil {
		return &build.Result{Messages: []sheet.Message{{Kind: "error", Text: err.Error()}}}, nil
	}
	return d.Builder.With(libraries...).Build(ctx, source, build.Target{Chip: x.Chip, Clock: int64(x.Clock),
		ClockPin: x.ClockPin})
}

// classLibraries unpacks the libraries of a class where they are not yet, and gives the folders that hold them.
func (d *Grader) classLibraries(ctx context.Context, class int64) (dirs []string, err error) {
	all, err := d.classes.Libraries(ctx, class)
	if err != nil {
		return nil, err
	}
	d.unpacking.Lock()
	defer d.unpacking.Unlock()
	for _, l := range all {
		dir := filepath.Join(d.libraries, l.Blob[:32], l.Name)
		dirs = append(dirs, filepath.Dir(dir))
		if _, err := os.Stat(dir); err == nil {
			continue
		}
		data, err := d.store.Blobs.Get(ctx, l.Blob)
		if err != nil {
			return nil, err
		}
		source, err := build.FromFile(l.Name+".zip", data)
		if err != nil {
			return nil, err
		}
		if err := unpackTo(dir, source.Files); err != nil {
			return nil, err
		}
	}
	return dirs, nil
}

// unpackTo writes files to a folder that is there whole or not at all. Their paths stay inside: build has seen to it.
func unpackTo(dir string, files []build.File) error {
	made := dir + ".new"
	if err := os.RemoveAll(made); err != nil {
		return err
	}
	for _, f := range files {
		path := filepath.Join(made, filepath.FromSlash(f.Path))
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(path, f.Data, 0o644); err != nil {
			return err
		}
	}
	return os.Rename(made, dir)
}

// captured tells of which trial a capture is: that whose name is in the file's, the first where there is none.
func captured(x *exercise.Exercise, file string) int {
	plain := func(s string) string {
		return strings.Map(func(r rune) rune {
			if strings.ContainsRune(" -_", r) {
				return -1
			}
			return r
		}, strings.ToLower(s))
	}
	for i, t := range x.Trials {
		if strings.Contains(plain(file), plain(t.Name)) {
			return i
		}
	}
	return 0
}

func (d *Grader) markCapture(ctx context.Context, w *work, file string) (*marking.Result, error) {
	tape, err := capture.Open(bytes.NewReader(w.file), w.exercise.Chip, capture.Options{})
	if err != nil {
		return marking.Unbuilt(w.exercise, file, "the capture could not be read: "+err.Error(), nil), nil
	}
	return marking.MarkCapture(ctx, w.exercise, captured(w.exercise, file), file, tape)
}

// ready prepares a submission of which one trial is to be run again; ErrNotFound where there is no such thing.
func (d *Grader) ready(ctx context.Context, submission string, job int64, trial int) (*Material, *work, error) {
	m, err := d.store.Material(ctx, submission, job)
	if err != nil {
		return nil, nil, err
	}
	w, err := d.prepare(ctx, m)
	if err == nil && (w.refused != nil || trial < 0 || trial >= len(w.exercise.Trials)) {
		err = db.ErrNotFound
	}
	return m, w, err
}

// image is what is programmed; nil on a bench without a chip.
func (w *work) image() (*firmware.Image, error) {
	if w.exercise.Chip == nil {
		return nil, nil
	}
	im, err := firmware.Read(w.file, w.exercise.Chip.Firmware)
	if err != nil {
		return nil, db.ErrNotFound
	}
	return im, nil
}

// Reel gives what the displays showed in one trial of a submission, as JSON, making it again where it is no longer
// kept.
func (d *Grader) Reel(ctx context.Context, submission string, job int64, trial int) ([]byte, error) {
	if data, err := d.store.Reel(job, trial); !errors.Is(err, db.ErrNotFound) {
		return data, err
	}
	m, w, err := d.ready(ctx, submission, job, trial)
	if err != nil {
		return nil, err
	}
	if submissions.IsCapture(m.File) && w.exercise.Chip != nil {
		r, err := d.markCapture(ctx, w, m.File)
		if err != nil || len(r.Reels) == 0 || trial > 0 {
			return nil, errors.Join(err, db.ErrNotFound)
		}
		return json.Marshal(r.Reels[0])
	}
	im, err := w.image()
	if err != nil {
		return nil, err
	}
	r, err := bench.Run(ctx, w.exercise, &w.exercise.Trials[trial], im)
	if err != nil {
		return nil, err
	}
	if err := d.store.PutReel(job, trial, r); err != nil {
		slog.Warn("keeping a reel", "submission", submission, "error", err)
	}
	return json.Marshal(r)
}

// Window runs a trial of a submission again as driven, and gives what happened from one time to another, with
// the source lines behind it.
func (d *Grader) Window(ctx context.Context, submission string, job int64, trial int, from,
	to clock.Time) (*bench.Window,
	error) {
	m, w, err := d.ready(ctx, submission, job, trial)
	if err != nil {
		return nil, err
	}
	if submissions.IsCapture(m.File) && w.exercise.Chip != nil {
		return nil, &db.Refusal{Code: "no-run",
			Text: "a capture has no program to run again"}
	}
	im, err := w.image()
	if err != nil {
		return nil, err
	}
	window := bench.NewWindow(w.exercise.Parts, from, to)
	window.States = true
	window.Place = func(p machine.Place) string {
		if im == nil {
			return ""
		}
		if line, ok := im.Own(p.PC, w.exercise.Chip.ReturnAddresses(im, p.Stack[:])); ok {
			return fmt.Sprintf("%s:%d", line.File, line.Line)
		}
		return w.exercise.Chip.Firmware.Address(p.PC)
	}
	b, err := bench.New(w.exercise, &w.exercise.Trials[trial], im, bench.Options{Watcher: window})
	if err != nil {
		return nil, db.ErrNotFound
	}
	defer b.Close()
	err = b.Advance(ctx, to)
	window.Finish()
	return window, err
}

// Source gives the source files that were submitted; none where that was firmware.
func (d *Grader) Source(ctx context.Context, submission string) ([]build.File, error) {
	m, err := d.store.Material(ctx, submission, 0)
	if err != nil || !build.IsSource(m.File, m.Data) {
		return nil, err
	}
	s, err := build.FromFile(m.File, m.Data)
	if err != nil {
		return nil, nil // its messages are on the sheet
	}
	return s.Files, nil
}

// SeedSensitivity marks a submission under n seeds.
func (d *Grader) SeedSensitivity(ctx context.Context, submission string, n int) (*marking.SeedSensitivity, error) {
	m, err := d.store.Material(ctx, submission, 0)
	if err != nil {
		return nil, err
	}
	w, err := d.prepare(ctx, m)
	if err != nil {
		return nil, err
	}
	if w.refused != nil || submissions.IsCapture(m.File) {
		return nil, &db.Refusal{Code: "no-run", Text: "this submission cannot be run again"}
	}
	l, err := marking.TrySeeds(ctx, w.exercise, w.file, n)
	if err != nil && ctx.Err() == nil {
		err = &db.Refusal{Code: "no-run", Text: "this submission cannot be run: " + err.Error()}
	}
	return l, err
}

// Image gives the bytes that were programmed for a submission, and the chip; nil where there are none.
func (d *Grader) Image(ctx context.Context, submission string) (*firmware.Image, *machine.Chip, error) {
	m, err := d.store.Material(ctx, submission, 0)
	if err != nil {
		return nil, nil, err
	}
	w, err := d.prepare(ctx, m)
	if err != nil {
		return nil, nil, err
	}
	chip := w.exercise.Chip
	if w.refused != nil || chip == nil {
		return nil, nil, nil
	}
	im, err := firmware.Read(w.file, chip.Firmware)
	if err != nil {
		return nil, nil, nil
	}
	return im, chip, nil
}
