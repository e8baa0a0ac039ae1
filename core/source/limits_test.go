package source

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/machine"
)

const counting = `uint8_t left, jars;
int level = 3;
const char most = 9;
unsigned long since;
void loop(void)
{
	if (more) {
		left += 5;
	}
	if (less)
		level--;
	level = level + 1;
	for (char i = 0; i < 9; i++)
		jars = i;
	if (millis() - since > 1000)
		since += 1000;
}
`

// What counts may lack its limit, behind what counts it: where it is set back to, or stays, is what was expected.
func TestLimits(t *testing.T) {
	at := missingFor(t, counting, machine.Hints{Pairs: [][2]int64{{60, 65}, {4, 5}}, Told: []int64{20, 1}})
	for _, want := range []string{"! 8: if (left > 60) left = 60;", "! 8: if (left > 64) left = 60;",
		"8: if (left > 4) left = 4;", "8: if (left > 19) left = 0;", "9: if (left > 60) left = 60;",
		"! 12: if (level > 60) level = 60;", "! 11: if (level < 0) level = 60;", "11: if (level < 0) level = 0;"} {
		assert.Contains(t, at, want)
	}
	for _, m := range at {
		assert.NotContains(t, m, "if (jars", "nothing counts it")
		assert.NotContains(t, m, "if (i >", "a loop has its limit")
		assert.NotContains(t, m, "if (since", "it is a time")
		assert.NotContains(t, m, "if (most", "it does not change")
		assert.NotContains(t, m, "left < 0", "it has no sign")
		assert.NotContains(t, m, "12: if (level < 0)", "it only grows there")
	}
	below := missingFor(t, counting, machine.Hints{Pairs: [][2]int64{{1, 0}}})
	assert.Contains(t, below, "! 11: if (level < 1) level = 1;")
	assert.NotContains(t, below, "! 12: if (level > 1) level = 1;", "it is not too large")
	bare := missing(t, counting)
	assert.Contains(t, bare, "11: if (level < 0) level = 0;", "nobody goes below nothing")
	assert.NotContains(t, bare, "8: if (left > 60) left = 60;")
}
