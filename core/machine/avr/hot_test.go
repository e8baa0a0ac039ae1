package avr_test

import (
	"encoding/binary"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/machine/machinetest"
	_ "hemble/native" // what compiles translations
)

func TestTranslationEqualsPlain(t *testing.T) {
	avr.TranslateSoon(t)
	for _, source := range []string{"compute.c", "sums.c", "busy.c", "numbers.c", "library.c", "polls.c", "polled.c",
		"millis.c"} {
		t.Run(source, func(t *testing.T) {
			runBoth(t, avr.ATmega328P, compile(t, avr.ATmega328P, source, "-Os"), 300*clock.Millisecond, 100, 7)
		})
	}
	t.Run("2560", func(t *testing.T) {
		runBoth(t, avr.ATmega2560, compile(t, avr.ATmega2560, "sums.c", "-Os"), 300*clock.Millisecond, 100, 7)
	})
}

// eagerly is runBoth with all of the program translated; it gives how much of it was carried out so.
func eagerly(t *testing.T, v *avr.Variant, im *firmware.Image, length clock.Time, seed int64) float64 {
	t.Helper()
	var fast machine.Machine
	_, _, _, err := machinetest.Both(func(c machine.Config) machine.Machine {
		m := avr.Eager{Machine: avr.New(v, c).(*avr.Machine)}
		if !c.Reference {
			fast = m.Machine
		}
		return m
	}, im, pins[v], length, 40, seed)
	require.NoError(t, err, "seed %d", seed)
	return float64(avr.Translated(fast)) / float64(fast.Counters().Instructions)
}

// TestTranslationIsLeftBetweenFlags has an interrupt look at flags that the program itself overwrites.
func TestTranslationIsLeftBetweenFlags(t *testing.T) {
	share := eagerly(t, avr.ATmega328P, compile(t, avr.ATmega328P, "early.c", "-Os"), 20*clock.Millisecond, 3)
	assert.Greater(t, share, 0.2)
}

// TestTranslationDrivesPins has programs that do little else, some of them through tables of ports with interrupts off.
func TestTranslationDrivesPins(t *testing.T) {
	for _, source := range []string{"banging.c", "shifted.c", "tables.c"} {
		t.Run(source, func(t *testing.T) {
			im := compile(t, avr.ATmega328P, source, "-Os")
			most := 0.0
			for seed := range int64(8) { // with all pins followed, and with some
				most = max(most, eagerly(t, avr.ATmega328P, im, 3*clock.Millisecond, seed))
			}
			assert.Greater(t, most, 0.8)
		})
	}
}

func TestTranslationCountsAlike(t *testing.T) {
	for _, source := range []string{"compute.c", "sums.c"} {
		im := compile(t, avr.ATmega328P, source, "-Os")
		run := func(length clock.Time) machine.Machine {
			m := avr.New(avr.ATmega328P, machine.Config{})
			require.NoError(t, m.Load(im))
			for m.Now() < length {
				m.Run(m.Now()+7*clock.Millisecond, deaf{})
			}
			return m
		}
		t.Run(source, func(t *testing.T) {
			a := run(clock.Second / 2)
			assert.Zero(t, avr.Translated(a), "too short to be worth it")
			avr.TranslateSoon(t)
			b := run(clock.Second / 2)
			assert.Equal(t, a.Counters(), b.Counters())
			assert.Equal(t, a.Hash(), b.Hash())
			assert.Positive(t, avr.Translated(b))
		})
	}
}

// TestTranslationIsShared has a second machine begin with what the first one had made.
func TestTranslationIsShared(t *testing.T) {
	avr.TranslateSoon(t)
	im := compile(t, avr.ATmega328P, "compute.c", "-Os")
	for i := range 2 {
		m := avr.New(avr.ATmega328P, machine.Config{})
		require.NoError(t, m.Load(im))
		m.Run(700*clock.Millisecond, deaf{})
		assert.Positive(t, avr.Translated(m))
		assert.Equal(t, 1-i, avr.Asked(m))
	}
}

