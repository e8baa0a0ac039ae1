package api_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/api"
	"hemble/service/servicetest"
	"hemble/service/web"
	"hemble/wire"
)

// The people of the world, and what each is to the class lock-house.
var actors = []string{"nobody", "admin", "keeper", "helper", "anna", "bert", "stranger", "strange-helper", "carl"}

// may tells who gets through, of routes about the class lock-house and anna's submission: written down here once more,
// not taken from the code.
func may(access web.Access, actor string) bool {
	in := func(list string) bool { return strings.Contains(" "+list+" ", " "+actor+" ") }
	switch access {
	case web.Anyone:
		return true
	case web.SignedIn, web.Themselves:
		return actor != "nobody"
	case web.Instructors:
		return in("admin keeper stranger")
	case web.Admins:
		return in("admin")
	case web.Members:
		return in("admin keeper helper anna bert")
	case web.Owner:
		return in("admin keeper helper anna")
	case web.Staff:
		return in("admin keeper helper")
	case web.ClassInstructors:
		return in("admin keeper")
	}
	return false
}

var parameter = regexp.MustCompile(`:([a-z]+)`)

// fill gives a route's address in the world: things that are there, so that a refusal is one for want of rights.
func (w *world) fill(route web.Route) string {
	return "/api/v1" + parameter.ReplaceAllStringFunc(route.Path, func(p string) string {
		switch p[1:] {
		case "class":
			return ownClass
		case "exercise":
			return lamps
		case "submission":
			return w.work["anna"].ID
		case "login":
			return "anna"
		case "trial":
			return "0"
		case "kind":
			return "student"
		case "who":
			return "anna"
		}
		return "1"
	})
}

// missing are routes whose last thing is not there in the world: who may use them is told so.
var missing = map[string]bool{"/bulk/:bulk": true, "/proposals/:proposal": true}

// Every call × everybody, from the table itself: a call that is added is tried without being named here. Changes are
// made conditional on something that is not so: what gets through to the call itself changes nothing.
func TestEveryCallForEverybody(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	for _, route := range api.Routes() {
		for _, actor := range actors {
			if route.Access == web.Anyone {
				continue
			}
			name := fmt.Sprintf("%s %s as %s", route.Method, route.Path, actor)
			if route.Gives == "text/event-stream" {
				continue // it continues for ever: TestEventsAreForMembers
			}
			about := strings.Contains(route.Path, ":class") && route.Method+route.Path != "POST/classes/:class" ||
				strings.Contains(route.Path, ":submission")
			status, _, text := ask(t, w.people[actor], route.Method, w.fill(route), "", "If-Match", `"not this"`)
			switch {
			case may(route.Access, actor) && route.Method == http.MethodGet:
				want := []int{http.StatusOK}
				for end := range missing {
					if strings.HasSuffix(route.Path, end) {
						want = []int{http.StatusNotFound}
					}
				}
				assert.Contains(t, want, status, "%s: %.300s", name, text)
			case may(route.Access, actor):
				assert.Contains(t, []int{http.StatusPreconditionFailed, http.StatusBadRequest, http.StatusNotFound},
					status, "%s: %.300s", name, text)
				if status == http.StatusNotFound { // of the thing that is to be unchanged
					assert.NotContains(t, text, "sign in", name)
				}
			case actor == "nobody":
				assert.Equal(t, http.StatusUnauthorized, status, "%s: %.300s", name, text)
			case about && slices.Contains([]string{"stranger", "strange-helper", "carl"}, actor):
				assert.Equal(t, http.StatusNotFound, status, "%s: what others have is not there: %.300s", name, text)
			default:
				assert.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, status, "%s: %.300s", name, text)
			}
			if !may(route.Access, actor) {
				for _, secret := range []string{"Name of", "Class lock", "work-of", "comment of", hiddenTrial,
					markerNote} {
					assert.NotContains(t, text, secret, name)
				}
			}
		}
	}
}

