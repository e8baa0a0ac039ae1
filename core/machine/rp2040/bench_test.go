package rp2040

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
)

// BenchmarkCore steps a program without leaving waits out, for comparison with the cycles of the AVR's reference, and
// runs two that wait for twelve seconds, by polling the timer and asleep between alarms, and one that dims lamps.
func BenchmarkCore(b *testing.B) {
	for _, c := range []struct {
		name, source string
		length       clock.Time
	}{
		{"stepped", "compute.c", 200 * clock.Millisecond},
		{"polling", "blink.c", 12 * clock.Second},
		{"alarms", "alarms.c", 12 * clock.Second},
		{"dimmed", "dimmed.c", 100 * clock.Millisecond},
	} {
		b.Run(c.name, func(b *testing.B) {
			im := compile(b, []string{"-Os", "-w"}, "testdata/"+c.source)
			instructions := int64(0)
			for b.Loop() {
				m := newMachine(machine.Config{NoSkip: c.name == "stepped", Followed: []machine.Pin{0, 1, 2, 3},
					Follow: func([]machine.Edge) {}}).(*Machine)
				require.NoError(b, m.Load(im))
				m.Run(c.length, nil)
				instructions += m.core.Counters.Instructions
			}
			b.ReportMetric(float64(instructions)/1e6/b.Elapsed().Seconds(), "Minstr/s")
		})
	}
}
