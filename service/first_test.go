package service_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/servicetest"
	"hemble/wire"
)

// A name that is taken is refused with a free one; a revision returns what it changes and whom it concerns; of two who
// save at once the second is shown the difference.
func TestRevisionsTell(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	x, err := r.Exercise(t.Context(), gauge)
	require.NoError(t, err)
	assert.Equal(t, []wire.AssignedTo{{Class: lockHouse, Title: "Wherry Lock", Revision: 1}}, x.Assigned)

	_, err = r.NewExercise(t.Context(), gauge, []byte(x.Text))
	assert.Equal(t, "taken", client.Code(err))
	assert.ErrorContains(t, err, "chamber-gauge-2 is free")
	own := strings.Replace(x.Text, "name: chamber-gauge", "name: chamber-gauge-2", 1)
	made, err := r.NewExercise(t.Context(), "chamber-gauge-2", []byte(own))
	require.NoError(t, err)
	assert.Equal(t, 1, made.Revision)
	assert.Empty(t, made.Changes)
	_, err = r.NewExercise(t.Context(), gauge, []byte(x.Text))
	assert.ErrorContains(t, err, "chamber-gauge-3 is free")

	changed := strings.Replace(x.Text, "within: 250ms", "within: 300ms", 1)
	require.NotEqual(t, x.Text, changed)
	differs, err := r.Compare(t.Context(), gauge, []byte(changed))
	require.NoError(t, err)
	assert.Equal(t, 1, differs.Revision)
	assert.Contains(t, differs.Changes, "within: 300ms")
	saved, err := r.PutExercise(t.Context(), gauge, []byte(changed))
	require.NoError(t, err)
	assert.Equal(t, 2, saved.Revision)
	assert.Regexp(t, `(?m)^-.*within: 250ms[^\n]*\n\+.*within: 300ms`, saved.Changes)
	assert.Equal(t, 1, saved.Assigned[0].Revision, "the class goes on with the one it has")
	rev, err := r.Revision(t.Context(), gauge, 2)
	require.NoError(t, err)
	assert.Equal(t, saved.Changes, rev.Changes)
	same, err := r.Compare(t.Context(), gauge, []byte(changed))
	require.NoError(t, err)
	assert.Empty(t, same.Changes)

	// New work continues with revision 1, until 2 is put current; everything else about the assignment stays.
	r.open(wire.Policy{Attempts: 7, ShowMarks: wire.OnRelease})
	haq := r.must(r.Client, "haq", "haq-interrupts")
	assert.Equal(t, 1, haq.Revision)
	o, err := r.PutInForce(t.Context(), lockHouse, gauge, 2)
	require.NoError(t, err)
	assert.Equal(t, 2, o.Revision)
	assert.Equal(t, 7, o.Attempts)
	assert.Equal(t, wire.OnRelease, o.ShowMarks)
	assert.Equal(t, 2, r.must(r.Client, "quill", "quill-bounce").Revision)
	for _, wrong := range []int{0, -1, 9} {
		_, err = r.PutInForce(t.Context(), lockHouse, gauge, wrong)
		assert.Equal(t, "revision", client.Code(err), wrong)
	}
}

// What was seen can be accepted though the exercise has a newer revision, made for another class; it is told that this
// one has not its changes.
func TestAcceptBesideAnotherRevision(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	s := r.must(r.Client, "tarn", "tarn-wrong-six")
	x, err := r.Exercise(t.Context(), gauge)
	require.NoError(t, err)
	_, err = r.PutExercise(t.Context(), gauge, []byte(strings.Replace(x.Text, "within: 250ms", "within: 300ms", 1)))
	require.NoError(t, err)
	first := 0
	result, err := r.Result(t.Context(), s.ID)
	require.NoError(t, err)
	sh := result.Sheet
	for trial := range sh.Trials {
		for v := range sh.Trials[trial].Verdicts {
			for p, l := range sh.Trials[trial].Verdicts[v].Alignment {
				if l.Operation == "wrong" && first == 0 {
					first++
					a, err := r.Accept(t.Context(), s.ID, wire.Accept{Trial: trial, Verdict: v, Pair: &p})
					require.NoError(t, err)
					assert.Equal(t, 2, a.NewerRevision)
					assert.Contains(t, a.Text, "within: 250ms", "it is made from the one current")
				}
			}
		}
	}
	assert.Equal(t, 1, first)
}

