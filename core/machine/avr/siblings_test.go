package avr

import (
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// headers is where avr-libc has the names of each chip's registers.
const headers = "/usr/lib/avr/include/avr/"

// Every register that the compiler's headers have for a chip is there at its address, and no other has a name.
func TestEveryRegisterOfTheHeaders(t *testing.T) {
	define := regexp.MustCompile(`(?m)^#define\s+(\w+)\s+_SFR_(IO|MEM)(8|16)\s*\((0x[0-9A-Fa-f]+)\)`)
	for _, x := range []struct {
		v      *Variant
		files  []string
		beside string // other names for the same register, and what the datasheet has not
	}{
		{ATmega8, []string{"iom8.h"}, "ADCSR MCUSR GIMSK UCSRC"},
		{ATtiny85, []string{"iotnx5.h"}, ""},
		{ATmega32U4, []string{"iom32u4.h"}, "TIFR5 TCNT4H TCNT4L"},
	} {
		t.Run(x.v.title, func(t *testing.T) {
			want, got := map[string]uint16{"SPL": 0x5d, "SPH": 0x5e, "SREG": 0x5f}, map[string]uint16{}
			for _, name := range x.files {
				text, err := os.ReadFile(headers + name)
				require.NoError(t, err)
				for _, m := range define.FindAllStringSubmatch(string(text), -1) {
					a, err := strconv.ParseUint(m[4], 0, 16)
					require.NoError(t, err)
					if m[2] == "IO" {
						a += 0x20
					}
					if m[3] == "8" && !strings.Contains(" "+x.beside+" ", " "+m[1]+" ") {
						want[m[1]] = uint16(a)
					}
				}
			}
			if x.v == ATmega32U4 {
				want["TCNT4"] = 0xbe
				delete(want, "TC4H")
				want["TC4H"] = 0xbf
			}
			for a, r := range x.v.registers {
				if r.name != "" {
					got[r.name] = uint16(a)
				}
			}
			assert.Equal(t, want, got)
		})
	}
}

// on makes a machine of a variant that runs in circles.
func on(t testing.TB, v *Variant, c machine.Config) *Machine {
	t.Helper()
	m := New(v, c).(*Machine)
	require.NoError(t, m.Load(&firmware.Image{Flash: []firmware.Segment{{Data: []byte{0, 0, 0xff, 0xcf}}},
		Fuses: []byte{0xff}}))
	return m
}

// edgesOf collects the times at which a pin changes.
type edgesOf struct {
	pin   machine.Pin
	times []clock.Time
	high  []bool
}

func (e *edgesOf) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		if c.Pin == e.pin {
			e.times = append(e.times, t)
			e.high = append(e.high, c.Drive == circuit.DrivenHigh)
		}
	}
	return clock.Never
}

// The registers of the ATmega8 that have parts of several: what is written comes back, and does what it says.
func TestViewsOfTheATmega8(t *testing.T) {
	m := on(t, ATmega8, machine.Config{})
	for _, x := range []struct {
		address uint16
		mask    uint8
	}{{0x45, 0x7f}, {0x4f, 0xf3}, {0x50, 0x0c}, {0x55, 0xff}, {0x59, 0xfd}, {0x5b, 0xc0}} {
		for _, v := range []uint8{0, 0xff, 0x55, 0xaa, 0x24} {
			m.store(x.address, v)
			assert.Equal(t, v&x.mask, m.load(x.address)&x.mask, "%02x to %02x", v, x.address)
		}
	}
	// TCCR2: CTC, toggling OC2 at every fourth cycle.
	m = on(t, ATmega8, machine.Config{Clock: 8_000_000})
	m.store(0x37, 1<<3)
	m.store(0x43, 3)
	m.store(0x45, 1<<3|1<<4|1)
	e := &edgesOf{pin: 3}
	m.Run(10*clock.Microsecond, e)
	require.Greater(t, len(e.times), 15)
	assert.Equal(t, 4*clock.Second/8_000_000, e.times[5]-e.times[4])
	// UCSRC by its bit 7, UBRRH without; UCSRC is the second of two reads in a row.
	m.store(0x40, 0x8e)
	m.store(0x40, 0x03)
	assert.Equal(t, uint8(3), m.load(0x40))
	m.cycle++
	assert.Equal(t, uint8(0x8e), m.load(0x40))
	// Flags are cleared by ones, each by its own.
	m = on(t, ATmega8, machine.Config{})
	m.io[0x36], m.io[0x37] = 0x21, 0x03
	assert.Equal(t, uint8(0xe4), m.load(0x58))
	m.store(0x58, 0x84)
	assert.Equal(t, uint8(0x60), m.load(0x58))
}

// Its vectors are one word each, and it has no JMP.
func TestShortVectors(t *testing.T) {
	m := New(ATmega8, machine.Config{}).(*Machine)
	words := make([]uint16, 40)
	words[0], words[9] = 0xc013, 0xc014 // rjmp 20; timer 0's overflow: rjmp 30
	copy(words[20:], []uint16{0xe001, 0xbf03, 0xe001, 0xbf09, 0x9478,
		0xcfff}) // r16 = 1; out TCCR0; out TIMSK; sei; rjmp .
	copy(words[30:], []uint16{0x9513, 0x9518}) // inc r17; reti
	var data []byte
	for _, w := range words {
		data = append(data, byte(w), byte(w>>8))
	}
	require.NoError(t, m.Load(&firmware.Image{Flash: []firmware.Segment{{Data: data}}}))
	m.data[17] = 0
	m.Run(m.now.at(256*10+100), &edgesOf{})
	assert.Equal(t, uint8(10), m.data[17])
	for _, v := range []*Variant{ATmega8, ATtiny85} {
		assert.True(t, v.lacks(opJMP))
	}
	assert.True(t, ATtiny85.lacks(opMUL))
	assert.False(t, ATmega8.lacks(opMUL))
}

