package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestRoundOf(t *testing.T) {
	for _, c := range []struct {
		numbers []int
		want    round
		ok      bool
	}{
		{[]int{7, 8, 9, 10, 11, 12, 0, 1}, round{first: 7, low: 0, high: 12, again: true}, true},
		{[]int{0, 1, 2, 3}, round{first: 0}, true},
		{[]int{2, 1, 0, 5, 4}, round{first: 2, low: 0, high: 5, down: true, again: true}, true},
		{[]int{8, 9, 10, 1, 2}, round{first: 8, low: 1, high: 10, again: true}, true},
		{[]int{1, 3, 5}, round{}, false},
		{[]int{1, 2, 4, 5, 7}, round{}, false},
		{[]int{1, 2}, round{}, false},
	} {
		got, ok := roundOf(c.numbers)
		assert.Equal(t, c.ok, ok, "%v", c.numbers)
		if c.ok {
			assert.Equal(t, c.want, got, "%v", c.numbers)
			assert.True(t, got.goes(c.numbers))
		}
	}
}
