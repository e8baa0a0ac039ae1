package bench_test

import (
	"os"
	"runtime"
	"testing"

	"hemble/core/bench"
	"hemble/core/bench/benchtest"
	"hemble/demo/checks"
)

// A script does the same in every run, whatever else the machine does: its reels are equal, byte for byte. Two runs of
// each here, beside other tests; with HEMBLE_LONG twenty, beside what never gives the processor away.
func TestScriptsAreTheSame(t *testing.T) {
	runs, others := 2, 0
	if os.Getenv("HEMBLE_LONG") != "" {
		runs, others = 20, runtime.NumCPU()
	}
	over := make(chan struct{})
	for range others {
		go func() {
			for n := 0; ; n++ {
				select {
				case <-over:
					return
				default:
					runtime.Gosched()
				}
			}
		}()
	}
	defer close(over)
	t.Run("all", func(t *testing.T) {
		for _, e := range checks.Course(t) {
			x := checks.Read(t, e.Text)
			if x.Chip == nil || !x.Chip.Firmware.Script {
				continue
			}
			for _, f := range e.Files {
				t.Run(f.Name, func(t *testing.T) {
					t.Parallel()
					im, trial := checks.Image(t, x, f.Data), &x.Trials[0]
					first := benchtest.Reel(t, x, trial, im, bench.Options{})
					for range runs - 1 {
						same(t, first, benchtest.Reel(t, x, trial, im, bench.Options{}), trial.Name)
					}
				})
			}
		}
	})
}
