package grading

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/demo"
	"hemble/service/events"
	"hemble/service/record"
	"hemble/wire"
)

// filled is a queue over a data folder with one submission of a text as the exercise.
func filled(t *testing.T, text []byte) (*Queue, *Store, string) {
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	d, s, sub := handedIn(t, text, "x.elf", lamps.Files[0].Data)
	return NewQueue(s, d, events.NewHub(time.Now), Here), s, sub.ID
}

func state(t *testing.T, s *Store, id string) *record.Submission {
	sub, err := s.Submissions.Submission(t.Context(), id)
	require.NoError(t, err)
	return sub
}

func TestWorksOff(t *testing.T) {
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	q, s, id := filled(t, lamps.Text)
	outcomes := make(chan string, 1)
	q.Marked = func(outcome string, _ time.Duration) { outcomes <- outcome }
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { q.Run(ctx, 2); close(done) }()
	assert.Equal(t, "marked", <-outcomes)
	cancel()
	<-done
	sub := state(t, s, id)
	assert.Equal(t, wire.Marked, sub.State)
	_, err = s.Reel(sub.Job, 0)
	assert.NoError(t, err)
}

// A submission that cannot be marked fails by itself, with the reason.
func TestFailsAlone(t *testing.T) {
	q, s, id := filled(t, []byte("no exercise at all"))
	c, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	q.mark(t.Context(), c)
	sub := state(t, s, id)
	assert.Equal(t, wire.Failed, sub.State)
	assert.Contains(t, sub.Error, "the exercise is no longer valid: exercise.yaml:1:1")
}

// What is under way when the service stops goes back to the queue, and does not count as a try.
func TestStopGivesBack(t *testing.T) {
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	q, s, id := filled(t, lamps.Text)
	for range 5 {
		c, err := s.Claim(t.Context(), Here)
		require.NoError(t, err)
		ctx, cancel := context.WithCancel(t.Context())
		cancel()
		q.mark(ctx, c)
		require.Equal(t, wire.Queued, state(t, s, id).State)
	}
}

// What was cancelled meanwhile is not recorded.
func TestCancelled(t *testing.T) {
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	q, s, id := filled(t, lamps.Text)
	c, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	require.NoError(t, s.Cancel(t.Context(), "keeper", state(t, s, id)))
	q.mark(t.Context(), c)
	sub := state(t, s, id)
	assert.Equal(t, wire.Cancelled, sub.State)
	assert.Empty(t, sub.Marks)
}
