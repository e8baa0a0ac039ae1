package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/reel"
	"hemble/core/schematic"
	"hemble/render"
	"hemble/service/desk"
	"hemble/service/store"
	"hemble/service/turns"
	"hemble/wire"
)

// drawn is the bench of an exercise as a diagram and as a table.
func drawn(x *exercise.Exercise) wire.Drawn {
	return wire.Drawn{Schematic: schematic.Draw(x), Wires: schematic.Wires(x)}
}

// Limits of what is simulated on request.
const (
	maxRequest        = 5 * time.Minute
	maxStudentRequest = time.Minute
)

// turn waits until the caller's turn comes to have something simulated; what is done with the context that it gives ends
// in time. done lets the next one.
func (a *API) turn(r *request) (ctx context.Context, done func(), err error) {
	c := turns.Caller{Who: r.account.Login, Student: r.student()}
	leave, err := a.turns.Enter(r.Request.Context(), c)
	if errors.Is(err, turns.ErrBusy) {
		return nil, nil, &problem{http.StatusTooManyRequests, "busy", "you are waiting for several simulations already; try again when one is done"}
	}
	if err != nil {
		return nil, nil, err
	}
	limit := maxRequest
	if c.Student {
		limit = maxStudentRequest
	}
	ctx, cancel := context.WithTimeoutCause(r.Request.Context(), limit, &problem{http.StatusServiceUnavailable, "effort", fmt.Sprintf("this took longer than %s and was stopped", limit)})
	return ctx, func() { cancel(); leave() }, nil
}

// outOfTime gives the cause where something ended because its time was over, else the error as it is.
func outOfTime(ctx context.Context, err error) error {
	if err != nil && errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return context.Cause(ctx)
	}
	return err
}

// place tells how long the line is for the caller's next simulation.
func (a *API) place(r *request) (any, error) {
	ahead, waiting := a.turns.Ahead(r.account.Login)
	return wire.Place{Waiting: waiting, Ahead: ahead}, nil
}

// draft is an exercise's text with a firmware for it.
type draft struct {
	text []byte
	anew bool // of recording
	desk.Tried
}

// readDraft reads the form of those calls that try a firmware on a draft.
func (a *API) readDraft(r *request) (*draft, error) {
	form, err := readForm(r, maxUpload, 1)
	if err != nil {
		return nil, err
	}
	d := &draft{text: []byte(form.value("text")), anew: form.value("anew") != ""}
	if d.File, d.Data = form.file("file"); d.File != "" {
		return d, nil
	}
	path := form.value("reference")
	if path == "" {
		return d, nil // a bench without a chip has no firmware
	}
	rev, err := a.Store.Revision(r, form.value("exercise"), 0)
	if err != nil {
		return nil, err
	}
	files, err := a.Store.Folder(r, rev.ID)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(files, func(f store.File) bool { return f.Path == path })
	if i < 0 {
		return nil, unfit("reference", "the exercise's folder has no %.80q", path)
	}
	d.Tried = desk.Tried{File: fileName(path), Data: files[i].Data}
	return d, nil
}

// onDraft does something with a draft and a firmware, alone. A lenient draft need not have expectations yet.
func (a *API) onDraft(r *request, lenient bool, do func(context.Context, *exercise.Exercise, *draft) (any, error)) (any, error) {
	d, err := a.readDraft(r)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Reader{File: exerciseFile, Draft: lenient}.Read(d.text)
	if x == nil {
		return nil, invalid(problems)
	}
	ctx, done, err := a.turn(r)
	if err != nil {
		return nil, err
	}
	defer done()
	out, err := do(ctx, x, d)
	if err != nil {
		return nil, outOfTime(ctx, tellTried(ctx, d.File, err))
	}
	return out, nil
}

func (a *API) try(r *request) (any, error) {
	return a.onDraft(r, false, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		result, err := a.Desk.Try(ctx, x, d.Tried)
		if err != nil {
			return nil, err
		}
		return wire.Tried{Sheet: result.Sheet, Reels: append([]*reel.Reel{}, result.Reels...)}, nil
	})
}

