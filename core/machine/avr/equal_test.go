package avr_test

import (
	"fmt"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/machine/machinetest"
)

// pins is how many a variant has.
var pins = map[*avr.Variant]int{avr.ATmega328P: 24, avr.ATmega168: 24, avr.ATmega2560: 89, avr.ATmega8: 24,
	avr.ATtiny85: 6, avr.ATmega32U4: 41}

// runBoth runs an image on the fast and on the plain interpreter.
func runBoth(t testing.TB, v *avr.Variant, im *firmware.Image, length clock.Time, stops int, seed int64) machine.Stop {
	t.Helper()
	end, _, _, err := machinetest.Both(func(c machine.Config) machine.Machine {
		c.Cover = !c.Reference && seed%2 == 1 // which changes nothing
		return avr.New(v, c)
	}, im, pins[v], length, stops, seed)
	require.NoError(t, err)
	return end
}

func TestFastEqualsPlain(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long; the whole of the tests has it")
	}
	for _, source := range []string{"busy.c", "peripherals.c", "numbers.c", "library.c", "polls.c", "polled.c",
		"millis.c"} {
		for _, level := range []string{"-Os", "-O2"} {
			t.Run(source+level, func(t *testing.T) {
				runBoth(t, avr.ATmega328P, compile(t, avr.ATmega328P, source, level), 2*clock.Second, 400, 7)
			})
		}
	}
	for seed := range int64(4) { // the pins that are followed differ
		t.Run(fmt.Sprint("waves.c ", seed), func(t *testing.T) {
			runBoth(t, avr.ATmega328P, compile(t, avr.ATmega328P, "waves.c", "-Os"), clock.Second/2, 300, seed)
		})
	}
	for _, source := range []string{"busy.c", "polls.c"} {
		t.Run("168-"+source, func(t *testing.T) {
			runBoth(t, avr.ATmega168, compile(t, avr.ATmega168, source, "-Os"), clock.Second, 200, 7)
		})
	}
	for _, v := range []*avr.Variant{avr.ATmega8, avr.ATtiny85, avr.ATmega32U4} {
		t.Run(devices[v]+" siblings.c", func(t *testing.T) {
			runBoth(t, v, compile(t, v, "siblings.c", "-Os"), clock.Second, 200, 7)
		})
	}
	for _, source := range []string{"busy.c", "numbers.c", "library.c", "many.c"} {
		t.Run("2560-"+source, func(t *testing.T) {
			runBoth(t, avr.ATmega2560, compile(t, avr.ATmega2560, source, "-Os"), clock.Second, 200, 7)
		})
	}
}

// randomImage fills flash with random words, most of them instructions.
func randomImage(seed int64) *firmware.Image {
	random := rand.New(rand.NewSource(seed))
	data := make([]byte, 2048+random.Intn(30000)&^1)
	random.Read(data)
	for i := 0; i+1 < len(data); i += 2 { // fewer wild jumps
		if data[i+1]>>4 >= 0xc && data[i+1]>>4 <= 0xd && random.Intn(4) > 0 {
			data[i+1] = data[i+1]&0x0f | 0x20
		}
	}
	return &firmware.Image{Flash: []firmware.Segment{{Data: data}}}
}

func TestFastEqualsPlainOnRandomFlash(t *testing.T) {
	ends := map[machine.Reason]int{}
	for seed := int64(0); seed < 300; seed++ {
		stop := runBoth(t, avr.ATmega328P, randomImage(seed), 4*clock.Millisecond, 12, seed)
		ends[stop.Reason]++
		if seed < 60 {
			runBoth(t, avr.ATmega2560, randomImage(seed), 4*clock.Millisecond, 12, seed)
			runBoth(t, avr.ATmega32U4, randomImage(seed), 4*clock.Millisecond, 12, seed)
		}
		if seed < 120 {
			small := randomImage(seed)
			small.Flash[0].Data = small.Flash[0].Data[:min(len(small.Flash[0].Data), 8000)]
			runBoth(t, avr.ATmega8, small, 4*clock.Millisecond, 12, seed)
			runBoth(t, avr.ATtiny85, small, 4*clock.Millisecond, 12, seed)
		}
	}
	require.Greater(t, len(ends), 3, "random programs end in several ways: %v", ends)
}

// FuzzFlash runs any flash contents: never a panic, a hang or a difference between interpreters.
func FuzzFlash(f *testing.F) {
	f.Add([]byte{0x0c, 0x94, 0x00, 0x00}, int64(1))
	f.Add([]byte{0xff, 0xcf}, int64(2))
	f.Add([]byte{0x78, 0x94, 0x88, 0x95, 0xfe, 0xcf}, int64(3))
	f.Fuzz(func(t *testing.T, data []byte, seed int64) {
		if len(data) == 0 || len(data) > 32768 {
			return
		}
		im := &firmware.Image{Flash: []firmware.Segment{{Data: data}}}
		runBoth(t, avr.ATmega328P, im, clock.Millisecond, 5, seed&0xffff)
		runBoth(t, avr.ATmega2560, im, clock.Millisecond, 5, seed&0xffff)
		runBoth(t, avr.ATmega32U4, im, clock.Millisecond, 5, seed&0xffff)
		if len(data) <= 8192 {
			runBoth(t, avr.ATmega8, im, clock.Millisecond, 5, seed&0xffff)
			runBoth(t, avr.ATtiny85, im, clock.Millisecond, 5, seed&0xffff)
		}
	})
}
