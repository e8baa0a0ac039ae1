package mutants

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

const program = `#include <avr/io.h>
// PB0 is 1
#define LAMP PB0
static const char text[] = "on a step";
int main(void)
{
	DDRB |= 0x03;
	PORTB = 25;
	for (;;)
		if (PINB << 1 != 2)
			digitalWrite(LAMP, HIGH);
}
`

// Each kind of change is made, in one place, and neither in comments nor in what is included.
func TestOf(t *testing.T) {
	said := map[string]string{}
	for _, m := range Of(program) {
		said[m.String()] = m.Kind
		assert.NotEqual(t, program, string(m.Text), m.String())
		if m.Kind != "left out" && m.Kind != "exchanged" {
			was, is := strings.Split(program, "\n"), strings.Split(string(m.Text), "\n")
			for i := range was {
				assert.Equal(t, i+1 == m.Line, was[i] != is[i], m.String())
			}
		}
	}
	for change, kind := range map[string]string{
		`3: PB0 → PB1`: "number", `4: "on a step" → "ona step"`: "text", `7: |= → =`: "operator",
		`7: 0x03 → 0x02`: "number", `8: 25 → 250`: "number", `10: << → >>`: "operator", `10: != → ==`: "operator",
		`11: HIGH → LOW`: "level", `7: DDRB |= 0x03; → `: "left out",
		`7: DDRB |= 0x03; → PORTB = 25;`: "exchanged",
	} {
		assert.Equal(t, kind, said[change], change)
	}
	for change := range said {
		assert.NotContains(t, []string{"1", "2", "5"}, strings.SplitN(change, ":", 2)[0], change)
	}
}
