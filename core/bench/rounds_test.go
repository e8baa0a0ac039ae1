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

// asked is a bench with what programs ask again and again.
const asked = `hemble: 1
name: asked
title: Asked
chip: {is: atmega328p}
bench:
  module: {part: tm1637, pins: {clk: PB0, dio: PB1}}
  chain: {part: 74hc595, pins: {ser: PB2, srclk: PB3, rclk: PB4, oe: GND, srclr: VCC, qa: n1, qb: n2}}
  one: {part: lamp, pins: {anode: n1, cathode: GND}}
  two: {part: lamp, pins: {anode: n2, cathode: GND}}
  pad: {part: keypad, pins: {row1: PD0, row2: PD1, row3: PD2, row4: PD3, column1: PD4, column2: PD5, column3: PD6, column4: PD7}}
  driver: {part: max7219, pins: {din: PC3, clk: PC4, load: PC5}}
  key: {part: button, pins: {"1": PC0, "2": GND}}
  lamp: {part: lamp, pins: {anode: PC1, cathode: GND}}
trials:
  - name: all
    length: 160ms
    cues:
      - {at: 20ms, press: key, for: 20ms}
      - {at: 45ms, press: module, key: 3, for: 30ms}
      - {at: 70ms, press: pad, key: "5", for: 25ms}
      - {at: 110ms, press: key, for: 20ms}
    expect: [{reads: lamp, text: on, at: end}]
`

// Ports of the ATmega328P by their I/O addresses, and TCNT0.
const (
	pinB, pinC, pinD = 0x03, 0x06, 0x09
	tcnt0            = 0x26
)

// words puts a program together: vectors, the interrupt of timer 0, which counts and may change the lamp, and what
// comes at first and again and again.
func words(first, again []uint16, ticks bool) *firmware.Image {
	code := make([]uint16, 0x34)
	for i := range code {
		code[i] = 0x9518 // reti
	}
	code[0] = 0xc033 // rjmp to the end of the vectors
	isr := []uint16{0x9543}
	if ticks {
		isr = append(isr, 0x9a31) // sbi PINC, 1
	}
	code = append(code, append(first, 0xc000|uint16(len(isr)+1))...) // over the interrupt
	at := len(code)
	code = append(code, append(isr, 0x9518)...)
	code[0x20] = 0xc000 | uint16(at-0x21)
	code = append(code, again...)
	code = append(code, 0xc000|uint16(-len(again)-1)&0xfff)
	var flash []byte
	for _, w := range code {
		flash = append(flash, byte(w), byte(w>>8))
	}
	return &firmware.Image{Flash: []firmware.Segment{{Data: flash}}}
}

func bit(op, address, n int) uint16 { return uint16(op | address<<3 | n) }

// scanned is a program that asks at random: mostly pins, sometimes time, memory and what floats.
func scanned(r *rand.Rand) *firmware.Image {
	io := func(op, register, address int) uint16 {
		return uint16(op | address&0x30<<5 | register<<4 | address&15)
	}
	first := []uint16{bit(0x9a00, pinC+1, 1)}
	for range r.IntN(6) { // some pins are outputs, or have pull-ups
		register := []int{pinB + 1, pinB + 2, pinC + 2, pinD + 1, pinD + 2}[r.IntN(5)]
		first = append(first, bit(0x9a00, register, r.IntN(7)))
	}
	if r.IntN(3) > 0 { // timer 0 runs, and interrupts every 2 or 16 ms
		first = append(first, 0xe003+uint16(r.IntN(2)), 0xbd05, 0xe001, 0x9300, 0x006e, 0x9478)
	}
	var again []uint16
	for range 3 + r.IntN(30) {
		switch port := []int{pinB, pinB, pinD, pinC}[r.IntN(4)]; r.IntN(14) {
		case 0, 1, 2, 3:
			again = append(again, bit(0x9a00, port+1+r.IntN(2), r.IntN(7)))
		case 4, 5, 6, 7:
			again = append(again, bit(0x9800, port+1+r.IntN(2), r.IntN(7)))
		case 8, 9: // a pin decides whether a register counts
			again = append(again, bit(0x9900|r.IntN(2)<<9, port, r.IntN(7)), 0x9403|uint16(16+r.IntN(4))<<4)
		case 10: // an input is masked
			again = append(again, io(0xb000, 22, port), 0x7060|uint16(1<<r.IntN(4)))
		case 11: // a short wait
			again = append(again, 0xe080|uint16(1+r.IntN(15)), 0x958a, 0xf7f1)
		case 12:
			again = append(again, []uint16{io(0xb000, 23, tcnt0), 0x9478, 0x94f8, 0x93ff, 0x91ff, 0x9513,
				bit(0x9a00, pinC, 1)}[r.IntN(7)])
		default:
			again = append(again, 0xe0f1, 0xe0e0, []uint16{0x8000, 0x8300}[r.IntN(2)]) // ld or st by Z, at 0x100
		}
	}
	return words(first, again, r.IntN(2) == 0)
}

