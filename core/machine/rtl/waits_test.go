package rtl

import (
	"fmt"
	"math/rand"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// waiting writes a random design that mostly waits: counters up and down with limits, dividers, feedback, products,
// clocks that are derived, latches, choices by keys; a few of them are seen.
func waiting(seed int64) string {
	g := rand.New(rand.NewSource(seed))
	var text strings.Builder
	ticks, clocks, words := []string{"1'b1", "1'b1", "1'b1", "k0", "!k1"}, []string{"posedge clk"}, []string{}
	widths := map[string]int{}
	pick := func(of []string) string { return of[g.Intn(len(of))] }
	word := func(n string, w int) string {
		words, widths[n] = append(words, n), w
		return n
	}
	for i := range 3 + g.Intn(5) {
		n := fmt.Sprintf("r%d", i)
		at, tick := "posedge clk", pick(ticks)
		if g.Intn(3) == 0 {
			at = pick(clocks)
		}
		begin := fmt.Sprintf("  always @(%s) if (%s) ", at, tick)
		switch g.Intn(8) {
		case 0, 1, 2: // a counter that goes over
			w := 3 + g.Intn(14)
			limit, by := 2+g.Intn(1<<w-2), 1+g.Intn(3)
			if g.Intn(2) == 0 {
				limit = 2 + g.Intn(12)
			}
			fmt.Fprintf(&text, "  reg [%d:0] %s = %d;\n", w-1, word(n, w), g.Intn(2))
			switch g.Intn(4) {
			case 0:
				fmt.Fprintf(&text, "%s%s <= %s == 0 ? %d : %s - 1;\n", begin, n, n, limit, n)
			case 1:
				fmt.Fprintf(&text, "%s%s <= %s >= %d ? 0 : %s + %d;\n", begin, n, n, limit, n, by)
			default:
				fmt.Fprintf(&text, "%s%s <= %s == %d ? 0 : %s + 1;\n", begin, n, n, limit, n)
			}
			fmt.Fprintf(&text, "  wire t%d = %s == %d && %s;\n", i, n, g.Intn(limit), tick)
			ticks = append(ticks, fmt.Sprintf("t%d", i))
		case 3: // feedback
			w := 4 + g.Intn(37)
			fmt.Fprintf(&text, "  reg [%d:0] %s = 1;\n%s%s <= {%s[%d:0], %s[%d] ^ %s[%d]%s};\n", w-1, word(n, w), begin, n, n, w-2, n,
				w-1, n, g.Intn(w-1), []string{"", " ^ k1", " ^ 1'b1"}[g.Intn(3)])
		case 4: // a product
			w := 5 + g.Intn(8)
			fmt.Fprintf(&text, "  reg [%d:0] %s = 1;\n%s%s <= %s * %d + %d;\n", w-1, word(n, w), begin, n, n, 1+4*g.Intn(20),
				1+2*g.Intn(9))
		case 5: // a clock
			fmt.Fprintf(&text, "  reg %s = 0;\n%s%s <= ~%s;\n", word(n, 1), begin, n, n)
			clocks = append(clocks, "posedge "+n, "negedge "+n)
			if g.Intn(2) == 0 {
				ticks = append(ticks, n)
			}
		case 6: // what is kept of others
			if len(words) == 0 {
				continue
			}
			of := pick(words)
			w := widths[of]
			fmt.Fprintf(&text, "  reg [%d:0] %s = 0;\n", w-1, word(n, w))
			if g.Intn(4) == 0 {
				fmt.Fprintf(&text, "  always @* if (k0) %s = %s;\n", n, of)
				continue
			}
			fmt.Fprintf(&text, "%s%s <= %s%s;\n", begin, n, of, []string{"", " ^ " + n, " + " + n, " & {" + fmt.Sprint(w) + "{k1}}"}[g.Intn(4)])
		case 7: // a counter that a key resets at once
			w := 6 + g.Intn(12)
			fmt.Fprintf(&text, "  reg [%d:0] %s = 0;\n  always @(posedge clk or posedge k1) if (k1) %s <= 0; else %s <= %s + %d;\n",
				w-1, word(n, w), n, n, n, 1+g.Intn(5))
			fmt.Fprintf(&text, "  wire t%d = &%s[%d:%d];\n", i, n, w-1, w/2)
			ticks = append(ticks, fmt.Sprintf("t%d", i))
		}
	}
	var ports strings.Builder
	for i := range 1 + g.Intn(3) {
		if len(words) == 0 {
			continue
		}
		n := pick(words)
		fmt.Fprintf(&ports, ", output y%d", i)
		switch g.Intn(3) {
		case 0:
			fmt.Fprintf(&text, "  assign y%d = %s[%d];\n", i, n, widths[n]-1)
		case 1:
			fmt.Fprintf(&text, "  assign y%d = %s == %d;\n", i, n, g.Intn(1<<min(widths[n], 12)))
		default:
			fmt.Fprintf(&text, "  reg s%d = 0;\n  always @(posedge clk) if (%s) s%d <= %s[0];\n  assign y%d = s%d;\n", i, pick(ticks), i,
				n, i, i)
		}
	}
	body := text.String()
	for n, w := range widths { // a bit of one is no vector
		if w == 1 {
			body = strings.ReplaceAll(body, n+"[0]", n)
		}
	}
	return fmt.Sprintf("module top(input clk, input k0, input k1%s);\n%sendmodule\n", ports.String(), body)
}

// Random designs that wait do with waiting left out what they do without: the same edges, the same state, at any stop.
func TestRandomWaits(t *testing.T) {
	n := int64(120)
	if testing.Short() {
		n = 30
	}
	dir := t.TempDir()
	var skipped, all, none atomic.Int64
	t.Cleanup(func() {
		t.Logf("%.1f %% of the periods of %d designs left out; none of %d", 100*float64(skipped.Load())/float64(all.Load()),
			n, none.Load())
		assert.Greater(t, skipped.Load(), all.Load()/3)
	})
	one := func(t *testing.T, seed int64) {
		t.Parallel()
		text := waiting(seed)
		im := imageOf(t, dir, fmt.Sprintf("w%d", seed), text)
		a := newMachine(Chip, machine.Config{Seed: 3}).(*Machine)
		b := newMachine(Chip, machine.Config{Seed: 3, NoSkip: true}).(*Machine)
		require.NoError(t, a.Load(im))
		require.NoError(t, b.Load(im))
		var x, y machinetest.Recorder
		random := rand.New(rand.NewSource(seed))
		for range 10 {
			until := a.Now() + Chip.Clock.At(1+random.Int63n(12_000))
			require.Equal(t, b.Run(until, &y), a.Run(until, &x), text)
			require.Equal(t, y, x, "%d: at %s\n%s", seed, until, text)
			require.Equal(t, b.Hash(), a.Hash(), "%d: at %s\n%s", seed, until, text)
			for _, port := range []string{"k0", "k1"} {
				if pin, ok := Chip.Pin(im.Design.Pins[port]); ok && random.Intn(2) == 0 {
					level := circuit.Level(random.Intn(2))
					a.Input(pin, level)
					b.Input(pin, level)
				}
			}
		}
		skipped.Add(a.skipper.skipped)
		all.Add(a.half / 2)
		if a.skipper.skipped == 0 {
			none.Add(1)
		}
	}
	for seed := range n {
		t.Run(fmt.Sprint(seed), func(t *testing.T) { one(t, seed) })
	}
}
