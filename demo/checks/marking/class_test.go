package marking_test

import (
	"encoding/hex"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/marking"
	"hemble/demo/checks"
	_ "hemble/native"
)

// hexFile writes an image as Intel HEX, with a number in a word of flash that no program of the course reaches: the
// same program, another submission.
func hexFile(im *firmware.Image, number int) []byte {
	var b strings.Builder
	record := func(address uint32, data []byte) {
		line := append([]byte{byte(len(data)), byte(address >> 8), byte(address), 0}, data...)
		sum := byte(0)
		for _, v := range line {
			sum += v
		}
		fmt.Fprintf(&b, ":%s\n", strings.ToUpper(hex.EncodeToString(append(line, -sum))))
	}
	for _, s := range im.Flash {
		for i := 0; i < len(s.Data); i += 16 {
			record(s.Address+uint32(i), s.Data[i:min(len(s.Data), i+16)])
		}
	}
	record(0x7f00, []byte{byte(number), byte(number >> 8)})
	b.WriteString(":00000001FF\n")
	return []byte(b.String())
}

// class gives n different submissions, made from the demo firmware, to exercises of four trials of a length.
func class(t testing.TB, n int, length clock.Time) (exercises []*exercise.Exercise, files [][]byte) {
	course := checks.Course(t)
	for round := 0; len(files) < n; round++ {
		for _, e := range course {
			x := checks.Read(t, e.Text)
			if !x.Chip.Usual || len(x.Others) > 0 { // figures are those of one chip
				continue
			}
			first := x.Trials[0]
			first.Length = length
			x.Trials = nil
			for seed := uint64(1); seed <= 4; seed++ {
				first.Seed = seed
				x.Trials = append(x.Trials, first)
			}
			if len(files) < n {
				im := checks.Image(t, x, e.Files[round%len(e.Files)].Data)
				exercises, files = append(exercises, x), append(files, hexFile(im, len(files)))
			}
		}
	}
	return exercises, files
}

// markAll marks submissions on all processors and gives when each was done.
func markAll(t testing.TB, k *marking.Marker, exercises []*exercise.Exercise, files [][]byte) []time.Duration {
	done := make([]time.Duration, len(files))
	began := time.Now()
	next := make(chan int)
	var wait sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				_, err := k.Mark(t.Context(), exercises[i], "class.hex", files[i])
				assert.NoError(t, err)
				done[i] = time.Since(began)
			}
		})
	}
	for i := range files {
		next <- i
	}
	close(next)
	wait.Wait()
	return done
}

// BenchmarkClass marks 200 different submissions of four trials of 20 s each (make bench-class).
func BenchmarkClass(b *testing.B) {
	exercises, files := class(b, 200, 20*clock.Second)
	for b.Loop() {
		k := &marking.Marker{}
		done := markAll(b, k, exercises, files)
		n := len(done)
		b.ReportMetric(done[n-1].Seconds(), "s/class")
		b.ReportMetric(float64((done[n-1]-done[3*n/4]).Milliseconds())/float64(n/4), "ms/last-quarter")
		b.ReportMetric(float64(done[n/4].Milliseconds())/float64(n/4), "ms/first-quarter")
		var usage syscall.Rusage
		require.NoError(b, syscall.Getrusage(syscall.RUSAGE_SELF, &usage))
		b.ReportMetric(float64(usage.Maxrss)/1024, "MB")
		again := time.Now()
		markAll(b, k, exercises, files)
		b.ReportMetric(time.Since(again).Seconds(), "s/again")
	}
}

// Marked again, runs and causes are known.
func TestMarkedAgain(t *testing.T) {
	exercises, files := class(t, 6, 200*clock.Millisecond)
	k := &marking.Marker{}
	a, err := k.Mark(t.Context(), exercises[0], "a.hex", files[0])
	require.NoError(t, err)
	b, err := k.Mark(t.Context(), exercises[0], "a.hex", files[0])
	require.NoError(t, err)
	assert.Equal(t, a, b)
	assert.Empty(t, a.Reels)
}
