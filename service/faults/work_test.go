package faults

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/stores"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	if flag.Parse(); testing.Short() {
		os.Exit(0) // faults take their time; the whole of the tests has them
	}
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// all reports whether every fault is wanted.
func all() bool { return os.Getenv("HEMBLE_FAULTS") != "" }

const exercise = "boat-lamps"

// right is what each firmware of the exercise is worth.
var right = map[string]json.Number{"marsh-waits": "10", "fenwick-timer": "10", "oke-half-speed": "6",
	"osei-green-inverted": "7.5", "lindqvist-no-pause": "8", "wain-green-input": "5"}

// students submit from several clients at once until they are told to stop, and remember what was acknowledged. A
// service that dies under them they call again.
type students struct {
	t     *testing.T
	files map[string][]byte

	signIn sync.Once
	admin  string // a token

	lock  sync.Mutex
	acked map[string]string // firmware by submission
	next  int
}

func newStudents(t *testing.T) *students {
	s := &students{t: t, files: map[string][]byte{}, acked: map[string]string{}}
	for name := range right {
		data, err := os.ReadFile("../../demo/course/" + exercise + "/firmware/" + name + ".hex")
		require.NoError(t, err)
		s.files[name] = data
	}
	return s
}

// work gives the next piece of work: no two are the same, as no two students' are.
func (s *students) work() (login, firmware string, data []byte) {
	s.lock.Lock()
	defer s.lock.Unlock()
	s.next++
	logins := demo.Students()
	names := []string{"marsh-waits", "oke-half-speed", "fenwick-timer", "osei-green-inverted", "lindqvist-no-pause",
		"wain-green-input"}
	firmware = names[s.next%len(names)]
	return logins[s.next%len(logins)].Login, firmware,
		fmt.Appendf(append([]byte{}, s.files[firmware]...), "%s", strings.Repeat("\n", s.next))
}

// handIn submits until ctx ends or the service refuses; it gives the last error.
func (s *students) handIn(ctx context.Context, c *client.Client, clients int) error {
	var wait sync.WaitGroup
	errs := make([]error, clients)
	for i := range clients {
		wait.Go(func() {
			for ctx.Err() == nil {
				login, firmware, data := s.work()
				r, err := c.Submit(ctx, class.Name, exercise,
					client.Work{Student: login, File: firmware + ".hex", Data: data})
				if err != nil {
					errs[i] = err
					return
				}
				s.lock.Lock()
				s.acked[r.ID] = firmware
				s.lock.Unlock()
			}
		})
	}
	wait.Wait()
	for _, err := range errs {
		if err != nil && ctx.Err() == nil {
			return err
		}
	}
	return nil
}

func (s *students) acknowledged() int {
	s.lock.Lock()
	defer s.lock.Unlock()
	return len(s.acked)
}

// settle waits until nothing is left to mark, and checks that what was acknowledged is there, once each, with the right
// marks.
func (s *students) settle(c *client.Client) {
	t := s.t
	t.Helper()
	var list []wire.Submission
	require.Eventually(t, func() bool {
		o, err := c.Assignment(t.Context(), class.Name, exercise)
		return err == nil && o.Waiting == 0
	}, 5*time.Minute, 100*time.Millisecond)
	list, err := c.Submissions(t.Context(), class.Name, exercise)
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, sub := range list {
		assert.False(t, seen[sub.ID], "%s is there twice", sub.ID)
		seen[sub.ID] = true
		firmware := strings.TrimSuffix(sub.File, ".hex")
		if !assert.Equal(t, wire.Marked, sub.State, sub.Error) {
			continue
		}
		assert.Equal(t, right[firmware], sub.Marks, "%s of %s", firmware, sub.ID)
	}
	lost := 0
	for id := range s.acked {
		if !seen[id] {
			lost++
		}
	}
	assert.Zero(t, lost, "of %d acknowledged submissions are lost", len(s.acked))
}

// once checks in a data folder itself that each submission has one job and one result.
func once(t *testing.T, dir string) {
	t.Helper()
	st, err := stores.Open(t.Context(), dir, nil)
	require.NoError(t, err)
	defer st.Close()
	n, err := st.Grading.Count(t.Context())
	require.NoError(t, err)
	assert.Equal(t, n.Submissions, n.Jobs)
	assert.Equal(t, n.Submissions, n.Results)
}

// ready makes the class and opens the exercise with any number of attempts.
func ready(t *testing.T, c *client.Client) {
	t.Helper()
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
}
