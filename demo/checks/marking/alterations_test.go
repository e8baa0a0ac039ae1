package marking_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/marking"
	"hemble/demo/checks"
)

// What may be changed in a program are places that were carried out, from when on, and its tables.
func TestAlterationsOfWhatWasCarriedOut(t *testing.T) {
	for _, e := range checks.Course(t) {
		if e.Name != "tide-board" {
			continue
		}
		x := checks.Read(t, e.Text)
		for _, f := range e.Files {
			if f.Stem() != "innes-line" {
				continue
			}
			m, err := marking.NewRepairer(x, f.Data)
			require.NoError(t, err)
			run, all, err := m.Alterations(t.Context(), x, 0, machine.Hints{})
			require.NoError(t, err)
			assert.Equal(t, x.Trials[0].Length, run.Length)
			short := x.Clone()
			short.Trials[0].Length = clock.Millisecond
			_, begun, err := m.Alterations(t.Context(), short, 0, machine.Hints{})
			require.NoError(t, err)
			assert.Less(t, len(begun), len(all), "it has only begun")
			places := map[bool]int{}
			for _, a := range all {
				assert.LessOrEqual(t, a.Reached, run.Length)
				places[a.Table != ""]++
			}
			assert.Positive(t, places[true], "tables")
			assert.Positive(t, places[false])
			return
		}
	}
	t.Fatal("the course has no such program")
}
