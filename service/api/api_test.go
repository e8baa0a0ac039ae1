package api_test

import (
	"bufio"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

// ask sends a request with a token and gives status, headers and body.
func ask(t *testing.T, c *client.Client, method, path, body string) (int, http.Header, string) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, c.Server+path, strings.NewReader(body))
	require.NoError(t, err)
	if c.Token != "" {
		r.Header.Set("Authorization", "Bearer "+c.Token)
	}
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	return answer.StatusCode, answer.Header, string(text)
}

func TestProbesAndHeaders(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	anyone := client.New(s.Address, "")
	for _, path := range []string{"/healthz", "/readyz"} {
		status, _, text := ask(t, anyone, http.MethodGet, path, "")
		assert.Equal(t, http.StatusOK, status)
		assert.Equal(t, "ok\n", text)
	}
	_, h, _ := ask(t, c, http.MethodGet, "/api/v1/exercises", "")
	assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"))
	assert.Contains(t, h.Get("Content-Security-Policy"), "frame-ancestors 'none'")
	status, _, text := ask(t, c, http.MethodPatch, "/api/v1/exercises", "")
	assert.Equal(t, http.StatusMethodNotAllowed, status)
	assert.Contains(t, text, `"code":"method"`)
}

// Every route but signing in asks who is there.
func TestEverythingIsBehindSignIn(t *testing.T) {
	s, _ := servicetest.Start(t, t.TempDir())
	anyone := client.New(s.Address, "made-up-token")
	for _, route := range []string{"GET /session", "DELETE /session", "GET /exercises", "GET /exercises/x", "PUT /exercises/x", "GET /exercises/x/submissions", "POST /exercises/x/submissions",
		"GET /submissions/x", "GET /submissions/x/reels/0", "GET /events", "GET /schema", "GET /character-rom"} {
		method, path, _ := strings.Cut(route, " ")
		status, _, text := ask(t, anyone, method, "/api/v1"+path, "")
		assert.Equal(t, http.StatusUnauthorized, status, route)
		assert.Contains(t, text, `"code":"sign-in"`, route)
	}
}

func TestSessions(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	status, _, text := ask(t, c, http.MethodGet, "/api/v1/session", "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, text, `"name":"instructor","role":"instructor"`)
	for _, body := range []string{"", "{", `{"name": "x"}`, `[]`} {
		status, _, _ = ask(t, c, http.MethodPost, "/api/v1/session", body)
		assert.Equal(t, http.StatusBadRequest, status, "%q", body)
	}
	status, h, text := ask(t, c, http.MethodPost, "/api/v1/session", `{"name": "instructor", "password": "wherry-lock"}`)
	assert.Equal(t, http.StatusCreated, status)
	cookie := h.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Strict")
	var session wire.Session
	require.NoError(t, json.Unmarshal([]byte(text), &session))
	assert.Greater(t, time.Until(session.Expires), 24*time.Hour)

	status, _, _ = ask(t, c, http.MethodDelete, "/api/v1/session", "")
	assert.Equal(t, http.StatusNoContent, status)
	status, _, _ = ask(t, c, http.MethodGet, "/api/v1/session", "")
	assert.Equal(t, http.StatusUnauthorized, status, "a token ends with its session")
}

func TestReferenceData(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	_, _, text := ask(t, c, http.MethodGet, "/api/v1/schema", "")
	assert.Contains(t, text, "json-schema.org")
	_, _, text = ask(t, c, http.MethodGet, "/api/v1/character-rom", "")
	var rom [256][8]int
	require.NoError(t, json.Unmarshal([]byte(text), &rom))
	assert.Equal(t, [8]int{31, 31, 31, 31, 31, 31, 31, 31}, rom[255])
}

func TestEventsTellChanges(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	_, err = c.PutExercise(t.Context(), "boat-lamps", lamps.Text)
	require.NoError(t, err)
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, c.Server+"/api/v1/events?exercise=boat-lamps", nil)
	require.NoError(t, err)
	r.Header.Set("Authorization", "Bearer "+c.Token)
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, "text/event-stream", answer.Header.Get("Content-Type"))

	sub, err := c.Submit(t.Context(), "boat-lamps", "A. Marsh", "x.elf", lamps.Files[0].Data)
	require.NoError(t, err)
	var states []wire.State
	for lines := bufio.NewScanner(answer.Body); lines.Scan(); {
		data, found := strings.CutPrefix(lines.Text(), "data: ")
		if !found {
			continue
		}
		var s wire.Submission
		require.NoError(t, json.Unmarshal([]byte(data), &s))
		assert.Equal(t, sub.ID, s.ID)
		if states = append(states, s.State); s.State == wire.Marked {
			break
		}
	}
	require.NotEmpty(t, states)
	assert.Equal(t, wire.Marked, states[len(states)-1])
}

func TestConsoleIsServed(t *testing.T) {
	if _, err := os.Stat("../../console/dist/site/index.html"); err != nil {
		t.Skip("the console is not built; `make console` builds it")
	}
	s, _ := servicetest.Start(t, t.TempDir())
	anyone := client.New(s.Address, "")
	for _, path := range []string{"/", "/sign-in", "/submissions/some-id", "/exercises/../exercises/x"} {
		status, _, text := ask(t, anyone, http.MethodGet, path, "")
		assert.Equal(t, http.StatusOK, status, path)
		assert.Contains(t, text, `<div id="root">`, path)
	}
	_, _, index := ask(t, anyone, http.MethodGet, "/", "")
	_, after, _ := strings.Cut(index, `src="`)
	script, _, _ := strings.Cut(after, `"`)
	status, h, _ := ask(t, anyone, http.MethodGet, script, "")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, h.Get("Cache-Control"), "immutable")
	status, _, _ = ask(t, anyone, http.MethodPost, "/anything", "")
	assert.Equal(t, http.StatusNotFound, status)
}

// A page of another site cannot hand in or sign in with a visitor's cookie.
func TestCrossSite(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	for site, want := range map[string]int{"cross-site": http.StatusForbidden, "same-site": http.StatusForbidden, "same-origin": http.StatusBadRequest} {
		r, err := http.NewRequest(http.MethodPost, c.Server+"/api/v1/session", strings.NewReader("{}"))
		require.NoError(t, err)
		r.Header.Set("Sec-Fetch-Site", site)
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		answer.Body.Close()
		assert.Equal(t, want, answer.StatusCode, site)
	}
}