func (a *API) record(r *request) (any, error) {
	return a.onDraft(r, true, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		rec, err := a.Desk.Record(ctx, x, d.text, d.Tried, d.anew)
		if err != nil {
			return nil, err
		}
		return wire.Recorded{Text: string(rec.Text), Added: append([]string{}, rec.Added...), Anew: append([]string{}, rec.Anew...), Left: append([]string{}, rec.Left...)}, nil
	})
}

func (a *API) strength(r *request) (any, error) {
	return a.onDraft(r, false, func(ctx context.Context, x *exercise.Exercise, d *draft) (any, error) {
		variants, err := a.Desk.Strength(ctx, x, d.Tried)
		if err != nil {
			return nil, err
		}
		out := []wire.Variant{}
		for _, v := range variants {
			w := wire.Variant{Fault: v.Fault, Part: v.Part, Makes: v.Makes, Marks: v.Marks, Of: v.Of, Caught: v.Caught, Add: v.Add}
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

// tellTried tells why a firmware could not be tried: the file is its owner's, and so is the fault.
func tellTried(ctx context.Context, file string, err error) error {
	var unbuilt *desk.ErrUnbuilt
	switch {
	case ctx.Err() != nil:
		return err
	case errors.As(err, &unbuilt):
		lines := []string{unbuilt.Why}
		for _, m := range unbuilt.Messages {
			lines = append(lines, fmt.Sprintf("%s:%d: %s", m.File, m.Line, m.Text))
		}
		return unfit("firmware", "%s: %s", file, strings.Join(lines, "\n"))
	}
	return unfit("firmware", "%s: %s", file, err)
}

func (a *API) accept(r *request) (any, error) {
	in, err := body[wire.Accept](r)
	if err != nil {
		return nil, err
	}
	s := author.Sight{Trial: in.Trial, Verdict: in.Verdict, Pair: author.Sequence}
	if in.Pair != nil {
		if s.Pair = *in.Pair; s.Pair < 0 {
			return nil, unfit("accept", "pairs are counted from 0")
		}
	}
	if r.submission.State != wire.Marked {
		return nil, &store.Refusal{Code: "accept", Text: "this submission is not marked"}
	}
	newest, err := a.Store.Revision(r, r.opening.Exercise, 0)
	if err != nil {
		return nil, err
	}
	if r.opening.Revision != r.submission.Revision {
		return nil, &store.Refusal{Code: "revised", Text: fmt.Sprintf("this submission was marked by revision %d, and revision %d is in force: mark it anew first", r.submission.Revision, r.opening.Revision)}
	}
	ctx, done, err := a.turn(r)
	if err != nil {
		return nil, err
	}
	defer done()
	accepted, err := a.Desk.Accept(ctx, r.submission, s)
	if err != nil {
		return nil, outOfTime(ctx, err)
	}
	out := wire.Accepted{Exercise: r.opening.Exercise, What: accepted.What, Text: string(accepted.Text), Was: accepted.Was, Now: accepted.Now, Moves: []wire.ProposedMark{}}
	if newest.Number > r.submission.Revision {
		out.Beside = newest.Number
	}
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		sub := &rows[i]
		before, err := a.Store.Sheet(r, sub.Job)
		if err != nil {
			return nil, err
		}
		if before == nil || before.Failed != "" {
			continue
		}
		after, err := a.Desk.Rejudge(ctx, sub, accepted.Text)
		if err != nil {
			return nil, outOfTime(ctx, err)
		}
		m := wire.ProposedMark{Submission: sub.ID, Login: sub.Login, Student: sub.Student, Attempt: sub.Attempt, Old: sub.Marks, State: "preview"}
		if after != nil {
			m.New, m.Why = json.Number(after.Marks.String()), moves(before, after)
		}
		if after == nil || len(m.Why) == 0 && m.Old == m.New {
			out.Same++
			continue
		}
		out.Moves = append(out.Moves, m)
	}
	return out, nil
}
