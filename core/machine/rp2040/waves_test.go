package rp2040

import (
	"cmp"
	"math/bits"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// shown are edges as one may see them: of a listener, and of a batch.
type shown struct {
	at    clock.Time
	pin   machine.Pin
	high  bool
	place machine.Place
}

type keeper struct {
	edges    []shown
	repeated int64
}

func (k *keeper) Drive(t clock.Time, changes []machine.Change, place machine.Place) clock.Time {
	for _, c := range changes {
		if c.Drive.Strength == circuit.PushPull {
			k.edges = append(k.edges, shown{t, c.Pin, c.Drive.Level == circuit.High, place})
		}
	}
	return clock.Never
}

func (k *keeper) follow(edges []machine.Edge) {
	for _, e := range edges {
		for p := e.Pins; p != 0; p &= p - 1 {
			i := bits.TrailingZeros32(p)
			k.edges = append(k.edges, shown{e.At, e.From + machine.Pin(i), e.Levels>>i&1 == 1, e.Place})
		}
	}
}

func (k *keeper) repeat(edges []machine.Edge, times int64, period clock.Time) {
	edges = slices.Clone(edges)
	k.repeated += times * machine.CountPins(edges)
	for range times {
		for i := range edges {
			edges[i].At += period
		}
		k.follow(edges)
	}
}

// Waves that are told in batches, or of which a period is told and how often it comes again, are the same as those that
// are told edge by edge: their times, their levels, their places.
func TestWaves(t *testing.T) {
	im := compile(t, []string{"-Os"}, "testdata/dimmed.c")
	run := func(followed []machine.Pin, repeats bool) ([]shown, machine.Counters) {
		k := &keeper{}
		config := machine.Config{Watched: []machine.Pin{0, 1, 2, 3, 25}, Bytes: func(machine.Byte) {}}
		if followed != nil {
			config.Followed, config.Follow = followed, k.follow
		}
		if repeats {
			config.Repeat = k.repeat
		}
		m := newMachine(config).(*Machine)
		require.NoError(t, m.Load(im))
		for until := clock.Time(0); until < 200*clock.Millisecond; until += 7 * clock.Millisecond {
			require.Empty(t, m.Run(until, k).Reason)
		}
		slices.SortStableFunc(k.edges, func(a, b shown) int { // those of one moment come in any order
			return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.pin, b.pin))
		})
		if repeats && len(followed) == 4 { // edges of others come between
			assert.Greater(t, 5*k.repeated, int64(len(k.edges)), "edges that were not told one by one")
		}
		return k.edges, m.Counters()
	}
	each, eager := run(nil, false)
	require.Greater(t, len(each), 10_000)
	for n, followed := range [][]machine.Pin{{0, 1, 2, 3}, {2, 3}, {0}, {0, 1, 2, 3}, {2, 3}} {
		batches, lazy := run(followed, n > 2)
		require.Equal(t, len(each), len(batches))
		for i := range each {
			require.Equal(t, each[i], batches[i], "edge %d, %v followed", i, followed)
		}
		assert.LessOrEqual(t, lazy.Instructions, eager.Instructions)
		assert.Equal(t, eager.Edges, lazy.Edges)
		if len(followed) == 4 {
			assert.Less(t, lazy.Instructions, eager.Instructions/4, "waits go on through the edges of waves")
		}
	}
}
