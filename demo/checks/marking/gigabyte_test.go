package marking_test

import (
	"fmt"
	"io"
	"os"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/capture"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/demo"
)

// endless writes a capture of that many bytes: two lamps that flicker on their way, ten million times a second at most.
type endless struct {
	left int
	time int64
	step int64
	text []byte
}

func (e *endless) Read(p []byte) (n int, err error) {
	for len(e.text) < len(p) && e.left > 0 {
		e.time += e.step
		line := fmt.Sprintf("#%d\n%d!\n", e.time, e.time/e.step%2)
		if e.time/e.step%1000 == 0 {
			line += fmt.Sprintf("%d\"\n", e.time/e.step/1000%2)
		}
		e.text = append(e.text, line...)
		e.left -= len(line)
	}
	if len(e.text) == 0 {
		return 0, io.EOF
	}
	n = copy(p, e.text)
	e.text = append(e.text[:0], e.text[n:]...)
	return n, nil
}

// judgeCapture judges a capture of that many bytes that spans the trial, and gives the most that was on the heap
// meanwhile.
func judgeCapture(t testing.TB, bytes int) (most uint64, edges int64) {
	course, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	x, problems := exercise.Read("x", course.Text)
	require.NotNil(t, x, "%v", problems)
	const header = "$timescale 1 ns $end\n$var wire 1 ! PB0 $end\n$var wire 1 \" PB1 $end\n$enddefinitions $end\n#0\n0!\n0\"\n"
	body := &endless{left: bytes, step: max(100, int64(x.Trials[0].Length)/1000/int64(bytes/14))}
	done := make(chan bool)
	go func() {
		for {
			select {
			case <-done:
				close(done)
				return
			default:
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapInuse)
				time.Sleep(time.Millisecond) // it stops the world
			}
		}
	}()
	tape, err := capture.Open(io.MultiReader(&once{[]byte(header)}, body), x.Chip, capture.Options{})
	require.NoError(t, err)
	r, err := marking.MarkCapture(t.Context(), x, 0, "long.vcd", tape)
	require.NoError(t, err)
	done <- true
	<-done
	require.Empty(t, r.Sheet.Failed)
	return most, tape.Counters().Edges
}

type once struct{ text []byte }

func (o *once) Read(p []byte) (int, error) {
	if len(o.text) == 0 {
		return 0, io.EOF
	}
	n := copy(p, o.text)
	o.text = o.text[n:]
	return n, nil
}

// A capture is read as it is needed: what is kept does not grow with it. 24 MB in the tests; HEMBLE_LONG takes a
// gigabyte.
func TestLongCapture(t *testing.T) {
	size := 24 << 20
	if os.Getenv("HEMBLE_LONG") != "" {
		size = 1 << 30
	}
	most, edges := judgeCapture(t, size)
	t.Logf("%d MB, %d edges, at most %d MB on the heap", size>>20, edges, most>>20)
	assert.Greater(t, edges, int64(size/30))
	assert.Less(t, most, uint64(160<<20))
}
