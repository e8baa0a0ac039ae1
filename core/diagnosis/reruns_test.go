package diagnosis

import (
	"context"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// runner counts what is run, and keeps the effort that each was given.
type runner struct {
	Repairer
	limits []int64
	holds  bool // replays tell something
}

func (r *runner) Score(int, *reel.Reel) *big.Rat { return new(big.Rat) }

func (r *runner) Replay(context.Context, *exercise.Exercise, int) (*reel.Reel, bool, error) {
	return &reel.Reel{}, r.holds, nil
}

func (r *runner) Run(_ context.Context, _ *exercise.Exercise, _ int, effort int64) (*reel.Reel, error) {
	r.limits = append(r.limits, effort)
	return &reel.Reel{Counters: machine.Counters{Instructions: 1000, Edges: 10}}, nil
}

func benches(t *testing.T) (*search, *exercise.Exercise, *runner) {
	t.Helper()
	r := &runner{}
	x := &exercise.Exercise{Clock: 16_000_000, Trials: []exercise.Trial{{Name: "a", Length: clock.Second},
		{Name: "b", Length: clock.Second}}, Parts: []*part.Instance{{Name: "lamp", Kind: &part.Kind{Name: "lamp"},
		Wired: []string{"PB0", "GND"}}}}
	own := &reel.Reel{Counters: machine.Counters{Instructions: 20_000_000}}
	return &search{ctx: t.Context(), x: x, repairer: r, kept: map[string]rerun{}, budget: 1e9,
		seen: []Seen{{Reel: own}, {Reel: &reel.Reel{}}}}, x, r
}

func TestABenchIsRunOnce(t *testing.T) {
	s, x, runs := benches(t)
	volts := func(v int64) spec.Value { return spec.Value{Number: big.NewRat(v, 1)} }
	changes := []func(*exercise.Exercise){
		func(*exercise.Exercise) {},
		func(x *exercise.Exercise) { x.Clock /= 2 },
		func(x *exercise.Exercise) { x.Supply = 3_300_000 },
		func(x *exercise.Exercise) { x.Pulled = []exercise.Pull{{Pin: "PD2"}} },
		func(x *exercise.Exercise) { x.Parts[0].Wired[0] = "PB1" },
		func(x *exercise.Exercise) { x.Parts[0].Kind = &part.Kind{Name: "lamp"} },
		func(x *exercise.Exercise) { x.Parts[0].Settings = x.Parts[0].Settings.With("volts", volts(1)) },
		func(x *exercise.Exercise) { x.Parts[0].Settings = x.Parts[0].Settings.With("volts", volts(2)) },
		func(x *exercise.Exercise) { x.Trials[0].Length *= 2 },
		func(x *exercise.Exercise) { x.Trials[0].Cues = []exercise.Cue{{At: clock.Second, Part: "lamp"}} },
	}
	for i, change := range changes {
		y := x.Clone()
		change(y)
		first, tier, err := s.show(y, 0, false, false)
		require.NoError(t, err)
		assert.Equal(t, Rerun, tier)
		assert.Len(t, runs.limits, i+1, "change %d is another bench", i)
		spent := s.spent
		again, tier, err := s.show(y, 0, false, false)
		require.NoError(t, err)
		assert.Equal(t, Rerun, tier)
		assert.Same(t, first, again)
		assert.Equal(t, spent, s.spent, "it takes nothing")
	}
	z := x.Clone()
	z.Clock /= 2
	_, _, err := s.show(z, 0, false, false)
	require.NoError(t, err)
	assert.Len(t, runs.limits, len(changes), "a bench that is the same")
	_, _, err = s.show(z, 1, false, false)
	require.NoError(t, err)
	assert.Len(t, runs.limits, len(changes)+1, "another trial")
}

func TestChangesOfTheProgramAreNotKept(t *testing.T) {
	s, x, runs := benches(t)
	y := x.Clone()
	y.Mended = append(y.Mended, func(im *firmware.Image) *firmware.Image { return im })
	for range 2 {
		_, _, err := s.show(y, 0, false, false)
		require.NoError(t, err)
	}
	assert.Len(t, runs.limits, 2)
}

func TestReplaysThatHoldNeedNoRun(t *testing.T) {
	s, x, runs := benches(t)
	runs.holds = true
	_, tier, err := s.show(x, 0, true, false)
	require.NoError(t, err)
	assert.Equal(t, OnReplay, tier)
	_, tier, err = s.show(x, 0, false, false)
	require.NoError(t, err)
	assert.Equal(t, Rerun, tier, "a repair that is not of the wiring alone")
	assert.Len(t, runs.limits, 1)
}

// TestEffortOfARerun bounds a rerun by what the marked run took, and by what all may take.
func TestEffortOfARerun(t *testing.T) {
	s, x, runs := benches(t)
	for _, trial := range []int{0, 1} {
		_, _, err := s.show(x, trial, false, false)
		require.NoError(t, err)
	}
	s.budget = 50_000_000
	y := x.Clone()
	y.Clock /= 2
	_, _, err := s.show(y, 0, false, false)
	require.NoError(t, err)
	assert.Equal(t, []int64{400_000_000, 100_000_000, 200_000_000}, runs.limits)
}
