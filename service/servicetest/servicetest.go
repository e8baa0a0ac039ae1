// Package servicetest starts services on loopback for tests.
package servicetest

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/console"
	"hemble/demo"
	"hemble/service"
	"hemble/wire"
)

// Name and password of the account that every test service has.
const (
	Name     = "instructor"
	Password = "wherry-lock"
)

// Start runs a service over a folder until the test ends, and gives a client that is signed in.
func Start(t testing.TB, dir string) (*service.Service, *client.Client) {
	t.Helper()
	s, err := service.Start(t.Context(), service.Config{Dir: dir, Listen: "127.0.0.1:0", Name: Name, Password: Password, Console: console.Site()})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	c := client.New(s.Address, "")
	_, err = c.SignIn(t.Context(), Name, Password)
	require.NoError(t, err)
	return s, c
}

// Course puts the demo exercises into a service and hands in what want picks; it waits for the
// marks and gives them by file name.
func Course(ctx context.Context, t testing.TB, c *client.Client, want func(exercise, file string) bool) map[string]wire.Submission {
	t.Helper()
	course, err := demo.Course()
	require.NoError(t, err)
	out := map[string]wire.Submission{}
	for _, x := range course {
		_, err := c.PutExercise(ctx, x.Name, x.Text)
		require.NoError(t, err)
		var ids []string
		for _, f := range x.Files {
			if want != nil && !want(x.Name, f.Name) {
				continue
			}
			s, err := c.Submit(ctx, x.Name, f.Student, f.Name, f.Data)
			require.NoError(t, err)
			ids = append(ids, s.ID)
		}
		require.NoError(t, c.Wait(ctx, x.Name, ids, func(s wire.Submission) { out[s.File] = s }))
	}
	return out
}
