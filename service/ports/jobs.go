package ports

import (
	"context"
	"errors"
	"time"

	"hemble/core/reel"
	"hemble/core/sheet"
)

// Errors of jobs.
var (
	ErrNone  = errors.New("no job is waiting")
	ErrStale = errors.New("this claim is stale: the job was given to another worker, or is no longer to be done")
	ErrLater = errors.New("this cannot be recorded now, but may be later") // a full disk
)

// Lease is how long a worker holds a job without a word: then another may have it. A worker gives a word every third of
// it.
const Lease = 30 * time.Second

// Claim is one worker's hold on a job. Its number grows with each claim of the job, so that a worker that was given up
// cannot record over the one that came after it.
type Claim struct {
	Job        int64  `db:"id"`
	Submission string `db:"submission_id"`
	Number     int64  `db:"claim"`
}

// Progress is how far marking has come, in trials.
type Progress struct{ Done, Of int }

// Result is what marking gave.
type Result struct {
	Sheet *sheet.Sheet
	Marks string       // with the submission's overrides
	Reels []*reel.Reel // of each trial; a cache, that may be lost
}

// Jobs is the line of submissions to mark. Each call but Claim fails with ErrStale where the claim no longer holds.
type Jobs interface {
	// Claim gives a job to a worker under a lease: one that waits, or one whose lease ran out. ErrNone where there is
	// none.
	Claim(ctx context.Context, worker string) (Claim, error)
	// Heartbeat renews the lease, and returns how far the work has come.
	Heartbeat(ctx context.Context, c Claim, p Progress) error
	// Cancelled reports whether the claim no longer holds: somebody took the job back, or another worker has it.
	Cancelled(ctx context.Context, c Claim) (bool, error)
	// Finish records a result, exactly once; ErrLater where it may be tried again.
	Finish(ctx context.Context, c Claim, r Result) error
	// Fail sets a job aside without a result.
	Fail(ctx context.Context, c Claim, why string) error
	// Release gives a job back undone; the try does not count.
	Release(ctx context.Context, c Claim) error
}
