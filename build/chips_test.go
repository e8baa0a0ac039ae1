package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// far is more than 128 KB of program, with what reaches beyond it: far tables by ELPM, a call through a pointer.
const far = `#include <avr/io.h>
#include <avr/pgmspace.h>
#define FILL(n) const __attribute__((used, section(".progmem.data" #n))) char fill##n[30000] = {n};
FILL(1) FILL(2) FILL(3) FILL(4) FILL(5)
const char word[] __attribute__((section(".fini7"))) = "lock 3 ready";
static void send(char c) { while (!(UCSR2A & _BV(UDRE2))); UDR2 = c; }
void (*volatile go)(char) = send;
int main(void)
{
	UBRR2 = 8;
	UCSR2B = _BV(TXEN2);
	uint_farptr_t at = pgm_get_far_address(word);
	for (char c; (c = pgm_read_byte_far(at++)); )
		go(c);
	PORTL = 0xa5;
	DDRL = 0xff;
	for (;;);
}
`

const sketch = `void setup() { pinMode(53, OUTPUT); pinMode(13, OUTPUT); Serial1.begin(9600); }
void loop() { digitalWrite(53, HIGH); digitalWrite(13, !digitalRead(13)); Serial1.print('x'); delay(100); }
`

// Source for the larger chip is built and runs: beyond 128 KB, at pins that the smaller one has not, with the
// framework's own names.
func TestBuildForTheLargerChip(t *testing.T) {
	b := builder(t)
	target := Target{Chip: chip("atmega2560"), Clock: 16_000_000}
	run := func(s *Source, length clock.Time) (machine.Machine, map[string]string) {
		r, err := b.Build(t.Context(), s, target)
		require.NoError(t, err)
		require.False(t, r.Failed(), "%v", r.Messages)
		im, err := firmware.Read(r.ELF, target.Chip.Firmware)
		require.NoError(t, err)
		sent := map[string]string{}
		m := target.Chip.New(machine.Config{Clock: 16_000_000,
			Bytes: func(b machine.Byte) { sent[b.Port] += string(rune(b.Value)) }})
		require.NoError(t, m.Load(im))
		stop := m.Run(length, silent{})
		require.Equal(t, machine.Reached, stop.Reason, stop.Text)
		return m, sent
	}
	m, sent := run(text(t, "main.c", far), 100*clock.Millisecond)
	assert.Equal(t, "lock 3 ready", sent["USART2"])
	pl0, _ := target.Chip.Pin("PL0")
	pl1, _ := target.Chip.Pin("PL1")
	assert.Equal(t, "high low", m.Drives(pl0).Level.String()+" "+m.Drives(pl1).Level.String())

	m, sent = run(text(t, "gate.ino", sketch), clock.Second)
	assert.Regexp(t, "^x{9,10}$", sent["USART1"])
	pb0, _ := target.Chip.Pin(machine.Boards("atmega2560")[0].Pin("D53"))
	assert.Equal(t, "high", m.Drives(pb0).Level.String())
}

// Nothing builds source for a chip without a toolchain, and the message says what to do.
func TestBuildForAChipWithoutAToolchain(t *testing.T) {
	r, err := builder(t).Build(t.Context(), text(t, "main.c", lampC), Target{Chip: machinetest.Chip})
	require.NoError(t, err)
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "nothing here builds source for the Test40: submit a built firmware")
}

type silent struct{}

func (silent) Drive(clock.Time, []machine.Change, machine.Place) clock.Time { return clock.Never }
