package grading

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"hemble/service/ports"
)

// held is the lease of a job that is being marked.
type held struct {
	queue *Queue
	claim ports.Claim
	lose  context.CancelCauseFunc
	done  chan struct{} // closed where the work is done

	lock     sync.Mutex
	progress ports.Progress
}

// told hears how many trials are done.
func (h *held) told(done, of int) {
	h.lock.Lock()
	defer h.lock.Unlock()
	h.progress = ports.Progress{Done: done, Of: of}
}

// beat keeps the lease until the work is done: a heartbeat for each third of it, and where the work has come further.
// Work that nobody wants any more is ended.
func (h *held) beat(ctx context.Context) {
	tick := time.NewTicker(h.queue.look)
	defer tick.Stop()
	var last ports.Progress
	beaten, failing := time.Now(), false
	for {
		select {
		case <-h.done:
			return
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		h.lock.Lock()
		p := h.progress
		h.lock.Unlock()
		if p == last && time.Since(beaten) < ports.Lease/3 {
			if gone, err := h.queue.jobs.Cancelled(ctx, h.claim); err == nil && gone {
				h.lose(ports.ErrStale)
				return
			}
			continue
		}
		switch err := h.queue.jobs.Heartbeat(ctx, h.claim, p); {
		case errors.Is(err, ports.ErrStale):
			h.lose(err)
			return
		case err != nil: // the next one may come through
			if ctx.Err() == nil && !failing { // said once: a full disk stays full for a while
				slog.Warn("a heartbeat", "submission", h.claim.Submission, "error", err)
			}
			failing = true
		default:
			beaten, failing = time.Now(), false
			if p != last {
				h.queue.events.Changed(h.claim.Submission)
			}
			last = p
		}
	}
}
