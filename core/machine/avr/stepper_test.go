package avr_test

import (
	"fmt"
	"math/bits"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
)

// buildStepper builds the stepper in C that speed is measured beside (testdata/stepper).
func buildStepper(t testing.TB) string {
	t.Helper()
	out := filepath.Join(t.TempDir(), "stepper")
	said, err := exec.Command("gcc", "-O2", "-std=c99", "-Wall", "-Wextra", "-Werror", "-o", out,
		filepath.Join("testdata", "stepper", "stepper.c")).CombinedOutput()
	require.NoError(t, err, "%s", said)
	return out
}

// flashFile is a file with a program's bytes from address 0 on.
func flashFile(t testing.TB, im *firmware.Image) string {
	t.Helper()
	all := make([]byte, 0x8000)
	for i := range all {
		all[i] = 0xff
	}
	for _, s := range im.Flash {
		copy(all[s.Address:], s.Data)
	}
	name := filepath.Join(t.TempDir(), "flash.bin")
	require.NoError(t, os.WriteFile(name, all, 0o600))
	return name
}

// step runs the stepper. It tells how far it came, in how many seconds of the processor, and how often each pin of
// ports B, C and D changed.
func step(t testing.TB, stepper, flash string, cycles int64) (came int64, seconds float64, changes [24]int64) {
	t.Helper()
	said, err := exec.Command(stepper, flash, fmt.Sprint(cycles)).Output()
	require.NoError(t, err)
	to := []any{&seconds, &came}
	for i := range changes {
		to = append(to, &changes[i])
	}
	_, err = fmt.Sscan(string(said), to...)
	require.NoError(t, err)
	return came, seconds, changes
}

// counted are changes between low and high by pin.
type counted [24]int64

func (n *counted) Drive(_ clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		if c.Drive.Strength == circuit.PushPull && c.Pin < 24 {
			n[c.Pin]++
		}
	}
	return clock.Never
}

// config is that of a chip whose pins' changes are all counted, and answered by nobody.
func (n *counted) config(plain bool) machine.Config {
	c := machine.Config{Reference: plain, Follow: func(edges []machine.Edge) { n.count(edges, 1) },
		Repeat: func(edges []machine.Edge, times int64, _ clock.Time) { n.count(edges, times) }}
	for pin := range machine.Pin(len(n)) {
		c.Followed = append(c.Followed, pin)
	}
	return c
}

func (n *counted) count(edges []machine.Edge, times int64) {
	for i := range edges {
		of := n[edges[i].From:]
		for rest := edges[i].Pins; rest != 0; rest &= rest - 1 {
			of[bits.TrailingZeros32(rest)] += times
		}
	}
}

// The stepper does what the core does, so that their speeds can be compared: as many changes of each pin, but for the
// one by which a pin becomes an output, and for those of the serial port's.
func TestStepper(t *testing.T) {
	stepper := buildStepper(t)
	for _, source := range append([]string{"numbers.c", "tables.c"}, spoken...) {
		im := compile(t, avr.ATmega328P, source, "-Os")
		var want counted
		m := avr.New(avr.ATmega328P, want.config(false))
		require.NoError(t, m.Load(im))
		stop := m.Run(clock.Second, &want)
		came, _, changes := step(t, stepper, flashFile(t, im), 16_000_000)
		const serial = 17
		changes[serial] = want[serial]
		for pin, n := range want {
			assert.InDelta(t, n, changes[pin], 1, "%s: pin %d", source, pin)
		}
		if stop.Reason == machine.Reached {
			assert.InDelta(t, 16_000_000, came, 8, source)
		} else {
			assert.InDelta(t, m.Counters().Cycles, came, 200, "%s: to where it sleeps", source)
		}
	}
}