// What is left out of rounds that a program makes again and again changes no reel, whatever a program does in them.
func TestRoundsAtRandom(t *testing.T) {
	x, problems := exercise.Read("asked.yaml", []byte(asked))
	require.NotNil(t, x, "%v", problems)
	n := 60
	if os.Getenv("HEMBLE_EXACT") != "" {
		n = 4_000
	}
	left := 0
	for seed := range n {
		im := scanned(rand.New(rand.NewPCG(uint64(seed), 28)))
		trial := x.Trials[0]
		trial.Seed = uint64(seed)
		plain, many := interpreted(t, x, &trial, im, bench.Options{NoSkip: true})
		fast, few := interpreted(t, x, &trial, im, bench.Options{})
		if !assert.Equal(t, plain, fast, "program %d", seed) {
			return
		}
		if few < many/3 {
			left++
		}
	}
	assert.Greater(t, left, n/20, "programs of which most was left out")
}

// A module's keys that are asked without a pause are asked once in a while, and so is a keypad; a display that is
// told the same again through a shift register is told it once.
func TestRoundsAreLeftOut(t *testing.T) {
	x, problems := exercise.Read("asked.yaml", []byte(asked))
	require.NotNil(t, x, "%v", problems)
	for name, p := range map[string]struct {
		first, again []uint16
		share        int64 // of what is interpreted otherwise, in thousandths, at most
	}{
		"a wire of the module": {nil, []uint16{bit(0x9a00, pinB+1, 0), bit(0x9800, pinB+1, 0)}, 20},
		"a row of the keypad": {[]uint16{bit(0x9a00, pinD+1, 0), bit(0x9a00, pinD+2, 4)},
			[]uint16{bit(0x9800, pinD+2, 0), 0, bit(0x9b00, pinD, 4), 0x9513, bit(0x9a00, pinD+2, 0), 0}, 20},
		"the clock of a register": {[]uint16{bit(0x9a00, pinB+1, 3), bit(0x9a00, pinB+1, 2)},
			[]uint16{bit(0x9a00, pinB+2, 3), bit(0x9800, pinB+2, 3)}, 20},
		"the load of a driver, which logs it": {[]uint16{bit(0x9a00, pinC+1, 5)},
			[]uint16{bit(0x9a00, pinC+2, 5), bit(0x9800, pinC+2, 5)}, 20},
		"a number counts on": {[]uint16{bit(0x9a00, pinB+1, 3)},
			[]uint16{bit(0x9a00, pinB+2, 3), bit(0x9800, pinB+2, 3), 0x9503, 0x9503}, 30},
	} {
		t.Run(name, func(t *testing.T) {
			im := words(p.first, p.again, false)
			plain, many := interpreted(t, x, &x.Trials[0], im, bench.Options{NoSkip: true})
			fast, few := interpreted(t, x, &x.Trials[0], im, bench.Options{})
			assert.Equal(t, plain, fast)
			assert.LessOrEqual(t, few, many*p.share/1000)
			t.Logf("%d of %d instructions in %v", few, many, x.Trials[0].Length)
		})
	}
}

// interpreted gives a trial's reel, and how many instructions were interpreted.
func interpreted(t *testing.T, x *exercise.Exercise, trial *exercise.Trial, im *firmware.Image, o bench.Options,
) (string, int64) {
	text, counters := benchtest.Run(t, x, trial, im, o)
	return text, counters.Instructions
}
