package author_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/demo"
)

func TestCheck(t *testing.T) {
	for part, want := range map[string]string{
		"red: {part: lamp, resistor: 270, pins: {anode: PB0, cathode: GND}}": "",
		"red: {part: lamp, resistor: 0, pins: {anode: PB0, cathode: GND}}":   "x:6:40: warning: PB0 can carry 128 mA of red; the ATmega328P bears 40 mA at a pin: a resistor of 150 Ω keeps it to 20 mA",
		"red: {part: lamp, pins: {anode: GND, cathode: PB0}}":                "red can never light",
		"red: {part: lamp, pins: {anode: PB0, cathode: VCC}}":                "red can never light",
		"count: {part: seven-segment, digits: 2, common: cathode, resistor: 150, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1}}":                     "a transistor for it would be right",
		"count: {part: seven-segment, digits: 2, common: cathode, select: transistor, resistor: 150, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1}}": "",
		"key: {part: button, pins: {1: VCC, 2: GND}}\n  red: {part: lamp, pins: {anode: PB0, cathode: GND}}":                                                                                    "key joins VCC and GND",
	} {
		name := part[:3]
		if name != "red" {
			name = map[string]string{"cou": "count", "key": "red"}[name]
		}
		frame := map[string]string{"count": "12", "red": "on"}[name]
		x, problems := exercise.Read("x", []byte(fmt.Sprintf("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  %s\ntrials: [{name: x, length: 1s, expect: [{reads: %s, text: %s, at: end}]}]\n", part, name, frame)))
		require.NotNil(t, x, "%v", problems)
		found := author.Check("x", x)
		if want == "" {
			assert.Empty(t, found, part)
		} else if assert.NotEmpty(t, found, part) {
			assert.Contains(t, found[0].Error(), want)
		}
	}
	course, err := demo.Course()
	require.NoError(t, err)
	for _, e := range course {
		x, _ := exercise.Read("x", e.Text)
		assert.Empty(t, author.Check("x", x), e.Name)
	}
}