// A student's own calls, all of them, tell nothing of hidden trials, of notes for markers, of other students, or of
// keys.
func TestStudentsSeeTheirOwn(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	anna := w.people["anna"]
	secrets := []string{hiddenTrial, markerNote, "bert", "carl", "keeper", "helper", w.work["bert"].ID,
		w.people["bert"].Token, "argon2", "secret", t.TempDir()[:10]}
	look := func(route web.Route, query string) {
		status, _, text := ask(t, anna, http.MethodGet, w.fill(route)+query, "")
		if status == http.StatusBadRequest {
			return // it says what was asked for
		}
		for _, s := range secrets {
			if s == "secret" && route.Path == "/schema" || s == "keeper" && route.Path == "/session" {
				continue
			}
			assert.NotContains(t, text, s, "%s%s", route.Path, query)
		}
	}
	for _, route := range api.Routes() {
		if route.Method != http.MethodGet || !may(route.Access, "anna") || route.Gives == "text/event-stream" ||
			route.Path == "/openapi.json" || route.Path == "/schema" {
			continue
		}
		look(route, "")
		for _, q := range route.Query {
			look(route, "?"+q.Name+"=bert")
		}
	}
	// The hidden trial's 4 marks are in no total, and its reel has no number.
	r, err := anna.Result(t.Context(), w.work["anna"].ID)
	require.NoError(t, err)
	assert.Equal(t, json.Number("10"), r.Of)
	assert.Equal(t, json.Number("10"), r.Marks)
	assert.Equal(t, 4, r.Met)
	all, err := w.people["keeper"].Result(t.Context(), w.work["anna"].ID)
	require.NoError(t, err)
	assert.Equal(t, json.Number("14"), all.Of)
	assert.Equal(t, 5, all.Met)
	reel := func(c *client.Client, id string, trial int) error {
		_, err := c.Reel(t.Context(), id, trial)
		return err
	}
	assert.NoError(t, reel(anna, w.work["anna"].ID, 0))
	assert.Error(t, reel(anna, w.work["anna"].ID, 1))
	assert.NoError(t, reel(w.people["helper"], w.work["anna"].ID, 1))
	o, err := anna.Assignment(t.Context(), ownClass, lamps)
	require.NoError(t, err)
	assert.Equal(t, json.Number("10"), o.Marks)
	b, err := anna.Brief(t.Context(), ownClass, lamps, "")
	require.NoError(t, err)
	assert.Equal(t, json.Number("10"), b.Marks)

	// After the release the total is whole; what the hidden trial was stays hidden.
	_, err = w.people["keeper"].Release(t.Context(), ownClass, lamps, true)
	require.NoError(t, err)
	r, err = anna.Result(t.Context(), w.work["anna"].ID)
	require.NoError(t, err)
	assert.Equal(t, json.Number("14"), r.Of)
	assert.NotContains(t, servicetest.JSON(t, r.Sheet), hiddenTrial)
	assert.Error(t, reel(anna, w.work["anna"].ID, 1))
}

// What is shown when: nothing of sheet or marks before their moment, through any call.
func TestMoments(t *testing.T) {
	w := newWorld(t, wire.Policy{ShowSheet: wire.OnRelease, ShowMarks: wire.OnRelease})
	anna, keeper, id := w.people["anna"], w.people["keeper"], w.work["anna"].ID
	hidden := func() {
		t.Helper()
		r, err := anna.Result(t.Context(), id)
		require.NoError(t, err)
		assert.Empty(t, r.Marks)
		assert.Empty(t, r.First)
		assert.Zero(t, r.Met)
		assert.Contains(t, r.Hidden, "once the marks are released")
	}
	hidden()
	r, err := anna.Result(t.Context(), id)
	require.NoError(t, err)
	assert.Nil(t, r.Sheet)
	reel := func(c *client.Client, id string, trial int) error {
		_, err := c.Reel(t.Context(), id, trial)
		return err
	}
	assert.Equal(t, "not-found", client.Code(reel(anna, id, 0)))
	_, err = anna.SheetPage(t.Context(), id)
	assert.Equal(t, "not-found", client.Code(err))
	page, err := anna.SubmissionPage(t.Context(), ownClass, lamps, client.Filter{})
	require.NoError(t, err)
	require.Len(t, page.Items, 1)
	assert.Empty(t, page.Items[0].Marks)
	assert.False(t, page.Items[0].Counts)

	// The sheet without the marks.
	_, err = keeper.Assign(t.Context(), ownClass, lamps,
		wire.SetAssignment{Policy: wire.Policy{ShowSheet: wire.AtOnce, ShowMarks: wire.OnRelease}})
	require.NoError(t, err)
	r, err = anna.Result(t.Context(), id)
	require.NoError(t, err)
	assert.Empty(t, r.Marks)
	assert.Equal(t, 4, r.Met)
	assert.Contains(t, servicetest.JSON(t, r.Sheet), `"unmarked":true`)
	assert.Contains(t, servicetest.JSON(t, r.Sheet), `"marks":0`)
	assert.NotContains(t, servicetest.JSON(t, r.Sheet), `"marks":10`)

	_, err = keeper.Release(t.Context(), ownClass, lamps, true)
	require.NoError(t, err)
	r, err = anna.Result(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, json.Number("14"), r.Marks)
	_, err = keeper.Release(t.Context(), ownClass, lamps, false)
	require.NoError(t, err)
	_, err = keeper.Assign(t.Context(), ownClass, lamps,
		wire.SetAssignment{Policy: wire.Policy{ShowSheet: wire.OnRelease, ShowMarks: wire.OnRelease}})
	require.NoError(t, err)
	hidden()
}

