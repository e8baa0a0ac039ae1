package queue

import (
	"context"
	"log/slog"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/demo"
	"hemble/service/events"
	"hemble/service/store"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// filled is a queue over a store with one submission of a text as the exercise.
func filled(t *testing.T, text []byte) (*Queue, *store.Store, string) {
	s, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	require.NoError(t, s.PutExercise(t.Context(), "x", "X", "", "10", text))
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	id, err := s.Submit(t.Context(), "x", "A. Marsh", "x.elf", lamps.Files[0].Data)
	require.NoError(t, err)
	return New(s, events.NewHub()), s, id
}

func state(t *testing.T, s *store.Store, id string) wire.Submission {
	sub, err := s.Submission(t.Context(), id)
	require.NoError(t, err)
	return sub
}

func TestWorksOff(t *testing.T) {
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	q, s, id := filled(t, lamps.Text)
	outcomes := make(chan bool, 1)
	q.Marked = func(ok bool, _ time.Duration) { outcomes <- ok }
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { q.Run(ctx); close(done) }()
	assert.True(t, <-outcomes)
	cancel()
	<-done
	assert.Equal(t, wire.Marked, state(t, s, id).State)
	_, err = s.Reel(id, 0)
	assert.NoError(t, err)
}

// A submission that cannot be marked fails by itself, with the reason.
func TestFailsAlone(t *testing.T) {
	q, s, id := filled(t, []byte("no exercise at all"))
	c, err := s.Claim(t.Context())
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
		c, err := s.Claim(t.Context())
		require.NoError(t, err)
		assert.Equal(t, int64(1), c.Number)
		ctx, cancel := context.WithCancel(t.Context())
		cancel()
		q.mark(ctx, c)
		require.Equal(t, wire.Queued, state(t, s, id).State)
	}
}
