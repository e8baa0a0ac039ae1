package finding_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/finding"
)

func TestFamily(t *testing.T) {
	for _, c := range []struct {
		code, of string
		want     bool
	}{
		{"floating-PC0", "floating", true}, {"floating-PC0", "floating-PC0", true}, {"floating-PC0", "float", false},
		{"board lcd-busy", "lcd-busy", true}, {"board lcd-busy", "lcd", true},
		{"board lcd-busy", "board lcd-busy", true}, {"board lcd-busy", "busy", false},
		{"unmodelled PRR ADC", "unmodelled", true}, {"time", "time", true}, {"timer", "time", false},
		{"current-PD0 to PD4", "current", true},
	} {
		assert.Equal(t, c.want, finding.Family(c.code, c.of), "%s of %s", c.code, c.of)
	}
}
