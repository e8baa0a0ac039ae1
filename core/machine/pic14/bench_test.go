package pic14

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
)

// BenchmarkCore gives, for each kind of program, the speed of the fast interpreter and of the plain one in the same
// run. `make bench` prints them as ratios.
func BenchmarkCore(b *testing.B) {
	for _, x := range []struct{ device, name string }{{"16f877a", "scan"}, {"16f628a", "chart"}, {"16f887", "timers"}} {
		im := assemble(b, x.device, x.name+".asm")
		for _, plain := range []bool{true, false} {
			name := x.name + "/fast"
			if plain {
				name = x.name + "/plain"
			}
			b.Run(name, func(b *testing.B) {
				m := newMachine(variants[x.device], machine.Config{Clock: 20_000_000, Reference: plain})
				require.NoError(b, m.Load(im))
				w := &wave{m: m}
				const slice = 100 * clock.Millisecond
				for b.Loop() {
					w.edges = w.edges[:0]
					m.Run(m.Now()+slice, w)
				}
				b.ReportMetric(slice.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "×real")
			})
		}
	}
}
