package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/ports"
	"hemble/service/ports/portstest"
)

func TestJobs(t *testing.T) {
	portstest.TestJobs(t, func(t *testing.T) portstest.Line {
		var passed time.Duration
		s, id := submittedAt(t, t.TempDir(), func() time.Time { return time.Now().Add(passed) })
		t.Cleanup(func() { _ = s.Close() })
		c, err := s.Claim(t.Context(), "a")
		require.NoError(t, err)
		require.Equal(t, id, c.Submission)
		require.NoError(t, s.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
		n := 0
		return portstest.Line{
			Jobs: s,
			Add: func() string {
				n++
				return hand(t, s, fmt.Sprint("more data ", n))
			},
			Cancel: func(submission string) {
				sub, err := s.Submission(t.Context(), submission)
				require.NoError(t, err)
				require.NoError(t, s.Cancel(t.Context(), "oke", sub))
			},
			Pass: func(d time.Duration) { passed += d },
		}
	})
}

// A worker elsewhere keeps its lease through a new start of the service; those that lived in the old process lose theirs.
func TestLeasesThroughAStart(t *testing.T) {
	dir := t.TempDir()
	s, first := submitted(t, dir)
	here, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	require.Equal(t, first, here.Submission)
	hand(t, s, "more")
	away, err := s.Claim(t.Context(), "another machine")
	require.NoError(t, err)
	require.NoError(t, s.Heartbeat(t.Context(), away, ports.Progress{Done: 2, Of: 3}))
	require.NoError(t, s.Close()) // as if it had died

	s = open(t, dir)
	defer s.Close()
	again, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	assert.Equal(t, first, again.Submission)
	_, err = s.Claim(t.Context(), Here)
	assert.ErrorIs(t, err, ports.ErrNone)
	sub, err := s.Submission(t.Context(), away.Submission)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 3}, []int{sub.Done, sub.Trials})
	assert.NoError(t, s.Finish(t.Context(), away, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
}
