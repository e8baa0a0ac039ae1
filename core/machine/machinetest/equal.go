package machinetest

import (
	"fmt"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Both runs an image on a chip the fast way and by its reference interpreter, with the same random inputs of the first
// so many pins at random stops, and requires the whole state and all edges to be equal at each of them. It gives the
// end of the run, and what each took.
func Both(t testing.TB, create func(machine.Config) machine.Machine, im *firmware.Image, pins int, length clock.Time,
	stops int, seed int64) (end machine.Stop, fast, plain machine.Counters) {
	t.Helper()
	a := create(machine.Config{Seed: uint64(seed)})
	b := create(machine.Config{Seed: uint64(seed), Reference: true})
	require.NoError(t, a.Load(im))
	require.NoError(t, b.Load(im))
	var x, y Recorder
	random := rand.New(rand.NewSource(seed))
	for i := 1; i <= stops && end.Reason == machine.Reached; i++ {
		until := clock.Time(random.Int63n(int64(length)/int64(stops)*2)) + a.Now()
		end = a.Run(until, &x)
		require.Equal(t, b.Run(until, &y), end, "stop %d", i)
		require.Equal(t, fmt.Sprint(y), fmt.Sprint(x), "edges before stop %d", i)
		require.Equal(t, b.Hash(), a.Hash(), "state at stop %d, %s, PC 0x%04X", i, a.Now(), end.PC)
		if end.Reason == machine.Reached {
			pin, level := machine.Pin(random.Intn(pins)), circuit.Level(random.Intn(3))
			a.Input(pin, level)
			b.Input(pin, level)
		}
	}
	return end, a.Counters(), b.Counters()
}
