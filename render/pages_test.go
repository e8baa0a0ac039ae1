package render_test

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/clock"
	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/render"
)

// marked is a sheet with everything that a page may show.
func marked() *sheet.Sheet {
	m := func(n int64) sheet.Marks { return sheet.NewMarks(big.NewRat(n, 1)) }
	nine := m(9)
	return &sheet.Sheet{Title: "Gauge <1>", Firmware: "=oke.elf", Marks: m(5), Of: m(10),
		Values: []sheet.Value{{Name: "start", Value: "7"}},
		Findings: []sheet.Finding{{Code: "time", Text: "Everything takes 2 times as long as it should.", Trial: "a",
			Evidence: []string{"at 1 s"}, Repaired: &nine, Fidelity: "run"}},
		Deducted: []sheet.Deduction{{Finding: "floating-PD7", Marks: m(1)}},
		ByHand:   []sheet.ByHand{{What: "style", Of: m(2)}},
		Trials: []sheet.Trial{{Name: "a", Length: clock.Second, Marks: m(5), Of: m(10), Verdicts: []sheet.Verdict{
			{Expectation: "gauge shows 1 & 2", Kind: "shows", Line: 7, Marks: m(3), Of: m(6),
				Verdict: judge.Verdict{Outcome: judge.Partly, Evidence: []string{"1 of 2"},
					First: &judge.Difference{At: clock.Second, Expected: "<1>", Seen: "2"}}},
			{Expectation: "red is on", Kind: "reads", Line: 8, Marks: m(2), Of: m(2),
				Verdict: judge.Verdict{Outcome: judge.Met}},
			{Expectation: "horn sounds", Kind: "sounds", Line: 9, Of: m(2),
				Verdict: judge.Verdict{Outcome: judge.NotJudged}},
		}}}}
}

func TestHTML(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t,
		render.HTML(&b, "Gauge",
			[]render.Marked{{Sheet: marked()}, {Sheet: &sheet.Sheet{Firmware: "bad.elf", Failed: "not a firmware"}}}))
	page := b.String()
	for _, want := range []string{"Gauge &lt;1&gt;", "5 / 10", "With this repaired: 9 / 10", "run again", "start = 7",
		"expected &lt;1&gt;, saw 2", "1 taken off: floating-PD7", "style", "not a firmware", "✓ met", "≈ partly",
		"· not judged"} {
		assert.Contains(t, page, want)
	}
	for _, outside := range []string{"<script", "http://", "https://", "src="} {
		assert.NotContains(t, page, outside, "the page needs nothing from elsewhere")
	}
}

func TestSheetTells(t *testing.T) {
	page := render.Sheet(render.Style{Width: 80}, marked(), nil)
	for _, want := range []string{"start is 7 for this student", "by hand: style", "… / 2", "1 taken off: floating-PD7",
		"With this repaired: 9 of 10  run again"} {
		assert.Contains(t, page, want)
	}
}

func TestCSV(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, render.CSV(&b, []*sheet.Sheet{{Firmware: "bad.elf", Failed: "not a firmware"}, marked()}))
	rows, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"file", "marks", "of", "first finding", "a: line 7", "a: line 8", "a: line 9"}, rows[0])
	assert.Equal(t, []string{"bad.elf", "0", "0", "", "", "", ""}, rows[1])
	assert.Equal(t, []string{"'=oke.elf", "5", "10", "Everything takes 2 times as long as it should.", "3", "2", "0"},
		rows[2], "no spreadsheet takes a file name for a formula")
}

func TestJUnit(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, render.JUnit(&b, []*sheet.Sheet{marked(), {Firmware: "bad.elf", Failed: "not a firmware"}}))
	var suites struct {
		Suite []struct {
			Name     string `xml:"name,attr"`
			Failures int    `xml:"failures,attr"`
			Skipped  int    `xml:"skipped,attr"`
			Errors   int    `xml:"errors,attr"`
			Case     []struct {
				Name    string `xml:"name,attr"`
				Failure string `xml:"failure"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal(b.Bytes(), &suites))
	require.Len(t, suites.Suite, 2)
	assert.Equal(t, [3]int{1, 1, 0}, [3]int{suites.Suite[0].Failures, suites.Suite[0].Skipped, suites.Suite[0].Errors})
	assert.Equal(t, "line 7: gauge shows 1 & 2", suites.Suite[0].Case[0].Name)
	assert.Contains(t, suites.Suite[0].Case[0].Failure, "expected <1>, saw 2")
	assert.Equal(t, 1, suites.Suite[1].Errors)
}

func TestStrengthAndLuck(t *testing.T) {
	st := render.Style{Width: 80}
	variants := []author.Variant{{Fault: "time", Part: "gauge", Effect: "everything takes 2 times as long",
		Marks: "5.0",
		Of:    "10.0", Caught: true}, {Fault: "held", Part: "raise", Effect: "a held press counts again", Marks: "10.0",
		Of: "10.0", Add: "hold a press"}}
	text := render.Strength(st, "Gauge", variants, false)
	assert.Contains(t, text, "1 of 2 faults caught")
	assert.Contains(t, text, "→ hold a press")
	assert.NotContains(t, text, "everything takes 2")
	assert.Regexp(t, `What one such mistake leaves, of 10\n  time +5 `, text)
	assert.Contains(t, render.Strength(st, "Gauge", variants, true), "everything takes")
	assert.Contains(t, render.Strength(st, "Gauge", variants[:1], false), "Nothing slipped through.")
	for _, line := range strings.Split(text, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 80)
	}
	ten, four := sheet.NewMarks(big.NewRat(10, 1)), sheet.NewMarks(big.NewRat(4, 1))
	assert.Contains(t, render.Seeds(st, marked(), &marking.SeedSensitivity{Marks: []sheet.Marks{ten, four}, Passed: 1}),
		"passes 1 of 2 seeds: the result depends on chance; marks 10, 4")
	assert.Contains(t, render.Seeds(st, marked(), &marking.SeedSensitivity{Marks: []sheet.Marks{ten, ten}, Passed: 2}),
		"the same under all of them")
}
