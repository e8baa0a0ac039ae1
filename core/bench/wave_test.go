package bench_test

import (
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/bench/benchtest"
	"hemble/core/exercise"
	"hemble/core/firmware"
)

// dimmed is a bench with lamps at all pins that timers dim, two of which are too bright for the chip.
const dimmed = `hemble: 1
name: dimmed
title: Dimmed
chip: {is: atmega328p}
bench:
  shade: {part: colour-lamp, pins: {red: PD6, green: PD5, blue: PD3, common: GND}}
  bright: {part: lamp, resistor: 0, pins: {anode: PB1, cathode: GND}}
  low: {part: lamp, pins: {anode: VCC, cathode: PB2}}
  last: {part: lamp, pins: {anode: PB3, cathode: GND}}
  lamp: {part: lamp, pins: {anode: PC1, cathode: GND}}
trials: [{name: all, length: 400ms, expect: [{reads: lamp, text: on, at: end}]}]
`

// Registers of the ATmega328P's timers.
var (
	timerControls = []uint16{0x44, 0x45, 0x80, 0x81, 0xb0, 0xb1}
	timerValues   = []uint16{0x47, 0x48, 0x86, 0x88, 0x8a, 0xb3, 0xb4}
)

// load is ldi of a register from r16 on.
func load(register int, v uint8) uint16 {
	return 0xe000 | uint16(v&0xf0)<<4 | uint16(register-16)<<4 | uint16(v&15)
}

// write is sts of r16 with a value.
func write(address uint16, v uint8) []uint16 { return []uint16{load(16, v), 0x9300, address} }

// fading is a program that sets timers up at random, waits, and changes some of them now and then.
func fading(r *rand.Rand) *firmware.Image {
	first := append(write(0x24, uint8(r.Uint32())|0x0e), write(0x2a, uint8(r.Uint32())|0x68)...)
	first = append(first, write(0x27, 2)...)
	some := func() []uint16 {
		switch i := r.IntN(8); {
		case i < 3:
			a := timerControls[r.IntN(len(timerControls))]
			v := uint8(r.Uint32()) & 0xf3
			if a&1 == 1 { // how it is clocked
				v = uint8(r.IntN(2))<<3 | uint8([]int{1, 1, 2, 3, 4, 0}[r.IntN(6)])
			}
			return write(a, v)
		default:
			v := []uint32{0, 1, 255, r.Uint32(), r.Uint32()}[r.IntN(5)]
			return write(timerValues[r.IntN(len(timerValues))], uint8(v))
		}
	}
	for range 4 + r.IntN(16) {
		first = append(first, some()...)
	}
	var again []uint16
	for range 1 + r.IntN(6) {
		again = append(again, load(24, 0), load(25, uint8(r.IntN(256))), 0x9701, 0xf7f1) // sbiw, brne
		switch r.IntN(6) {
		case 0:
			again = append(again, some()...)
		case 1:
			again = append(again, bit(0x9a00, pinC, 1))
		case 2: // a value that goes on
			again = append(again, 0x9513, 0x9310, timerValues[r.IntN(len(timerValues))])
		case 3: // a pin decides
			again = append(again, bit(0x9900|r.IntN(2)<<9, []int{pinB, pinD}[r.IntN(2)], r.IntN(7)), 0x9523)
		case 4: // a lamp's pin lets go, and comes back
			again = append(again, bit(0x9800, pinD+1, 5), bit(0x9a00, pinD+1, 5))
		}
	}
	return words(first, again, false)
}

// PWM of which one period is told, and how often it comes again, gives the reels of the reference interpreter, which
// tells each edge.
func TestPWMAtRandom(t *testing.T) {
	x, problems := exercise.Read("dimmed.yaml", []byte(dimmed))
	require.NotNil(t, x, "%v", problems)
	n := 40
	if os.Getenv("HEMBLE_EXACT") != "" {
		n = 1_000
	}
	for seed := range n {
		im := fading(rand.New(rand.NewPCG(uint64(seed), 30)))
		plain, every := benchtest.Run(t, x, &x.Trials[0], im, bench.Options{Reference: true})
		fast, few := benchtest.Run(t, x, &x.Trials[0], im, bench.Options{})
		if !assert.Equal(t, plain, fast, "program %d", seed) {
			return
		}
		assert.Equal(t, every.Edges, few.Edges, "program %d", seed)
	}
}
