// Package checks tests the core on the demo course, in one folder per package of the core: marks and causes of its
// programs, equality of the fast and the reference interpreter, recording and accepting. The core's own tests do not
// need the demo course.
package checks

import (
	"os/exec"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/build"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/demo"
	_ "hemble/interpreter" // runs scripts
)

// Course is the course.
func Course(t testing.TB) []demo.Exercise {
	t.Helper()
	course, err := demo.Course()
	require.NoError(t, err)
	return course
}

// One is an exercise of the course.
func One(t testing.TB, name string) demo.Exercise {
	t.Helper()
	e, err := demo.Find(name)
	require.NoError(t, err)
	return e
}

// Read reads an exercise that is in order.
func Read(t testing.TB, text []byte) *exercise.Exercise {
	t.Helper()
	x, problems := exercise.Read("exercise.yaml", text)
	require.NotNil(t, x, "%v", problems)
	return x
}

// Image reads a firmware for the chip of an exercise.
func Image(t testing.TB, x *exercise.Exercise, file []byte) *firmware.Image {
	t.Helper()
	im, err := firmware.Read(file, x.Chip.Firmware)
	require.NoError(t, err)
	return im
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

// Builder builds programs; where a tool for it is missing the test is left out.
func Builder(t testing.TB) *build.Builder {
	t.Helper()
	for _, tool := range []string{"avr-gcc", "bwrap"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", tool)
		}
	}
	b, err := build.New(build.Config{Cache: t.TempDir()})
	require.NoError(t, err)
	return b
}
