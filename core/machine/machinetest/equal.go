package machinetest

import (
	"errors"
	"fmt"
	"math/rand"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Both runs an image on a chip the fast way and by its reference interpreter, with the same random inputs of the first
// so many pins at random stops, and compares the whole state and all edges at each of them. Nobody answers the edges of
// some pins, so that the fast way may tell of them late. It gives the end of the run, and what each took; an error says
// what was not the same.
func Both(create func(machine.Config) machine.Machine, im *firmware.Image, pins int, length clock.Time, stops int,
	seed int64) (end machine.Stop, fast, plain machine.Counters, err error) {
	var x, y Recorder
	random := rand.New(rand.NewSource(seed))
	fastly := machine.Config{Seed: uint64(seed), Follow: x.Follow}
	for p, all := machine.Pin(0), random.Intn(3) == 0; p < 64; p++ {
		if all || random.Intn(2) == 0 {
			fastly.Followed = append(fastly.Followed, p)
		}
	}
	a := create(fastly)
	b := create(machine.Config{Seed: uint64(seed), Reference: true})
	if err := errors.Join(a.Load(im), b.Load(im)); err != nil {
		return end, fast, plain, err
	}
	for i := 1; i <= stops && end.Reason == machine.Reached; i++ {
		until := clock.Time(random.Int63n(int64(length)/int64(stops)*2)) + a.Now()
		end = a.Run(until, &x)
		switch other := b.Run(until, &y); {
		case other != end:
			err = fmt.Errorf("stop %d: %+v, and %+v by the reference", i, end, other)
		case x.Edges != y.Edges || x.Digest != y.Digest:
			err = fmt.Errorf("before stop %d: %s, and %s by the reference", i, &x, &y)
		case a.Hash() != b.Hash():
			err = fmt.Errorf("the state at stop %d, %s, PC 0x%04X", i, a.Now(), end.PC)
		}
		if err != nil || end.Reason != machine.Reached {
			break
		}
		pin, level := machine.Pin(random.Intn(pins)), circuit.Level(random.Intn(3))
		a.Input(pin, level)
		b.Input(pin, level)
	}
	return end, a.Counters(), b.Counters(), err
}
