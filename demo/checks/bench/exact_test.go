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
)

// Skipping waits and the fast interpreter change nothing: the reel of every firmware of the demo course is, byte for
// byte, that of the reference interpreter. Two seconds of each first trial here; all of all trials with
// HEMBLE_EXACT set (make exact).
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
					assert.Equal(t, benchtest.Reel(t, x, &trial, im, bench.Options{Reference: true}),
						benchtest.Reel(t, x, &trial, im, bench.Options{}), trial.Name)
					if !whole {
						return
					}
					assert.Equal(t, benchtest.Reel(t, x, &trial, im, bench.Options{NoSkip: true}),
						benchtest.Reel(t, x, &trial, im, bench.Options{}), trial.Name)
				}
			})
		}
	}
}