// A stream tells a student of their own submissions as they may see them, and strangers of nothing.
func TestEventsAreForMembers(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	status, _, _ := ask(t, w.people["nobody"], http.MethodGet, "/api/v1/classes/"+ownClass+"/events", "")
	assert.Equal(t, http.StatusUnauthorized, status)
	status, _, _ = ask(t, w.people["carl"], http.MethodGet, "/api/v1/classes/"+ownClass+"/events", "")
	assert.Equal(t, http.StatusNotFound, status)
	heard := func(actor string) (text string) {
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
		defer cancel()
		r, err := http.NewRequestWithContext(ctx, http.MethodGet,
			w.people[actor].Server+"/api/v1/classes/"+ownClass+"/events", nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+w.people[actor].Token)
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		go func() {
			in := wire.SetOverride{Marks: "3", Reason: "as agreed"}
			_, _ = w.people["keeper"].Override(ctx, w.work["bert"].ID, in)
			_, _ = w.people["keeper"].Override(ctx, w.work["anna"].ID, in)
		}()
		buf := make([]byte, 4096)
		for !strings.Contains(text, w.work["anna"].ID) {
			n, err := answer.Body.Read(buf)
			text += string(buf[:n])
			if err != nil {
				break
			}
		}
		return text
	}
	text := heard("anna")
	assert.Contains(t, text, w.work["anna"].ID)
	assert.NotContains(t, text, w.work["bert"].ID)
	assert.NotContains(t, text, `"of":14`)
	text = heard("helper")
	assert.Contains(t, text, w.work["bert"].ID)
}

// Tokens are good for their scope, and never for the account's own security.
func TestScopes(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	token := func(actor string, scope wire.Scope) *client.Client {
		a, err := w.people[actor].NewToken(t.Context(), wire.NewToken{Name: "for tests", Scope: scope, Days: 1})
		require.NoError(t, err)
		require.NotEmpty(t, a.Token)
		return client.New(w.people[actor].Server, a.Token)
	}
	read, submit, all := token("anna", wire.ScopeRead), token("anna", wire.ScopeSubmit), token("keeper", wire.ScopeAll)
	for _, c := range []*client.Client{read, submit} {
		_, err := c.Result(t.Context(), w.work["anna"].ID)
		assert.NoError(t, err)
		assert.Equal(t, "scope", client.Code(c.Cancel(t.Context(), w.work["anna"].ID)))
		assert.Equal(t, "scope", client.Code(c.SetPassword(t.Context(), "", "long enough")))
		_, err = c.Tokens(t.Context())
		assert.Equal(t, "scope", client.Code(err))
	}
	h := client.Work{File: "other.elf", Data: firmwareOf(t, "oke-half-speed")}
	_, err := read.Submit(t.Context(), ownClass, lamps, h)
	assert.Equal(t, "scope", client.Code(err))
	_, err = submit.Submit(t.Context(), ownClass, lamps, h)
	assert.NoError(t, err)
	_, err = all.Release(t.Context(), ownClass, lamps, true)
	assert.NoError(t, err)
	_, err = all.NewToken(t.Context(), wire.NewToken{Name: "more", Scope: wire.ScopeAll, Days: 300})
	assert.Equal(t, "scope", client.Code(err), "a token makes no tokens")
	for _, bad := range []wire.NewToken{{Name: "", Scope: "all", Days: 1}, {Name: "x", Scope: "some", Days: 1},
		{Name: "x", Scope: "all", Days: 0}, {Name: "x", Scope: "all", Days: 5000}} {
		_, err = w.people["anna"].NewToken(t.Context(), bad)
		assert.Equal(t, "token", client.Code(err), bad)
	}
	// A changed password ends them.
	require.NoError(t, w.people["anna"].SetPassword(t.Context(), "", "wherry-lock"))
	_, err = read.Session(t.Context())
	assert.Equal(t, "sign-in", client.Code(err))
	_, err = w.people["anna"].Session(t.Context())
	assert.NoError(t, err, "the session that changed it goes on")
}

