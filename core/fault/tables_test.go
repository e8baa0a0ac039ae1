package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/part"
)

// Every kind and every line that the table of exchanged lines names is there.
func TestExchangedLinesExist(t *testing.T) {
	for kind, pairs := range exchanged {
		k := part.Find(kind)
		require.NotNil(t, k, kind)
		for _, p := range pairs {
			for _, line := range p {
				assert.GreaterOrEqual(t, k.Terminal(line), 0, "%s has no %s", kind, line)
			}
		}
	}
}
