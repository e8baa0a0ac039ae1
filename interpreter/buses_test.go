package interpreter

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/build"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/marking"
)

// The buses, ports, console and sensors of both boards, as their displays show them.
func TestBuses(t *testing.T) {
	for _, c := range []struct{ work, bench, tool string }{
		{"linux.py", "linux", "python3"}, {"linux.c", "linux", "wasm-ld"}, {"micro.py", "micro", "python3"}, {"plates.c", "plates", "wasm-ld"},
	} {
		t.Run(c.work, func(t *testing.T) {
			t.Parallel()
			if _, err := exec.LookPath(c.tool); err != nil {
				t.Skipf("%s is not installed; `make tools` installs it", c.tool)
			}
			text, err := os.ReadFile("testdata/" + c.bench + ".yaml")
			require.NoError(t, err)
			x, problems := exercise.Read(c.bench+".yaml", text)
			require.NoError(t, exercise.Error(problems))
			work, err := os.ReadFile("testdata/" + c.work)
			require.NoError(t, err)
			b, err := build.New(build.Config{Cache: t.TempDir()})
			require.NoError(t, err)
			s := &build.Source{}
			require.NoError(t, s.Add("main"+filepath.Ext(c.work), work))
			r, err := b.Build(t.Context(), s, build.Target{Chip: x.Chip})
			require.NoError(t, err)
			require.False(t, r.Failed(), "%v", r.Messages)
			m, err := marking.Mark(t.Context(), x, c.work, r.ELF)
			require.NoError(t, err)
			assert.Equal(t, m.Sheet.Of, m.Sheet.Marks, "%+v", m.Sheet.Trials)
			for _, l := range m.Sheet.Trials {
				assert.Nil(t, l.Stop)
			}
		})
	}
}
