package display_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/display"
)

// Any number of a text is read, and written in its place: as wide as its zeros, and up to its column where spaces say
// that it stands at the right.
func TestNumbers(t *testing.T) {
	rows := []string{"Tomato:   9", "007 of 12"}
	for nth, want := range []int{9, 7, 12} {
		n, ok := display.NumberIn(rows, nth)
		assert.True(t, ok)
		assert.Equal(t, want, n)
	}
	for _, nth := range []int{3, 99} {
		_, ok := display.NumberIn(rows, nth)
		assert.False(t, ok)
		assert.Equal(t, rows, display.Renumbered(rows, nth, 1))
	}
	_, ok := display.NumberIn([]string{"99999999999999999999999"}, 0)
	assert.False(t, ok, "it is no number that counts")
	assert.Equal(t, []string{"Tomato:  10", "007 of 12"}, display.Renumbered(rows, 0, 10))
	assert.Equal(t, []string{"Tomato:   9", "015 of 12"}, display.Renumbered(rows, 1, 15))
	assert.Equal(t, []string{"Tomato:   9", "007 of 5"}, display.Renumbered(rows, 2, 5))
}
