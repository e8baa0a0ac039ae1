// Package queue marks submissions, one for each processor at a time. The queue itself is in the
// store; this is who works it off.
package queue

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime"
	"runtime/debug"
	"sync"
	"time"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/report"
	"hemble/core/sheet"
	"hemble/service/events"
	"hemble/service/store"
)

// Limits of one submission.
const (
	maxTime  = 15 * time.Minute
	lookTime = time.Second // how often an idle worker looks by itself
)

// Queue is the workers of one service.
type Queue struct {
	store  *store.Store
	hub    *events.Hub
	wake   chan struct{}
	Marked func(ok bool, took time.Duration) // told of each submission that is done

	Builder   *build.Builder // of source; nil where building is off
	NoBuilder string         // why it is
	marker    marking.Marker
}

// New makes a queue; nothing is marked before Run.
func New(s *store.Store, hub *events.Hub) *Queue {
	return &Queue{store: s, hub: hub, wake: make(chan struct{}, 1), Marked: func(bool, time.Duration) {}, marker: marking.Marker{Reels: true}}
}

// Wake tells the workers that there is something new.
func (q *Queue) Wake() {
	select {
	case q.wake <- struct{}{}:
	default:
	}
}

// Run works until ctx ends; what is under way then is given back to the queue.
func (q *Queue) Run(ctx context.Context) {
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() { q.work(ctx) })
	}
	wait.Wait()
}

func (q *Queue) work(ctx context.Context) {
	for ctx.Err() == nil {
		claim, err := q.store.Claim(ctx)
		if err == nil {
			q.Wake() // there may be more for another worker
			q.mark(ctx, claim)
			continue
		}
		if !errors.Is(err, store.ErrNotFound) && ctx.Err() == nil {
			slog.Error("claiming a job", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-q.wake:
		case <-time.After(lookTime):
		}
	}
}

// mark takes one claim to its end.
func (q *Queue) mark(ctx context.Context, c store.Claim) {
	began := time.Now()
	q.tell(ctx, c.Submission)
	result, err := q.attempt(ctx, c.Submission)
	// The outcome is recorded even while the service is being stopped.
	after, cancel := context.WithTimeout(context.WithoutCancel(ctx), 30*time.Second)
	defer cancel()
	switch {
	case err == nil:
		for i, r := range result.Reels {
			if err := q.store.PutReel(c.Submission, i, r); err != nil {
				slog.Warn("keeping a reel", "submission", c.Submission, "error", err)
			}
		}
		err = q.store.Finish(after, c, result.Sheet, report.First(result.Sheet))
		q.Marked(true, time.Since(began))
	case ctx.Err() != nil:
		err = q.store.Release(after, c)
	default:
		slog.Error("marking failed", "submission", c.Submission, "error", err)
		err = q.store.Fail(after, c, err.Error())
		q.Marked(false, time.Since(began))
	}
	if err != nil {
		slog.Error("recording an outcome", "submission", c.Submission, "error", err)
	}
	q.tell(after, c.Submission)
}

// attempt marks a submission; a defect of the engine fails this submission only.
func (q *Queue) attempt(ctx context.Context, id string) (result *marking.Result, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("panic while marking", "submission", id, "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("the engine failed on this submission: %v", r)
		}
	}()
	ctx, cancel := context.WithTimeoutCause(ctx, maxTime, fmt.Errorf("marking took longer than %s", maxTime))
	defer cancel()
	text, firmware, file, err := q.store.Material(ctx, id)
	if err != nil {
		return nil, err
	}
	x, problems := exercise.Read("exercise.yaml", text)
	if x == nil {
		return nil, fmt.Errorf("the exercise is no longer valid: %w", exercise.Error(problems))
	}
	image, made, err := q.Firmware(ctx, x, file, firmware)
	switch {
	case err != nil:
	case made != nil && made.Failed():
		return marking.Unbuilt(x, file, made.Why(), made.Messages), nil
	default:
		result, err = q.marker.Mark(ctx, x, file, image)
		if err == nil && made != nil {
			result.Sheet.Messages = made.Messages
		}
	}
	if err != nil && context.Cause(ctx) != nil {
		err = context.Cause(ctx)
	}
	return result, err
}

// Firmware gives what runs on the chip: the file that was handed in, or what its source was built to; made is
// nil where nothing was built.
func (q *Queue) Firmware(ctx context.Context, x *exercise.Exercise, name string, file []byte) (image []byte, made *build.Result, err error) {
	if x.Chip == nil || !build.IsSource(name, file) {
		return file, nil, nil
	}
	if q.Builder == nil {
		return nil, &build.Result{Messages: []sheet.Message{{Kind: "error", Text: q.NoBuilder}}}, nil
	}
	source, err := build.FromFile(name, file)
	if err != nil {
		return nil, &build.Result{Messages: []sheet.Message{{Kind: "error", Text: err.Error()}}}, nil
	}
	made, err = q.Builder.Build(ctx, source, build.Target{Chip: x.Chip.Name, Clock: int64(x.Clock)})
	if err != nil {
		return nil, nil, err
	}
	return made.ELF, made, nil
}

func (q *Queue) tell(ctx context.Context, id string) {
	if s, err := q.store.Submission(ctx, id); err == nil {
		q.hub.Publish(events.Event{Exercise: s.Exercise, Submission: id})
	}
}
