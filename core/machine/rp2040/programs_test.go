package rp2040

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// compile builds a C program for the chip, with what goes with every build.
func compile(t testing.TB, flags []string, sources ...string) *firmware.Image {
	t.Helper()
	if _, err := exec.LookPath("arm-none-eabi-gcc"); err != nil {
		t.Skip("arm-none-eabi-gcc is not installed; `make tools` installs it")
	}
	out := filepath.Join(t.TempDir(), "program.elf")
	args := append([]string{"-mcpu=cortex-m0plus", "-mthumb", "-g", "-nostartfiles", "-T", "support/link.ld",
		"-specs=nano.specs", "-I", "support", "-o", out, "support/start.c", "support/board.c", "support/second.S"}, flags...)
	message, err := exec.Command("arm-none-eabi-gcc", append(append(args, sources...), "-lm")...).CombinedOutput()
	require.NoError(t, err, "%s", message)
	file, err := os.ReadFile(out)
	require.NoError(t, err)
	im, err := firmware.Read(file, layout)
	require.NoError(t, err)
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

// object compiles a source by clang, whose code is another than gcc's.
func object(t testing.TB, level, source string) string {
	t.Helper()
	if _, err := exec.LookPath("clang"); err != nil {
		t.Skip("clang is not installed; `make tools` installs it")
	}
	out := filepath.Join(t.TempDir(), "program.o")
	message, err := exec.Command("clang", "--target=thumbv6m-none-eabi", "-mcpu=cortex-m0plus", "-w", level, "-isystem",
		"/usr/include/newlib", "-I", "support", "-c", source, "-o", out).CombinedOutput()
	require.NoError(t, err, "%s", message)
	return out
}

// Programs print on the simulated chip what the same source prints on the host, with either compiler.
func TestProgramsPrintWhatTheHostPrints(t *testing.T) {
	sources, err := filepath.Glob("testdata/prints/*.c")
	require.NoError(t, err)
	require.NotEmpty(t, sources)
	for _, source := range append(sources, "../avr/testdata/numbers.c", "../avr/testdata/library.c") {
		host := filepath.Join(t.TempDir(), "host")
		message, err := exec.Command("gcc", "-std=gnu99", "-O1", "-w", "-o", host, source, "-lm").CombinedOutput()
		require.NoError(t, err, "%s", message)
		want, err := exec.Command(host).Output()
		require.NoError(t, err)
		for _, level := range []string{"-O0", "-Os", "-O2"} {
			for _, compiler := range []string{"gcc", "clang"} {
				t.Run(filepath.Base(source)+level+"/"+compiler, func(t *testing.T) {
					t.Parallel()
					from := source
					if compiler == "clang" {
						from = object(t, level, source)
					}
					var got []byte
					m := newMachine(machine.Config{Watched: []machine.Pin{},
						Bytes: func(b machine.Byte) { got = append(got, b.Value) }})
					require.NoError(t, m.Load(compile(t, []string{level, "-w"}, from)))
					stop := m.Run(30*clock.Second, nil)
					assert.Equal(t, machine.Breakpoint, stop.Reason, stop.Text)
					require.Equal(t, string(want), string(got))
				})
			}
		}
	}
}

// eager is a machine whose edges are all answered: what it tells late is ahead in its state (TestWaves).
func eager(c machine.Config) machine.Machine {
	c.Followed, c.Follow = nil, nil
	return newMachine(c)
}

// Waits are left out, and nothing else changes by it.
func TestFastEqualsPlain(t *testing.T) {
	for _, source := range []string{"blink.c", "alarms.c", "polls.c", "waves.c", "bus.c", "calendar.c",
		"transfers.c", "dimmed.c"} {
		for _, level := range []string{"-O0", "-Os", "-O2"} {
			t.Run(source+level, func(t *testing.T) {
				t.Parallel()
				im := compile(t, []string{level}, "testdata/"+source)
				_, fast, plain, err := machinetest.Both(eager, im, 4, 300*clock.Millisecond, 40, 7)
				require.NoError(t, err)
				few := plain.Instructions / 5
				if source == "dimmed.c" || source == "calendar.c" {
					few = plain.Instructions / 2 // edges of PWM come between, and quick seconds
				}
				assert.Less(t, fast.Instructions, few+10_000, "of %d", plain.Instructions)
			})
		}
	}
}
