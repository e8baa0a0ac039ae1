package grading

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/reel"
	"hemble/render"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/ports"
	"hemble/service/web"
	"hemble/wire"
)

// API answers the calls that simulate for who asks, and those about the queue.
type API struct {
	Store     *Store
	Exercises *exercises.Store
	Grader    *Grader
	Queue     *Queue
	Turns     *Turns
	Events    ports.Events
}

// tried is the form of calls that try a firmware on a draft.
var tried = []web.Field{{Name: "text", Required: true}, {Name: "file", File: true}, {Name: "exercise"},
	{Name: "reference"}, {Name: "replace"}}

// shown is the form of the call that makes a trial of what was shown by hand.
var shown = append(slices.Clone(tried), web.Field{Name: "demonstration", Required: true})

// draft is an exercise's text with a firmware for it.
type draft struct {
	text    []byte
	replace bool   // of recording
	shown   string // what was done by hand, as JSON
	Tried
}

// readDraft reads the form of those calls that try a firmware on a draft.
func (a *API) readDraft(r *web.Request) (*draft, error) {
	form, err := web.ReadForm(r, web.MaxUpload, 1)
	if err != nil {
		return nil, err
	}
	d := &draft{text: []byte(form.Value("text")), replace: form.Value("replace") != "",
		shown: form.Value("demonstration")}
	if d.File, d.Data = form.File("file"); d.File != "" {
		return d, nil
	}
	path := form.Value("reference")
	if path == "" {
		return d, nil // a bench without a chip has no firmware
	}
	rev, err := a.Exercises.Revision(r, form.Value("exercise"), 0)
	if err != nil {
		return nil, err
	}
	files, err := a.Exercises.Folder(r, rev.ID)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(files, func(f exercises.File) bool { return f.Path == path })
	if i < 0 {
		return nil, web.Unfit("reference", "the exercise's folder has no %.80q", path)
	}
	d.Tried = Tried{File: web.FileName(path), Data: files[i].Data}
	return d, nil
}

// onDraft does something with a draft and a firmware, alone. A lenient draft need not have expectations yet.
func (a *API) onDraft(r *web.Request, lenient bool,
	do func(context.Context, *exercise.Exercise, *draft) (any, error)) (any, error) {
	d, err := a.readDraft(r)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Reader{File: exercises.FileName, Draft: lenient}.Read(d.text)
	if x == nil {
		return nil, web.Invalid(problems)
	}
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	out, err := do(ctx, x, d)
	if err != nil {
		return nil, OutOfTime(ctx, TellTried(ctx, d.File, err))
	}
	return out, nil
}

func (a *API) try(r *web.Request) (any, error) {
	return a.onDraft(r, false, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		result, err := a.Grader.Try(ctx, x, d.Tried)
		if err != nil {
			return nil, err
		}
		return wire.Tried{Sheet: result.Sheet, Reels: append([]*reel.Reel{}, result.Reels...)}, nil
	})
}

func (a *API) build(r *web.Request) (any, error) {
	return a.onDraft(r, true, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		data, err := a.Grader.firmware(ctx, x, d.Tried)
		return wire.Firmware{File: d.File, Data: data}, err
	})
}

func (a *API) record(r *web.Request) (any, error) {
	return a.onDraft(r, true, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		rec, err := a.Grader.Record(ctx, x, d.text, d.Tried, d.replace)
		if err != nil {
			return nil, err
		}
		return wire.Recorded{Text: string(rec.Text), Added: append([]string{}, rec.Added...),
			Replaced: append([]string{}, rec.Replaced...), Left: append([]string{}, rec.Left...)}, nil
	})
}

func (a *API) demonstrate(r *web.Request) (any, error) {
	return a.onDraft(r, true, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		var by author.Demonstration
		if err := json.Unmarshal([]byte(d.shown), &by); err != nil {
			return nil, web.Unfit("demonstration", "what was done by hand cannot be read: %s", err)
		}
		file, err := a.Grader.firmware(ctx, x, d.Tried)
		if err != nil {
			return nil, err
		}
		made, err := author.Demonstrate(ctx, d.text, file, by)
		switch {
		case ctx.Err() != nil:
			return nil, err
		case err != nil:
			return nil, web.Unfit("demonstration", "%s", err)
		}
		return wire.Demonstrated{Text: string(made.Text), Trial: by.Trial, Cues: append([]string{}, made.Cues...),
			Expectations: append([]author.Drafted{}, made.Expectations...), Left: append([]string{}, made.Left...),
			Reel: made.Reel}, nil
	})
}

func (a *API) strength(r *web.Request) (any, error) {
	return a.onDraft(r, false, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		variants, err := a.Grader.Strength(ctx, x, d.Tried)
		if err != nil {
			return nil, err
		}
		out := []wire.Variant{}
		for _, v := range variants {
			w := wire.Variant{Fault: v.Fault, Part: v.Part, Effect: v.Effect, Marks: v.Marks, Of: v.Of,
				Caught: v.Caught,
				Add:    v.Add}
			if v.Glimpse != nil && len(out) < maxPictures {
				w.Picture = render.SVG(v.Glimpse, v.Glimpse.Frames[0].State)
			}
			out = append(out, w)
		}
		return out, nil
	})
}

// maxPictures bounds how many variants are drawn.
const maxPictures = 200

// TellTried tells why a firmware could not be tried: the file is its owner's, and so is the fault.
func TellTried(ctx context.Context, file string, err error) error {
	var unbuilt *ErrUnbuilt
	switch {
	case ctx.Err() != nil:
		return err
	case errors.As(err, &unbuilt):
		lines := []string{unbuilt.Why}
		for _, m := range unbuilt.Messages {
			lines = append(lines, fmt.Sprintf("%s:%d: %s", m.File, m.Line, m.Text))
		}
		return web.Unfit("firmware", "%s: %s", file, strings.Join(lines, "\n"))
	}
	return web.Unfit("firmware", "%s: %s", file, err)
}

func (a *API) queue(r *web.Request) (any, error) {
	q, err := a.Store.QueueState(r)
	return q.Wire(), err
}

func (a *API) retry(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "job")
	if err != nil {
		return nil, err
	}
	if err := a.Store.Retry(r, r.Account.Login, id); err == db.ErrNotFound {
		return nil, &db.Refusal{Code: "not-quarantined",
			Text: "job " + strconv.FormatInt(id, 10) + " is not quarantined"}
	} else if err != nil {
		return nil, err
	}
	a.Queue.Wake()
	return nil, nil
}

func (a *API) cancel(r *web.Request) (any, error) {
	if err := a.Store.Cancel(r, r.Account.Login, r.Submission); err != nil {
		return nil, err
	}
	a.Events.Changed(r.Submission.ID)
	return nil, nil
}
