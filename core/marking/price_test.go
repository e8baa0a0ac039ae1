package marking

import (
	"encoding/json"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"

	_ "hemble/core/catalogue"

	"hemble/core/display"
)

// The worked cases of docs/marking.md on prices: what was seen alone, what each repair gives, what the sheet gives.
func TestPrice(t *testing.T) {
	one := func(marks ...int64) (out [][]*big.Rat) {
		var trial []*big.Rat
		for _, m := range marks {
			trial = append(trial, big.NewRat(m, 10))
		}
		return [][]*big.Rat{trial}
	}
	cause := func(code finding.Code, after ...int64) diagnosis.Finding {
		return diagnosis.Finding{Code: code, After: one(after...), Tested: true}
	}
	guess := cause("words", 50, 50)
	guess.Tested = false
	for _, c := range []struct {
		name    string
		seen    []int64 // tenths of marks of two expectations of 5
		found   []diagnosis.Finding
		x       exercise.Exercise
		verdict []string
		marks   string
		price   string // of the first finding
	}{
		{"form", []int64{0, 50}, []diagnosis.Finding{cause("leading-zeros", 50, 50)}, exercise.Exercise{},
			[]string{"3.25", "5"}, "8.5", "1.75"},
		{"it touched both", []int64{0, 0}, []diagnosis.Finding{cause("segments-inverted", 50, 50)}, exercise.Exercise{},
			[]string{"2.25", "2.25"}, "4.5", "5.5"},
		{"what was seen gives more", []int64{30, 50}, []diagnosis.Finding{cause("count-offset", 50, 50)},
			exercise.Exercise{}, []string{"3", "5"}, "8", "2"},
		{"but a mistake costs some", []int64{49, 50}, []diagnosis.Finding{cause("leading-zeros", 50, 50)},
			exercise.Exercise{}, []string{"3.5", "5"}, "8.5", "1.5"},
		{"two add up", []int64{0, 0},
			[]diagnosis.Finding{cause("leading-zeros", 20, 50), cause("time", 50, 50)}, exercise.Exercise{},
			[]string{"0.75", "3.25"}, "4", "3.875"},
		{"what is not repaired stays lost", []int64{0, 0}, []diagnosis.Finding{cause("leading-zeros", 30, 0)},
			exercise.Exercise{}, []string{"1.25", "0"}, "1.5", "1.75"},
		{"not tested", []int64{0, 50}, []diagnosis.Finding{guess}, exercise.Exercise{}, []string{"0", "5"}, "5", ""},
		{"not tested, and nearly right", []int64{48, 50}, []diagnosis.Finding{guess}, exercise.Exercise{},
			[]string{"3.5", "5"}, "8.5", ""},
		{"each expectation alone", []int64{0, 50}, []diagnosis.Finding{cause("leading-zeros", 50, 50)},
			exercise.Exercise{Each: true}, []string{"0", "5"}, "5", ""},
		{"another price", []int64{0, 50}, []diagnosis.Finding{cause("leading-zeros", 50, 50)},
			exercise.Exercise{Prices: map[finding.Price]*big.Rat{finding.Form: big.NewRat(1, 10)}},
			[]string{"4.5", "5"}, "9.5", "0.5"},
		{"a deduction in its place", []int64{0, 50}, []diagnosis.Finding{cause("leading-zeros", 50, 50)},
			exercise.Exercise{Deductions: []exercise.Deduction{{Finding: "leading-zeros", Marks: big.NewRat(1, 1)}}},
			[]string{"5", "5"}, "9", "0"},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := c.x
			x.Step, x.Trials = big.NewRat(1, 2), []exercise.Trial{{}}
			s := &sheet.Sheet{Trials: []sheet.Trial{{}}}
			for _, m := range c.seen {
				s.Trials[0].Verdicts = append(s.Trials[0].Verdicts,
					sheet.Verdict{Marks: sheet.NewMarks(big.NewRat(m, 10)),
						Of: sheet.NewMarks(big.NewRat(5, 1))})
			}
			s.Trials[0].Marks = trialMarks(&x.Trials[0], s.Trials[0].Verdicts)
			for _, f := range c.found {
				s.Findings = append(s.Findings, sheet.Finding{Code: f.Code})
			}
			price(&x, s, c.found)
			credit(&x, s)
			for i, v := range s.Trials[0].Verdicts {
				assert.Equal(t, c.verdict[i], v.Marks.String())
			}
			assert.Equal(t, c.marks, s.Marks.String())
			if c.price == "" {
				assert.Nil(t, s.Findings[0].Price)
			} else if assert.NotNil(t, s.Findings[0].Price) {
				assert.Equal(t, c.price, s.Findings[0].Price.String())
			}
		})
	}
}

