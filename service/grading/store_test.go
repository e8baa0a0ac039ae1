package grading_test

import (
	"fmt"
	"math/big"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/grading"
	"hemble/service/ports"
	"hemble/service/ports/portstest"
	"hemble/service/record"
	"hemble/service/stores"
	"hemble/service/submissions"
	"hemble/service/submissions/submissionstest"
	"hemble/wire"
)

// open opens a data folder for as long as the test runs.
func open(t *testing.T, dir string, now func() time.Time) *stores.Stores {
	t.Helper()
	s, err := stores.Open(t.Context(), dir, now)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// opened is a new data folder with a student who may submit.
func opened(t *testing.T, dir string, now func() time.Time) (*stores.Stores, *submissionstest.Folder) {
	s := open(t, dir, now)
	return s, submissionstest.Fill(t, s.DB, []byte("text"))
}

func TestJobs(t *testing.T) {
	portstest.TestJobs(t, func(t *testing.T) portstest.Line {
		var passed time.Duration
		s, f := opened(t, t.TempDir(), func() time.Time { return time.Now().Add(passed) })
		id := f.Hand(t, "a.hex", []byte("data"))
		c, err := s.Grading.Claim(t.Context(), "a")
		require.NoError(t, err)
		require.Equal(t, id, c.Submission)
		require.NoError(t, s.Grading.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
		n := 0
		return portstest.Line{
			Jobs: s.Grading,
			Add: func() string {
				n++
				return f.Hand(t, "a.hex", fmt.Append(nil, "more data ", n))
			},
			Cancel: func(submission string) {
				sub, err := s.Submissions.Submission(t.Context(), submission)
				require.NoError(t, err)
				require.NoError(t, s.Grading.Cancel(t.Context(), "oke", sub))
			},
			Pass: func(d time.Duration) { passed += d },
		}
	})
}

// A worker elsewhere keeps its lease through a new start of the service; those that lived in the old process lose
// theirs.
func TestLeasesThroughAStart(t *testing.T) {
	dir := t.TempDir()
	s, f := opened(t, dir, nil)
	first := f.Hand(t, "a.hex", []byte("data"))
	here, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	require.Equal(t, first, here.Submission)
	f.Hand(t, "a.hex", []byte("more"))
	away, err := s.Grading.Claim(t.Context(), "another machine")
	require.NoError(t, err)
	require.NoError(t, s.Grading.Heartbeat(t.Context(), away, ports.Progress{Done: 2, Of: 3}))
	require.NoError(t, s.Close()) // as if it had died

	s = open(t, dir, nil)
	again, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	assert.Equal(t, first, again.Submission)
	_, err = s.Grading.Claim(t.Context(), grading.Here)
	assert.ErrorIs(t, err, ports.ErrNone)
	sub, err := s.Submissions.Submission(t.Context(), away.Submission)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 3}, []int{sub.Done, sub.Trials})
	assert.NoError(t, s.Grading.Finish(t.Context(), away, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
}

// A result is recorded exactly once, and only by the claim that holds.
func TestClaims(t *testing.T) {
	dir := t.TempDir()
	s, f := opened(t, dir, nil)
	id := f.Hand(t, "a.hex", []byte("data"))
	one := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(1, 2)), Of: sheet.NewMarks(big.NewRat(1, 1))}

	first, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	assert.Equal(t, id, first.Submission)
	_, err = s.Grading.Claim(t.Context(), grading.Here)
	assert.ErrorIs(t, err, ports.ErrNone, "one job is claimed once")

	require.NoError(t, s.Grading.Release(t.Context(), first))
	second, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	require.NoError(t, s.Close()) // as if it had died

	s = open(t, dir, nil)
	third, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	assert.ErrorIs(t, s.Grading.Finish(t.Context(), second, ports.Result{Sheet: one, Marks: "0.5"}), ports.ErrStale,
		"the claim of an earlier life is stale")
	require.NoError(t, s.Grading.Finish(t.Context(), third, ports.Result{Sheet: one, Marks: "0.5"}))
	assert.ErrorIs(t, s.Grading.Finish(t.Context(), third, ports.Result{Sheet: one, Marks: "0.5"}), ports.ErrStale)
	assert.ErrorIs(t, s.Grading.Fail(t.Context(), third, "x"), ports.ErrStale)
	sub, err := s.Submissions.Submission(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "0.5", sub.Marks.String())
	sh, err := s.Grading.Sheet(t.Context(), sub.Job)
	require.NoError(t, err)
	assert.Equal(t, "0.5", sh.Marks.String())
}

