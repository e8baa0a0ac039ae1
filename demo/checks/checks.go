// Package checks holds the core to the demo course, in a folder for each room of the core: what marks and causes its
// programs get, that fast and the reference interpreter show the same, what is recorded and accepted. The core's own
// tests need none of it.
package checks

import (
	"testing"

	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/demo"
)

// Course is the course.
func Course(t testing.TB) []demo.Exercise {
	t.Helper()
	course, err := demo.Course()
	require.NoError(t, err)
	return course
}

// Read reads an exercise that is in order.
func Read(t testing.TB, text []byte) *exercise.Exercise {
	t.Helper()
	x, problems := exercise.Read("exercise.yaml", text)
	require.NotNil(t, x, "%v", problems)
	return x
}

// Each checks each exercise of the course, several at a time. It takes long: short runs leave it out.
func Each(t *testing.T, check func(t *testing.T, e demo.Exercise)) {
	t.Helper()
	if testing.Short() {
		t.Skip("it takes long; the whole of the tests has it")
	}
	for _, e := range Course(t) {
		t.Run(e.Name, func(t *testing.T) {
			t.Parallel()
			check(t, e)
		})
	}
}
