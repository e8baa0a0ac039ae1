package interpreter

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/scripted"
	"hemble/core/script"
)

// covered is a script whose lines are carried out at different times, and some never.
const covered = `import time
import RPi.GPIO as GPIO

class Lamp:
    pin = 17
    def on(self):
        GPIO.output(self.pin, 1)

def never():
    return 5

GPIO.setmode(GPIO.BCM)
GPIO.setup(17, GPIO.OUT)
lamp = Lamp()
if time.time() == 0:
    never()
else:
    time.sleep(0.5)
for step in [1,
             2]:
    time.sleep(step)
    lamp.on()
`

// When each line was first carried out; that it is noted down changes nothing of what the script does.
func TestCover(t *testing.T) {
	if _, err := os.Stat(scripted.Python); err != nil {
		t.Skip("python3 is not installed; `make tools` installs it")
	}
	data, err := script.Write("main.py", map[string]string{"main.py": covered})
	require.NoError(t, err)
	im, err := firmware.Read(data, scripted.Linux.Firmware)
	require.NoError(t, err)
	edges := map[bool][]string{}
	for _, noted := range []bool{false, true} {
		s := &told{}
		m := scripted.Linux.New(machine.Config{Seed: 3, Supply: 3_300_000, Cover: noted}).(*scripted.Machine)
		require.NoError(t, m.Load(im))
		require.Empty(t, m.Run(clock.Second, s).Reason)
		m.Anew()
		require.Empty(t, m.Run(5*clock.Second, s).Reason)
		m.Close()
		edges[noted] = s.edges
		if !noted {
			_, ok := m.Reached(script.Address(0, 14))
			assert.False(t, ok, "nobody asked")
			continue
		}
		reached := map[int]clock.Time{5: 0, 7: 15, 9: 0, 10: -1, 14: 0, 15: 0, 16: -1, 18: 0, 19: 5, 20: 5, 21: 5,
			22: 15}
		for line, tenths := range reached {
			at, ok := m.Reached(script.Address(0, line))
			assert.Equal(t, tenths >= 0, ok, "line %d", line)
			if ok {
				assert.InDelta(t, float64(tenths), float64(at)/float64(clock.Second/10), 0.5, "line %d", line)
			}
		}
		for line, rounds := range map[int]machine.Rounds{10: 0, 14: 1, 19: 1, 21: 3, 22: 2, 7: 2} {
			assert.Equal(t, rounds, m.Rounds(script.Address(0, line)), "line %d", line)
		}
	}
	assert.NotEmpty(t, edges[true])
	assert.Equal(t, edges[false], edges[true])
}