// randomCode is flash full of instructions that a translation has, with outputs, pointers into SRAM and to ports, and
// ways back.
func randomCode(seed int64) *firmware.Image {
	random := rand.New(rand.NewSource(seed))
	var code []uint16
	word := func(w int) { code = append(code, uint16(w)) }
	ldi := func(r, v int) { word(0xe000 | v&0xf0<<4 | (r-16)<<4 | v&15) }
	n := 40 + random.Intn(300)
	ldi(16, random.Intn(256)|0x0f)
	for _, ddr := range []int{4, 7, 10} {
		word(0xb800 | 16<<4 | ddr)
	}
	for len(code) < n {
		d, r, k := random.Intn(32), random.Intn(32), random.Intn(256)
		two := d<<4 | r&16<<5 | r&15
		switch x := random.Intn(28); {
		case x < 8: // of two registers
			word([]int{0x0400, 0x0800, 0x0c00, 0x1000, 0x1400, 0x1800, 0x1c00, 0x2000, 0x2400, 0x2800,
				0x2c00}[random.Intn(11)] | two)
		case x < 10: // with a number
			word([]int{0x3000, 0x4000, 0x5000, 0x6000, 0x7000, 0xe000}[random.Intn(6)] | k&0xf0<<4 | d&15<<4 | k&15)
		case x < 12: // of one register
			word(0x9400 | d<<4 | []int{0, 1, 2, 3, 5, 6, 7, 10}[random.Intn(8)])
		case x < 14: // words, products
			word([]int{0x9600 | k, 0x9700 | k, 0x9600 | k, 0x9700 | k, 0x0100 | k, 0x0200 | k, 0x0300 | k,
				0x9c00 | two}[random.Intn(8)])
		case x < 16: // branches a little away
			word(0xf000 | random.Intn(2)<<10 | (random.Intn(24)-8)&0x7f<<3 | random.Intn(8))
		case x < 17: // skips, bits
			word([]int{0xfc00, 0xfe00, 0xf800, 0xfa00}[random.Intn(4)] | d<<4 | k&7)
		case x < 20: // loads and stores
			pointer := 26 + 2*random.Intn(3)
			ldi(pointer+1, random.Intn(13)-2&0xff)
			for range 1 + random.Intn(4) {
				store := random.Intn(2) << 9
				switch {
				case random.Intn(3) > 0 && pointer > 26:
					word(0x8000 | store | []int{8, 0}[(pointer-28)/2] | random.Intn(25)&0x18<<7 | k&7 | d<<4)
				default:
					word(0x9000 | store | map[int]int{26: 12, 28: 8, 30: 0}[pointer] | 1 + random.Intn(2) | d<<4)
				}
			}
		case x < 21:
			word([]int{0x9000 | d<<4, 0x9200 | d<<4}[random.Intn(2)])
			word(0x100 + random.Intn(0x7ff))
		case x < 22: // stack, and calls that come back
			switch random.Intn(4) {
			case 0:
				word(0x920f | d<<4)
				word(0x900f | r<<4)
			case 1: // rcall .+2; rjmp .+2; ret
				word(0xd001)
				word(0xc001)
				word(0x9508)
			case 2:
				word(0xb60f | d<<4&0x1f0) // in SREG, SPL or SPH
			default:
				word(0x9004 | random.Intn(2) | d<<4) // LPM
			}
		case x < 23:
			word(0x9408 | random.Intn(16)<<4) // bits of SREG
		case x < 24: // from the ports, SPL
			word(0xb000 | d<<4 | random.Intn(4)&3<<9 | random.Intn(16))
		case x < 26: // to ports, mostly PORTx
			switch at := []int{5, 8, 11, 5, 8, 11, 3 + random.Intn(9)}[random.Intn(7)]; random.Intn(4) {
			case 0:
				word(0xb800 | d<<4 | at)
			case 1, 2: // one bit
				word([]int{0x9800, 0x9a00}[random.Intn(2)] | at<<3 | k&7)
			default: // by X
				ldi(26, 0x20+at)
				ldi(27, 0)
				word([]int{0x900c, 0x920c}[random.Intn(2)] | d<<4)
			}
		case x < 27: // skips by ports
			word([]int{0x9900, 0x9b00}[random.Intn(2)] | (3+random.Intn(9))<<3 | k&7)
		default: // SREG, or its own place for SPL or SPH
			at := random.Intn(3)
			if at < 2 {
				word(0xb60d | at | d<<4)
			}
			word(0xbe0d | at | d<<4)
		}
	}
	word(0xc000 | -(len(code)+1-2*random.Intn(3))&0xfff)
	data := make([]byte, 2*len(code))
	for i, w := range code {
		binary.LittleEndian.PutUint16(data[2*i:], w)
	}
	return &firmware.Image{Flash: []firmware.Segment{{Data: data}}}
}

func TestTranslationOfRandomCode(t *testing.T) {
	share := 0.0
	const seeds = 50
	for seed := range int64(seeds) {
		for _, v := range []*avr.Variant{avr.ATmega328P, avr.ATmega2560, avr.ATtiny85} {
			share += eagerly(t, v, randomCode(seed), 10*clock.Millisecond, seed) / (3 * seeds)
		}
	}
	assert.Greater(t, share, 0.15, "of the instructions")
}

// FuzzTranslation translates any flash contents: never a panic, or a difference to the plain interpreter.
func FuzzTranslation(f *testing.F) {
	for seed := range int64(5) {
		f.Add(randomCode(seed).Flash[0].Data, seed)
	}
	f.Fuzz(func(t *testing.T, data []byte, seed int64) {
		if len(data) == 0 || len(data) > 600 { // compiling what is watched for coverage takes long
			return
		}
		v := []*avr.Variant{avr.ATmega328P, avr.ATmega2560, avr.ATtiny85}[uint64(seed)%3]
		eagerly(t, v, &firmware.Image{Flash: []firmware.Segment{{Data: data}}}, clock.Millisecond, seed&0xffff)
	})
}

// TestWhatIsNotTranslated has programs for which a translation would be of no use, or too large.
func TestWhatIsNotTranslated(t *testing.T) {
	avr.TranslateSoon(t)
	var large []byte
	for len(large) < 24_000 { // of 2-word loads from SRAM, which nothing skips
		large = append(large, 0x00, 0x91, 0x00, 0x02)
	}
	large = append(large, 0x0c, 0x94, 2, 0) // not to the reset vector, which counts starts
	for name, im := range map[string]*firmware.Image{
		"left at every third instruction": compile(t, avr.ATmega328P, "banging.c", "-Os"),
		"too large":                       {Flash: []firmware.Segment{{Data: large}}},
		"over soon":                       compile(t, avr.ATmega328P, "library.c", "-Os"),
	} {
		t.Run(name, func(t *testing.T) {
			m := avr.New(avr.ATmega328P, machine.Config{})
			require.NoError(t, m.Load(im))
			m.Run(clock.Second, deaf{})
			assert.Zero(t, avr.Translated(m))
		})
	}
}
