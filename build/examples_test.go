package build

import (
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/marking"
)

const blinking = `#include <avr/io.h>
#include <util/delay.h>
int main(void)
{
	DDRB = _BV(5);
	for (;;) {
		PORTB = _BV(5);
		_delay_ms(1000);
		PORTB = 0;
		_delay_ms(1000);
	}
}
`

// fullMarks builds a right program and marks it: it has all marks, and the exercise raises no question.
func fullMarks(t *testing.T, text, program string) {
	t.Helper()
	b := builder(t)
	x, problems := exercise.Read("x", []byte(text))
	require.NotNil(t, x, "%v", problems)
	assert.Empty(t, author.Check("x", x), "nothing is left open")
	r := built(t, b, sourceOf(t, program))
	require.False(t, r.Failed(), "%v", r.Messages)
	m, err := marking.Mark(t.Context(), x, "x.elf", r.ELF)
	require.NoError(t, err)
	assert.Equal(t, m.Sheet.Of.String(), m.Sheet.Marks.String(), "%+v", m.Sheet.Trials)
}

func sourceOf(t *testing.T, program string) *Source { return text(t, "main.c", program) }

// What a new instructor begins with, in the editor and in the tour, gives a right program full marks.
func TestStarterAndTour(t *testing.T) {
	starter, err := os.ReadFile("../console/src/editor/starter.yaml")
	require.NoError(t, err)
	fullMarks(t, string(starter), blinking)
	tour, err := os.ReadFile("../docs/tour.md")
	require.NoError(t, err)
	fullMarks(t, blocks(string(tour))[0], blinking)
}

var fence = regexp.MustCompile("(?s)```yaml\n(.*?)```")

// blocks are the pieces of YAML in a document.
func blocks(text string) (out []string) {
	for _, m := range fence.FindAllStringSubmatch(text, -1) {
		out = append(out, m[1])
	}
	return out
}

const head = "hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\n"

