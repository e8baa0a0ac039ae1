package sheet

import (
	"encoding/json"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/judge"
)

func TestMarksAreExact(t *testing.T) {
	third := NewMarks(big.NewRat(1, 3))
	assert.Equal(t, "1", third.Add(third).Add(third).String(), "three thirds are one")
	assert.Equal(t, "0.333", third.String())
	assert.Equal(t, "0", NewMarks(nil).String())
	assert.Equal(t, "0.333", Marks{}.Add(third).String())
	text, err := json.Marshal([]Marks{third, NewMarks(big.NewRat(10, 1)), NewMarks(big.NewRat(5, 2)), {}})
	require.NoError(t, err)
	assert.Equal(t, "[0.333333333333333333,10,2.5,0]", string(text))
	var m Marks
	for _, r := range []*big.Rat{big.NewRat(1, 3), big.NewRat(22, 7), big.NewRat(99_999_988, 99_999_989),
		big.NewRat(1, 64), big.NewRat(-5, 7)} {
		text, err := NewMarks(r).MarshalJSON()
		require.NoError(t, err)
		require.NoError(t, m.UnmarshalJSON(text))
		assert.Equal(t, r.String(), m.Rat.String(), "out and in again, as %s", text)
	}
	for _, bad := range []string{`"x"`, `{}`, `true`} {
		assert.Error(t, json.Unmarshal([]byte(bad), &m), bad)
	}
}

func TestRoundingIsHalfUp(t *testing.T) {
	for _, c := range []struct {
		marks, step *big.Rat
		want        string
	}{
		{big.NewRat(29, 4), big.NewRat(1, 2), "7.5"}, {big.NewRat(7249, 1000), big.NewRat(1, 2), "7"},
		{big.NewRat(1, 2), big.NewRat(1, 1), "1"},
		{big.NewRat(1, 8), big.NewRat(1, 4), "0.25"}, {big.NewRat(1, 3), big.NewRat(1, 10), "0.3"},
		{big.NewRat(10, 1), big.NewRat(3, 1), "9"}, {new(big.Rat), big.NewRat(1, 2), "0"},
	} {
		assert.Equal(t, c.want, NewMarks(c.marks).Round(c.step).String(), "%s to %s", c.marks, c.step)
	}
}

func TestCount(t *testing.T) {
	v := func(o judge.Outcome) Verdict { return Verdict{Verdict: judge.Verdict{Outcome: o}} }
	s := Sheet{Trials: []Trial{{Verdicts: []Verdict{v(judge.Met), v(judge.Missed)}},
		{Verdicts: []Verdict{v(judge.Met), v(judge.NotJudged)}}}}
	assert.Equal(t, map[judge.Outcome]int{judge.Met: 2, judge.Missed: 1, judge.NotJudged: 1}, s.Count())
}
