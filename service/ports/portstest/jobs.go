// Package portstest tests implementations of the ports against what the ports promise.
package portstest

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/ports"
)

// Line is a line of jobs under test.
type Line struct {
	ports.Jobs
	Add    func() (submission string) // puts a submission at its end
	Cancel func(submission string)    // takes one out of it
	Pass   func(time.Duration)        // lets time go by
}

// TestJobs tries each promise of ports.Jobs on a new and empty line.
func TestJobs(t *testing.T, begin func(t *testing.T) Line) {
	result := ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}
	for name, promise := range map[string]func(t *testing.T, l Line, id string, c ports.Claim){
		"a job is claimed once": func(t *testing.T, l Line, id string, c ports.Claim) {
			assert.Equal(t, id, c.Submission)
			_, err := l.Claim(t.Context(), "b")
			assert.ErrorIs(t, err, ports.ErrNone)
		},
		"a result is recorded once": func(t *testing.T, l Line, _ string, c ports.Claim) {
			require.NoError(t, l.Finish(t.Context(), c, result))
			assertLost(t, l, c)
			_, err := l.Claim(t.Context(), "b")
			assert.ErrorIs(t, err, ports.ErrNone)
		},
		"what failed is not given again": func(t *testing.T, l Line, _ string, c ports.Claim) {
			require.NoError(t, l.Fail(t.Context(), c, "a reason"))
			assertLost(t, l, c)
			_, err := l.Claim(t.Context(), "b")
			assert.ErrorIs(t, err, ports.ErrNone)
		},
		"what is given back can be claimed by others": func(t *testing.T, l Line, id string, c ports.Claim) {
			for range 20 { // however often: it counts as no try
				require.NoError(t, l.Release(t.Context(), c))
				assertLost(t, l, c)
				next, err := l.Claim(t.Context(), "b")
				require.NoError(t, err)
				assert.Equal(t, id, next.Submission)
				assert.Greater(t, next.Number, c.Number)
				c = next
			}
		},
		"a lease runs out without a word": func(t *testing.T, l Line, id string, c ports.Claim) {
			l.Pass(ports.Lease - time.Second)
			_, err := l.Claim(t.Context(), "b")
			assert.ErrorIs(t, err, ports.ErrNone)
			l.Pass(2 * time.Second)
			next, err := l.Claim(t.Context(), "b")
			require.NoError(t, err)
			assert.Equal(t, id, next.Submission)
			assertLost(t, l, c)
			require.NoError(t, l.Finish(t.Context(), next, result), "the later claim is the one that counts")
		},
		"a heartbeat renews a lease": func(t *testing.T, l Line, _ string, c ports.Claim) {
			for range 5 {
				l.Pass(ports.Lease - time.Second)
				require.NoError(t, l.Heartbeat(t.Context(), c, ports.Progress{Done: 1, Of: 3}))
				_, err := l.Claim(t.Context(), "b")
				assert.ErrorIs(t, err, ports.ErrNone)
			}
			require.NoError(t, l.Finish(t.Context(), c, result))
		},
		"late, but first": func(t *testing.T, l Line, _ string, c ports.Claim) {
			l.Pass(10 * ports.Lease) // nobody else asked meanwhile
			require.NoError(t, l.Heartbeat(t.Context(), c, ports.Progress{}))
			require.NoError(t, l.Finish(t.Context(), c, result))
		},
		"what was cancelled is lost": func(t *testing.T, l Line, id string, c ports.Claim) {
			gone, err := l.Cancelled(t.Context(), c)
			require.NoError(t, err)
			assert.False(t, gone)
			l.Cancel(id)
			assertLost(t, l, c)
			_, err = l.Claim(t.Context(), "b")
			assert.ErrorIs(t, err, ports.ErrNone)
		},
		"what kills its workers is quarantined": func(t *testing.T, l Line, _ string, _ ports.Claim) {
			for i := 0; ; i++ {
				require.Less(t, i, 50)
				l.Pass(2 * ports.Lease)
				if _, err := l.Claim(t.Context(), "b"); err != nil {
					assert.ErrorIs(t, err, ports.ErrNone)
					return
				}
			}
		},
		"what killed its worker goes behind the others": func(t *testing.T, l Line, id string, _ ports.Claim) {
			other := l.Add()
			l.Pass(2 * ports.Lease)
			first, err := l.Claim(t.Context(), "b")
			require.NoError(t, err)
			second, err := l.Claim(t.Context(), "b")
			require.NoError(t, err)
			assert.Equal(t, []string{other, id}, []string{first.Submission, second.Submission})
		},
	} {
		t.Run(name, func(t *testing.T) {
			l := begin(t)
			_, err := l.Claim(t.Context(), "a")
			require.ErrorIs(t, err, ports.ErrNone)
			id := l.Add()
			c, err := l.Claim(t.Context(), "a")
			require.NoError(t, err)
			promise(t, l, id, c)
		})
	}
}

// assertLost says that nothing can be done with a claim any more.
func assertLost(t *testing.T, l Line, c ports.Claim) {
	gone, err := l.Cancelled(t.Context(), c)
	require.NoError(t, err)
	assert.True(t, gone)
	assert.ErrorIs(t, l.Heartbeat(t.Context(), c, ports.Progress{}), ports.ErrStale)
	assert.ErrorIs(t, l.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}), ports.ErrStale)
	assert.ErrorIs(t, l.Fail(t.Context(), c, "x"), ports.ErrStale)
	assert.ErrorIs(t, l.Release(t.Context(), c), ports.ErrStale)
}
