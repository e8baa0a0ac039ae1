package grading

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"sync"
	"time"

	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/ports"
)

// Limits of one submission.
const (
	maxTime = 15 * time.Minute // with its build and all its trials; what takes longer is marked as such
	// how often an idle worker looks by itself, and a busy one whether its work is still wanted
	lookTime = time.Second
)

// Queue is workers of one process.
type Queue struct {
	Marked func(outcome string, took time.Duration) // told of each submission that is done

	jobs   ports.Jobs
	events ports.Events
	grader *Grader
	worker string        // name of those who hold leases
	wake   chan struct{} // there is something new
	most   time.Duration // that marking one submission may take
	look   time.Duration
}

// NewQueue makes a queue of workers under one name; nothing is marked before Run.
func NewQueue(jobs ports.Jobs, d *Grader, events ports.Events, worker string) *Queue {
	return &Queue{jobs: jobs, grader: d, events: events, worker: worker, most: maxTime, look: lookTime,
		wake: make(chan struct{}, 1), Marked: func(string, time.Duration) {}}
}

// Wake tells the workers that there is something new.
func (q *Queue) Wake() {
	select {
	case q.wake <- struct{}{}:
	default:
	}
}

// Run works with that many workers until ctx ends; what is under way then is given back.
func (q *Queue) Run(ctx context.Context, workers int) {
	var wait sync.WaitGroup
	for range workers {
		wait.Go(func() { q.work(ctx) })
	}
	wait.Wait()
}

func (q *Queue) work(ctx context.Context) {
	for ctx.Err() == nil {
		claim, err := q.jobs.Claim(ctx, q.worker)
		if err == nil {
			q.Wake() // there may be more for another worker
			q.mark(ctx, claim)
			continue
		}
		if !errors.Is(err, ports.ErrNone) && ctx.Err() == nil {
			slog.Error("claiming a job", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-q.wake:
		case <-time.After(q.look):
		}
	}
}

// mark takes one claim to its end.
func (q *Queue) mark(ctx context.Context, c ports.Claim) {
	began := time.Now()
	q.events.Changed(c.Submission)
	result, err := q.attempt(ctx, c)
	// The outcome is recorded even while the service is being stopped.
	after, cancel := context.WithTimeout(context.WithoutCancel(ctx), 30*time.Second)
	defer cancel()
	switch {
	case err == nil:
		err = q.jobs.Finish(after, c, *result)
		q.Marked(outcome(result.Sheet), time.Since(began))
	case errors.Is(err, ports.ErrStale):
	case ctx.Err() != nil:
		err = q.jobs.Release(after, c)
	default:
		slog.Error("marking failed", "submission", c.Submission, "error", err)
		err = q.jobs.Fail(after, c, err.Error())
		q.Marked("failed", time.Since(began))
	}
	switch {
	case errors.Is(err, ports.ErrStale): // cancelled, or another worker's: what is recorded stays
		slog.Info("a claim went stale", "submission", c.Submission)
	case errors.Is(err, ports.ErrLater): // marking on would only fill the log
		slog.Error("recording an outcome: the disk is full", "submission", c.Submission, "error", err)
		q.back(ctx, c)
	case err != nil: // the lease runs out, and the job is somebody's again
		slog.Error("recording an outcome", "submission", c.Submission, "error", err)
	}
	q.events.Changed(c.Submission)
}

// back gives a job back that could not be recorded, once that is possible again.
func (q *Queue) back(ctx context.Context, c ports.Claim) {
	for errors.Is(q.jobs.Release(ctx, c), ports.ErrLater) {
		select {
		case <-ctx.Done():
			return
		case <-time.After(q.look):
		}
	}
}

// attempt marks a submission; a defect of the engine fails this submission only. ErrStale where its claim was lost
// meanwhile.
func (q *Queue) attempt(ctx context.Context, c ports.Claim) (result *ports.Result, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("panic while marking", "submission", c.Submission, "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("the engine failed on this submission: %v", r)
		}
	}()
	work, cancel := context.WithTimeout(ctx, q.most)
	defer cancel()
	work, lose := context.WithCancelCause(work)
	h := &held{queue: q, claim: c, lose: lose, done: make(chan struct{})}
	var beating sync.WaitGroup
	beating.Go(func() { h.beat(work) })
	defer beating.Wait()
	defer close(h.done)
	result, err = q.grader.MarkJob(work, c.Submission, c.Job, h.told)
	switch {
	case err == nil:
	case errors.Is(context.Cause(work), ports.ErrStale):
		err = ports.ErrStale
	case errors.Is(work.Err(), context.DeadlineExceeded):
		return q.grader.Stopped(ctx, c.Submission, c.Job,
			fmt.Sprintf("Marking this took longer than %s, and was stopped.", q.most))
	}
	return result, err
}

// outcome is how a marking ended, for who runs the service.
func outcome(sh *sheet.Sheet) string {
	if sh.Failed == "" || len(sh.Findings) == 0 {
		return "marked"
	}
	switch sh.Findings[0].Code {
	case marking.Build:
		return "unbuilt"
	case marking.Effort:
		return "stopped"
	}
	return "unreadable"
}
