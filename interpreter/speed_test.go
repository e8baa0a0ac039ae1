package interpreter

import (
	"context"
	"os"
	"path"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/build"
	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine/scripted"
)

// spent is the processor time of this process and of what it has started so far.
func spent(t testing.TB) (out time.Duration) {
	for _, who := range []int{syscall.RUSAGE_SELF, syscall.RUSAGE_CHILDREN} {
		var u syscall.Rusage
		require.NoError(t, syscall.Getrusage(who, &u))
		out += time.Duration(u.Utime.Nano() + u.Stime.Nano())
	}
	return out
}

// BenchmarkScripts runs 10 s of programs of several kinds; CPU is all that a run takes, its interpreter included.
func BenchmarkScripts(b *testing.B) {
	text, err := os.ReadFile("testdata/speed/exercise.yaml")
	require.NoError(b, err)
	x, problems := exercise.Read("exercise.yaml", text)
	require.NoError(b, exercise.Error(problems))
	for _, name := range []string{"sleeps.py", "zero.py", "polls.py", "loops.py", "sleeps.c", "polls.c", "clock.c", "loops.c"} {
		work, err := os.ReadFile("testdata/speed/" + name)
		require.NoError(b, err)
		b.Run(name, func(b *testing.B) {
			builder, err := build.New(build.Config{Cache: b.TempDir()})
			require.NoError(b, err)
			s := &build.Source{}
			require.NoError(b, s.Add("main"+path.Ext(name), work))
			r, err := builder.Build(b.Context(), s, build.Target{Chip: x.Chip})
			require.NoError(b, err)
			require.False(b, r.Failed(), "%v", r.Messages)
			before := spent(b)
			for b.Loop() {
				im, err := firmware.Read(r.ELF, scripted.Linux.Firmware)
				require.NoError(b, err)
				reel, err := bench.Run(context.Background(), x, &x.Trials[0], im)
				require.NoError(b, err)
				require.Nil(b, reel.Stop)
			}
			b.ReportMetric(float64((spent(b)-before).Microseconds())/1000/float64(b.N), "cpu-ms/op")
		})
	}
}
