package rp2040

import (
	"fmt"
	"math/rand"
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
	"hemble/core/machine/machinetest"
)

// compile builds a C program for the chip, and gives the second stage its checksum.
func compile(t testing.TB, flags []string, sources ...string) *firmware.Image {
	t.Helper()
	if _, err := exec.LookPath("arm-none-eabi-gcc"); err != nil {
		t.Skip("arm-none-eabi-gcc is not installed; `make tools` installs it")
	}
	out := filepath.Join(t.TempDir(), "program.elf")
	args := append([]string{"-mcpu=cortex-m0plus", "-mthumb", "-g", "-nostartfiles", "-T", "testdata/link.ld",
		"-specs=nano.specs", "-o", out, "testdata/start.c"}, flags...)
	message, err := exec.Command("arm-none-eabi-gcc", append(append(args, sources...), "-lm")...).CombinedOutput()
	require.NoError(t, err, "%s", message)
	file, err := os.ReadFile(out)
	require.NoError(t, err)
	im, err := firmware.Read(file, layout)
	require.NoError(t, err)
	seal(im)
	return im
}

// seal gives a second stage its checksum.
func seal(im *firmware.Image) {
	first := im.Flash[0].Data
	sum := checksum(first[:secondStage-4])
	for i := range 4 {
		first[secondStage-4+i] = byte(sum >> (8 * i))
	}
}

// Programs print on the simulated chip what the same source prints on the host.
func TestProgramsPrintWhatTheHostPrints(t *testing.T) {
	for _, source := range []string{"../avr/testdata/numbers.c", "../avr/testdata/library.c", "testdata/doubles.c"} {
		host := filepath.Join(t.TempDir(), "host")
		message, err := exec.Command("gcc", "-std=gnu99", "-O1", "-w", "-o", host, source, "-lm").CombinedOutput()
		require.NoError(t, err, "%s", message)
		want, err := exec.Command(host).Output()
		require.NoError(t, err)
		for _, level := range []string{"-O0", "-Os", "-O2"} {
			t.Run(filepath.Base(source)+level, func(t *testing.T) {
				var got []byte
				m := newMachine(machine.Config{Watched: []machine.Pin{},
					Bytes: func(b machine.Byte) { got = append(got, b.Value) }})
				require.NoError(t, m.Load(compile(t, []string{level, "-w"}, source, "testdata/print.c")))
				stop := m.Run(5*clock.Second, nil)
				assert.Equal(t, machine.Breakpoint, stop.Reason, stop.Text)
				require.Equal(t, string(want), string(got))
			})
		}
	}
}

// runBoth runs an image with and without leaving waits out, with the same random inputs at random stops, and requires
// the whole state and all edges to be equal at each of them. It gives how many instructions each took.
func runBoth(t testing.TB, im *firmware.Image, length clock.Time, stops int, seed int64) (fast, plain int64) {
	a := newMachine(machine.Config{Seed: uint64(seed)})
	b := newMachine(machine.Config{Seed: uint64(seed), Reference: true})
	require.NoError(t, a.Load(im))
	require.NoError(t, b.Load(im))
	var x, y machinetest.Recorder
	random := rand.New(rand.NewSource(seed))
	for i := 1; i <= stops; i++ {
		until := clock.Time(random.Int63n(int64(length)/int64(stops)*2)) + a.Now()
		stop, other := a.Run(until, &x), b.Run(until, &y)
		require.Equal(t, other, stop, "stop %d", i)
		require.Equal(t, fmt.Sprint(y), fmt.Sprint(x), "edges before stop %d", i)
		require.Equal(t, b.Hash(), a.Hash(), "state at stop %d, %s, PC 0x%08X", i, a.Now(), stop.PC)
		if stop.Reason != machine.Reached {
			break
		}
		pin, level := machine.Pin(random.Intn(4)), circuit.Level(random.Intn(3))
		a.Input(pin, level)
		b.Input(pin, level)
	}
	return a.Counters().Instructions, b.Counters().Instructions
}

// Waits are left out, and nothing else changes by it.
func TestFastEqualsPlain(t *testing.T) {
	for _, source := range []string{"blink.c", "alarms.c", "polls.c", "waves.c", "bus.c"} {
		for _, level := range []string{"-O0", "-Os", "-O2"} {
			t.Run(source+level, func(t *testing.T) {
				t.Parallel()
				im := compile(t, []string{level, "-ffreestanding"}, "testdata/"+source)
				fast, plain := runBoth(t, im, 300*clock.Millisecond, 40, 7)
				assert.Less(t, fast, plain/5+10_000, "of %d", plain)
			})
		}
	}
}
