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

// spoken are the programs that speed is spoken of by.
var spoken = []string{"compute.c", "sums.c", "polled.c", "millis.c", "waits.c", "idle.c", "banging.c"}

// BenchmarkCore gives, for each kind of firmware, the speed of the fast core, of the plain reference and of a stepper
// in C in the same run. `make bench` prints them as ratios.
func BenchmarkCore(b *testing.B) {
	stepper := buildStepper(b)
	for _, source := range spoken {
		im := compile(b, avr.ATmega328P, source, "-Os")
		b.Run(source[:len(source)-2]+"/stepper", func(b *testing.B) {
			flash, cycles, seconds := flashFile(b, im), int64(0), 0.0
			for b.Loop() {
				n, took, _ := step(b, stepper, flash, 16_000_000)
				cycles, seconds = cycles+n, seconds+took
			}
			b.ReportMetric(float64(cycles)/16e6/seconds, "×real")
		})
		for _, plain := range []bool{true, false} {
			name := source[:len(source)-2] + "/fast"
			if plain {
				name = source[:len(source)-2] + "/plain"
			}
			b.Run(name, func(b *testing.B) {
				var n counted
				m := avr.New(avr.ATmega328P, n.config(plain))
				require.NoError(b, m.Load(im))
				const slice = 500 * clock.Millisecond
				for b.Loop() {
					if stop := m.Run(m.Now()+slice, &n); stop.Reason != machine.Reached || m.Now() > 20*clock.Second {
						require.NoError(b, m.Load(im)) // a run is as long as a trial
					}
				}
				b.ReportMetric(slice.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "×real")
			})
		}
	}
}
