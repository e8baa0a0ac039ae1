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
	"hemble/service/desk"
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
	s, err := store.Open(t.Context(), t.TempDir(), nil)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	_, err = s.AddFirst(t.Context(), store.Account{Login: "keeper", Name: "I. Keeper", Role: wire.Admin})
	require.NoError(t, err)
	by, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	require.NoError(t, s.AddClass(t.Context(), by, "lock", "Lock"))
	class, err := s.Class(t.Context(), by, "lock")
	require.NoError(t, err)
	require.NoError(t, s.PutMember(t.Context(), "keeper", class.ID, "marsh", wire.SetMember{Name: "A. Marsh", Role: wire.Student}))
	require.NoError(t, s.PutExercise(t.Context(), by, store.NewRevision{Name: "x", Title: "X", Marks: "10", Text: text}))
	require.NoError(t, s.Open(t.Context(), "keeper", class.ID, "x", wire.SetOpening{Terms: wire.Terms{Opens: s.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce, ShowMarks: wire.AtOnce}}))
	o, err := s.Opening(t.Context(), class.ID, "x", 0)
	require.NoError(t, err)
	marsh, err := s.Student(t.Context(), class.ID, "marsh")
	require.NoError(t, err)
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	id, _, err := s.Submit(t.Context(), store.Handed{Opening: o, Student: marsh, By: by, File: "x.elf", Data: lamps.Files[0].Data})
	require.NoError(t, err)
	d, err := desk.New(t.Context(), s, t.TempDir(), func() []byte { return []byte("secret") })
	require.NoError(t, err)
	return New(s, d, events.NewHub(time.Now), store.Here), s, id
}

func state(t *testing.T, s *store.Store, id string) *store.Submission {
	sub, err := s.Submission(t.Context(), id)
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
	c, err := s.Claim(t.Context(), store.Here)
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
		c, err := s.Claim(t.Context(), store.Here)
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
	c, err := s.Claim(t.Context(), store.Here)
	require.NoError(t, err)
	require.NoError(t, s.Cancel(t.Context(), "keeper", state(t, s, id)))
	q.mark(t.Context(), c)
	sub := state(t, s, id)
	assert.Equal(t, wire.Cancelled, sub.State)
	assert.Empty(t, sub.Marks)
}
