package submissions

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/exercise"
	"hemble/core/firmware"
)

func TestKind(t *testing.T) {
	for _, c := range []struct {
		name, data, kind, problem string
	}{
		{"a.hex", ":00000001FF", exercise.Firmware, ""},
		{"a.ELF", "\x7fELF", exercise.Firmware, ""},
		{"noname", "\x7fELF…", exercise.Firmware, ""},
		{"a.c", "int main;", exercise.Source, ""},
		{"a.ino", "void loop", exercise.Source, ""},
		{"a.VCD", "$timescale", exercise.Capture, ""},
		{"a.hex", "", "", "the file is empty"},
		{"a.pdf", "%PDF", "", "neither firmware"},
		{"a.hex", strings.Repeat("x", firmware.MaxFile+1), "", "no firmware needs more"},
	} {
		kind, err := Kind(c.name, []byte(c.data))
		assert.Equal(t, c.kind, kind, c.name)
		if c.problem == "" {
			assert.NoError(t, err)
		} else {
			assert.ErrorContains(t, err, c.problem)
		}
	}
	assert.NoError(t, Takes([]string{exercise.Firmware}, exercise.Firmware))
	assert.ErrorContains(t, Takes([]string{exercise.Firmware, exercise.Source}, exercise.Capture),
		"this is a capture; what is taken here is firmware or source")
}
