package display

import (
	"regexp/syntax"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// All texts of a pattern are known where it leaves little open.
func TestMatched(t *testing.T) {
	for pattern, want := range map[string][]string{
		`^1\.[4-6]$`:    {"1.4", "1.5", "1.6"},
		`(?:2|3)0?`:     {"2", "20", "3", "30"},
		`^ *on|off$`:    {"on", " on", "off"},
		`(\d)0`:         {"00", "10", "20", "30", "40", "50", "60", "70", "80", "90"},
		`\d+`:           nil,
		`.`:             nil,
		`[0-9]{3}`:      nil,
		`a(b|c)(b|c)`:   {"abb", "abc", "acb", "acc"},
		`Level: [12] m`: {"Level: 1 m", "Level: 2 m"},
	} {
		tree, err := syntax.Parse(pattern, syntax.Perl)
		require.NoError(t, err)
		texts, ok := matched(tree.Simplify())
		assert.Equal(t, want != nil, ok, pattern)
		if ok {
			assert.ElementsMatch(t, want, texts, pattern)
		}
	}
	text, off := nearest([]string{"2.49", "2.50", "2.51"}, "3.72")
	assert.Equal(t, "2.50", text)
	assert.Equal(t, 33, off)
	text, _ = nearest([]string{"1.4", "1.5", "1.6"}, " 14.")
	assert.Equal(t, "1.4", text)
}
