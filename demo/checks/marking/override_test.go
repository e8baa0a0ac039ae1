package marking_test

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/demo"
	"hemble/demo/checks"
)

func whole() marking.Override { return marking.Override{Trial: -1, Verdict: -1, Row: -1} }

func giving(o marking.Override, marks int64) marking.Override {
	o.Given = sheet.Given{Marks: sheet.NewMarks(big.NewRat(marks, 1)), Reason: "looked at it", By: "I. Keeper"}
	return o
}

// Overrides take their place in the order of credit: before the trial's most, deductions and rounding.
func TestAdjust(t *testing.T) {
	d, data, err := demo.Pick("chamber-gauge", "stroud-b-f-swapped")
	require.NoError(t, err)
	x := checks.Read(t, d.Text)
	r, err := marking.Mark(t.Context(), x, "x.elf", data)
	require.NoError(t, err)
	require.Equal(t, "5", r.Sheet.Marks.String())

	same, err := marking.Adjust(x, r.Sheet, nil)
	require.NoError(t, err)
	assert.Equal(t, "5", same.Marks.String())
	first := marking.Override{Trial: 0, Verdict: 0, Row: -1}
	out, err := marking.Adjust(x, r.Sheet, []marking.Override{giving(first, 6)})
	require.NoError(t, err)
	assert.Equal(t, "6", out.Trials[0].Marks.String())
	assert.Equal(t, "looked at it", out.Trials[0].Verdicts[0].Given.Reason)
	assert.Nil(t, r.Sheet.Trials[0].Verdicts[0].Given, "the sheet itself stays")
	assert.Equal(t, 1, out.Marks.Cmp(r.Sheet.Marks.Rat))
	out, err = marking.Adjust(x, r.Sheet, []marking.Override{giving(first, 6), giving(first, 0)})
	require.NoError(t, err)
	assert.Equal(t, -1, out.Marks.Cmp(r.Sheet.Marks.Rat), "the later goes over the earlier")
	out, err = marking.Adjust(x, r.Sheet, []marking.Override{giving(whole(), 9), giving(first, 0)})
	require.NoError(t, err)
	assert.Equal(t, "9", out.Marks.String(), "a word on the whole stands, whatever its parts")
	for _, bad := range []marking.Override{giving(first, 7), giving(first, -1), giving(whole(), 11),
		giving(marking.Override{Trial: 5, Verdict: 0, Row: -1}, 1),
		giving(marking.Override{Trial: 0, Verdict: 9, Row: -1}, 1),
		giving(marking.Override{Trial: -1, Verdict: -1, Row: 0}, 1)} {
		_, err := marking.Adjust(x, r.Sheet, []marking.Override{bad})
		assert.Error(t, err, "%+v", bad)
	}
}