// A student's list tells their own mark as far as it is shown, what came of the last attempt, and what is left.
func TestStudentsList(t *testing.T) {
	r := newRoom(t, wire.Policy{Attempts: 3, ShowMarks: wire.OnRelease, Counts: wire.CountsBest})
	quill := servicetest.As(t, r.Client, lockHouse, "quill")
	mine := func() *wire.Standing {
		all, err := quill.Assignments(t.Context(), lockHouse)
		require.NoError(t, err)
		require.Len(t, all, 1)
		return all[0].Standing
	}
	assert.Equal(t, wire.Standing{Open: true, Left: ptr(3)}, *mine())
	r.must(r.Client, "quill", "haq-interrupts")
	r.clock.add(time.Minute)
	last := r.must(r.Client, "quill", "quill-bounce")
	now := mine()
	assert.Equal(t, last.ID, now.Last)
	assert.Equal(t, wire.Marked, now.State)
	assert.Empty(t, now.Marks, "not before the release")
	_, err := r.Release(t.Context(), lockHouse, gauge, true)
	require.NoError(t, err)
	now = mine()
	assert.Equal(t, json.Number("10"), now.Marks, "of the best attempt")
	assert.Equal(t, json.Number("10"), now.Of)
	assert.Equal(t, 1, *now.Left)
}

func ptr[T any](v T) *T { return &v }

// A page of one person does nothing in the name of another who signed in since, and says whose it is.
func TestPageOfAnother(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	haq := servicetest.As(t, r.Client, lockHouse, "haq")
	call := func(method, path, whose string) (int, string) {
		q, err := http.NewRequestWithContext(t.Context(), method, haq.Server+"/api/v1"+path, strings.NewReader("{}"))
		require.NoError(t, err)
		q.Header.Set("Authorization", "Bearer "+haq.Token)
		q.Header.Set("Content-Type", "application/json")
		if whose != "" {
			q.Header.Set("Hemble-Account", whose)
		}
		answer, err := http.DefaultClient.Do(q)
		require.NoError(t, err)
		defer answer.Body.Close()
		var p wire.Problem
		_ = json.NewDecoder(answer.Body).Decode(&p)
		return answer.StatusCode, p.Detail
	}
	for _, whose := range []string{"", "haq"} {
		status, _ := call(http.MethodGet, "/classes", whose)
		assert.Equal(t, 200, status, whose)
	}
	for _, path := range []string{"/classes", "/session", "/classes/" + lockHouse + "/assignments"} {
		status, text := call(http.MethodGet, path, "quill")
		assert.Equal(t, 409, status, path)
		assert.Contains(t, text, "this page belongs to quill, but haq is signed in now")
	}
	status, _ := call(http.MethodPost, "/session", "quill")
	assert.NotEqual(t, 409, status, "signing in is for everybody")
}

// A code is read however it is typed; who is on the list and joins is led to a link; links are made for all at once,
// and none that was given out is made void without a word.
func TestJoiningAndLinks(t *testing.T) {
	r := newRoom(t, wire.Policy{})
	c, err := r.NewJoinCode(t.Context(), lockHouse)
	require.NoError(t, err)
	typed := strings.ToLower(strings.Replace(c.JoinCode, "-", " ", 1))
	typed = strings.NewReplacer("l", "1", "q", "0").Replace(typed)
	stranger := client.New(r.Server, "")
	_, err = stranger.Join(t.Context(), wire.Join{Code: typed, Login: "newcomer", Name: "N. Newcomer",
		Password: "wherry-lock"})
	require.NoError(t, err, "%s for %s", typed, c.JoinCode)
	for _, in := range []wire.Join{{Login: "somebody", Name: " s.  HAQ "}, {Login: "HAQ", Name: "Whoever"}} {
		in.Code, in.Password = typed, "wherry-lock"
		_, err = client.New(r.Server, "").Join(t.Context(), in)
		assert.Equal(t, "on-roster", client.Code(err), in.Login)
		assert.ErrorContains(t, err, "ask your instructor for your sign-in link")
	}

	made, err := r.MemberLinks(t.Context(), lockHouse, nil)
	require.NoError(t, err)
	members, err := r.Members(t.Context(), lockHouse)
	require.NoError(t, err)
	waiting := 0
	for _, m := range members {
		if m.Role == wire.Student && !m.SignedIn {
			waiting++
			assert.NotNil(t, m.LinkUntil, m.Login)
		}
	}
	assert.Len(t, made.Links, waiting)
	assert.Empty(t, made.Kept)
	again, err := r.MemberLinks(t.Context(), lockHouse, []string{"quill"})
	require.NoError(t, err)
	require.Len(t, again.Links, 1, "theirs alone is replaced")
	assert.Len(t, again.Kept, waiting-1)
	for _, l := range made.Links {
		_, err := client.New(r.Server, "").UseLink(t.Context(), l.Token, "wherry-lock")
		assert.Equal(t, l.Login == "quill", err != nil, l.Login)
		if l.Login == "reyes" || l.Login == "quill" {
			continue
		}
		break
	}
	haq := servicetest.As(t, r.Client, lockHouse, "haq")
	_, err = haq.MemberLinks(t.Context(), lockHouse, nil)
	assert.Equal(t, "forbidden", client.Code(err))
}
