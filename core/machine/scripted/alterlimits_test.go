package scripted

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/script"
)

const counted = `def turn():
    global floor, left, moving
    if up.is_pressed and moving == 0:
        floor += 2
    elif down.is_pressed:
        floor = floor - 1
    if not locked or left > 3:
        left = left + 1
    show("if", (floor))
    doors[floor] -= 1
`

// Limits that may be missing behind what counts, and conditions beside others, where they stand then.
func TestLimitsOfLines(t *testing.T) {
	im := packed(t, counted)
	h := machine.Hints{Pairs: [][2]int64{{9, 11}}}
	texts := map[string]machine.Alteration{}
	for _, a := range alterations(im, h) {
		if a.Slip == machine.Missing {
			texts[changed(im, a)] = a
		}
	}
	has := func(line, with string) machine.Alteration {
		t.Helper()
		require.Equal(t, 1, strings.Count(counted, line))
		a, ok := texts[strings.Replace(counted, line, with, 1)]
		assert.True(t, ok, with)
		return a
	}
	a := has("        floor += 2\n", "        floor += 2\n        if floor > 9: floor = 9\n")
	assert.True(t, a.Behind)
	assert.Equal(t, 4, a.Line.Line)
	assert.Zero(t, a.Rare)
	has("floor - 1\n", "floor - 1\n        if floor < 0: floor = 9\n")
	has("left + 1\n", "left + 1\n        if left > 10: left = 9\n")
	has("    doors[floor] -= 1", "    doors[floor] -= 1\n    if doors[floor] < 0: doors[floor] = 9")
	a = has("if up.is_pressed and moving == 0:", "if (up.is_pressed and moving == 0) and left > 3:")
	assert.False(t, a.Behind)
	assert.Equal(t, "and left > 3", a.Meant)
	assert.Equal(t, script.Address(0, 4), a.Address, "it matters for what it decides about")
	has("elif down.is_pressed:", "elif (down.is_pressed) and moving != 0:")
	has("if not locked or left > 3:", "if (not locked or left > 3) and not up.is_pressed:")
	for text, a := range texts {
		assert.NotContains(t, text, "if floor < 0: floor = 9\n    elif", "it only grows there")
		if a.Line.Line == 7 {
			assert.NotContains(t, a.Meant, "locked", "it asks for that")
		}
	}
	for _, a := range alterations(im, machine.Hints{Reached: func(address uint32) (clock.Time, bool) {
		return 0, address != script.Address(0, 6)
	}}) {
		assert.NotEqual(t, 6, a.Line.Line, "that was never carried out")
	}
	assert.Equal(t, []string{"a != b", "b", "not a.b", "not (f or g)", "x <= y"}, []string{reversed("a == b"), reversed("not b"),
		reversed("a.b"), reversed("f or g"), reversed("x > y")})
}
