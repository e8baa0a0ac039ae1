package elsewhere_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/demo/checks"
)

// row is a case of the table of what mistakes should come to.
type row struct {
	Row     string
	Fault   string // of the second course, by exercise and name: its range is the row's, by the exercise's split
	Program string // or a source, by its path from here, beside the folder of its exercise
	Marks   [2]float64
	Edits   []edit
	// Exercise changes how the exercise splits its marks.
	Exercise []edit
}

// edit puts a text in the place of another, which must be there once.
type edit struct{ Old, New string }

func edited(t testing.TB, text string, edits []edit) string {
	for _, e := range edits {
		require.Equal(t, 1, strings.Count(text, e.Old), "%q", e.Old)
		text = strings.Replace(text, e.Old, e.New, 1)
	}
	return text
}

// program builds a row's source, with the headers beside it, and reads its exercise.
func (r row) program(t testing.TB, b *build.Builder) (*exercise.Exercise, string, *build.Result) {
	folder := filepath.Dir(r.Program)
	text, err := os.ReadFile(filepath.Join(folder, "..", "exercise.yaml"))
	require.NoError(t, err)
	x, problems := exercise.Read("exercise.yaml", []byte(edited(t, string(text), r.Exercise)))
	require.NotNil(t, x, "%v", problems)
	source := &build.Source{}
	files, err := filepath.Glob(filepath.Join(folder, "*.h"))
	require.NoError(t, err)
	for _, file := range append(files, r.Program) {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		if file == r.Program {
			text = []byte(edited(t, string(text), r.Edits))
		}
		require.NoError(t, source.Add(filepath.Base(file), text))
	}
	made, err := b.Build(t.Context(), source, build.Target{Chip: x.Chip, Clock: int64(x.Clock)})
	require.NoError(t, err)
	require.False(t, made.Failed(), "%s: %v", r.Program, made.Messages)
	return x, filepath.Base(r.Program), made
}

// Every row of the table of docs/marking.md has the marks that a careful person gives.
func TestTable(t *testing.T) {
	text, err := os.ReadFile("table.yaml")
	require.NoError(t, err)
	var rows []row
	require.NoError(t, yaml.Unmarshal(text, &rows))
	byName := map[string]fault{}
	for _, f := range faults(t) {
		byName[f.Exercise+"/"+f.Name] = f
	}
	b := checks.Builder(t)
	var wait sync.WaitGroup
	for _, r := range rows {
		var x *exercise.Exercise
		var file string
		var made *build.Result
		if r.Fault != "" {
			f, ok := byName[r.Fault]
			require.True(t, ok, r.Fault)
			x, file, r.Marks = read(t, f.Exercise), f.Source, f.Marks
			made = built(t, b, x, file, f.source(t))
		} else {
			x, file, made = r.program(t, b)
		}
		wait.Go(func() {
			o := outcome{fault: fault{Marks: r.Marks}, sheet: mark(t, x, file, made)}
			assert.Zero(t, o.miss(), "%s (%s%s): %s of %v", r.Row, r.Fault, r.Program, o.sheet.Marks, r.Marks)
		})
	}
	wait.Wait()
}
