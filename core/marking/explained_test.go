package marking

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/sheet"
)

// An exception that ends a program explains all that nothing cures it of; one that ends a thread, what comes behind it.
func TestExplained(t *testing.T) {
	x := &exercise.Exercise{Trials: []exercise.Trial{{Name: "lock full"}, {Name: "lock empty"}}}
	found := []diagnosis.Finding{
		{Code: "dark", Trial: 0, At: 1 * clock.Second}, {Code: "words", Trial: 0, At: 3 * clock.Second},
		{Code: "limit", Trial: 1, At: 3 * clock.Second},
		{Code: "program-number", Trial: 0, At: 3 * clock.Second, Tested: true,
			Cured: []string{"exception", "thread-exception"}},
	}
	for code, want := range map[finding.Code][]finding.Code{
		"floating":                      {"dark", "words", "limit", "program-number"},
		finding.Code(machine.Exception): {"program-number"},
		machine.ThreadException:         {"dark", "limit", "program-number"},
	} {
		var codes []finding.Code
		for _, f := range explained(x, found, []sheet.Finding{{Code: code, Trial: "lock full", At: 2 * clock.Second}}) {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, want, codes, code)
	}
}

// What a chip notes as a fact comes before signs, and behind what was repaired, once for all pins; other notes come
// last.
func TestJoined(t *testing.T) {
	full := sheet.NewMarks(big.NewRat(10, 1))
	of := func(code finding.Code) sheet.Finding { return sheet.Finding{Code: code} }
	repaired := sheet.Finding{Code: "pattern", Repaired: &full}
	var codes []finding.Code
	for _, f := range joined([]sheet.Finding{repaired, of("dark"), of("floating-RA2")},
		[]sheet.Finding{of("current-all pins"), of("analog-RA0"), of("floating-RA2"), of("analog-RA1")}) {
		codes = append(codes, f.Code)
	}
	assert.Equal(t, []finding.Code{"pattern", "analog-RA0", "dark", "floating-RA2", "current-all pins"}, codes)
	assert.Equal(t, []sheet.Finding{}, joined(nil, nil), "a list, for what reads it as JSON")
}

// That nothing happened follows from what is repaired, whatever that is; a sign explains nothing.
func TestUncured(t *testing.T) {
	noted := []sheet.Finding{{Code: "reserved"}, {Code: "nothing-happened"}}
	for _, c := range []struct {
		found diagnosis.Finding
		want  int
	}{
		{diagnosis.Finding{Code: "dark"}, 2},
		{diagnosis.Finding{Code: "input-inverted", Tested: true}, 1},
		{diagnosis.Finding{Code: "program-number", Tested: true, Cured: []string{"reserved"}}, 0},
	} {
		assert.Len(t, uncured(&exercise.Exercise{}, noted, []diagnosis.Finding{c.found}), c.want, c.found.Code)
	}
}

// Too much current at one pin comes of the wiring; of several together the program may be why.
func TestCurrentsOfTheWiring(t *testing.T) {
	chip := &machine.Chip{Pins: []machine.PinInfo{{Name: "PD0"}, {Name: "PB5"}}}
	for code, want := range map[string]bool{"current-PB5": true, "current-PD0 to PD4": false, "current-all pins": false,
		"floating-PB5": false} {
		assert.Equal(t, want, wired(chip, code), code)
	}
	assert.False(t, wired(nil, "current-PB5"), "a bench without a chip")
}

// What leads to a place is a little before it, and before the calls that it was reached by; where nobody knows the
// lines, by the addresses.
func TestWhatLeadsToAPlace(t *testing.T) {
	x := &exercise.Exercise{Chip: &machine.Chip{
		ReturnAddresses: func(*firmware.Image, []uint8) []uint32 { return []uint32{0x40} }}}
	list := []machine.Alteration{{Address: 0x34}, {Address: 0x20}, {Address: 0x42}, {Address: 0xfe},
		{Address: 0x38, Table: "figures"}}
	(&Repairer{image: &firmware.Image{}}).leads(x, machine.Place{PC: 0x100}, list)
	var leads []bool
	for _, a := range list {
		leads = append(leads, a.Leads)
	}
	assert.Equal(t, []bool{true, false, false, true, false}, leads)
}
