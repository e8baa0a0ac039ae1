package bench_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/reel"
	"hemble/demo"
)

// Skipping waits and the fast interpreter change nothing: the reel of every firmware of the demo course is, byte for
// byte, that of the plain stepping reference. Two seconds of each first trial here; all of all trials with
// HEMBLE_EXACT set (make exact).
func TestExact(t *testing.T) {
	whole := os.Getenv("HEMBLE_EXACT") != ""
	course, err := demo.Course()
	require.NoError(t, err)
	for _, e := range course {
		x, problems := exercise.Read("exercise.yaml", e.Text)
		require.NotNil(t, x, "%v", problems)
		for _, f := range e.Files {
			t.Run(f.Name, func(t *testing.T) {
				t.Parallel()
				im, err := firmware.Read(f.Data, avr.Memories)
				require.NoError(t, err)
				for i := range x.Trials {
					trial := x.Trials[i]
					if !whole {
						trial.Length = min(trial.Length, 2*clock.Second)
					}
					assert.Equal(t, reelOf(t, x, &trial, im, bench.Options{Plain: true}), reelOf(t, x, &trial, im, bench.Options{}), trial.Name)
					if !whole {
						return
					}
					assert.Equal(t, reelOf(t, x, &trial, im, bench.Options{Whole: true}), reelOf(t, x, &trial, im, bench.Options{}), trial.Name)
				}
			})
		}
	}
}

func reelOf(t *testing.T, x *exercise.Exercise, trial *exercise.Trial, im *firmware.Image, o bench.Options) string {
	b, err := bench.New(x, trial, im, o)
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), trial.Length))
	return text(t, b.Finish())
}

// text is a reel without what tells the effort.
func text(t *testing.T, r *reel.Reel) string {
	r.Counters = machine.Counters{}
	out, err := json.Marshal(r)
	require.NoError(t, err)
	return string(out)
}
