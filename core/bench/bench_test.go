package bench_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
)

// flood is a lamp whose pin is switched every four cycles, for 100 ms.
func flood(t testing.TB) (*exercise.Exercise, *firmware.Image) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {red: {part: lamp, pins: {anode: PB0, cathode: GND}}}
trials: [{name: x, length: 100ms, expect: [{reads: red, text: on, at: end}]}]
`))
	require.Empty(t, problems)
	im := &firmware.Image{Flash: []firmware.Segment{{Data: []byte{0x20, 0x9a, 0x18, 0x9a, 0xfe, 0xcf}}}}
	return x, im
}

// BenchmarkFlood is the cost of an edge through nets, part and eye.
func BenchmarkFlood(b *testing.B) {
	x, im := flood(b)
	edges := int64(0)
	for b.Loop() {
		r, err := bench.Run(b.Context(), x, &x.Trials[0], im)
		require.NoError(b, err)
		edges += r.Counters.Edges
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(edges), "ns/edge")
}

// A run that takes more effort than it was given is ended as too much; without a limit it goes to its end.
func TestEffort(t *testing.T) {
	x, im := flood(t)
	for effort, want := range map[int64]machine.Reason{
		0: machine.Reached, 1 << 40: machine.Reached, 1000: machine.TooMuch,
	} {
		b, err := bench.New(x, &x.Trials[0], im, bench.Options{Effort: effort})
		require.NoError(t, err)
		require.NoError(t, b.Advance(t.Context(), x.Trials[0].Length))
		stopped := machine.Reached
		if r := b.Finish(); r.Stop != nil {
			stopped = r.Stop.Reason
		}
		require.Equal(t, want, stopped, effort)
	}
}

const displays = `hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  count: {part: seven-segment, digits: 4, common: cathode, select: transistor, resistor: 220, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PC0, digit2: PC1, digit3: PC2, digit4: PC3}}
  board: {part: lcd, pins: {rs: PB4, rw: GND, e: PB6, d4: PB0, d5: PB1, d6: PB2, d7: PB3}}
  red: {part: lamp, pins: {anode: PB5, cathode: GND}}
trials: [{name: x, length: 10min, expect: [{reads: red, text: on, at: end}]}]
`

// compiled builds a program of testdata.
func compiled(t testing.TB, source string) *firmware.Image {
	if _, err := exec.LookPath("avr-gcc"); err != nil {
		t.Skip("avr-gcc is not installed; `make tools` installs it")
	}
	out := filepath.Join(t.TempDir(), "x.elf")
	message, err := exec.Command("avr-gcc", "-mmcu=atmega328p", "-DF_CPU=16000000UL", "-std=gnu99", "-Os", "-o", out,
		filepath.Join("testdata", source)).CombinedOutput()
	require.NoError(t, err, "%s", message)
	file, err := os.ReadFile(out)
	require.NoError(t, err)
	im, err := firmware.Read(file, avr.Memories)
	require.NoError(t, err)
	return im
}

func withDisplays(t testing.TB) (*exercise.Exercise, *firmware.Image) {
	x, problems := exercise.Read("x", []byte(displays))
	require.NotNil(t, x, "%v", problems)
	return x, compiled(t, "displays.c")
}

// deaf listens to nothing.
type deaf struct{}

func (deaf) Drive(clock.Time, []machine.Change, machine.Place) clock.Time { return clock.Never }

// BenchmarkDisplays runs the same program on the bare chip, nobody looking, and on a bench with a scanned
// four-digit display, a character LCD and a lamp, with waits not skipped: what displays cost. The two take
// turns, so that what else the machine does slows both alike.
func BenchmarkDisplays(b *testing.B) {
	x, im := withDisplays(b)
	const slice = 20 * clock.Millisecond
	bare := x.Chip.New(machine.Config{Clock: x.Clock, Supply: x.Supply, Seed: 1, Watched: []machine.Pin{},
		NoSkip: true})
	require.NoError(b, bare.Load(im))
	t := x.Trials[0]
	t.Length = clock.Never / 2
	run, err := bench.New(x, &t, im, bench.Options{NoSkip: true})
	require.NoError(b, err)
	var alone, with time.Duration
	for b.Loop() {
		began := time.Now()
		bare.Run(bare.Now()+slice, deaf{})
		between := time.Now()
		require.NoError(b, run.Advance(b.Context(), run.Now()+slice))
		alone, with = alone+between.Sub(began), with+time.Since(between)
	}
	simulated := slice.Seconds() * float64(b.N)
	b.ReportMetric(simulated/alone.Seconds(), "×real-bare")
	b.ReportMetric(simulated/with.Seconds(), "×real-bench")
	b.ReportMetric(100*(with.Seconds()/alone.Seconds()-1), "%added")
}

// BenchmarkHour is an hour of a clock that changes its display once a second and polls a flag in between: the cost
// grows with what happens on the displays.
func BenchmarkHour(b *testing.B) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {clock: {part: tm1637, pins: {clk: PD2, dio: PD3}}}
trials: [{name: x, length: 10min, expect: [{reads: clock, text: "11:58", at: 1s}]}]
`))
	require.Empty(b, problems)
	im := compiled(b, "clock.c")
	t := x.Trials[0]
	t.Length = 60 * clock.Minute
	for b.Loop() {
		r, err := bench.Run(b.Context(), x, &t, im)
		require.NoError(b, err)
		require.InDelta(b, 3600, len(r.Tracks[0].Frames), 2)
	}
	b.ReportMetric(b.Elapsed().Seconds()/float64(b.N), "s/hour")
	var usage syscall.Rusage
	require.NoError(b, syscall.Getrusage(syscall.RUSAGE_SELF, &usage))
	b.ReportMetric(float64(usage.Maxrss)/1024, "MB")
}
