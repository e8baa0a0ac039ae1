package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
)

// An input that changes a display each time, and should not do so always.
func TestAlwaysActs(t *testing.T) {
	at := func(ms clock.Time, row2 string) shown {
		return shown{ms * clock.Millisecond, [2]string{"Lock", row2}}
	}
	const (
		two   = `{shows: sign, frames: [{rows: [Lock, "Boats 1"]}, {rows: [Lock, "Boats 2"]}], marks: 5}`
		three = `{reads: sign, rows: [Lock, "Boats 3"], at: 8900ms, marks: 5}`
	)
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         string
	}{
		{"each press", "[" + two + ", " + three + "]", []shown{at(0, "Boats 1"), at(4050, "Boats 2"), at(8050, "Boats 3")},
			`sign goes on to "Lock" / "Boats 3": each of the 2 presses of hour changes it, where 1 should. At some times hour should do nothing.`},
		{"by itself", "[" + two + ", " + three + "]", []shown{at(0, "Boats 1"), at(4050, "Boats 2"), at(6000, "Boats 3")}, ""},
		{"perhaps beyond its end", "[" + two + "]", []shown{at(0, "Boats 1"), at(4050, "Boats 2"), at(8050, "Boats 3")}, ""},
		{"twice at once", "[" + two + ", " + three + "]",
			[]shown{at(0, "Boats 1"), at(4050, "Boats 2"), at(4250, "Boats 3")}, ""},
	} {
		codes, texts := toldOf(t, ignoring, c.expect, c.states...)
		if c.want == "" {
			assert.Empty(t, codes, c.name)
			continue
		}
		assert.Equal(t, []finding.Code{"not-ignored"}, codes, c.name)
		assert.Equal(t, []string{c.want}, texts, c.name)
	}
}
