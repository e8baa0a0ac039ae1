package bench_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/firmware"
	"hemble/core/reel"
	"hemble/demo/checks"
)

// shown is what a run showed, without the program points behind it, which a replay does not keep.
func shown(t *testing.T, r *reel.Reel) string {
	out := *r
	out.Tracks = nil
	for _, track := range r.Tracks {
		frames := track.Frames
		track.Frames = nil
		for _, f := range frames {
			f.At = nil
			track.Frames = append(track.Frames, f)
		}
		out.Tracks = append(out.Tracks, track)
	}
	out.Notes, out.Counters, out.Stop = nil, r.Counters, nil
	out.Counters.Instructions, out.Counters.Cycles = 0, 0
	text, err := json.Marshal(out)
	require.NoError(t, err)
	return string(text)
}

func tried(t *testing.T, x *exercise.Exercise, trial int, im *firmware.Image, o bench.Options) (*reel.Reel,
	*bench.Bench) {
	b, err := bench.New(x, &x.Trials[trial], im, o)
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), x.Trials[trial].Length))
	return b.Finish(), b
}

// A tape shows what running the program again shows, on the bench that it was recorded on and on changed ones; where
// the chip would have been told something else, it says so.
func TestTapes(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long; the whole of the tests has it")
	}
	course := checks.Course(t)
	held, broken := 0, 0
	for _, e := range course {
		x := checks.Read(t, e.Text)
		for n, f := range e.Files {
			if n > 2 && !strings.Contains(f.Name, "address") && !strings.Contains(f.Name, "swapped") {
				continue // a few of each exercise
			}
			x := x.For(f.Data)
			im := checks.Image(t, x, f.Data)
			for trial := range x.Trials {
				tape := &bench.Replay{}
				recorded, _ := tried(t, x, trial, im, bench.Options{Record: tape})
				whole, _ := tried(t, x, trial, im, bench.Options{})
				require.Equal(t, shown(t, whole), shown(t, recorded), "%s: recording changes nothing", f.Name)
				if !tape.Whole {
					continue // it read a voltage
				}
				require.True(t, tape.Fits(x, &x.Trials[trial]))
				played, b := tried(t, x, trial, im, bench.Options{Replay: tape})
				require.True(t, b.Held(), "%s, %s", f.Name, x.Trials[trial].Name)
				require.Equal(t, shown(t, recorded), shown(t, played), f.Name)
				for _, p := range x.Parts {
					for _, kind := range fault.All() {
						for k, size := range kind.Sizes(fault.NewSubject(x, p, []*reel.Reel{recorded}, nil)) {
							if size.Bench == nil || k > 1 {
								continue
							}
							changed := x.Clone()
							size.Bench(changed)
							if !tape.Fits(changed, &changed.Trials[trial]) {
								continue
							}
							played, b := tried(t, changed, trial, im, bench.Options{Replay: tape})
							if !b.Held() {
								broken++
								continue
							}
							held++
							again, _ := tried(t, changed, trial, im, bench.Options{})
							assert.Equal(t, shown(t, again), shown(t, played), "%s, %s: %s", f.Name, kind.Code,
								size.Text)
						}
					}
				}
			}
		}
	}
	t.Logf("%d changed benches by tape, %d that had to be run", held, broken)
	assert.Greater(t, held, 20)
	assert.Greater(t, broken, 20)
}
