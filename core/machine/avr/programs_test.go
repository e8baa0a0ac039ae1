package avr_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
)

// devices are the variants as avr-gcc calls them.
var devices = map[*avr.Variant]string{avr.ATmega328P: "atmega328p", avr.ATmega168: "atmega168",
	avr.ATmega2560: "atmega2560", avr.ATmega8: "atmega8", avr.ATtiny85: "attiny85", avr.ATmega32U4: "atmega32u4"}

// compile builds a C program for the chip with the real toolchain.
func compile(t testing.TB, v *avr.Variant, source string, flags ...string) *firmware.Image {
	t.Helper()
	if _, err := exec.LookPath("avr-gcc"); err != nil {
		t.Skip("avr-gcc is not installed; `make tools` installs it")
	}
	out := filepath.Join(t.TempDir(), "program.elf")
	args := append([]string{"-mmcu=" + devices[v], "-DF_CPU=16000000UL", "-g", "-std=gnu99", "-o", out,
		filepath.Join("testdata", source)}, flags...)
	message, err := exec.Command("avr-gcc", args...).CombinedOutput()
	require.NoError(t, err, "%s", message)
	return readImage(t, out)
}

func readImage(t testing.TB, path string) *firmware.Image {
	t.Helper()
	file, err := os.ReadFile(path)
	require.NoError(t, err)
	im, err := firmware.Read(file, avr.Memories)
	require.NoError(t, err)
	return im
}

// serial runs an image and gives what USART0 sent.
func serial(t testing.TB, v *avr.Variant, im *firmware.Image, length clock.Time) (string, machine.Stop) {
	t.Helper()
	var out []byte
	m := avr.New(v,
		machine.Config{Watched: []machine.Pin{}, Bytes: func(b machine.Byte) { out = append(out, b.Value) }})
	require.NoError(t, m.Load(im))
	stop := m.Run(length, nil)
	return string(out), stop
}

// Programs print on the simulated chip what the same source prints on the host.
func TestProgramsPrintWhatTheHostPrints(t *testing.T) {
	for _, source := range []string{"numbers.c", "library.c"} {
		host := filepath.Join(t.TempDir(), "host")
		message, err := exec.Command("gcc", "-std=gnu99", "-O1", "-w", "-o", host,
			filepath.Join("testdata", source)).CombinedOutput()
		require.NoError(t, err, "%s", message)
		want, err := exec.Command(host).Output()
		require.NoError(t, err)
		for _, level := range []string{"-O0", "-Os", "-O2"} {
			for v, device := range devices {
				if v == avr.ATtiny85 { // it has no serial port
					continue
				}
				t.Run(device+"-"+source+level, func(t *testing.T) {
					got, stop := serial(t, v, compile(t, v, source, level), 5*clock.Second)
					require.Equal(t, string(want), got)
					require.Equal(t, machine.Asleep, stop.Reason, stop.Text)
				})
			}
		}
	}
}
