package bench_test

import (
	"os"
	"runtime"
	"testing"

	"hemble/core/bench"
	"hemble/core/bench/benchtest"
	"hemble/demo/checks"
)

// A script does the same in every run, whatever else the machine does: its reels are equal, byte for byte. Three runs
// of each here, twenty with HEMBLE_LONG.
func TestScriptsAreTheSame(t *testing.T) {
	runs := 3
	if os.Getenv("HEMBLE_LONG") != "" {
		runs = 20
	}
	over := make(chan struct{})
	for range runtime.NumCPU() { // others want the processor, too
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
