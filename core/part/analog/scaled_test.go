package analog_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/part"
	_ "hemble/core/part/analog"
)

// A share of a source is a share of what it is set to: as far as a knob goes, and as low as 0 V.
func TestScaled(t *testing.T) {
	for _, c := range []struct {
		kind, to, half, twice string
	}{
		{"potentiometer", "60%", "30.0000%", "100.0000%"},
		{"potentiometer", "35%", "17.5000%", "70.0000%"},
		{"potentiometer", "a lot", "a lot", "a lot"},
		{"voltage", "2.5V", "1.250000V", "5.000000V"},
		{"voltage", "0V", "0.000000V", "0.000000V"},
		{"voltage", "high", "high", "high"},
	} {
		kind := part.Find(c.kind)
		require.NotNil(t, kind.Scaled, c.kind)
		assert.Equal(t, c.half, kind.Scaled.Cue(c.to, 1, 2), c)
		assert.Equal(t, c.twice, kind.Scaled.Cue(c.to, 2, 1), c)
		if kind.CheckCue(part.Instance{}, part.Cue{Verb: part.Set, To: c.to}) == nil {
			assert.NoError(t, kind.CheckCue(part.Instance{}, part.Cue{Verb: part.Set, To: c.half}), c)
		}
	}
	assert.Nil(t, part.Find("thermistor").Scaled, "its voltage is in no proportion to a temperature")
}
