package rp2040

import (
	"math"
	"math/big"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

const (
	spi0    = 0x4003_c000
	rtcAt   = 0x4005_c000
	dmaAt   = 0x5000_0000
	pwmAt   = 0x4005_0000
	unreset = 0x4000_f000 // where bits of RESETS are cleared
)

// slave reads SCK, TX and the select of SPI0 at GP2, GP3 and GP1, and gives bits of its own to GP0.
type slave struct {
	m           *Machine
	late        bool
	idle        bool
	sck, tx, cs bool
	bits        []byte
	selects     int
	gives       []byte
}

func (s *slave) Drive(_ clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	sck := s.sck
	for _, c := range changes {
		high := c.Drive == circuit.DrivenHigh
		switch c.Pin {
		case 1:
			if s.cs && !high {
				s.selects++
			}
			s.cs = high
		case 2:
			s.sck = high
		case 3:
			s.tx = high
		}
	}
	if leading := s.sck != s.idle; s.sck != sck && leading != s.late {
		bit := byte('0')
		if s.tx {
			bit = '1'
		}
		s.bits = append(s.bits, bit)
	}
	if len(s.bits) < len(s.gives) {
		s.m.Input(0, circuit.Level(s.gives[len(s.bits)]-'0'))
	}
	return clock.Never
}

// A frame of SPI in each of the four modes (4.4.3.9 to 4.4.3.13): its bits, when each side takes them, its length.
func TestSPI(t *testing.T) {
	for mode := range uint32(4) {
		var told []machine.Byte
		m := idle(t, machine.Config{Watched: []machine.Pin{0, 1, 2, 3},
			Bytes: func(b machine.Byte) { told = append(told, b) }})
		m.put(t, unreset, 1<<16)
		assert.Equal(t, uint32(3), m.get(t, spi0+0x0c))
		assert.Equal(t, []uint32{0x22, 0x10, 0x34},
			[]uint32{m.get(t, spi0+0xfe0), m.get(t, spi0+0xfe4), m.get(t, spi0+0xfe8)})
		s := &slave{m: m, idle: mode>>1 == 1, late: mode&1 == 1, sck: mode>>1 == 1, cs: true, gives: []byte("0110010100")}
		m.listener = s
		m.Input(0, circuit.Low)
		m.put(t, spi0, 7|mode>>1<<6|mode&1<<7|24<<8)
		m.put(t, spi0+0x10, 10) // 125 MHz / 10 / 25: 500 kHz
		m.put(t, spi0+4, 2)
		for i := range uint32(4) {
			m.put(t, 0x4001_4004+8*i, 1)
		}
		begin := m.Now()
		m.put(t, spi0+8, 0xb1)
		m.put(t, spi0+8, 0x4e)
		assert.NotZero(t, m.get(t, spi0+0x0c)&16, "busy")
		m.Run(begin+100*clock.Microsecond, s)
		assert.Equal(t, "1011000101001110", string(s.bits), "mode %d", mode)
		assert.Equal(t, map[bool]int{false: 2, true: 1}[s.late], s.selects, "mode %d", mode)
		assert.True(t, s.cs)
		assert.Equal(t, uint32(7), m.get(t, spi0+0x0c), "mode %d", mode)
		assert.Equal(t, uint32(0b01100101), m.get(t, spi0+8), "mode %d", mode)
		require.Len(t, told, 2)
		assert.Equal(t, []byte{0xb1, 0x4e}, []byte{told[0].Value, told[1].Value})
		assert.InDelta(t, float64(16*clock.Microsecond), float64(told[0].At-begin), float64(clock.Microsecond))
	}
}

// Interrupts of SPI (4.4.4), and its own line looped back.
func TestSPIInterrupts(t *testing.T) {
	m := idle(t, machine.Config{})
	m.put(t, unreset, 1<<16)
	m.put(t, spi0, 7)
	m.put(t, spi0+0x10, 2)
	m.put(t, spi0+4, 3) // looped
	assert.Equal(t, uint32(spiSend), m.get(t, spi0+0x18))
	for i := range uint32(9) {
		m.put(t, spi0+8, i)
	}
	m.Run(m.Now()+10*clock.Microsecond, &edges{})
	assert.Equal(t, uint32(spiSend|spiReceive|spiRest), m.get(t, spi0+0x18)&^spiOverrun)
	for i := range uint32(8) {
		assert.Equal(t, i, m.get(t, spi0+8))
	}
}

// The calendar goes on by seconds, over the ends of months and years, leap years among them (4.8).
func TestRTC(t *testing.T) {
	for _, c := range []struct {
		from, to date
		noLeap   uint32
	}{
		{date{2024, 2, 28, 3, 23, 59, 58}, date{2024, 2, 29, 4, 0, 0, 0}, 0},
		{date{2023, 2, 28, 2, 23, 59, 58}, date{2023, 3, 1, 3, 0, 0, 0}, 0},
		{date{2100, 2, 28, 0, 23, 59, 58}, date{2100, 3, 1, 1, 0, 0, 0}, rtcNoLeap},
		{date{2023, 12, 31, 6, 23, 59, 58}, date{2024, 1, 1, 0, 0, 0, 0}, 0},
		{date{2023, 4, 30, 6, 12, 59, 59}, date{2023, 4, 30, 6, 13, 0, 1}, 0},
	} {
		m := idle(t, machine.Config{})
		m.put(t, unreset, 1<<15)
		m.put(t, 0x4000_806c, 1<<11|3<<5)     // CLK_RTC: the crystal, divided by 256: 46,875 Hz
		m.put(t, 0x4000_8070, 256<<8)         //
		m.put(t, rtcAt, 46874)                // CLKDIV_M1
		day, time := c.from.words()           //
		m.put(t, rtcAt+4, day)                // SETUP_0
		m.put(t, rtcAt+8, time)               // SETUP_1
		m.put(t, rtcAt+0xc, rtcLoad|c.noLeap) //
		m.put(t, rtcAt+0xc, rtcEnable|c.noLeap)
		assert.NotZero(t, m.get(t, rtcAt+0xc)&rtcActive)
		alarmDay, alarmTime := c.to.words()
		m.put(t, rtcAt+0x24, 1)
		m.put(t, rtcAt+0x14, 7<<28|alarmTime)
		m.put(t, rtcAt+0x10, 1<<28|7<<24|alarmDay)
		begin := m.Now()
		m.Run(begin+1999*clock.Millisecond, &edges{})
		assert.Zero(t, m.get(t, rtcAt+0x2c))
		m.Run(begin+2001*clock.Millisecond, &edges{})
		assert.Equal(t, uint32(1), m.get(t, rtcAt+0x2c), "the alarm")
		gotTime := m.get(t, rtcAt+0x1c)
		assert.Equal(t, c.to, dateOf(m.get(t, rtcAt+0x18), gotTime))
	}
}

// A block of words, halves and bytes is moved, in rings and with its bytes turned; another follows by a chain (2.5).
func TestDMA(t *testing.T) {
	m := idle(t, machine.Config{})
	m.put(t, unreset, 1<<2)
	for i := range uint32(64) {
		m.ram[0x100+i] = byte(i)
	}
	m.put(t, dmaAt+0x404, 3) // INTE0
	m.put(t, dmaAt+0x40, ramAt+0x100)
	m.put(t, dmaAt+0x44, ramAt+0x300)
	m.put(t, dmaAt+0x48, 6)
	m.put(t, dmaAt+0x50, 63<<15|1<<11|0<<2|2<<6|dmaReads|dmaWrites|dmaEnable) // channel 1: bytes, a ring of 4
	m.put(t, dmaAt+0x00, ramAt+0x100)
	m.put(t, dmaAt+0x04, ramAt+0x200)
	m.put(t, dmaAt+0x08, 20)
	m.put(t, dmaAt+0x0c, 63<<15|1<<11|1<<2|dmaSwap|dmaReads|dmaWrites|dmaEnable) // channel 0: halves, then channel 1
	assert.NotZero(t, m.get(t, dmaAt+0x0c)&dmaBusy)
	m.Run(m.Now()+clock.Microsecond, &edges{})
	assert.Zero(t, m.get(t, dmaAt+0x0c)&dmaBusy)
	assert.Equal(t, []byte{1, 0, 3, 2, 5, 4}, m.ram[0x200:0x206])
	assert.Equal(t, []byte{39, 38}, m.ram[0x226:0x228])
	assert.Equal(t, []byte{0, 1, 2, 3, 0, 1}, m.ram[0x300:0x306])
	assert.Equal(t, uint32(3), m.get(t, dmaAt+0x40c))
	m.put(t, dmaAt+0x40c, 1)
	assert.Equal(t, uint32(2), m.get(t, dmaAt+0x400))
	m.put(t, dmaAt+0x08, 0) // two blocks of no data, each chained to the other
	m.put(t, dmaAt+0x48, 0)
	m.put(t, dmaAt+0x50, 63<<15|0<<11|dmaEnable)
	m.put(t, dmaAt+0x0c, 63<<15|1<<11|dmaEnable)
	m.Run(m.Now()+clock.Microsecond, &edges{})
	assert.Equal(t, uint32(3), m.get(t, dmaAt+0x400))
	m.put(t, dmaAt+0x08, 20)
	m.put(t, dmaAt+0x3c, 0xd000_0004) // AL3_READ_ADDR_TRIG: what only the core reaches
	m.Run(m.Now()+clock.Microsecond, &edges{})
	assert.Equal(t, uint32(dmaReadFail|dmaFail), m.get(t, dmaAt+0x0c)&(dmaReadFail|dmaFail|dmaBusy))
	assert.Equal(t, "dma-address", m.Notes()[len(m.Notes())-1].Code)
}

// Each datum waits for what paces it: a timer, a PWM slice, room at an SPI.
func TestDMAIsPaced(t *testing.T) {
	moved := func(m *Machine) uint32 { return 100 - m.get(t, dmaAt+8) }
	begin := func(m *Machine, to, request uint32) {
		m.put(t, dmaAt+0, ramAt)
		m.put(t, dmaAt+4, to)
		m.put(t, dmaAt+8, 100)
		m.put(t, dmaAt+0xc, request<<15|dmaReads|dmaEnable)
	}
	m := idle(t, machine.Config{})
	m.put(t, unreset, 1<<2|1<<14|1<<16)
	m.put(t, dmaAt+0x420, 1<<16|1250) // every 10 µs
	begin(m, ramAt+0x1000, requestTimer)
	from := m.Now()
	m.Run(from+205*clock.Microsecond, &edges{})
	assert.Equal(t, uint32(20), moved(m))
	m.put(t, dmaAt+0x444, 1) // aborted
	m.put(t, pwmAt+0x10, 12499)
	m.put(t, pwmAt+0, 1) // slice 0: every 100 µs
	begin(m, pwmAt+0xc, requestPWM)
	m.Run(m.Now()+1050*clock.Microsecond, &edges{})
	assert.Equal(t, uint32(10), moved(m))
	m.put(t, dmaAt+0x444, 1)
	m.put(t, spi0, 7)
	m.put(t, spi0+0x10, 250) // 16 µs a frame of 8 bits, 2 µs the select
	m.put(t, spi0+0x24, 2)
	m.put(t, spi0+4, 2)
	begin(m, spi0+8, requestSPI)
	m.Run(m.Now()+189*clock.Microsecond, &edges{})
	assert.InDelta(t, 10+1+spiDepth, moved(m), 1)
}

// The functions of the boot ROM for numbers of both precisions, right to the last bit (2.8.3.2).
func TestROMFloats(t *testing.T) {
	m := idle(t, machine.Config{})
	table := func(code string) uint32 {
		r := &m.core.R
		v, _ := m.Read(0x16, 2)
		r[0], r[1], r[14] = v, letters(code), flashAt+0x201
		require.True(t, m.Call(romLookup))
		require.NotZero(t, r[0])
		return r[0]
	}
	call := func(table, offset uint32, arguments ...uint32) [2]uint32 {
		at := m.get(t, table+offset)
		require.Equal(t, uint32(1), at&1)
		copy(m.core.R[:], arguments)
		require.True(t, m.Call(at&^1))
		return [2]uint32{m.core.R[0], m.core.R[1]}
	}
	single, double := table("SF"), table("SD")
	random := rand.New(rand.NewSource(4))
	halves := func(v float64) []uint32 {
		b := math.Float64bits(v)
		return []uint32{uint32(b), uint32(b >> 32)}
	}
	whole := func(r [2]uint32) float64 { return math.Float64frombits(uint64(r[0]) | uint64(r[1])<<32) }
	for range 20_000 {
		x := math.Float32frombits(random.Uint32()&0x8fff_ffff | 0x3000_0000)
		y := math.Float32frombits(random.Uint32()&0x8fff_ffff | 0x3000_0000)
		if random.Intn(2) == 0 { // near each other, so that something is left of a difference
			y = math.Float32frombits(math.Float32bits(x) ^ random.Uint32()&0x8000_0fff)
		}
		for offset, want := range map[uint32]float32{0: x + y, 4: x - y, 8: x * y, 12: x / y,
			0x18: float32(math.Sqrt(float64(max(x, -x))))} {
			a := x
			if offset == 0x18 {
				a = max(x, -x)
			}
			got := call(single, offset, math.Float32bits(a), math.Float32bits(y))
			if want == 0 {
				continue
			}
			require.Equal(t, math.Float32bits(want), got[0], "%d: %g %g", offset, x, y)
		}
		v := math.Float64frombits(random.Uint64()&0x83ff_ffff_ffff_ffff | 0x3c00_0000_0000_0000)
		w := math.Float64frombits(random.Uint64()&0x83ff_ffff_ffff_ffff | 0x3c00_0000_0000_0000)
		a, b := new(big.Float).SetFloat64(v), new(big.Float).SetFloat64(w)
		exact := func() *big.Float { return new(big.Float).SetPrec(53) }
		for offset, want := range map[uint32]*big.Float{0: exact().Add(a, b), 4: exact().Sub(a, b),
			8:  exact().Mul(a, b),
			12: exact().Quo(a, b), 0x18: exact().Sqrt(new(big.Float).Abs(a))} {
			first := v
			if offset == 0x18 {
				first = math.Abs(v)
			}
			f, _ := want.Float64()
			require.Equal(t, f, whole(call(double, offset, append(halves(first), halves(w)...)...)), "%d: %g %g", offset, v, w)
		}
		n := random.Uint64() >> random.Intn(64)
		parts := []uint32{uint32(n), uint32(n >> 32)}
		require.Equal(t, math.Float32bits(float32(n)), call(single, 0x64, parts...)[0], "%d", n)
		require.Equal(t, math.Float32bits(float32(int64(n))), call(single, 0x5c, parts...)[0], "%d", int64(n))
		require.Equal(t, float64(n), whole(call(double, 0x64, parts...)), "%d", n)
		require.Equal(t, float64(int32(n)), whole(call(double, 0x2c, parts...)))
	}
	bits := math.Float32bits
	for _, c := range []struct {
		offset, a, b, want uint32
	}{
		{0x1c, bits(-2.5), 0, 0xffff_fffd}, {0x1c, bits(3e9), 0, 0x7fff_ffff}, {0x24, bits(-1), 0, 0},
		{0x20, bits(1.75), 2, 7}, {0x28, bits(1.75), 1, 3}, {0x30, 7, 2, bits(1.75)}, {0x38, 7, 1, bits(3.5)},
		{0x54, bits(1), bits(2), 0xffff_ffff}, {0x54, bits(2), bits(2), 0}, {0x54, bits(3), bits(2), 1},
		{0x00, 0x0000_0001, bits(0), 0}, // too small for a normal number
		{0x00, 0x7fc0_0000, bits(1), 0x7f80_0000}, {0x0c, bits(1), bits(0), 0x7f80_0000},
		{0x3c, bits(0), 0, bits(1)}, {0x40, bits(1), 0, bits(float32(math.Sin(1)))}, {0x4c, bits(1), 0, bits(math.E)},
		{0x50, bits(math.E), 0, bits(0.99999994)}, {0x58, bits(1), bits(1), bits(math.Pi / 4)},
	} {
		got := call(single, c.offset, c.a, c.b)[0]
		if d := int32(got - c.want); d < -1 || d > 1 || c.offset < 0x3c && d != 0 {
			assert.Equal(t, c.want, got, "0x%02x", c.offset)
		}
	}
	assert.Equal(t, 0.1, float64(math.Float32frombits(call(double, 0x7c, halves(0.1)...)[0]))-1.4901161138336505e-09)
	assert.Equal(t, float64(float32(0.1)), whole(call(single, 0x7c, bits(0.1))))
}
