package diagnosis

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/finding"
)

// A sign takes the place, and the marks, of the first repair that it stands for: repairs build on those before them.
func TestStated(t *testing.T) {
	repair := func(code finding.Code, marks int64) Finding {
		return Finding{Code: code, Part: "sign", Marks: big.NewRat(marks, 1), Fidelity: OnReel,
			After: [][]*big.Rat{{big.NewRat(marks, 1)}}, Tested: true}
	}
	sign := Finding{Code: "row-address", Part: "sign", Text: "said"}
	other := Finding{Code: "dark", Part: "lamp"}
	taken := repair("row-address", 6)
	taken.Text = "said"
	for _, c := range []struct {
		name        string
		found, want []Finding
	}{
		{"alone", []Finding{repair("word", 6)}, []Finding{repair("word", 6)}},
		{"in its place", []Finding{repair("word", 6), repair("time", 10), sign, other},
			[]Finding{taken, repair("time", 10), other}},
		{"of two", []Finding{repair("word", 6), repair("cut", 10), sign}, []Finding{taken}},
		{"beside what it does not stand for", []Finding{repair("time", 10), sign}, []Finding{repair("time", 10), sign}},
		{"a sign of a sign", []Finding{{Code: "row-empty", Part: "sign"}, sign}, []Finding{sign}},
		{"of another display", []Finding{{Code: "row-empty", Part: "board"}, sign},
			[]Finding{{Code: "row-empty", Part: "board"}, sign}},
	} {
		assert.Equal(t, c.want, stated(c.found), c.name)
	}
}
