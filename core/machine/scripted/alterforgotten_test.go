package scripted

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/machine"
)

const forgetful = `left = 9
was = 1
since = 0
def tick():
    global left, since
    if key.value() and not was:
        now = key.value()
        left -= 1
        show(left)
    if ticks_diff(ticks_ms(), since) >= 50:
        lamp.on()
    else:
        rest()

while True:
    tick()
`

// Lines that may be missing, where they stand then.
func TestForgottenLines(t *testing.T) {
	im := packed(t, forgetful)
	texts := map[string]int{} // how seldom
	for _, a := range alterations(im, machine.Hints{}) {
		if a.Slip == machine.Missing && a.Behind {
			texts[changed(im, a)] = a.Rare
			assert.NotContains(t, []int{1, 2, 3}, a.Line.Line, "what is set up: %s", a.Meant)
		}
	}
	for _, c := range []struct {
		behind, text string
		rare         int
	}{
		{"        lamp.on()", "        since = ticks_ms()", 0},
		{"        show(left)", "        was = now", 0},
		{"        show(left)", "    was = now", 0},
		{"        now = key.value()", "        left = 9", 0},
		{"        rest()", "        lamp.off()", 1},
		{"    else:", "        show(left)", 1},
		{"        show(left)", "    else:\n        left = 9", 0},
	} {
		rare, ok := texts[strings.Replace(forgetful, c.behind, c.behind+"\n"+c.text, 1)]
		assert.True(t, ok, c)
		assert.Equal(t, c.rare, rare, c)
	}
	assert.NotContains(t, texts, strings.Replace(forgetful, "show(left)", "show(left)\n        show(left)", 1))
	assert.Contains(t, texts, strings.Replace(forgetful, "rest()\n", "rest()\n    lamp.on()\n", 1))
}
