package fault

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/part"
	"hemble/core/spec"
)

// Every line that a kind says gets exchanged is one of its own, and every setting that is misread is there with its
// values.
func TestWhatPartsDeclare(t *testing.T) {
	for _, k := range part.Kinds() {
		for _, p := range k.Exchanged {
			for _, line := range p {
				assert.GreaterOrEqual(t, k.Terminal(line), 0, "%s has no %s", k.Name, line)
			}
		}
		for _, m := range k.Misread {
			f := spec.Find(k.Settings, m.Setting)
			if m.Assumed {
				assert.Nil(t, f, "%s: %s", k.Name, m.Setting)
				continue
			}
			require.NotNil(t, f, "%s: %s", k.Name, m.Setting)
			for value, taken := range m.Taken {
				assert.Subset(t, f.Choices, append([]string{value}, taken...), "%s: %s", k.Name, m.Setting)
			}
		}
	}
}
