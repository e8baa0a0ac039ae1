package rtl

import (
	"fmt"
	"math/rand"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// modules are the designs of testdata, each with how long it is stepped for comparison.
func modules(t testing.TB) map[string]string {
	files, err := filepath.Glob("testdata/*.v")
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		out[strings.TrimSuffix(filepath.Base(f), ".v")] = string(text)
	}
	return out
}

// image puts a design's ports at pins: the clock at the oscillator's, others in a row.
func imageOf(t testing.TB, dir, name, text string) *firmware.Image {
	d := synthesise(t, dir, name, text)
	d.Pins = map[string]string{}
	n := 0
	for _, p := range d.Ports {
		for i := range p.Bits {
			if p.Name == "clk" {
				d.Pins["clk"] = Chip.ClockPin
				continue
			}
			n++
			d.Pins[p.Bit(i)] = fmt.Sprintf("P%d", n)
		}
	}
	return &firmware.Image{Design: d}
}

var scale = regexp.MustCompile(`(?m)^// edges: (\d+)`)

// With waiting left out and without it: the same edges at the same times, and the same state, at random stops
// with random inputs.
func TestSkippingChangesNothing(t *testing.T) {
	dir := t.TempDir()
	for name, text := range modules(t) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			im := imageOf(t, dir, name, text)
			edges := int64(300_000)
			if m := scale.FindStringSubmatch(text); m != nil {
				_, err := fmt.Sscan(m[1], &edges)
				require.NoError(t, err)
			}
			length := (Chip.Clock).At(edges)
			a := newMachine(Chip, machine.Config{Seed: 3}).(*Machine)
			b := newMachine(Chip, machine.Config{Seed: 3, NoSkip: true}).(*Machine)
			require.NoError(t, a.Load(im))
			require.NoError(t, b.Load(im))
			var x, y machinetest.Recorder
			random := rand.New(rand.NewSource(5))
			inputs := []machine.Pin{}
			for pin, bits := range a.inputs {
				if len(bits) > 0 && Chip.Pins[pin].Name != Chip.ClockPin {
					inputs = append(inputs, machine.Pin(pin))
				}
			}
			const stops = 12
			for i := range stops {
				until := a.Now() + clock.Time(random.Int63n(int64(length)/stops*2))
				require.Equal(t, b.Run(until, &y), a.Run(until, &x))
				require.Equal(t, y, x, "stop %d at %s", i, until)
				require.Equal(t, b.Hash(), a.Hash(), "stop %d at %s", i, until)
				if len(inputs) > 0 {
					pin, level := inputs[random.Intn(len(inputs))], circuit.Level(random.Intn(2))
					a.Input(pin, level)
					b.Input(pin, level)
				}
			}
			t.Logf("%s: %d edges at pins, %.1f %% of %d periods left out", name, x.Edges,
				100*float64(a.skipper.skipped)/float64(a.half/2), a.half/2)
		})
	}
}

// full are the designs that are followed for ten seconds at 100 MHz.
func full(t testing.TB) map[string]*firmware.Image {
	dir := t.TempDir()
	out := map[string]*firmware.Image{}
	for name, text := range modules(t) {
		if strings.Contains(text, "// full") {
			out[name] = imageOf(t, dir, name, text)
		}
	}
	return out
}

// counting is a listener that only counts.
type counting int

func (c *counting) Drive(_ clock.Time, all []machine.Change, _ machine.Place) clock.Time {
	*c += counting(len(all))
	return clock.Never
}

func tenSeconds(t testing.TB, im *firmware.Image) (m *Machine, x counting) {
	m = newMachine(Chip, machine.Config{Seed: 3}).(*Machine)
	require.NoError(t, m.Load(im))
	stop := m.Run(10*clock.Second, &x)
	require.Equal(t, machine.Reached, stop.Reason, stop.Text)
	return m, x
}

// Ten seconds at 100 MHz are far from the limit of effort.
func TestTenSeconds(t *testing.T) {
	for name, im := range full(t) {
		m, x := tenSeconds(t, im)
		t.Logf("%s: %d edges, %d cells computed", name, x, m.state.work)
		assert.Less(t, m.state.work, int64(maxWork/2), name)
	}
}

func BenchmarkTenSeconds(b *testing.B) {
	for name, im := range full(b) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				tenSeconds(b, im)
			}
		})
	}
}
