package db

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a sheet of an earlier release says is there under the names of today, and what people have named is left alone.
func TestRenamed(t *testing.T) {
	text, err := renamed([]byte(`{"exercise": "step", "marks": 1.50, "findings": [{"code": "x", "mended": 2}], "trials": [
		{"name": "sight", "verdicts": [{"kind": "shows", "lanes": [{"step": "right", "expected": {"text": "step", "sight": {"lights": "#"}}},
			{"step": "extra", "seen": {"sight": null}}]}, {"kind": "reads"}]}], "values": [{"name": "lanes", "value": "1"}]}`))
	require.NoError(t, err)
	assert.JSONEq(t, `{"exercise": "step", "marks": 1.50, "findings": [{"code": "x", "repaired": 2}], "trials": [
		{"name": "sight", "verdicts": [{"kind": "shows", "alignment": [{"operation": "right", "expected": {"text": "step", "state": {"lights": "#"}}},
			{"operation": "extra", "seen": {"state": null}}]}, {"kind": "reads"}]}], "values": [{"name": "lanes", "value": "1"}]}`, string(text))
	assert.Contains(t, string(text), "1.50", "numbers stay as they are written")
	for _, odd := range []string{`null`, `{}`, `{"trials": null}`} {
		text, err := renamed([]byte(odd))
		require.NoError(t, err)
		assert.JSONEq(t, odd, string(text))
	}
	_, err = renamed([]byte(`{"trials": 3}`))
	assert.Error(t, err)
}
