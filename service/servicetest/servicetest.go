// Package servicetest starts services on loopback for tests.
package servicetest

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/console"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service"
	"hemble/wire"
)

// Config is what a test's service starts with; its first account is the demo's instructor.
func Config(dir string) service.Config {
	c := service.Config{Dir: dir, Listen: "127.0.0.1:0", Console: console.Site()}
	c.First.Login, c.First.Name, c.First.Password = class.Instructor, "I. Keeper", class.Password
	return c
}

// Start runs a service over a folder until the test ends, and gives a client that is signed in as its instructor.
func Start(t testing.TB, dir string) (*service.Service, *client.Client) {
	t.Helper()
	return StartWith(t, Config(dir))
}

// StartWith is Start with a configuration of the test's own.
func StartWith(t testing.TB, config service.Config) (*service.Service, *client.Client) {
	t.Helper()
	s, err := service.Start(t.Context(), config)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s, SignIn(t, s.URL(config), class.Instructor, class.Password)
}

// SignIn gives a client that is signed in.
func SignIn(t testing.TB, address, login, password string) *client.Client {
	t.Helper()
	c := client.New(address, "")
	_, err := c.SignIn(t.Context(), login, password)
	require.NoError(t, err)
	return c
}

// As gives a client that is signed in as somebody of a class, by a one-time link.
func As(t testing.TB, instructor *client.Client, in, login string) *client.Client {
	t.Helper()
	link, err := instructor.MemberLink(t.Context(), in, login)
	require.NoError(t, err)
	c := client.New(instructor.Server, "")
	_, err = c.UseLink(t.Context(), link.Token, "")
	require.NoError(t, err)
	return c
}

// Course puts the demo class into a service and submits what want picks; it waits for the marks and gives the
// submissions by file name.
func Course(ctx context.Context, t testing.TB, c *client.Client,
	want func(exercise, file string) bool) map[string]wire.Submission {
	t.Helper()
	require.NoError(t, class.Set(ctx, c, time.Now()))
	course, err := demo.Course()
	require.NoError(t, err)
	out := map[string]wire.Submission{}
	for _, x := range course {
		ids, err := class.HandIn(ctx, c, x, want)
		require.NoError(t, err)
		require.NoError(t, c.Wait(ctx, class.Name, x.Name, ids, func(s wire.Submission) { out[s.File] = s }))
	}
	return out
}

// JSON is a value as it goes over the wire.
func JSON(t testing.TB, v any) string {
	t.Helper()
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}
