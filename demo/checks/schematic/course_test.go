package schematic_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/schematic"
	"hemble/demo/checks"
)

// Every wire of the course is in its table, those of the package in its order.
func TestWires(t *testing.T) {
	course := checks.Course(t)
	for _, e := range course {
		x := checks.Read(t, e.Text)
		ends, last := 0, 0
		for _, w := range schematic.Wires(x) {
			ends += len(w.Ends)
			assert.NotEmpty(t, w.Ends, "%s %+v", e.Name, w)
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
