package schematic_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/schematic"
	"hemble/demo"
)

// Every wire of the course is in its table, those of the package in its order.
func TestWires(t *testing.T) {
	course, err := demo.Course()
	require.NoError(t, err)
	for _, e := range course {
		x, problems := exercise.Read("x", e.Text)
		require.NotNil(t, x, "%v", problems)
		ends, last := 0, 0
		for _, w := range schematic.Wires(x) {
			ends += len(w.Ends)
			assert.NotEmpty(t, w.Ends, w.Net)
			if w.Package > 0 {
				assert.Greater(t, w.Package, last)
				last = w.Package
			}
		}
		wired := 0
		for _, p := range x.Parts {
			for _, w := range p.Wired {
				if w != "" {
					wired++
				}
			}
		}
		assert.Equal(t, wired, ends, e.Name)
	}
}
