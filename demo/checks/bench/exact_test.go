package bench_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/bench"
	"hemble/core/bench/benchtest"
	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/demo/checks"
	_ "hemble/native"
)

// Skipping waits and the fast interpreter change nothing: the reel of every firmware of the demo course is, byte for
// byte, that of the reference interpreter. Two seconds of each first trial here; all of all trials with
// HEMBLE_EXACT set (make exact). Of designs that are some milliseconds, for the reference engine has the limit of
// effort that all have; longer runs are in the tests of the engine.
func TestExact(t *testing.T) {
	whole := os.Getenv("HEMBLE_EXACT") != ""
	course := checks.Course(t)
	for _, e := range course {
		x := checks.Read(t, e.Text)
		for _, f := range e.Files {
			t.Run(f.Name, func(t *testing.T) {
				t.Parallel()
				x := x.For(f.Data)
				im := checks.Image(t, x, f.Data)
				for i := range x.Trials {
					trial := x.Trials[i]
					if !whole {
						trial.Length = min(trial.Length, 2*clock.Second)
					}
					if im.Design != nil {
						trial.Length = min(trial.Length, x.Clock.At(designPeriods))
					}
					same(t, benchtest.Reel(t, x, &trial, im, bench.Options{Reference: true}),
						benchtest.Reel(t, x, &trial, im, bench.Options{}), trial.Name)
					if !whole {
						return
					}
					same(t, benchtest.Reel(t, x, &trial, im, bench.Options{NoSkip: true}),
						benchtest.Reel(t, x, &trial, im, bench.Options{}), trial.Name)
				}
			})
		}
	}
}

// designPeriods is how many periods of its oscillator a design is followed.
const designPeriods = 2_000_000

// same says where two reels part; they are too long to print.
func same(t *testing.T, expected, actual, name string) {
	t.Helper()
	if expected == actual {
		return
	}
	at := 0
	for at < min(len(expected), len(actual)) && expected[at] == actual[at] {
		at++
	}
	around := func(s string) string { return s[max(at-100, 0):min(at+100, len(s))] }
	assert.Fail(t, "the reels differ", "%s, at byte %d: expected\n%s\ngot\n%s", name, at, around(expected), around(actual))
}
