package avr_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/machine/avr"
)

type deaf struct{}

func (deaf) Drive(clock.Time, []machine.Change, machine.Place) clock.Time { return clock.Never }

// BenchmarkCore gives, for each kind of firmware, the speed of the fast core and of the plain
// reference in the same run. `make bench` prints them as ratios.
func BenchmarkCore(b *testing.B) {
	for _, source := range []string{"compute.c", "numbers.c", "polled.c", "millis.c", "waits.c", "idle.c",
		"banging.c"} {
		im := compile(b, avr.ATmega328P, source, "-Os")
		for _, plain := range []bool{true, false} {
			name := source[:len(source)-2] + "/fast"
			if plain {
				name = source[:len(source)-2] + "/plain"
			}
			b.Run(name, func(b *testing.B) {
				m := avr.New(avr.ATmega328P, machine.Config{Reference: plain})
				require.NoError(b, m.Load(im))
				const slice = 20 * clock.Millisecond
				for b.Loop() {
					if stop := m.Run(m.Now()+slice, deaf{}); stop.Reason != machine.Reached {
						require.NoError(b, m.Load(im))
					}
				}
				b.ReportMetric(slice.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "×real")
			})
		}
	}
}
