package cli

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/finding"
)

// The documentation of findings is the catalogue, and every code in it says what it is for.
func TestFindingsAreDocumented(t *testing.T) {
	committed, err := os.ReadFile("../docs/causes.md")
	require.NoError(t, err)
	assert.True(t, finding.Reference() == string(committed), "docs/causes.md is not current: make docs")
	for _, e := range finding.All() {
		assert.NotEmpty(t, e.Doc, e.Code)
	}
}