// A submission over which the service dies again and again is quarantined with the reason, and can be queued once more.
func TestPoison(t *testing.T) {
	dir := t.TempDir()
	s, f := opened(t, dir, nil)
	id := f.Hand(t, "a.hex", []byte("data"))
	for range 8 {
		_, err := s.Grading.Claim(t.Context(), grading.Here)
		require.NoError(t, err)
		require.NoError(t, s.Close())
		s = open(t, dir, nil)
	}
	defer s.Close()
	_, err := s.Grading.Claim(t.Context(), grading.Here)
	assert.ErrorIs(t, err, ports.ErrNone)
	sub, err := s.Submissions.Submission(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, wire.Failed, sub.State)
	q, err := s.Grading.QueueState(t.Context())
	require.NoError(t, err)
	require.Len(t, q.Quarantined, 1)
	assert.Contains(t, q.Quarantined[0].Error, "died each time")
	require.NoError(t, s.Grading.Retry(t.Context(), "keeper", q.Quarantined[0].Job))
	_, err = s.Grading.Claim(t.Context(), grading.Here)
	assert.NoError(t, err)
}

// A cancelled submission is never marked, and does not count.
func TestCancel(t *testing.T) {
	s, f := opened(t, t.TempDir(), nil)
	id := f.Hand(t, "a.hex", []byte("data"))
	sub, err := s.Submissions.Submission(t.Context(), id)
	require.NoError(t, err)
	c, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	require.NoError(t, s.Grading.Cancel(t.Context(), "oke", sub))
	assert.ErrorIs(t, s.Grading.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "1"}), ports.ErrStale)
	var refusal *db.Refusal
	assert.ErrorAs(t, s.Grading.Cancel(t.Context(), "oke", sub), &refusal)
	again := f.Hand(t, "a.hex", []byte("data"))
	assert.NotEqual(t, id, again, "the same file may be submitted again")
}

// A student who waits goes before a remark.
func TestOrderOfTheQueue(t *testing.T) {
	s, f := opened(t, t.TempDir(), nil)
	id := f.Hand(t, "a.hex", []byte("data"))
	c, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	require.NoError(t, s.Grading.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
	by, err := s.People.Account(t.Context(), "keeper")
	require.NoError(t, err)
	o, err := s.Exercises.AssignmentOf(t.Context(), id)
	require.NoError(t, err)
	require.NoError(t,
		s.Exercises.PutExercise(t.Context(), by,
			exercises.NewRevision{Name: "x", Title: "X", Marks: "1", Text: []byte("other text")}))
	rev, err := s.Exercises.Revision(t.Context(), "x", 0)
	require.NoError(t, err)
	_, err = s.Marks.Propose(t.Context(), by, o, rev.ID)
	require.NoError(t, err)
	waiting := f.Hand(t, "a.hex", []byte("newer data"))
	c, err = s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	assert.Equal(t, waiting, c.Submission)
	c, err = s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	assert.Equal(t, id, c.Submission)
}

// Classes take turns, and within a class those who submit: sixty of one hold up another's one by a single turn.
func TestTurns(t *testing.T) {
	s, _ := opened(t, t.TempDir(), nil)
	ctx := t.Context()
	keeper, err := s.People.Account(ctx, "keeper")
	require.NoError(t, err)
	who := map[string]string{} // submission by person and class
	give := func(class, login string, n int) {
		if _, err := s.Classes.Class(ctx, keeper, class); err != nil {
			require.NoError(t, s.Classes.AddClass(ctx, keeper, class, class))
		}
		c, err := s.Classes.Class(ctx, keeper, class)
		require.NoError(t, err)
		require.NoError(t,
			s.Classes.PutMember(ctx, "keeper", c.ID, login, wire.SetMember{Name: login, Role: wire.Student}))
		require.NoError(t,
			s.Exercises.Assign(ctx, "keeper", c.ID, "x", 0,
				record.Policy{Opens: s.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce,
					ShowMarks: wire.AtOnce}))
		o, err := s.Exercises.Assignment(ctx, c.ID, "x", 0)
		require.NoError(t, err)
		m, err := s.Classes.Student(ctx, c.ID, login)
		require.NoError(t, err)
		by, err := s.People.Account(ctx, login)
		require.NoError(t, err)
		for i := range n {
			id, _, err := s.Submissions.Submit(ctx, submissions.Work{Assignment: o, Student: m, By: by, File: "a.hex",
				Data: []byte(login + fmt.Sprint(i))})
			require.NoError(t, err)
			who[id] = login
		}
	}
	next := func() string {
		c, err := s.Grading.Claim(ctx, grading.Here)
		require.NoError(t, err)
		return who[c.Submission]
	}
	give("lock", "bulk", 60)
	assert.Equal(t, "bulk", next())
	give("lock", "oke", 2)
	line, err := s.Grading.Line(ctx)
	require.NoError(t, err)
	for id, login := range who {
		sub, err := s.Submissions.Submission(ctx, id)
		require.NoError(t, err)
		if login == "oke" {
			assert.Contains(t, []int{1, 3}, line.Ahead(sub.Job))
		}
	}
	assert.Equal(t, []string{"oke", "bulk", "oke", "bulk", "bulk"}, []string{next(), next(), next(), next(), next()})
	give("weir", "lee", 30)
	give("weir", "marsh", 1)
	assert.Equal(t, []string{"lee", "bulk", "marsh", "bulk", "lee", "bulk"},
		[]string{next(), next(), next(), next(), next(), next()})
}
