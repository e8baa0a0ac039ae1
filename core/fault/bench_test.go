package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSimplest(t *testing.T) {
	for _, c := range []struct {
		low, high float64
		n, d      int
	}{{1.97, 2.06, 2, 1}, {0.4, 0.6, 1, 2}, {1.79, 1.81, 9, 5}, {4.54, 4.55, 50, 11}, {0.001, 0.0011, 1, 910}} {
		n, d, ok := Simplest(c.low, c.high)
		assert.True(t, ok)
		assert.Equal(t, [2]int{c.n, c.d}, [2]int{n, d})
	}
	for _, c := range [][2]float64{{2, 2}, {3, 2}, {1, 1.0000001}, {0.00001, 0.00002}, {5000, 5001}} {
		_, _, ok := Simplest(c[0], c[1])
		assert.False(t, ok, "%v", c)
	}
}
