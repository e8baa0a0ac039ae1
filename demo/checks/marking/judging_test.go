package marking_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/marking"
	"hemble/demo/checks"
)

// BenchmarkJudging gives what judging, and finding causes, take in percent of the reference interpreter of the same
// runs: over the wrong firmware of the demo course. Causes are what marking takes beyond runs and judging.
func BenchmarkJudging(b *testing.B) {
	course := checks.Course(b)
	for b.Loop() {
		var plain, judged, advised time.Duration
		for _, e := range course {
			x := checks.Read(b, e.Text)
			if !x.Chip.Usual || len(x.Others) > 0 { // ratios are those of one chip
				continue
			}
			for _, f := range e.Files {
				im := checks.Image(b, x, f.Data)
				var stepping, once time.Duration
				for i := range x.Trials {
					began := time.Now()
					run, err := bench.New(x, &x.Trials[i], im, bench.Options{Reference: true})
					require.NoError(b, err)
					require.NoError(b, run.Advance(b.Context(), x.Trials[i].Length))
					stepping += time.Since(began)
					began = time.Now()
					seen, err := bench.Run(b.Context(), x, &x.Trials[i], im)
					require.NoError(b, err)
					once += time.Since(began)
					began = time.Now()
					for _, e := range x.Trials[i].Expect {
						e.Judge(seen)
					}
					judged += time.Since(began)
					once += time.Since(began)
				}
				plain += stepping
				began := time.Now()
				_, err := marking.Mark(b.Context(), x, f.Name, f.Data)
				require.NoError(b, err)
				took := time.Since(began) - once
				advised += took
				if took > stepping*3/10 {
					b.Logf("%s: causes took %d %% of the reference interpreter", f.Name, took*100/stepping)
				}
			}
		}
		b.ReportMetric(float64(judged)*100/float64(plain), "%judging")
		b.ReportMetric(float64(advised)*100/float64(plain), "%causes")
	}
}
