package grading

import (
	"context"
	"errors"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"

	"hemble/service/ports"
)

// line is a line of jobs that counts, and forgets a claim where it is told to.
type line struct {
	ports.Jobs
	beats  []ports.Progress
	asked  int
	gone   bool
	broken bool
}

func (l *line) Heartbeat(_ context.Context, _ ports.Claim, p ports.Progress) error {
	switch {
	case l.broken:
		return errors.New("no connection")
	case l.gone:
		return ports.ErrStale
	}
	l.beats = append(l.beats, p)
	return nil
}

func (l *line) Cancelled(context.Context, ports.Claim) (bool, error) {
	l.asked++
	return l.gone, nil
}

// told counts the changes that pages hear of.
type told struct{ n int }

func (t *told) Changed(string) { t.n++ }

func TestHeld(t *testing.T) {
	for name, c := range map[string]struct {
		do    func(l *line, h *held)
		beats []ports.Progress
		told  int
		lost  bool
	}{
		"a beat for each third of a lease": {func(_ *line, _ *held) { time.Sleep(ports.Lease - time.Second) },
			make([]ports.Progress, 2), 0, false},
		"progress is told within a second": {func(_ *line, h *held) {
			h.told(1, 3)
			h.told(2, 3)
			time.Sleep(1500 * time.Millisecond)
		}, []ports.Progress{{Done: 2, Of: 3}}, 1, false},
		"cancelled work ends within a second": {func(l *line, _ *held) {
			l.gone = true
			time.Sleep(1500 * time.Millisecond)
		}, nil, 0, true},
		"work that another has ends with a heartbeat": {func(l *line, h *held) {
			l.gone = true
			h.told(1, 3)
			time.Sleep(1500 * time.Millisecond)
		}, nil, 0, true},
		"a beat that does not come through is tried again": {func(l *line, _ *held) {
			l.broken = true
			time.Sleep(ports.Lease / 2)
			l.broken = false
			time.Sleep(1500 * time.Millisecond)
		}, make([]ports.Progress, 1), 0, false},
	} {
		t.Run(name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				l, heard := &line{}, &told{}
				work, lose := context.WithCancelCause(t.Context())
				h := &held{queue: &Queue{jobs: l, events: heard, look: lookTime}, lose: lose, done: make(chan struct{})}
				go h.beat(work)
				c.do(l, h)
				close(h.done)
				synctest.Wait()
				assert.Equal(t, c.beats, l.beats)
				assert.Equal(t, c.told, heard.n)
				assert.Equal(t, c.lost, errors.Is(context.Cause(work), ports.ErrStale))
			})
		})
	}
}