// Every example of the guide, made whole with what stands around it there, gives a right program full marks.
func TestGuide(t *testing.T) {
	guide, err := os.ReadFile("../docs/exercise-guide.md")
	require.NoError(t, err)
	lcd, err := os.ReadFile("../demo/course/keeper-board/source/lcd.h")
	require.NoError(t, err)
	all := blocks(string(guide))
	find := func(word string) string {
		for _, b := range all {
			if strings.Contains(b, word) {
				return b
			}
		}
		t.Fatalf("the guide has no example with %q", word)
		return ""
	}
	chamber := find("name: chamber-gauge")
	used := 0
	for _, c := range []struct{ name, text, program string }{
		{"programmable logic", "hemble: 1\nname: x\ntitle: x\n" + find("is: fpga") + `
trials: [{name: x, length: 3s, cues: [{press: back, at: 2500ms, for: 200ms}], expect: [{shows: gate, frames: [0, 1, 2, 0]}]}]
`, `module top(input clk, input back, output [6:0] seg);
  reg [23:0] div = 0;
  reg [1:0] n = 0;
  always @(posedge clk)
    if (!back) {div, n} <= 0;
    else if (div == 11_999_999) begin div <= 0; n <= n + 1; end
    else div <= div + 1;
  assign seg = n == 0 ? 7'h3f : n == 1 ? 7'h06 : n == 2 ? 7'h5b : 7'h4f;
endmodule
`},
		{"a bench and a trial", chamber + find("raising by hand"), `#include <avr/io.h>
#include <util/delay.h>
static void show(uint8_t p) { PORTC = ~p & 0x3f; PORTB = p & 0x40 ? 0 : _BV(2); }
int main(void)
{
	DDRC = 0x3f; DDRB = _BV(2); PORTD = _BV(7);
	show(0x40);
	while (PIND & _BV(7)) ;
	show(0x5b); _delay_ms(500);
	show(0x66); _delay_ms(500);
	show(0x7d);
	for (;;) ;
}
`},
		{"drivers", head + find("74hc595") +
			"trials: [{name: x, length: 1s, expect: [{reads: code, text: 5, at: end}]}]\n", `#include <avr/io.h>
int main(void)
{
	DDRB = _BV(2) | _BV(3) | _BV(5);
	for (uint8_t i = 0; i < 8; i++) {
		PORTB = 0x6d & 0x80 >> i ? _BV(3) : 0;
		PORTB |= _BV(5);
	}
	PORTB = _BV(2);
	for (;;) ;
}
`},
		{"groups", head + `bench:
  tens: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
  ones: {part: seven-segment, common: cathode, pins: {a: PB0, b: PB1, c: PB2, d: PB3, e: PB4, f: PB5, g: PD7, common: GND}}
  green: {part: lamp, pins: {anode: PC0, cathode: GND}}
  amber: {part: lamp, pins: {anode: PC1, cathode: GND}}
  red: {part: lamp, pins: {anode: PC2, cathode: GND}}
` + find("phase:") +
			"trials: [{name: x, length: 1s, expect: [{reads: seconds, text: 11, at: end}, {reads: phase, text: green + amber, at: end}]}]\n",
			`#include <avr/io.h>
int main(void)
{
	DDRD = 0xff; DDRB = 0x3f; DDRC = 7;
	PORTD = 6; PORTB = 6; PORTC = 3;
	for (;;) ;
}
`},
		{"characters",
			head + find("characters:") +
				"bench: {board: {part: lcd, pins: {rs: PB0, rw: PB1, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}}\ntrials: [{name: x, length: 1s, expect: [{reads: board, text: \"up ▲\", at: end}]}]\n", string(lcd) + `
static const uint8_t up[] = {0x04, 0x0e, 0x15, 0x04, 0x04, 0x04, 0x04, 0x00};
int main(void)
{
	lcd_begin();
	lcd_command(0x48);
	for (uint8_t i = 0; i < 8; i++) lcd_send(up[i], 1);
	lcd_command(0x80);
	lcd_text("up \001");
	for (;;) ;
}
`},
		{"values of one's own",
			head + "bench: {count: {part: seven-segment, digits: 2, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1}}, word: {part: terminal, pins: {rx: PD1}}}\n" +
				find("vary:"), `#include <avr/io.h>
#include <util/delay.h>
static const uint8_t font[] = {0x3f, 6, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 7, 0x7f, 0x6f};
int main(void)
{
	DDRD = 0x7f; DDRC = 3;
	for (uint8_t n = 3;; n += n < 12)
		for (uint8_t i = 0; i < 50; i++) {
			PORTC = 1; PORTD = font[n % 10]; PORTC = 1; PORTD = 0; PORTC = 3;
			PORTC = 1; PORTD = font[n % 10]; _delay_ms(5); PORTD = 0;
			PORTC = 2; PORTD = n > 9 ? font[n / 10] : 0; _delay_ms(5); PORTD = 0;
		}
}
`},
		{"answers, in step, steady", head + `bench:
  digit: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
  key: {part: button, bounce: 0, pins: {1: PB0, 2: GND}}
  lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}
trials:
  - name: x
    length: 3s
    cues: [{at: 500ms, press: key, as: one}, {at: 1500ms, press: key, as: two}]
` + find("answers: digit"), `#include <avr/io.h>
static const uint8_t font[] = {0x3f, 6, 0x5b};
int main(void)
{
	DDRD = 0x7f; DDRB = _BV(5); PORTB = _BV(0);
	PORTD = font[0];
	for (uint8_t n = 1; n < 3; n++) {
		while (PINB & _BV(0)) ;
		PORTD = font[n];
		if (n == 2) PORTB |= _BV(5);
		while (!(PINB & _BV(0))) ;
	}
	for (;;) ;
}
`},
		{"what was read before", head + `bench:
  board: {part: lcd, pins: {rs: PB0, rw: PB1, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  log: {part: terminal, baud: 9600, pins: {rx: PD1}}
  count: {part: seven-segment, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB3, common: GND}}
trials:
  - name: x
    length: 5s
    expect:
` + find("same-as: code"), string(lcd) + `
int main(void)
{
	lcd_begin();
	lcd_command(0xc0);
	lcd_text("Level  99 cm");
	UBRR0 = 103; UCSR0B = _BV(TXEN0);
	for (const char *s = "code 7\n"; *s; s++) {
		while (!(UCSR0A & _BV(UDRE0))) ;
		UDR0 = *s;
	}
	DDRC = 0x3f; DDRB |= _BV(3);
	PORTC = 7;
	for (;;) ;
}
`},
		{"a part of a display", head + `bench:
  board: {part: lcd, pins: {rs: PB0, rw: PB1, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  count: {part: seven-segment, digits: 4, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB3, digit1: PD0, digit2: PD1, digit3: PD2, digit4: PD3}}
trials:
  - name: x
    length: 23s
    expect:
` + find("the seconds, and no colon"),
			strings.Replace(string(lcd), "#include <avr/io.h>", "#include <avr/io.h>\n#include <stdio.h>", 1) + `
static const uint8_t font[] = {0x3f, 6, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 7, 0x7f, 0x6f};
static uint8_t clock[4] = {1, 1, 5, 8};
static void scan(void)
{
	for (uint8_t d = 0; d < 4; d++) {
		PORTC = font[clock[d]] & 0x3f;
		PORTB = (PORTB & ~_BV(3)) | (font[clock[d]] & 0x40 ? _BV(3) : 0);
		PORTD = (PORTD & 0xf0) | (0x0f & ~_BV(d));
		_delay_ms(4);
		PORTC = 0; PORTB &= ~_BV(3);
	}
}
int main(void)
{
	char text[17];
	DDRC = 0x3f; DDRB |= _BV(3); DDRD = 0x0f;
	lcd_begin();
	lcd_text("Wherry Lock");
	for (uint8_t n = 99;; n += n < 120) {
		sprintf(text, "Level %d cm ", n);
		lcd_command(0xc0);
		lcd_text(text);
		for (uint8_t i = 0; i < 62; i++) scan();
		if (n == 99) clock[3] = 9;
		if (n == 100) clock[1] = 2, clock[2] = clock[3] = 0;
		if (n == 101) clock[3] = 1;
	}
}
`},
		{"parts from a file",
			head + "bench:\n  lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}\n" +
				strings.Replace(strings.Replace(find("include: ../benches"), "bench:\n", "", 1),
					"  include: ../benches/chamber.yaml\n", "", 1) +
				"trials: [{name: x, length: 1s, expect: [{reads: lamp, text: on, at: end}]}]\n",
			"#include <avr/io.h>\nint main(void)\n{\n\tDDRB = PORTB = _BV(5);\n\tfor (;;) ;\n}\n"},
		{"several chips", strings.Replace(head, "chip: {is: atmega328p}\n", "", 1) + find("  or:\n") + `
bench:
  lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}
  others: {part: bar, lights: 5, pins: {light1: PB3, light2: PB2, light3: PD2, light4: PD3, light5: PD7, common: GND}}
trials: [{name: x, length: 1s, expect: [{reads: lamp, text: on, at: end}]}]
`, "#include <avr/io.h>\nint main(void)\n{\n\tDDRB = PORTB = _BV(5);\n\tfor (;;) ;\n}\n"},
		{"prices", head + find("prices: {form") + `
bench: {lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}}
trials: [{name: x, length: 1s, expect: [{reads: lamp, text: on, at: end}]}]
`, "#include <avr/io.h>\nint main(void)\n{\n\tDDRB = PORTB = _BV(5);\n\tfor (;;) ;\n}\n"},
	} {
		used++
		t.Run(c.name, func(t *testing.T) {
			b := builder(t)
			x, problems := exercise.Read("x", []byte(c.text))
			require.NotNil(t, x, "%v\n%s", problems, c.text)
			source := sourceOf(t, c.program)
			if x.ClockPin != "" {
				source = text(t, "top.v", c.program, "board.pcf", "set_io clk P21\nset_io -pullup yes back P44\n"+
					"set_io seg[0] P1\nset_io seg[1] P2\nset_io seg[2] P3\nset_io seg[3] P4\nset_io seg[4] P7\n"+
					"set_io seg[5] P8\nset_io seg[6] P9\n")
			}
			r, err := b.Build(t.Context(), source, Target{Chip: x.Chip, Clock: int64(x.Clock), ClockPin: x.ClockPin})
			require.NoError(t, err)
			require.False(t, r.Failed(), "%v", r.Messages)
			m, err := marking.Mark(t.Context(), x, "x.elf", r.ELF)
			require.NoError(t, err)
			for _, trial := range m.Sheet.Trials {
				for _, v := range trial.Verdicts {
					assert.Equal(t, "met", string(v.Outcome), "%s: %v %+v", v.Expectation, v.Evidence, v.First)
				}
			}
		})
	}
	assert.Equal(t, len(all), used+1, "each example is tried; two of them make one exercise")
}
