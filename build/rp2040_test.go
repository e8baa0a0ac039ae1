package build

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/rp2040"
)

// A program with the calls of board.h is built, starts by its own second stage, and does what it says.
func TestBuildForTheRP2040(t *testing.T) {
	r, err := builder(t).Build(t.Context(), text(t, "main.c", `#include "board.h"
#include <stdio.h>
static volatile int came;
static void turn(void) { pin_toggle(16); came++; }
int main(void)
{
	pin_output(25);
	pin_output(16);
	pin_input(14, PULL_UP);
	every_us(500, turn);
	printf("key %d\n", pin_read(14));
	for (int i = 0; i < 10; i++) {
		pin_toggle(25);
		wait_ms(10);
	}
	printf("%d calls in %lu ms\n", came, (unsigned long)time_ms() / 10 * 10);
	return 0;
}
`), Target{Chip: rp2040.Chip, Clock: int64(rp2040.Chip.Clock)})
	require.NoError(t, err)
	require.False(t, r.Failed(), "%v", r.Messages)
	assert.Empty(t, r.Messages)
	im, err := firmware.Read(r.ELF, rp2040.Chip.Firmware)
	require.NoError(t, err)
	var got []byte
	m := rp2040.Chip.New(machine.Config{Bytes: func(b machine.Byte) { got = append(got, b.Value) }})
	require.NoError(t, m.Load(im))
	stop := m.Run(clock.Second, silent{})
	assert.Equal(t, machine.Breakpoint, stop.Reason, stop.Text)
	assert.Equal(t, "key 1\n200 calls in 100 ms\n", string(got))
	assert.Empty(t, m.Notes())
}

// A mistake is told by its line; a sketch is not built for this chip, and the message says what to do.
func TestBuildMessagesForTheRP2040(t *testing.T) {
	target := Target{Chip: rp2040.Chip, Clock: int64(rp2040.Chip.Clock)}
	r, err := builder(t).Build(t.Context(), text(t, "main.c", "int main(void) { return missing; }\n"), target)
	require.NoError(t, err)
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "main.c:1:25")
	r, err = builder(t).Build(t.Context(), text(t, "lamp.ino", "void setup() {}\nvoid loop() {}\n"), target)
	require.NoError(t, err)
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "setup() and loop() are not built for the RP2040")
}
