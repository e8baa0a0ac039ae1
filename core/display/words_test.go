package display

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Spaces, rows and capitals make no other text; spaces between figures make other numbers.
func TestSameText(t *testing.T) {
	for _, c := range []struct {
		a, b []string
		same bool
	}{
		{[]string{"STEP 0"}, []string{"Step0"}, true},
		{[]string{"Level 12", "cm"}, []string{"Level 12 cm", ""}, true},
		{[]string{"1 23"}, []string{"12 3"}, false},
		{[]string{"1 23"}, []string{"123"}, false},
		{[]string{"12cm"}, []string{"12 cm"}, true},
		{[]string{"open"}, []string{"shut"}, false},
		{nil, []string{"  "}, true},
		{[]string{"Total: 007"}, []string{"Total:   7"}, true},
		{[]string{"at 1:05"}, []string{"at 01:5"}, true},
		{[]string{"1.05 m"}, []string{"1.5 m"}, false},
		{[]string{"1003"}, []string{"13"}, false},
		{[]string{"000"}, []string{"0"}, true},
	} {
		assert.Equal(t, c.same, SameText(c.a, c.b), "%q %q", c.a, c.b)
	}
}
