package faults_test

import (
	_ "embed"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"hemble/build"
	"hemble/core/marking"
	"hemble/demo/checks"
)

//go:embed built.yaml
var builtAnew []byte

// The first finding of each faulty program is its fault: of scripts, and of others that are built each time.
func TestBuilt(t *testing.T) {
	var all []change
	require.NoError(t, yaml.Unmarshal(builtAnew, &all))
	for _, c := range all {
		name := path.Base(c.Source) + " " + strings.Join(strings.Fields(c.New), " ")
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			x := c.read(t)
			folder, file := path.Split(c.Source)
			text, err := os.ReadFile("../course/" + folder + "source/" + file)
			require.NoError(t, err)
			require.Equal(t, 1, strings.Count(string(text), c.Old), "%q is there once", c.Old)
			s := &build.Source{}
			require.NoError(t, s.Add(file, []byte(strings.Replace(string(text), c.Old, c.New, 1))))
			headers, err := filepath.Glob("../course/" + folder + "source/*.h")
			require.NoError(t, err)
			for _, h := range headers {
				data, err := os.ReadFile(h)
				require.NoError(t, err)
				require.NoError(t, s.Add(filepath.Base(h), data))
			}
			r, err := checks.Builder(t).Build(t.Context(), s, build.Target{Chip: x.Chip, Clock: int64(x.Clock)})
			require.NoError(t, err)
			require.False(t, r.Failed(), "%v", r.Messages)
			m, err := (&marking.Marker{}).Mark(t.Context(), x, file, r.ELF)
			require.NoError(t, err)
			require.NotEmpty(t, m.Sheet.Findings)
			assert.Contains(t, c.Finds, m.Sheet.Findings[0].Code, m.Sheet.Findings[0].Text)
			assert.Equal(t, c.Cut, m.Sheet.CutOff)
		})
	}
}
