package bcd_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	_ "hemble/core/catalogue"
	"hemble/core/circuit"
	"hemble/core/glyph"
	"hemble/core/part/parttest"
)

func put(w *parttest.World, v int) {
	w.Set("d1", circuit.Output(v&1 != 0), "d2", circuit.Output(v&2 != 0), "d4", circuit.Output(v&4 != 0), "d8",
		circuit.Output(v&8 != 0))
}

// lit gives the segments whose outputs are at the given drive.
func lit(w *parttest.World, on circuit.Drive) (p glyph.Pattern) {
	for i := 0; i < 7; i++ {
		if w.Driven[w.Terminal("a")+i] == on {
			p |= 1 << i
		}
	}
	return p
}

// The function table of SDLS111: 0 to 9 without tails, the odd symbols of 10 to 14, 15 blank.
func Test7447(t *testing.T) {
	w := parttest.New(t, "7447", "", 1)
	for v, want := range []string{"a b c d e f", "b c", "a b d e g", "a b c d g", "b c f g", "a c d f g", "c d e f g",
		"a b c", "a b c d e f g", "a b c f g",
		"d e g", "c d g", "b f g", "a d f g", "d e f g", ""} {
		put(w, v)
		assert.Equal(t, want, lit(w, circuit.DrivenLow).Lit(), "%d", v)
		assert.Zero(t, lit(w, circuit.DrivenHigh), "open collector: never high")
	}
	put(w, 0)
	w.Set("rbi", circuit.DrivenLow)
	assert.Zero(t, lit(w, circuit.DrivenLow), "ripple blanking")
	put(w, 5)
	assert.NotZero(t, lit(w, circuit.DrivenLow), "blanks a zero only")
	w.Set("lt", circuit.DrivenLow)
	assert.Equal(t, glyph.Pattern(0x7f), lit(w, circuit.DrivenLow), "lamp test")
	w.Set("bi", circuit.DrivenLow)
	assert.Zero(t, lit(w, circuit.DrivenLow), "blanking goes before lamp test")
}

// The truth table of SCHS072.
func Test4511(t *testing.T) {
	w := parttest.New(t, "4511", "", 1)
	for v := 0; v < 16; v++ {
		put(w, v)
		want := ""
		if v < 10 {
			want = []string{"a b c d e f", "b c", "a b d e g", "a b c d g", "b c f g", "a c d f g", "c d e f g",
				"a b c", "a b c d e f g", "a b c f g"}[v]
		}
		assert.Equal(t, want, lit(w, circuit.DrivenHigh).Lit(), "%d", v)
	}
	put(w, 3)
	w.Set("le", circuit.DrivenHigh)
	put(w, 7)
	assert.Equal(t, "a b c d g", lit(w, circuit.DrivenHigh).Lit(), "latched")
	w.Set("bi", circuit.DrivenLow)
	assert.Zero(t, lit(w, circuit.DrivenHigh))
	w.Set("lt", circuit.DrivenLow)
	assert.Equal(t, glyph.Pattern(0x7f), lit(w, circuit.DrivenHigh), "lamp test goes before blanking")
	w.Set("lt", circuit.DrivenHigh, "bi", circuit.DrivenHigh, "le", circuit.DrivenLow)
	assert.Equal(t, "a b c", lit(w, circuit.DrivenHigh).Lit())
}
