package avr_test

import (
	"math/rand"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
)

// pollProgram makes a program that waits in a loop of random instructions over a timer's count, then switches a pin.
// It is mostly of such a kind that the loop can be skipped, and never of one that a test would expect.
func pollProgram(random *rand.Rand) *firmware.Image {
	var words []uint16
	emit := func(w ...uint16) { words = append(words, w...) }
	two := func(op uint16, d, r int) { emit(op | uint16(d)<<4 | uint16(r&15) | uint16(r>>4)<<9) }
	immediate := func(op uint16, d, k int) { emit(op | uint16(k>>4)<<8 | uint16(d-16)<<4 | uint16(k&15)) }
	one := func(op uint16, d int) { emit(op | uint16(d)<<4) }
	out := func(io, r int) { emit(0xb800 | uint16(io&0x30)<<5 | uint16(r)<<4 | uint16(io&15)) }
	in := func(d, io int) { emit(0xb000 | uint16(io&0x30)<<5 | uint16(d)<<4 | uint16(io&15)) }
	lds := func(d int, address uint16) { emit(0x9000|uint16(d)<<4, address) }
	sts := func(address uint16, r int) { emit(0x9200|uint16(r)<<4, address) }
	reg := func() int { return 16 + random.Intn(10) }

	for r := 16; r < 32; r++ {
		immediate(0xe000, r, random.Intn(256))
	}
	immediate(0xe000, 31, 1+random.Intn(5)) // dividers of timers 0 and 1
	out(0x25, 31)
	immediate(0xe000, 31, 1+random.Intn(5))
	sts(0x81, 31)
	immediate(0xe000, 31, []int{0, 2, 0, 2, 0, 2, 0x42, 0x83}[random.Intn(8)])
	out(0x24, 31) // timer 0 counts to OCR0A in half of the programs, and drives a pin in some
	immediate(0xe000, 31, 100+random.Intn(150))
	out(0x27, 31)
	immediate(0xe000, 31, 0xff)
	out(0x04, 31)
	immediate(0xe000, 30, 1)
	head := len(words)
	for n := 3 + random.Intn(18); n > 0; n-- {
		switch d, r := reg(), reg(); random.Intn(28) {
		case 0, 1:
			in(d, 0x26) // TCNT0
		case 2:
			lds(d, 0x84) // TCNT1
			lds(reg(), 0x85)
		case 3:
			immediate(0xe000, d, random.Intn(256))
		case 4:
			two(0x0c00, d, r) // ADD
			two(0x1c00, reg(), reg())
		case 5:
			two(0x1800, d, r) // SUB
			two(0x0800, reg(), reg())
		case 6:
			two(0x0c00, d, d) // doubling
			two(0x1c00, d+1, d+1)
		case 7:
			immediate(0x5000, d, random.Intn(256)) // SUBI, SBCI
			immediate(0x4000, d+1, random.Intn(256))
		case 8:
			immediate(0x3000, d, random.Intn(256)) // CPI
			two(0x0400, d+1, r)                    // CPC
		case 9:
			two(0x1400, d, r)
		case 10:
			two(0x2000, d, r)
		case 11:
			two(0x2800, d, r)
		case 12:
			two(0x2400, d, random.Intn(2)*(r-d)+d)
		case 13:
			two(0x2c00, d, r)
		case 14:
			immediate(0x7000, d, []int{0, 0xff, 0x0f, 0x80, random.Intn(256)}[random.Intn(5)])
		case 15:
			immediate(0x6000, d, []int{0, 0xff, random.Intn(256)}[random.Intn(3)])
		case 16:
			one([]uint16{0x9400, 0x9401, 0x9402, 0x9403, 0x940a, 0x9406, 0x9407, 0x9405}[random.Intn(8)], d)
		case 17:
			in(26, 0x3f) // SREG and back
			emit(0x94f8)
			two(0x1400, d, r)
			out(0x3f, 26)
		case 18:
			one(0x920f, d) // PUSH, POP
			one(0x900f, r)
		case 19:
			sts(uint16(0x100+random.Intn(4)), d)
		case 20:
			lds(d, uint16(0x100+random.Intn(4)))
		case 21:
			emit(0xfc00 | uint16(random.Intn(2))<<9 | uint16(d)<<4 | uint16(random.Intn(8))) // SBRC, SBRS
			two(0x2c00, r, reg())
		case 22:
			in(d, 0x15) // TIFR0
		case 23:
			in(d, 0x09) // PIND
			immediate(0x7000, d, 1<<random.Intn(8))
		case 24:
			emit(0x9600 | uint16(random.Intn(2))<<8 | uint16(random.Intn(4))) // ADIW, SBIW of r25:r24
		case 25:
			two(0x0c00, d, 30)
		case 26:
			in(d, 0x24) // TCCR0A, mostly as it is
			immediate(0x7000, d, []int{0x7f, 0xdf, 0xff, 0xfd}[random.Intn(4)])
			out(0x24, d)
		case 27:
			lds(d, 0x80) // TCCR1A
			immediate(0x7000, d, []int{0x7f, 0xdf, 0xfe}[random.Intn(3)])
			sts(0x80, d)
		}
	}
	back := head - len(words) - 1
	flag := []uint16{0, 1, 2, 4}[random.Intn(4)]
	emit(0xf000 | uint16(random.Intn(2))<<10 | uint16(back&0x7f)<<3 | flag)
	emit(0x9a18) // SBI PINB, 0
	emit(0xc000 | uint16((head-len(words)-1)&0xfff))
	var data []byte
	for _, w := range words {
		data = append(data, byte(w), byte(w>>8))
	}
	return &firmware.Image{Flash: []firmware.Segment{{Data: data}}}
}

