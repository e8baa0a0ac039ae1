package build

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/marking"
)

const digitWithKey = `hemble: 1
name: key-count
title: Presses counted
chip: {is: atmega328p}
bench:
  digit: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
  key: {part: button, pins: {1: PB0, 2: GND}}
trials:
  - name: three presses
    length: 4s
    cues:
      - {at: 500ms, press: key, as: one}
      - {at: 1500ms, press: key, as: two}
      - {at: 2500ms, press: key, as: three}
    expect:
      - {reads: digit, text: 0, at: 300ms, marks: 1}
      - {answers: digit, table: [{after: one, shows: 1}, {after: two, shows: 2}, {after: three, shows: 3}], marks: 6}
      - {steady: digit, from: 100ms, marks: 3}
`

const digitWithKeyC = `#include <avr/io.h>
#include <util/delay.h>
static const uint8_t font[] = {0x3f, 6, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 7, 0x7f, 0x6f};
int main(void)
{
	uint8_t n = 0;
	DDRD = 0x7f; PORTB = _BV(0);
	for (;;) {
		PORTD = font[n];
		if (!(PINB & _BV(0))) {
			_delay_ms(20);
			if (!(PINB & _BV(0))) {
				n = (n + 1) % 10;
				PORTD = font[n];
				while (!(PINB & _BV(0))) ;
				_delay_ms(20);
			}
		}
	}
}
`

const inStep = `hemble: 1
name: gate-step
title: The lamp keeps step with the board
chip: {is: atmega328p}
bench:
  board: {part: lcd, pins: {rs: PB0, rw: PB1, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}
trials:
  - name: open and shut
    length: 6s
    expect:
      - {shows: board, frames: ["Gate open", "Gate shut"], each: 1s, repeats: yes, marks: 5}
      - {together: lamp, shows: on, while: board, is: "Gate open", marks: 5}
`

const inStepC = `
int main(void)
{
	lcd_begin();
	DDRB |= _BV(5);
	for (;;) {
		lcd_command(0x80);
		lcd_text("Gate open");
		PORTB |= _BV(5);
		_delay_ms(999);
		lcd_command(0x80);
		lcd_text("Gate shut");
LATE		PORTB &= ~_BV(5);
		_delay_ms(999);
	}
}
`

const ownValues = `hemble: 1
name: own-count
title: A count of one's own
chip: {is: atmega328p}
vary:
  start: {from: 3, to: 9}
bench:
  count: {part: seven-segment, digits: 2, common: cathode, resistor: 1k, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}
trials:
  - name: counting
    length: 6s
    expect:
      - {counts: count, from: "${start}", to: "${start}+8", each: 500ms, limit: stays, marks: 8}
      - {steady: count, from: 200ms, marks: 2}
`

const ownValuesC = `#include <avr/io.h>
#include <util/delay.h>
static const uint8_t font[] = {0x3f, 6, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 7, 0x7f, 0x6f};
int main(void)
{
	DDRD = 0x7f; DDRC = 3; PORTC = 3;
	for (uint8_t n = START;; n += n < START + 8)
		for (uint8_t i = 0; i < 50; i++) {
			PORTC = 2; PORTD = n > 9 ? font[n / 10] : 0; _delay_us(4950); PORTD = 0;
			PORTC = 1; PORTD = font[n % 10]; _delay_us(4950); PORTD = 0;
		}
}
`

// The first exercises that somebody writes: right programs have all marks and raise no question, and the usual mistake
// costs some.
func TestFirstJobs(t *testing.T) {
	lcd, err := os.ReadFile("../demo/course/keeper-board/source/lcd.h")
	require.NoError(t, err)
	for _, c := range []struct {
		name, text, right, wrong string
		most                     float64
	}{
		{"a digit with a key", digitWithKey, digitWithKeyC, strings.ReplaceAll(digitWithKeyC, "_delay_ms(20)", ""), 7},
		{"a display in step with a lamp", inStep, string(lcd) + strings.Replace(inStepC, "LATE", "", 1),
			string(lcd) + strings.Replace(inStepC, "LATE", "\t\t_delay_ms(300);\n", 1), 8},
		{"a scanned counter with values of one's own", ownValues, strings.ReplaceAll(ownValuesC, "START", "3"),
			strings.ReplaceAll(ownValuesC, "START", "4"), 8},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := builder(t)
			x, problems := exercise.Read("x", []byte(c.text))
			require.NotNil(t, x, "%v", problems)
			for _, p := range author.Check("x", x) {
				assert.Contains(t, p.Text, "ghosts", "what is left open: %s", p.Text)
			}
			marks := func(program string) float64 {
				r := built(t, b, sourceOf(t, program))
				require.False(t, r.Failed(), "%v", r.Messages)
				m, err := marking.Mark(t.Context(), x, "x.elf", r.ELF)
				require.NoError(t, err)
				n, _ := m.Sheet.Marks.Float64()
				return n
			}
			assert.Equal(t, 10.0, marks(c.right))
			assert.LessOrEqual(t, marks(c.wrong), c.most, "the usual mistake costs something")
		})
	}
	// Another student has another value, and the limit that follows from it.
	x, problems := exercise.Reader{File: "x",
		Student: exercise.StudentKey([]byte("secret"), "own-count", "quill")}.Read([]byte(ownValues))
	require.NotNil(t, x, "%v", problems)
	require.Len(t, x.Varied, 1)
	b := builder(t)
	r := built(t, b, sourceOf(t, strings.ReplaceAll(ownValuesC, "START", x.Varied[0].Value)))
	m, err := marking.Mark(t.Context(), x, "x.elf", r.ELF)
	require.NoError(t, err)
	assert.Equal(t, "10", m.Sheet.Marks.String(), x.Varied)
}
