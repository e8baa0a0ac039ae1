package pic14

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// Pulses that are told late, or of which a period is told and how often it comes again, are the same as those that are
// told one by one: their times, their levels, their places.
func TestWaves(t *testing.T) {
	for _, device := range []string{"16f877a", "16f887"} {
		im := assemble(t, device, "dimmed.asm")
		run := func(followed []machine.Pin, repeats bool) (r machinetest.Recorder, c machine.Counters, repeated int64) {
			config := machine.Config{Followed: followed}
			if followed != nil {
				config.Follow = r.Follow
			}
			if repeats {
				config.Repeat = func(edges []machine.Edge, times int64, period clock.Time) {
					repeated += times
					r.Repeat(edges, times, period)
				}
			}
			m := newMachine(variants[device], config)
			require.NoError(t, m.Load(im))
			for until := clock.Time(0); until < 3*clock.Second; until += 70 * clock.Millisecond {
				require.Empty(t, m.Run(until, &r).Reason)
			}
			return r, m.Counters(), repeated
		}
		each, eager, _ := run(nil, false)
		require.Greater(t, each.Edges, 4_000)
		pulses := []machine.Pin{2*8 + 1, 2*8 + 2}
		for n, followed := range [][]machine.Pin{pulses, pulses, pulses[:1]} {
			late, lazy, repeated := run(followed, n > 0)
			assert.Equal(t, each.Edges, late.Edges)
			assert.Equal(t, each.Digest, late.Digest, "%s, %v followed: %s, and %s", device, followed, &late, &each)
			assert.Equal(t, eager.Edges, lazy.Edges)
			if len(followed) == 1 { // the other one is waited for
				assert.Zero(t, repeated)
				continue
			}
			assert.Less(t, lazy.Instructions, eager.Instructions/2, "waits go on through the pulses")
			assert.Equal(t, n > 0, repeated > 1_000, "%s: %d periods were left out", device, repeated)
		}
	}
}