// Skipping polls changes nothing, whatever the loop computes.
func TestPollsAtRandom(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long; the whole of the tests has it")
	}
	programs := int64(120)
	if os.Getenv("HEMBLE_EXACT") != "" {
		programs = 1500
	}
	skipped, all := int64(0), int64(0)
	for seed := int64(0); seed < programs; seed++ {
		im := pollProgram(rand.New(rand.NewSource(seed)))
		runBoth(t, avr.ATmega328P, im, 15*clock.Millisecond, 5, seed)
		m := avr.New(avr.ATmega328P, machine.Config{})
		require.NoError(t, m.Load(im))
		m.Run(30*clock.Millisecond, deaf{})
		c := m.Counters()
		all += c.Cycles / 2
		skipped += max(0, c.Cycles/2-c.Instructions)
	}
	assert.Greater(t, skipped, all/50, "loops are skipped, some of them for long")
	t.Logf("%d %% of instructions left out", 100*skipped/all)
}

// The packaged core writes a timer's register as it is whenever it reads a pin that the timer could drive: waiting for
// such a pin is left out like any other, and not where the timer drives one.
func TestPollsOfATimersPin(t *testing.T) {
	run := func(control uint16) machine.Counters {
		words := []uint16{0xe080 | control>>4<<8 | control&15, 0xbd84, // LDI R24, control; OUT TCCR0A, R24
			0xb584, 0x778f, 0xbd84, // IN R24, TCCR0A; ANDI R24, 0x7f; OUT TCCR0A, R24
			0xb189, 0xfd82, 0xcffa, // IN R24, PIND; SBRC R24, 2; RJMP to the reading
			0xcff9} // RJMP to the reading
		var data []byte
		for _, w := range words {
			data = append(data, byte(w), byte(w>>8))
		}
		m := avr.New(avr.ATmega328P, machine.Config{})
		require.NoError(t, m.Load(&firmware.Image{Flash: []firmware.Segment{{Data: data}}}))
		m.Run(30*clock.Millisecond, deaf{})
		return m.Counters()
	}
	c := run(0)
	assert.Less(t, c.Instructions, c.Cycles/100)
	c = run(0x40) // OC0A toggles
	assert.Greater(t, c.Instructions, c.Cycles/2)
}