// A gate that is met once its mistake is repaired is open: the mistake has its price.
func TestPriceOpensGate(t *testing.T) {
	x := &exercise.Exercise{Step: big.NewRat(1, 2), Trials: []exercise.Trial{{}}}
	five, none := sheet.NewMarks(big.NewRat(5, 1)), sheet.NewMarks(nil)
	s := &sheet.Sheet{Of: five.Add(five), Findings: []sheet.Finding{{Code: "colon"}},
		Trials: []sheet.Trial{{Marks: none, Verdicts: []sheet.Verdict{
			{Gate: true, Marks: none, Of: five, Verdict: judge.Verdict{Outcome: judge.Missed}},
			{Marks: five, Of: five}}}}}
	all := [][]*big.Rat{{big.NewRat(5, 1), big.NewRat(5, 1)}}
	price(x, s, []diagnosis.Finding{{Code: "colon", After: all, Tested: true}})
	credit(x, s)
	assert.Equal(t, "8.5", s.Marks.String())

	text, err := json.Marshal(s)
	require.NoError(t, err)
	var kept sheet.Sheet
	require.NoError(t, json.Unmarshal(text, &kept))
	same, err := Adjust(x, &kept, nil)
	require.NoError(t, err)
	assert.Equal(t, "8.5", same.Marks.String(), "it stays open where the sheet was stored")
}

// A display that never showed anything earns nothing where something visible was expected of it; one that showed
// something at any time, and one of which only darkness was expected, do.
func TestUnseen(t *testing.T) {
	off, on := display.State{Lights: display.Lights{display.Dark}}, display.State{Lights: display.Lights{display.Lit}}
	met := func(s display.State) judge.Verdict {
		return judge.Verdict{Display: "lamp", Fraction: big.NewRat(1, 1), Outcome: judge.Met,
			Alignment: []judge.Pair{{Expected: &judge.Span{State: &s}}}}
	}
	for _, c := range []struct {
		name   string
		frames []display.State
		expect []display.State
		want   judge.Outcome // of the first
	}{
		{"dead", []display.State{off}, []display.State{off, on}, judge.Missed},
		{"alive", []display.State{off, on}, []display.State{off, on}, judge.Met},
		{"dark is right", []display.State{off}, []display.State{off, off}, judge.Met},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := &reel.Reel{Tracks: []display.Track{{Display: "lamp"}}}
			for _, s := range c.frames {
				r.Tracks[0].Frames = append(r.Tracks[0].Frames, display.Frame{State: s})
			}
			var verdicts []judge.Verdict
			for _, s := range c.expect {
				verdicts = append(verdicts, met(s))
			}
			neverLit(r, verdicts)
			assert.Equal(t, c.want, verdicts[0].Outcome)
		})
	}
}

// A display that never came alive where it should earns nothing in a trial where dark is right all along either.
func TestNeverAlive(t *testing.T) {
	two := sheet.NewMarks(big.NewRat(2, 1))
	x := &exercise.Exercise{Step: big.NewRat(1, 2), Trials: []exercise.Trial{{}, {}}}
	for _, c := range []struct {
		alive []map[string]bool
		want  string
	}{
		{[]map[string]bool{{"lamp": false}, {}}, "0"},
		{[]map[string]bool{{"lamp": true}, {}}, "2"},
		{[]map[string]bool{{}, {}}, "2"},
	} {
		s := &sheet.Sheet{Trials: []sheet.Trial{{}, {Verdicts: []sheet.Verdict{
			{Marks: two, Of: two, Verdict: judge.Verdict{Display: "lamp", Outcome: judge.Met}}}}}}
		neverAlive(x, s, c.alive)
		assert.Equal(t, c.want, s.Trials[1].Marks.String())
	}
}
