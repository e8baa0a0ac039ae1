package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
)

// A place of a number in which a character stands that comes before, or behind, the figures.
func TestUnlikeFigures(t *testing.T) {
	at := func(s clock.Time, row2 string) shown { return shown{s * clock.Second, [2]string{"Lock", row2}} }
	const (
		down = `[{shows: sign, frames: [{rows: [Lock, "Boats 1"]}, {rows: [Lock, "Boats 0"]}], marks: 10}]`
		up   = `[{shows: sign, frames: [{rows: [Lock, "Boats  9"]}, {rows: [Lock, "Boats 10"]}], marks: 10}]`
	)
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         []finding.Code
		text         string
	}{
		{"below", down, []shown{at(0, "Boats 1"), at(2, "Boats /")}, []finding.Code{"underflow-character"},
			`sign shows "/", where 0 is expected: the character before “0”. The number went below 0.`},
		{"beyond", up, []shown{at(0, "Boats  9"), at(2, "Boats  :")}, []finding.Code{"carry-character"},
			`sign shows " :", where 10 is expected: the character behind “9”. One place shows a number beyond 9, ` +
				`and nothing is carried to the next one.`},
		{"another one", down, []shown{at(0, "Boats 1"), at(2, "Boats .")}, nil, ""},
		{"in a word", down, []shown{at(0, "Boats 1"), at(2, "Boat/ 0")}, nil, ""},
		{"words besides", down, []shown{at(0, "Boats 1"), at(2, "boats /")}, nil, ""},
		{"longer", down, []shown{at(0, "Boats 1"), at(2, "Boats /0")}, nil, ""},
	} {
		codes, texts := toldOf(t, unlikeFigures, c.expect, c.states...)
		assert.Equal(t, c.want, codes, c.name)
		if c.text != "" && len(texts) == 1 {
			assert.Equal(t, c.text, texts[0], c.name)
		}
	}
}
