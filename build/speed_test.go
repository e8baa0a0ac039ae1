package build

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	_ "hemble/native"
)

// Benches for the programs of testdata/speed, by the display that they drive.
const (
	lampOnly = "red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  key: {part: button, pins: {1: PD2, 2: GND}}"
	digits4  = "count: {part: seven-segment, digits: 4, common: cathode, select: transistor, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}\n  key: {part: button, pins: {1: PC0, 2: GND}}"
	keeper   = "board: {part: lcd, pins: {rs: PB0, rw: PB1, e: PB2, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}"
)

var speedPrograms = []struct{ name, bench string }{
	{"polled.c", lampOnly}, {"delays.ino", lampOnly}, {"millis.ino", lampOnly}, {"waits.c", lampOnly},
	{"scan.c", digits4}, {"polledscan.ino", digits4},
	{"lcd.ino", keeper}, {"compute.c", lampOnly}, {"printing.c", lampOnly}, {"banging.c", lampOnly},
}

// prepared builds a program and reads its bench.
func prepared(t testing.TB, name, parts string) (*exercise.Exercise, *firmware.Image) {
	b := builder(t)
	if strings.HasSuffix(name, loopExt) && framework() == "" {
		t.Skip("arduino-core-avr is not installed; `make tools` installs it")
	}
	s, err := FromPath(filepath.Join("testdata/speed", name))
	require.NoError(t, err)
	r := built(t, b, s)
	require.False(t, r.Failed(), "%v", r.Messages)
	im, err := firmware.Read(r.ELF, avr.Memories)
	require.NoError(t, err)
	x, problems := exercise.Read(name,
		[]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  "+parts+
			"\ntrials: [{name: x, length: 10min, expect: [{reads: "+strings.SplitN(parts, ":",
			2)[0]+", text: \"\", at: end}]}]\n"))
	if x == nil { // a lamp reads no text
		x, problems = exercise.Read(name,
			[]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  "+parts+
				"\ntrials: [{name: x, length: 10min, expect: [{reads: "+strings.SplitN(parts, ":",
				2)[0]+", text: on, at: end}]}]\n"))
	}
	require.NotNil(t, x, "%v", problems)
	return x, im
}

// BenchmarkSpeed gives the speed of each program with its displays, over that of the reference interpreter
// in the same run: the two take turns.
func BenchmarkSpeed(b *testing.B) {
	for _, p := range speedPrograms {
		b.Run(strings.TrimSuffix(p.name, filepath.Ext(p.name)), func(b *testing.B) {
			x, im := prepared(b, p.name, p.bench)
			trial := x.Trials[0]
			trial.Length = clock.Never / 2
			fast, err := bench.New(x, &trial, im, bench.Options{})
			require.NoError(b, err)
			plain, err := bench.New(x, &trial, im, bench.Options{Reference: true})
			require.NoError(b, err)
			const slice, short = 2 * clock.Second, 100 * clock.Millisecond
			var quick, slow time.Duration
			for b.Loop() {
				began := time.Now()
				require.NoError(b, fast.Advance(b.Context(), fast.Now()+slice))
				between := time.Now()
				require.NoError(b, plain.Advance(b.Context(), plain.Now()+short))
				quick, slow = quick+between.Sub(began), slow+time.Since(between)
			}
			n := float64(b.N)
			b.ReportMetric(slice.Seconds()*n/quick.Seconds(), "×real")
			b.ReportMetric(short.Seconds()*n/slow.Seconds(), "×real-plain")
			b.ReportMetric(slice.Seconds()/short.Seconds()*slow.Seconds()/quick.Seconds(), "×reference")
		})
	}
}

// Most of each wait is left out: what a second of it takes at most, in instructions and in walks round its loops. This
// is the speed of waiting without a clock.
func TestEffort(t *testing.T) {
	t.Parallel()
	for name, most := range map[string][2]int64{
		"polled.c":       {180_000, 35},
		"delays.ino":     {390_000, 40},
		"millis.ino":     {210_000, 4},
		"waits.c":        {1_800, 1},
		"scan.c":         {22_000, 5},
		"polledscan.ino": {390_000, 40},
	} {
		_, im := prepared(t, name, lampOnly)
		m := avr.New(avr.ATmega328P, machine.Config{})
		require.NoError(t, m.Load(im))
		m.Run(10*clock.Second, silent{})
		c := m.Counters()
		assert.LessOrEqual(t, c.Instructions/10, most[0], "instructions of %s", name)
		assert.LessOrEqual(t, c.Walks/10, most[1], "walks of %s", name)
	}
}

// TestExact holds the reels of these programs bit-identical to those of the reference interpreter: of two
// seconds, or of twenty with HEMBLE_EXACT set (make exact).
func TestExact(t *testing.T) {
	length := 2 * clock.Second
	if os.Getenv("HEMBLE_EXACT") != "" {
		length *= 10
	}
	for _, p := range speedPrograms {
		t.Run(p.name, func(t *testing.T) {
			t.Parallel()
			x, im := prepared(t, p.name, p.bench)
			trial := x.Trials[0]
			trial.Length = length
			var reels []string
			for _, o := range []bench.Options{{Reference: true}, {}} {
				b, err := bench.New(x, &trial, im, o)
				require.NoError(t, err)
				require.NoError(t, b.Advance(t.Context(), trial.Length))
				r := b.Finish()
				r.Counters = machine.Counters{} // the effort
				text, err := json.Marshal(r)
				require.NoError(t, err)
				reels = append(reels, string(text))
			}
			assert.Equal(t, reels[0], reels[1])
		})
	}
}
