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

	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/desk"
	"hemble/service/events"
	"hemble/service/store"
)

// Limits of one submission.
const (
	maxTime  = 15 * time.Minute // with its build and all its trials; what takes longer is marked as such
	lookTime = time.Second      // how often an idle worker looks by itself
)

// Queue is the workers of one service.
type Queue struct {
	store  *store.Store
	hub    *events.Hub
	wake   chan struct{}
	Marked func(outcome string, took time.Duration) // told of each submission that is done

	desk  *desk.Desk
	most  time.Duration // that marking one submission may take
	lock  sync.Mutex
	under map[int64]*under // by job
}

// New makes a queue; nothing is marked before Run.
func New(s *store.Store, d *desk.Desk, hub *events.Hub) *Queue {
	return &Queue{store: s, desk: d, most: maxTime, hub: hub, wake: make(chan struct{}, 1), Marked: func(string, time.Duration) {}, under: map[int64]*under{}}
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
	q.tell(c.Submission)
	result, err := q.attempt(ctx, c)
	// The outcome is recorded even while the service is being stopped.
	after, cancel := context.WithTimeout(context.WithoutCancel(ctx), 30*time.Second)
	defer cancel()
	switch {
	case err == nil:
		for i, r := range result.Reels {
			if err := q.store.PutReel(c.Job, i, r); err != nil {
				slog.Warn("keeping a reel", "submission", c.Submission, "error", err)
			}
		}
		err = q.store.Finish(after, c, result.Sheet, result.Sheet.First(), q.marks(after, c, result.Sheet))
		q.Marked(outcome(result.Sheet), time.Since(began))
	case ctx.Err() != nil:
		err = q.store.Release(after, c)
	default:
		slog.Error("marking failed", "submission", c.Submission, "error", err)
		err = q.store.Fail(after, c, err.Error())
		q.Marked("failed", time.Since(began))
	}
	switch {
	case errors.Is(err, store.ErrStale): // cancelled, or another life's: what is recorded stays
		slog.Info("a claim went stale", "submission", c.Submission)
	case store.Full(err):
		// The job stays taken: the next start takes it up again. Marking on would only fill the log.
		slog.Error("recording an outcome: the disk is full", "submission", c.Submission, "error", err)
		q.back(ctx, after, c)
	case err != nil:
		slog.Error("recording an outcome", "submission", c.Submission, "error", err)
	}
	q.tell(c.Submission)
}

// back gives a job back that could not be recorded, once the disk takes something again.
func (q *Queue) back(ctx, after context.Context, c store.Claim) {
	for q.store.Release(after, c) != nil {
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookTime):
		}
	}
}

// attempt marks a submission; a defect of the engine fails this submission only.
func (q *Queue) attempt(ctx context.Context, c store.Claim) (result *marking.Result, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("panic while marking", "submission", c.Submission, "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("the engine failed on this submission: %v", r)
		}
	}()
	ctx, cancel := context.WithTimeout(ctx, q.most)
	defer cancel()
	defer q.hold(c, cancel)()
	m, err := q.store.Material(ctx, c.Submission, c.Job)
	if err != nil {
		return nil, err
	}
	result, err = q.desk.Mark(ctx, m, func(done, of int) {
		q.progress(c, done, of)
	})
	if err != nil && errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return q.desk.Stopped(m, fmt.Sprintf("Marking this took longer than %s, and was stopped.", q.most))
	}
	return result, err
}

// outcome is how a marking ended, for who runs the service.
func outcome(sh *sheet.Sheet) string {
	if sh.Failed == "" || len(sh.Findings) == 0 {
		return "marked"
	}
	switch sh.Findings[0].Code {
	case "build":
		return "unbuilt"
	case "effort":
		return "stopped"
	}
	return "unreadable"
}

// marks are those of a new result with the overrides that the submission has; without those where they do not fit.
func (q *Queue) marks(ctx context.Context, c store.Claim, sh *sheet.Sheet) string {
	sub, err := q.store.Submission(ctx, c.Submission)
	if err != nil || !sub.Touched {
		return sh.Marks.String()
	}
	overrides, err := q.store.Overrides(ctx, c.Submission)
	if err == nil {
		var adjusted *sheet.Sheet
		if adjusted, err = q.desk.Adjust(ctx, sub, c.Job, sh, overrides); err == nil {
			return adjusted.Marks.String()
		}
	}
	slog.Warn("overrides do not fit a new result", "submission", c.Submission, "error", err)
	return sh.Marks.String()
}

// under is what one worker has under way.
type under struct {
	done, of int
	cancel   context.CancelFunc
}

// hold remembers that a submission is being marked; the function that it gives forgets it.
func (q *Queue) hold(c store.Claim, cancel context.CancelFunc) func() {
	q.lock.Lock()
	defer q.lock.Unlock()
	q.under[c.Job] = &under{cancel: cancel}
	return func() {
		q.lock.Lock()
		defer q.lock.Unlock()
		delete(q.under, c.Job)
	}
}

func (q *Queue) progress(c store.Claim, done, of int) {
	q.lock.Lock()
	if u := q.under[c.Job]; u != nil {
		u.done, u.of = done, of
	}
	q.lock.Unlock()
	q.tell(c.Submission)
}

// Progress tells how many trials of a job are done, while it is under way.
func (q *Queue) Progress(job int64) (done, of int) {
	q.lock.Lock()
	defer q.lock.Unlock()
	if u := q.under[job]; u != nil {
		return u.done, u.of
	}
	return 0, 0
}

// Cancel ends the marking of a job that is under way.
func (q *Queue) Cancel(job int64) {
	q.lock.Lock()
	defer q.lock.Unlock()
	if u := q.under[job]; u != nil {
		u.cancel()
	}
}

func (q *Queue) tell(submission string) { q.hub.Changed(submission) }
