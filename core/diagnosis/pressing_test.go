package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
)

// A held press that counts once, where it should count on.
func TestHeldOnce(t *testing.T) {
	at := func(ms clock.Time, row2 string) shown {
		return shown{ms * clock.Millisecond, [2]string{"Lock", row2}}
	}
	const expect = `[{reads: sign, rows: [Lock, "Boats 2"], at: 4600ms, marks: 5},
		{reads: sign, rows: [Lock, "Boats 5"], at: 6900ms, marks: 5}]`
	for _, c := range []struct {
		name   string
		held   clock.Time
		states []shown
		want   string
	}{
		{"once", 3 * clock.Second, []shown{at(0, "Boats 1"), at(4050, "Boats 2")}, "sign stays at 2 while hour is held from " +
			"4.000 s to 7.000 s: the press counts once, where it should count on."},
		{"a short press", 100 * clock.Millisecond, []shown{at(0, "Boats 1"), at(4050, "Boats 2")}, ""},
		{"too slowly", 3 * clock.Second, []shown{at(0, "Boats 1"), at(4050, "Boats 2"), at(6000, "Boats 3")}, ""},
		{"not at all", 3 * clock.Second, []shown{at(0, "Boats 1")}, ""},
	} {
		codes, texts := toldHolding(t, c.held, pressing, expect, c.states...)
		if c.want == "" {
			assert.Empty(t, codes, c.name)
			continue
		}
		assert.Equal(t, []finding.Code{"no-repeat"}, codes, c.name)
		assert.Equal(t, []string{c.want}, texts, c.name)
	}
}

// What a press brings about ends with it; a state that comes and goes by itself does not.
func TestWhileHeld(t *testing.T) {
	at := func(ms clock.Time, row2 string) shown {
		return shown{ms * clock.Millisecond, [2]string{"Lock", row2}}
	}
	const expect = `[{reads: sign, rows: [Lock, "open"], at: 7500ms, marks: 5}]`
	for _, c := range []struct {
		name   string
		states []shown
		want   []finding.Code
	}{
		{"as long as it is held", []shown{at(0, "shut"), at(4020, "open"), at(5020, "shut")}, []finding.Code{"while-held"}},
		{"for a while of its own", []shown{at(0, "shut"), at(4020, "open"), at(6500, "shut")}, nil},
		{"and then another one", []shown{at(0, "shut"), at(4020, "open"), at(5020, "ajar")}, nil},
		{"but not the next time", []shown{at(0, "shut"), at(4020, "open"), at(5020, "shut"), at(8050, "open")}, nil},
		{"and the next time, too", []shown{at(0, "shut"), at(4020, "open"), at(5020, "shut"), at(8050, "open"), at(8110, "shut")},
			[]finding.Code{"while-held"}},
		{"never", []shown{at(0, "shut")}, nil},
	} {
		codes, _ := toldHolding(t, clock.Second, pressing, expect, c.states...)
		assert.Equal(t, c.want, codes, c.name)
	}
}