// Nobody gets rights that are not theirs to have.
func TestRightsCannotBeTaken(t *testing.T) {
	w := newWorld(t, wire.Policy{})
	keeper, helper := w.people["keeper"], w.people["helper"]
	_, err := keeper.MemberLink(t.Context(), ownClass, "keeper")
	assert.Equal(t, "forbidden", client.Code(err), "no link for an instructor's account by way of a class")
	require.NoError(t,
		keeper.PutMember(t.Context(), ownClass, "stranger", wire.SetMember{Name: "x", Role: wire.Student}))
	_, err = keeper.MemberLink(t.Context(), ownClass, "stranger")
	assert.Equal(t, "forbidden", client.Code(err), "nor by making one a student")
	require.NoError(t,
		keeper.PutMember(t.Context(), ownClass, "carl", wire.SetMember{Name: "Renamed", Role: wire.Student}))
	_, err = keeper.MemberLink(t.Context(), ownClass, "carl")
	assert.Equal(t, "forbidden", client.Code(err), "nor into an account that has another class, too")
	members, err := w.people["stranger"].Members(t.Context(), otherClass)
	require.NoError(t, err)
	for _, m := range members {
		assert.NotEqual(t, "Renamed", m.Name)
	}
	assert.Equal(t, "forbidden",
		client.Code(helper.PutMember(t.Context(), ownClass, "helper",
			wire.SetMember{Name: "x", Role: wire.Instructor})))
	require.NoError(t, w.people["admin"].DropMember(t.Context(), otherClass, "instructor"))
	assert.Equal(t, "last-instructor",
		client.Code(w.people["stranger"].PutMember(t.Context(), otherClass, "stranger",
			wire.SetMember{Name: "x", Role: wire.Student})))
	assert.Equal(t, "last-admin",
		client.Code(w.people["admin"].SetAccount(t.Context(), "instructor",
			wire.SetAccount{Name: "x", Role: wire.Person})))
	_, err = w.people["anna"].Submit(t.Context(), ownClass, lamps,
		client.Work{Student: "bert", File: "as-bert.elf", Data: firmwareOf(t, "wain-green-input")})
	require.NoError(t, err)
	bert, err := w.people["bert"].SubmissionPage(t.Context(), ownClass, lamps, client.Filter{})
	require.NoError(t, err)
	assert.Len(t, bert.Items, 1, "a student submits for themselves only")
	err = keeper.CommentMany(t.Context(), ownClass, lamps,
		wire.SetComment{Text: "x", Submissions: []string{w.work["carl"].ID}})
	assert.Equal(t, "submissions", client.Code(err), "no other class's submissions")
	assert.Equal(t, "submissions",
		client.Code(keeper.OverrideMany(t.Context(), ownClass, lamps,
			wire.SetOverride{Marks: "1", Reason: "x", Submissions: []string{w.work["carl"].ID}})))
	// Whoever is shut out is out at once.
	require.NoError(t,
		w.people["admin"].SetAccount(t.Context(), "bert",
			wire.SetAccount{Name: "Bert", Role: wire.Person, Disabled: true}))
	_, err = w.people["bert"].Session(t.Context())
	assert.Equal(t, "sign-in", client.Code(err))
}
