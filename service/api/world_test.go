package api_test

import (
	"io"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/service"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// ask sends a request as somebody and gives status, headers and body.
func ask(t testing.TB, c *client.Client, method, path, body string, headers ...string) (int, http.Header, string) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, c.Server+path, strings.NewReader(body))
	require.NoError(t, err)
	if c.Token != "" {
		r.Header.Set("Authorization", "Bearer "+c.Token)
	}
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
	}
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	return answer.StatusCode, answer.Header, string(text)
}

// What nobody may see who is not meant to.
const (
	hiddenTrial = "nobody-knows-this-trial"
	markerNote  = "only-for-markers"
)

// secretive is the lamps' exercise with a second, hidden trial and notes for markers: 10 marks to be seen, 4 hidden.
func secretive(t testing.TB) []byte {
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	return []byte(string(x.Text) + `
  - name: ` + hiddenTrial + `
    length: 4s
    hidden: yes
    notes: ` + markerNote + `
    expect:
      - {shows: red, frames: [on, off], each: 3s, start: power, extra: ignore, marks: 4, notes: ` + markerNote + `}
`)
}

// world is a service with two classes of the same exercise, and somebody of each kind.
type world struct {
	service *service.Service
	people  map[string]*client.Client
	work    map[string]wire.Submission // by login
}

const (
	ownClass   = "lock-house"
	otherClass = "other-lock"
	lamps      = "boat-lamps"
)

// firmwareOf gives one of the lamps' firmwares.
func firmwareOf(t testing.TB, name string) []byte {
	_, data, err := demo.Pick(lamps, name)
	require.NoError(t, err)
	return data
}

func newWorld(t testing.TB, terms wire.Policy) *world {
	s, admin := servicetest.Start(t, t.TempDir())
	w := &world{service: s, people: map[string]*client.Client{"admin": admin, "nobody": client.New(admin.Server, "")},
		work: map[string]wire.Submission{}}
	_, err := admin.PutExercise(t.Context(), lamps, secretive(t))
	require.NoError(t, err)
	for class, people := range map[string]map[string]wire.Role{
		ownClass:   {"keeper": wire.Instructor, "helper": wire.Assistant, "anna": wire.Student, "bert": wire.Student},
		otherClass: {"stranger": wire.Instructor, "strange-helper": wire.Assistant, "carl": wire.Student},
	} {
		_, err := admin.AddClass(t.Context(), class, "Class "+class)
		require.NoError(t, err)
		for login, role := range people {
			if role == wire.Instructor {
				require.NoError(t,
					admin.SetAccount(t.Context(), login,
						wire.SetAccount{Name: "Name of " + login, Role: wire.Instructor}))
			}
			require.NoError(t,
				admin.PutMember(t.Context(), class, login,
					wire.SetMember{Name: "Name of " + login, Role: role, Group: "morning"}))
			link, err := admin.AccountLink(t.Context(), login)
			require.NoError(t, err)
			w.people[login] = client.New(admin.Server, "")
			_, err = w.people[login].UseLink(t.Context(), link.Token, "")
			require.NoError(t, err)
		}
		_, err = admin.Assign(t.Context(), class, lamps, wire.SetAssignment{Policy: terms})
		require.NoError(t, err)
	}
	for login, firmware := range map[string]string{"anna": "marsh-waits", "bert": "oke-half-speed",
		"carl": "marsh-waits"} {
		class := ownClass
		if login == "carl" {
			class = otherClass
		}
		r, err := w.people[login].Submit(t.Context(), class, lamps,
			client.Work{File: "work-of-" + login + ".elf", Data: firmwareOf(t, firmware),
				Comment: "comment of " + login})
		require.NoError(t, err)
		require.NoError(t,
			admin.Wait(t.Context(), class, lamps, []string{r.ID}, func(s wire.Submission) { w.work[login] = s }))
		require.Equal(t, wire.Marked, w.work[login].State, w.work[login].Error)
	}
	return w
}

// startOnly starts a service without signing in to it.
func startOnly(t testing.TB, config service.Config) (*service.Service, error) {
	s, err := service.Start(t.Context(), config)
	if err == nil {
		t.Cleanup(func() { _ = s.Close() })
	}
	return s, err
}
