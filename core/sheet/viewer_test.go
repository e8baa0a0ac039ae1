package sheet_test

import (
	"encoding/json"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/judge"
	"hemble/core/sheet"
)

func TestForStudents(t *testing.T) {
	two, seven := sheet.NewMarks(big.NewRat(2, 1)), sheet.NewMarks(big.NewRat(7, 1))
	nine := two.Add(seven)
	s := &sheet.Sheet{Marks: nine, Of: nine, ByHand: []sheet.ByHand{{What: "style", Notes: "look at names"}},
		Trials: []sheet.Trial{
			{Name: "open", Marks: two, Of: two, Notes: "a trap",
				Verdicts: []sheet.Verdict{{Notes: "secret", Verdict: judge.Verdict{Outcome: judge.Met}}}},
			{Name: "surprise", Hidden: true, Marks: seven, Of: seven,
				Verdicts: []sheet.Verdict{{Expectation: "counts to 41"}}},
		},
		Findings: []sheet.Finding{{Code: "a", Text: "seen", Trial: "open", Repaired: &nine},
			{Code: "b", Text: "of the surprise", Trial: "surprise"}}}
	text := func(v sheet.Viewer) string {
		b, err := json.Marshal(s.For(v))
		require.NoError(t, err)
		return string(b)
	}
	assert.Same(t, s, s.For(sheet.Viewer{}))
	before := text(sheet.Viewer{Student: true})
	for _, word := range []string{"surprise", "41", "secret", "trap", "look at names", "7", "9"} {
		assert.NotContains(t, before, word)
	}
	assert.Contains(t, before, `"marks":2,"of":2`)
	after := text(sheet.Viewer{Student: true, Released: true})
	assert.Contains(t, after, `"marks":9,"of":9`)
	assert.Contains(t, after, "hidden trial")
	for _, word := range []string{"surprise", "41", "secret"} {
		assert.NotContains(t, after, word)
	}
	assert.Equal(t, "secret", s.Trials[0].Verdicts[0].Notes, "the sheet itself is as it was")
}

// What marks were rounded from tells of hidden trials, and of marks that are not shown yet: it goes with them.
func TestExactGoesWithWhatItTellsOf(t *testing.T) {
	exact := sheet.NewMarks(big.NewRat(98, 10))
	whole := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(10, 1)), Of: sheet.NewMarks(big.NewRat(10, 1)),
		Exact: &exact, Trials: []sheet.Trial{
			{Name: "seen", Marks: sheet.NewMarks(big.NewRat(5, 1)), Of: sheet.NewMarks(big.NewRat(5, 1))},
			{Name: "secret", Hidden: true, Marks: sheet.NewMarks(big.NewRat(48, 10)),
				Of: sheet.NewMarks(big.NewRat(5, 1))}}}
	assert.Equal(t, &exact, whole.For(sheet.Viewer{}).Exact)
	assert.Nil(t, whole.For(sheet.Viewer{Student: true}).Exact)
	assert.Equal(t, &exact, whole.For(sheet.Viewer{Student: true, Released: true}).Exact)
	assert.Nil(t, whole.For(sheet.Viewer{Student: true, Released: true, NoMarks: true}).Exact)
	whole.Trials[1].Hidden = false
	assert.Equal(t, &exact, whole.For(sheet.Viewer{Student: true}).Exact)
}
