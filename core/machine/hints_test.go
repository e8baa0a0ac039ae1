package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNumbersOfTheTask(t *testing.T) {
	h := Hints{Told: []int64{30, 70, 4}}
	odd := h.Odd([]int64{30, 55, 300})
	assert.Equal(t, []int64{4, 7}, odd(5), "as large as comes nearest")
	assert.Equal(t, []int64{40, 70}, odd(55))
	assert.Empty(t, odd(30), "it stands in the text")
	assert.Empty(t, odd(300), "in another unit")
	assert.Empty(t, odd(29), "< 30 is <= 29")
	assert.Empty(t, odd(1), "it stands for too much")
	assert.Equal(t, []int64{70}, h.Odd([]int64{4, 29})(50), "what the program has is not missing")
	assert.Empty(t, h.Odd([]int64{4, 31, 69})(50))
	assert.Empty(t, Hints{}.Odd(nil)(50))
	assert.Equal(t, []int64{700}, Hints{Told: []int64{7}}.Odd(nil)(400))
	times := Hints{Told: []int64{400, 3}}
	assert.Equal(t, []int64{3000, 400}, times.Odd([]int64{4, 1000})(1000), "400 is not the 4 that the program has")
	assert.Equal(t, []int64{3000}, times.Odd([]int64{4, 400, 1000})(1000))
	assert.Empty(t, times.Odd([]int64{3, 4, 50_000})(50_000), "far from it")
	assert.NotPanics(t, func() { Hints{Told: []int64{0, -5, 1 << 62}}.Odd([]int64{0, -1, 1 << 62})(1 << 62) })
}
