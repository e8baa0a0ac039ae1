package marking

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine/avr"
	"hemble/core/sheet"
	"hemble/demo"
)

// BenchmarkJudging gives what judging, and finding causes, take in percent of plain stepping of the same runs: over the
// wrong firmware of the demo course.
func BenchmarkJudging(b *testing.B) {
	course, err := demo.Course()
	require.NoError(b, err)
	for b.Loop() {
		var plain, judged, advised time.Duration
		for _, e := range course {
			x, _ := exercise.Read("exercise.yaml", e.Text)
			for _, f := range e.Files {
				im, err := firmware.Read(f.Data, avr.Memories)
				require.NoError(b, err)
				var runs []*outcome
				var stepping time.Duration
				s := &sheet.Sheet{}
				for i := range x.Trials {
					began := time.Now()
					run, err := bench.New(x, &x.Trials[i], im, bench.Options{Plain: true})
					require.NoError(b, err)
					require.NoError(b, run.Advance(b.Context(), x.Trials[i].Length))
					o := &outcome{reel: run.Finish()}
					stepping += time.Since(began)
					began = time.Now()
					o.judge(&x.Trials[i])
					judged += time.Since(began)
					runs, s.Trials = append(runs, o), append(s.Trials, o.trial)
				}
				plain += stepping
				began := time.Now()
				_, err = (&Marker{}).advise(b.Context(), x, im, s, runs)
				require.NoError(b, err)
				took := time.Since(began)
				advised += took
				if took > stepping*3/10 {
					b.Logf("%s: causes took %d %% of plain stepping", f.Name, took*100/stepping)
				}
			}
		}
		b.ReportMetric(float64(judged)*100/float64(plain), "%judging")
		b.ReportMetric(float64(advised)*100/float64(plain), "%causes")
	}
}
