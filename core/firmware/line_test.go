package firmware_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
)

// A place in an inlined function of the toolchain belongs to the line that called it.
func TestOwnLine(t *testing.T) {
	for _, kind := range []string{"-gdwarf-4", "-g", "-gstabs"} {
		t.Run(kind, func(t *testing.T) { ownLine(t, kind) })
	}
}

func ownLine(t *testing.T, kind string) {
	if _, err := exec.LookPath("avr-gcc"); err != nil {
		t.Skip("avr-gcc is not installed; `make tools` installs it")
	}
	dir := t.TempDir()
	source := filepath.Join(dir, "wait.c")
	require.NoError(t,
		os.WriteFile(source,
			[]byte("#include <avr/io.h>\n#include <util/delay.h>\nint main(void)\n{\n\tPORTB = 1;\n\t_delay_ms(5);\n\tPORTB = 2;\n\tfor (;;)\n\t\t;\n}\n"), 0o600))
	message, err := exec.Command("avr-gcc", "-mmcu=atmega328p", "-DF_CPU=16000000UL", "-Os", kind, "-o",
		filepath.Join(dir, "wait.elf"), source).CombinedOutput()
	require.NoError(t, err, "%s", message)
	file, err := os.ReadFile(filepath.Join(dir, "wait.elf"))
	require.NoError(t, err)
	im, err := firmware.Read(file, firmware.AVR)
	require.NoError(t, err)
	last, begun := uint32(0), map[int]bool{}
	for address, line := range im.Rows() {
		require.GreaterOrEqual(t, address, last, "in their order")
		last = address
		begun[line.Line] = begun[line.Line] || line.File == "wait.c"
	}
	assert.True(t, begun[5] && begun[7] && !begun[1], "%v", begun)
	main, ok := im.Symbol("main")
	require.True(t, ok)
	within, lines := 0, map[int]bool{}
	for a := main.Address; a < main.Address+main.Size; a += 2 {
		line, _ := im.Line(a)
		own, ok := im.Own(a, nil)
		require.True(t, ok, "0x%x of 0x%x to 0x%x", a, main.Address, main.Address+main.Size)
		assert.Equal(t, "wait.c", own.File)
		lines[own.Line] = true
		if line.System {
			within++
			want := 6
			if kind != "-gdwarf-4" { // STABS does not tell the call: the author's line before it is in
				want = 5
			}
			assert.Equal(t, want, own.Line, "the waiting itself is in %s", line.File)
			assert.Greater(t, len(im.Calls(a)), 1)
		}
	}
	assert.NotZero(t, within)
	assert.Contains(t, lines, 5)
	assert.Contains(t, lines, 7)
	own, ok := im.Own(0x7ffe, []uint32{main.Address})
	assert.True(t, ok)
	assert.Equal(t, "wait.c", own.File, "by a return address, where the place itself has no line")
	assert.Equal(t, uint16(0xffff), im.Word(0x7ffe))
}
