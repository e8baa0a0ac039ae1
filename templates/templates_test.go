package templates_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/templates"
)

// Each template's reference has full marks, on other seeds, too, and most typical mistakes lose some.
func TestTemplates(t *testing.T) {
	all, err := templates.All()
	require.NoError(t, err)
	require.Len(t, all, 10)
	for _, one := range all {
		t.Run(one.Name, func(t *testing.T) {
			t.Parallel()
			x, problems := exercise.Read("exercise.yaml", one.Text)
			require.NotNil(t, x)
			assert.Empty(t, problems)
			require.NotEmpty(t, one.Brief)
			file := one.Files[0].Data
			result, err := marking.Mark(t.Context(), x, one.Files[0].Name, file)
			require.NoError(t, err)
			assert.Equal(t, "10", result.Sheet.Of.String())
			assert.Equal(t, "10", result.Sheet.Marks.String())
			assert.Empty(t, result.Sheet.Findings)
			tried, err := marking.TrySeeds(t.Context(), x, file, 8)
			require.NoError(t, err)
			assert.False(t, tried.Depends())
			variants, err := author.Strength(t.Context(), x, file, nil)
			require.NoError(t, err)
			caught := 0
			for _, v := range variants {
				if v.Caught {
					caught++
				}
			}
			assert.GreaterOrEqual(t, caught*10, len(variants)*8, "%d of %d", caught, len(variants))
		})
	}
}

// A template under another name reads as one, whatever is written.
func TestAs(t *testing.T) {
	one, err := templates.Find("one-digit-counting")
	require.NoError(t, err)
	require.NotNil(t, one)
	text, err := one.As("lock-level", `The "level": a # in it`, "First line.\r\nSecond: 'line'.\n\n  - indented")
	require.NoError(t, err)
	x, problems := exercise.Read("exercise.yaml", text)
	require.NotNil(t, x, "%v\n%s", problems, text)
	assert.Equal(t, "lock-level", x.Name)
	assert.Equal(t, `The "level": a # in it`, x.Title)
	assert.Contains(t, x.Brief, "First line.\nSecond: 'line'.")
	none, err := templates.Find("none")
	assert.NoError(t, err)
	assert.Nil(t, none)
}