// Timer 1 of the ATtiny85: PWM with OCR1C as TOP, its dividers, and the PLL as its clock.
func TestFastTimerOfTheATtiny85(t *testing.T) {
	for _, x := range []struct {
		tccr1, ocr1c, ocr1a uint8
		pll                 bool
		period, high        clock.Time
	}{
		{0x61, 99, 24, false, 100 * clock.Second / 8_000_000, 25 * clock.Second / 8_000_000},
		{0x64, 199, 49, false, 200 * clock.Microsecond, 50 * clock.Microsecond},
		{0x64, 199, 49, true, 25 * clock.Microsecond, 25 * clock.Microsecond / 4}, // eight times as fast
	} {
		m := on(t, ATtiny85, machine.Config{Clock: 8_000_000})
		m.store(0x37, 0x3f)
		if x.pll {
			m.store(0x47, bitPLLE)
			assert.Zero(t, m.load(0x47)&1)
			m.Run(101*clock.Microsecond, &edgesOf{})
			assert.Equal(t, uint8(1), m.load(0x47)&1, "locked")
			m.store(0x47, bitPLLE|bitPCKE)
		}
		m.store(0x4d, x.ocr1c)
		m.store(0x4e, x.ocr1a)
		m.store(0x50, x.tccr1)
		e := &edgesOf{pin: 1}
		m.Run(m.Now()+10*x.period, e)
		require.Greater(t, len(e.times), 10)
		n := 4
		if !e.high[n] {
			n++
		}
		assert.Equal(t, x.high, e.times[n+1]-e.times[n])
		assert.Equal(t, x.period, e.times[n+2]-e.times[n])
	}
}

// The USI as the master of three wires: a byte goes out by sixteen strobes, and the one that comes in is in the buffer.
func TestUSI(t *testing.T) {
	m := on(t, ATtiny85, machine.Config{Clock: 8_000_000})
	m.store(0x37, 1<<1|1<<2) // DO and USCK
	m.store(0x2f, 0xb4)
	m.store(0x2e, bitUSIOIF)
	m.store(0x2d, bitUSIWM0|bitUSICS1|bitUSICLK)
	var sent, got uint8
	const answer = 0x6a
	for n := 0; m.load(0x2e)&bitUSIOIF == 0 && n < 20; n++ {
		if n&1 == 0 { // before a rising edge: both sides have their bit out
			level := circuit.Low
			if answer<<(n/2)&0x80 != 0 {
				level = circuit.High
			}
			m.Input(0, level)
			sent <<= 1
			if m.Drives(1) == circuit.DrivenHigh {
				sent |= 1
			}
		}
		m.store(0x2d, bitUSIWM0|bitUSICS1|bitUSICLK|bitUSITC)
		m.cycle += 4
	}
	got = m.load(0x30)
	assert.Equal(t, uint8(0xb4), sent)
	assert.Equal(t, uint8(answer), got)
	// In two-wire mode pins only pull low, and a start is told.
	m = on(t, ATtiny85, machine.Config{Clock: 8_000_000})
	m.store(0x38, 1<<0|1<<2)
	m.store(0x37, 1<<0|1<<2)
	m.store(0x2f, 0x7f)
	m.store(0x2d, bitUSIWM1)
	assert.Equal(t, circuit.DrivenLow, m.Drives(0))
	m.store(0x2f, 0xff)
	assert.NotEqual(t, circuit.PushPull, m.Drives(0).Strength)
	m.Input(0, circuit.High)
	m.Input(2, circuit.High)
	m.store(0x2e, 0xe0)
	m.Input(0, circuit.Low)
	assert.NotZero(t, m.load(0x2e)&bitUSISIF)
	m.Input(0, circuit.High)
	assert.NotZero(t, m.load(0x2e)&bitUSIPF)
}

// Timer 4 of the ATmega32U4: ten bits by way of TC4H, OCR4C as TOP, up and down.
func TestTimer4OfTheATmega32U4(t *testing.T) {
	for _, x := range []struct {
		d            uint8
		period, high clock.Time
	}{{0, 1000 * clock.Microsecond, 251 * clock.Microsecond}, {1, 2 * 999 * clock.Microsecond,
		2 * 250 * clock.Microsecond}} {
		m := on(t, ATmega32U4, machine.Config{Clock: 16_000_000})
		m.store(0x28, 1<<7|1<<6) // PC7 out
		m.store(0x27, 1<<7)
		m.store(0xbf, 999>>8)
		m.store(0xd1, 999&0xff)
		m.store(0xbf, 0)
		m.store(0xcf, 250)
		m.store(0xc3, x.d)
		m.store(0xc0, 0x82) // COM4A1, PWM4A
		m.store(0xc1, 5)    // 1 µs
		e := &edgesOf{pin: 15}
		m.Run(m.Now()+8*x.period, e)
		require.Greater(t, len(e.times), 10)
		n := 4
		if !e.high[n] {
			n++
		}
		assert.Equal(t, x.high, e.times[n+1]-e.times[n])
		assert.Equal(t, x.period, e.times[n+2]-e.times[n])
		m.load(0xbe)
		assert.LessOrEqual(t, m.load(0xbf), uint8(3))
	}
}
