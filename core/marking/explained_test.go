package marking

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/machine"
	"hemble/core/sheet"
)

// An exception that ends a program explains all that nothing cures it of; one that ends a thread, what comes behind it.
func TestExplained(t *testing.T) {
	x := &exercise.Exercise{Trials: []exercise.Trial{{Name: "lock full"}, {Name: "lock empty"}}}
	found := []diagnosis.Finding{
		{Code: "dark", Trial: 0, At: 1 * clock.Second}, {Code: "words", Trial: 0, At: 3 * clock.Second},
		{Code: "limit", Trial: 1, At: 3 * clock.Second},
		{Code: "program-number", Trial: 0, At: 3 * clock.Second, Tested: true,
			Cured: []string{"exception", "thread-exception"}},
	}
	for code, want := range map[finding.Code][]finding.Code{
		"floating":                      {"dark", "words", "limit", "program-number"},
		finding.Code(machine.Exception): {"program-number"},
		machine.ThreadException:         {"dark", "limit", "program-number"},
	} {
		var codes []finding.Code
		for _, f := range explained(x, found, []sheet.Finding{{Code: code, Trial: "lock full", At: 2 * clock.Second}}) {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, want, codes, code)
	}
}
