package build

import (
	"os/exec"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine"
	_ "hemble/core/machine/rp2040"
	"hemble/core/machine/scripted"
	"hemble/core/sheet"
)

// Without a tool only its kind of work is off, which says what to install; others are built as before.
func TestAMissingTool(t *testing.T) {
	usual := builder(t)
	for _, name := range []string{"clang", "python3"} {
		if _, err := exec.LookPath(name); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", name)
		}
	}
	found.Clear()
	lookPath = func(name string) (string, error) {
		if name == "wasm-ld" || name == "arm-none-eabi-gcc" {
			return "", exec.ErrNotFound
		}
		return exec.LookPath(name)
	}
	t.Cleanup(func() {
		found.Clear()
		lookPath = exec.LookPath
	})
	pico, err := machine.Find("rp2040")
	require.NoError(t, err)
	for _, c := range []struct {
		chip *machine.Chip
		file string
		want string
	}{
		{scripted.Linux, "main.c", "no C for the Linux board with a header of 40 pins is built here: wasm-ld is not installed " +
			"(Debian packages clang, lld, wasi-libc, libclang-rt-dev-wasm32)"},
		{pico, "main.c", "no source for the RP2040 is built here: arm-none-eabi-gcc is not installed " +
			"(Debian packages gcc-arm-none-eabi, libnewlib-arm-none-eabi)"},
	} {
		s := &Source{}
		require.NoError(t, s.Add(c.file, []byte("int main(void) { return 0; }\n")))
		r, err := usual.Build(t.Context(), s, Target{Chip: c.chip})
		require.NoError(t, err)
		assert.Equal(t, []sheet.Message{{Kind: "error", Text: c.want}}, r.Messages)
		assert.ErrorContains(t, Ready(c.chip), "is not installed (Debian packages ")
	}
	s := &Source{}
	require.NoError(t, s.Add("main.c", []byte("int main(void) { return 0; }\n")))
	r, err := usual.Build(t.Context(), s, Target{Chip: machine.Usual(), Clock: 16_000_000})
	require.NoError(t, err)
	assert.False(t, r.Failed(), "%v", r.Messages)
	assert.NoError(t, Ready(machine.Usual()))
}
