package rp2040

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// idle is a machine whose program does nothing, with the clocks as programs set them: 125 MHz, microseconds counted.
func idle(t testing.TB, config machine.Config) *Machine {
	t.Helper()
	m := newMachine(config).(*Machine)
	data := make([]byte, 0x400)
	for i, v := range []uint32{ramAt + ramSize, flashAt + 0x201} {
		for k := range 4 {
			data[secondStage+4*i+k] = byte(v >> (8 * k))
		}
	}
	data[0x200], data[0x201] = 0xfe, 0xe7 // b .
	im := &firmware.Image{Flash: []firmware.Segment{{Address: flashAt, Data: data}}}
	seal(im)
	require.NoError(t, m.Load(im))
	for _, w := range [][2]uint32{{0x4002_400c, 47}, {0x4002_4000, 0xfa_baa0}, {0x4000_8030, 2}, {0x4000_f000, 1 << 12},
		{0x4002_8008, 125}, {0x4002_b004, 0x21}, {0x4002_800c, 6<<16 | 2<<12}, {0x4002_b004, 8}, {0x4000_803c, 1},
		{0x4000_8048, 1 << 11}, {0x4005_802c, 1<<9 | 12}, {0x4000_f000, 1<<5 | 1<<8 | 1<<21}} {
		require.True(t, m.Write(w[0], 4, w[1]))
	}
	require.EqualValues(t, 125_000_000, m.now.Rate)
	return m
}

func (m *Machine) get(t testing.TB, address uint32) uint32 {
	v, ok := m.Read(address, 4)
	require.True(t, ok, "0x%08X", address)
	return v
}

func (m *Machine) put(t testing.TB, address, v uint32) {
	require.True(t, m.Write(address, 4, v), "0x%08X", address)
}

// edges keeps when pins changed.
type edges struct {
	at    []clock.Time
	drive []circuit.Drive
}

func (e *edges) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		e.at, e.drive = append(e.at, t), append(e.drive, c.Drive)
	}
	return clock.Never
}

// Registers as they are after reset (2.14.3, 2.15.7, 2.16.7, 2.18.4, 2.19.6, 4.6.5, 4.7.6).
func TestResetValues(t *testing.T) {
	m := newMachine(machine.Config{}).(*Machine)
	for address, want := range map[uint32]uint32{0x4000_c000: 0x1ff_ffff, 0x4000_c008: 0, 0x4000_8038: 1,
		0x4000_8044: 1,
		0x4002_4004: 0, 0x4002_400c: 0xc4, 0x4005_802c: 0x200, 0xd000_0000: 0, 0xd000_0078: 1} {
		assert.Equal(t, want, m.get(t, address), "0x%08X", address)
	}
	m.put(t, 0x4000_f000, 1<<5|1<<8|1<<12) // clears bits
	assert.Equal(t, uint32(0x1ff_ffff&^(1<<5|1<<8|1<<12)), m.get(t, 0x4000_c000))
	assert.Equal(t, uint32(1<<5|1<<8|1<<12), m.get(t, 0x4000_c008))
	for address, want := range map[uint32]uint32{0x4001_4004: 0x1f, 0x4001_c004: 0x56, 0x4002_8000: 1,
		0x4002_8004: 0x2d,
		0x4002_800c: 0x7_7000} {
		assert.Equal(t, want, m.get(t, address), "0x%08X", address)
	}
	m.put(t, 0x4000_e000, 1<<5) // sets bits
	m.put(t, 0x4000_d000, 1<<8) // turns them
	assert.Equal(t, uint32(1<<12), m.get(t, 0x4000_c008))
	assert.Equal(t, circuit.PulledDown, m.Drives(3), "pads pull down at first")
}

// A peripheral that is held in reset does not answer, and the program is told.
func TestHeldInReset(t *testing.T) {
	m := newMachine(machine.Config{}).(*Machine)
	m.put(t, 0x4005_4010, 1)
	assert.Zero(t, m.get(t, 0x4005_4010))
	require.Len(t, m.Notes(), 1)
	assert.Equal(t, "in-reset TIMER", m.Notes()[0].Code)
	m.put(t, 0x5020_0000, 1)
	assert.Equal(t, "unmodelled PIO0", m.Notes()[1].Code)
	_, ok := m.Read(0x4300_0000, 4)
	assert.False(t, ok)
}

func TestTimer(t *testing.T) {
	m := idle(t, machine.Config{})
	begin := m.get(t, 0x4005_4028)
	m.put(t, 0x4005_4038, 2)         // INTE
	m.put(t, 0x4005_4014, begin+100) // ALARM1
	assert.Equal(t, uint32(2), m.get(t, 0x4005_4020))
	before := m.Now()
	m.Run(before+99*clock.Microsecond, &edges{})
	assert.Equal(t, begin+99, m.get(t, 0x4005_4028))
	assert.Zero(t, m.get(t, 0x4005_4034))
	m.Run(before+101*clock.Microsecond, &edges{})
	assert.Equal(t, uint32(2), m.get(t, 0x4005_4034))
	assert.Zero(t, m.get(t, 0x4005_4020), "an alarm comes once")
	m.put(t, 0x4005_4034, 2)
	assert.Zero(t, m.get(t, 0x4005_4040))
	m.put(t, 0x4005_4000, 7) // TIMEHW, TIMELW
	m.put(t, 0x4005_4004, 0xffff_ffff)
	m.Run(m.Now()+clock.Microsecond, &edges{})
	low := m.get(t, 0x4005_400c)
	assert.Equal(t, []uint32{0, 8}, []uint32{low, m.get(t, 0x4005_4008)}, "the upper half is latched with the lower")
}

func TestPins(t *testing.T) {
	m := idle(t, machine.Config{})
	e := &edges{}
	m.listener = e
	m.put(t, 0x4001_4004+8*7, 5)
	m.put(t, 0xd000_0024, 1<<7)
	assert.Equal(t, circuit.DrivenLow, m.Drives(7))
	m.put(t, 0xd000_0014, 1<<7)
	assert.Equal(t, circuit.DrivenHigh, m.Drives(7))
	m.put(t, 0xd000_001c, 1<<7)
	m.put(t, 0xd000_0018, 1<<7)
	assert.Equal(t, circuit.DrivenLow, m.Drives(7))
	m.put(t, 0x4001_4004+8*7, 5|1<<8) // OUTOVER: turned round
	assert.Equal(t, circuit.DrivenHigh, m.Drives(7))
	m.put(t, 0x4001_4004+8*7, 5|2<<12) // OEOVER: off
	assert.Equal(t, circuit.PulledDown, m.Drives(7))
	m.put(t, 0x4001_c004+4*7, 0x4a)
	assert.Equal(t, circuit.PulledUp, m.Drives(7))
	m.put(t, 0x4001_c004+4*7, 0xc0) // OD, IE
	m.put(t, 0x4001_4004+8*7, 5)
	assert.Equal(t, circuit.Released, m.Drives(7))

	m.Input(9, circuit.High)
	assert.Equal(t, uint32(1<<9), m.get(t, 0xd000_0004)&(1<<9))
	m.put(t, 0x4001_c004+4*9, 0x16) // no input
	assert.Zero(t, m.get(t, 0xd000_0004)&(1<<9))
	m.put(t, 0x4001_c004+4*9, 0x56)
	m.put(t, 0x4001_4104, 4<<4) // INTE of GP9: an edge down
	m.Input(9, circuit.Low)
	assert.Equal(t, uint32(4<<4), m.get(t, 0x4001_4124)&(15<<4))
	m.put(t, 0x4001_40f4, 4<<4)
	assert.Zero(t, m.get(t, 0x4001_4124)&(15<<4))
}

// The divider and the spinlocks of SIO (2.3.1.3, 2.3.1.5).
func TestSIO(t *testing.T) {
	m := idle(t, machine.Config{})
	random := rand.New(rand.NewSource(1))
	for range 2000 {
		a, b := random.Uint32()>>random.Intn(32), random.Uint32()>>random.Intn(32)
		m.put(t, 0xd000_0060, a)
		m.put(t, 0xd000_0064, b)
		rest, quotient := m.get(t, 0xd000_0074), m.get(t, 0xd000_0070)
		if b == 0 {
			assert.Equal(t, []uint32{0xffff_ffff, a}, []uint32{quotient, rest})
			continue
		}
		assert.Equal(t, []uint32{a / b, a % b}, []uint32{quotient, rest})
	}
	m.put(t, 0xd000_0068, 0xffff_fff9) // -7
	m.put(t, 0xd000_006c, 2)
	assert.Equal(t, []uint32{0xffff_fffd, 0xffff_ffff}, []uint32{m.get(t, 0xd000_0070), m.get(t, 0xd000_0074)})
	assert.Equal(t, uint32(8), m.get(t, 0xd000_010c))
	assert.Zero(t, m.get(t, 0xd000_010c), "it is taken")
	m.put(t, 0xd000_010c, 1)
	assert.Equal(t, uint32(8), m.get(t, 0xd000_010c))
}

// A PWM slice gives a wave of its rate and share (4.5.2), and one that turns has a centre.
func TestPWM(t *testing.T) {
	m := idle(t, machine.Config{Watched: []machine.Pin{4}})
	m.put(t, 0x4000_f000, 1<<14)
	for _, w := range [][2]uint32{{0x4005_002c, 125 << 4}, {0x4005_0038, 999}, {0x4005_0034, 250}, {0x4005_0028, 1}} {
		m.put(t, w[0], w[1]) // slice 2: DIV, TOP, CC, CSR
	}
	m.put(t, 0x4001_4004+8*4, 4)
	e := &edges{}
	begin := m.Now()
	m.Run(begin+4*clock.Millisecond, e)
	require.GreaterOrEqual(t, len(e.at), 7)
	for i := 2; i < len(e.at); i++ {
		assert.Equal(t, clock.Millisecond, e.at[i]-e.at[i-2], "each edge comes again after a period")
		if e.drive[i] == circuit.DrivenLow {
			assert.Equal(t, 250*clock.Microsecond, e.at[i]-e.at[i-1])
		}
	}
	m.put(t, 0x4005_0028, 3) // up and down: twice as long
	e = &edges{}
	m.Run(m.Now()+9*clock.Millisecond, e)
	assert.Equal(t, 1998*clock.Microsecond, e.at[5]-e.at[3])
}

// A byte goes out as a frame, the lowest bit first (4.2.3), and one that comes in is read.
func TestUART(t *testing.T) {
	var got []machine.Byte
	m := idle(t, machine.Config{Watched: []machine.Pin{0}, Bytes: func(b machine.Byte) { got = append(got, b) }})
	m.put(t, 0x4000_f000, 1<<22)
	for _, w := range [][2]uint32{{0x4003_4024, 813}, {0x4003_4028, 51}, {0x4003_402c, 0x70}, {0x4003_4030, 0x301},
		{0x4001_4004, 2}, {0x4001_400c, 2}} {
		m.put(t, w[0], w[1]) // 9600 baud
	}
	m.Run(m.Now()+clock.Millisecond, &edges{})
	begin := m.Now()
	e := &edges{}
	m.listener = e
	m.put(t, 0x4003_4000, 0x53)
	assert.Equal(t, uint32(8), m.get(t, 0x4003_4018)&8, "busy")
	m.Run(begin+2*clock.Millisecond, e)
	const bit = clock.Second / 9600
	var edge []int
	for _, at := range e.at {
		edge = append(edge, int((at-begin+bit/2)/bit))
	}
	assert.Equal(t, []int{0, 1, 3, 5, 6, 7, 8, 9}, edge, "0, 1100 1010, 1")
	require.Len(t, got, 1)
	assert.EqualValues(t, 0x53, got[0].Value)
	assert.InDelta(t, float64(10*bit), float64(got[0].At-begin), float64(bit)/20)

	m.Input(1, circuit.High)                                              // between frames
	for i, level := range []circuit.Level{0, 1, 0, 1, 1, 0, 0, 1, 0, 1} { // 0x4D
		m.Input(1, level)
		m.Run(begin+2*clock.Millisecond+clock.Time(i+1)*bit, e)
	}
	assert.Zero(t, m.get(t, 0x4003_4018)&16, "something has come")
	assert.Equal(t, uint32(0x4d), m.get(t, 0x4003_4000))
	assert.Equal(t, uint32(16), m.get(t, 0x4003_4018)&16)
}

func TestADC(t *testing.T) {
	m := idle(t, machine.Config{Sample: func(p machine.Pin) (int64, bool) { return 1_100_000, p == 27 }})
	m.put(t, 0x4000_f000, 1)
	m.put(t, 0x4000_8060, 1<<11|3<<5) // the crystal
	m.put(t, 0x4004_c000, 1<<12|4|1)
	assert.Zero(t, m.get(t, 0x4004_c000)&(1<<8), "under way")
	m.Run(m.Now()+9*clock.Microsecond, &edges{})
	assert.Equal(t, uint32(1<<8), m.get(t, 0x4004_c000)&(1<<8))
	assert.Equal(t, uint32(1365), m.get(t, 0x4004_c004))
}

// An I2C byte to an address where nobody answers: a start, seven bits and the direction, no acknowledge, a stop
// (4.3.2); where SDA is held low at its ninth bit it is acknowledged, and the byte follows.
func TestI2C(t *testing.T) {
	for _, acknowledged := range []bool{false, true} {
		m := idle(t, machine.Config{Watched: []machine.Pin{4, 5}})
		m.put(t, 0x4000_f000, 1<<3)
		for _, w := range [][2]uint32{{0x4001_c014, 0x5a}, {0x4001_c018, 0x5a}, {0x4001_4024, 3}, {0x4001_402c, 3},
			{0x4004_4000, 0x165}, {0x4004_401c, 499}, {0x4004_4020, 749}, {0x4004_4004, 0x27}, {0x4004_406c, 1}} {
			m.put(t, w[0], w[1])
		}
		m.Input(4, circuit.High)
		m.Input(5, circuit.High)
		w := &wires{m: m, answers: acknowledged}
		m.listener = w
		m.put(t, 0x4004_4010, 0xa5|1<<9)
		m.Run(m.Now()+clock.Millisecond, w)
		assert.Equal(t, uint32(1<<9), m.get(t, 0x4004_4034)&(1<<9), "a stop")
		if !acknowledged {
			assert.Equal(t, "S 010011101 P", w.seen)
			assert.Equal(t, uint32(noAddress), m.get(t, 0x4004_4080))
			continue
		}
		assert.Equal(t, "S 010011100101001010 P", w.seen)
		assert.Zero(t, m.get(t, 0x4004_4080))
	}
}

// wires are SDA and SCL with a device that acknowledges, if it does.
type wires struct {
	m        *Machine
	answers  bool
	sda, scl bool // what the chip lets be high, turned round
	bits     int
	seen     string
}

func (w *wires) Drive(_ clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		low := c.Drive == circuit.DrivenLow
		switch {
		case c.Pin == 5 && w.scl && !low: // SCL goes high
			w.bits++
			ninth := w.bits%9 == 0 && w.answers
			if bit := "1"; !w.stops() {
				if w.sda || ninth {
					bit = "0"
				}
				w.seen += bit
			}
		case c.Pin == 4 && !w.scl && low && w.seen == "":
			w.seen = "S "
		case c.Pin == 4 && !w.scl && !low && w.sda:
			w.seen += " P"
		}
		if c.Pin == 4 {
			w.sda = low
		} else {
			w.scl = low
		}
	}
	level := circuit.High
	if w.sda || w.answers && w.bits%9 == 8 && w.scl || w.answers && w.bits%9 == 0 && w.bits > 0 && !w.scl &&
		!w.stops() {
		level = circuit.Low
	}
	w.m.Input(4, level)
	clockLevel := circuit.High
	if w.scl {
		clockLevel = circuit.Low
	}
	w.m.Input(5, clockLevel)
	return clock.Never
}

// stops tells that all bits have been sent: what comes is the stop.
func (w *wires) stops() bool {
	if w.answers {
		return w.bits > 18
	}
	return w.bits > 9
}

// The watchdog resets the chip, and says so afterwards.
func TestWatchdog(t *testing.T) {
	m := idle(t, machine.Config{})
	m.put(t, 0x4005_800c, 77) // SCRATCH0
	m.put(t, 0x4005_8004, 2000)
	m.put(t, 0x4005_8000, 1<<30)
	m.Run(m.Now()+990*clock.Microsecond, &edges{})
	assert.EqualValues(t, 0, m.core.Counters.Resets)
	m.Run(m.Now()+20*clock.Microsecond, &edges{})
	assert.EqualValues(t, 1, m.core.Counters.Resets)
	assert.Equal(t, []uint32{1, 77}, []uint32{m.get(t, 0x4005_8008), m.get(t, 0x4005_800c)})
}

// A program that resets itself over and over ends with the reason.
func TestResetLoop(t *testing.T) {
	m := idle(t, machine.Config{})
	copy(m.flash[0x200:], []byte{0x01, 0x48, 0x02, 0x49, 0x01, 0x60, 0xfe, 0xe7, 0x0c, 0xed, 0x00, 0xe0, 0x04, 0x00,
		0xfa, 0x05})
	stop := m.Run(clock.Second, &edges{})
	assert.Equal(t, machine.ResetLoop, stop.Reason, stop.Text)
	assert.Contains(t, stop.Text, "started 65 times")
}

// Functions of the boot ROM are found by their letters, and do what they are for (2.8.3).
func TestROM(t *testing.T) {
	m := idle(t, machine.Config{})
	half := func(address uint32) uint32 {
		v, ok := m.Read(address, 2)
		require.True(t, ok)
		return v
	}
	assert.Equal(t, []uint32{'M' | 'u'<<8, 1 | 3<<8}, []uint32{half(0x10), half(0x12)})
	call := func(code string, arguments ...uint32) uint32 {
		r := &m.core.R
		r[0], r[1], r[14] = half(0x14), uint32(code[0])|uint32(code[1])<<8, flashAt+0x201
		require.True(t, m.Call(half(0x18)&^1))
		at := r[0]
		require.NotZero(t, at, code)
		copy(r[:], arguments)
		require.True(t, m.Call(at&^1))
		assert.EqualValues(t, flashAt+0x200, r[15])
		return r[0]
	}
	assert.EqualValues(t, 3, call("P3", 0x8000_0101))
	assert.EqualValues(t, 0x8080_0001, call("R3", 0x8000_0101))
	assert.EqualValues(t, 4, call("L3", 0x0f00_0000))
	assert.EqualValues(t, 24, call("T3", 0x0f00_0000))
	call("MS", ramAt+100, 0xab, 5)
	assert.Equal(t, []byte{0xab, 0xab}, m.ram[103:105])
	call("MC", ramAt+200, ramAt+102, 4)
	assert.Equal(t, []byte{0xab, 0xab, 0xab}, m.ram[200:203])
	call("MS", 0xffff_fff0, 1, 0xffff_ffff) // nonsense ends, too
}

// An image without a valid second stage does not start, and the reason says what is wrong.
func TestNoStart(t *testing.T) {
	m := newMachine(machine.Config{}).(*Machine)
	require.NoError(t, m.Load(&firmware.Image{Flash: []firmware.Segment{{Address: flashAt, Data: make([]byte, 600)}}}))
	stop := m.Run(clock.Second, &edges{})
	assert.Equal(t, machine.NoStart, stop.Reason)
	assert.Contains(t, stop.Text, "do not have their checksum")
	require.ErrorContains(t, m.Load(&firmware.Image{Machine: firmware.MachineAVR}), "not for an Arm core")
	require.ErrorContains(t,
		m.Load(&firmware.Image{Flash: []firmware.Segment{{Address: 0x2000_0000, Data: []byte{1}}}}),
		"the flash of this board is 0x10000000 to 0x101FFFFF")
}

// The second stage that programs are built with has its checksum.
func TestSecondStage(t *testing.T) {
	im := compile(t, []string{"-Os"}, "testdata/blink.c")
	from, ok := raw(im.Flash[0].Data)
	assert.True(t, ok)
	assert.EqualValues(t, flashAt, from)
}

// Any image ends in some way or goes on, in bounded time, with leaving waits out or without: the same.
func FuzzImage(f *testing.F) {
	f.Add([]byte{0x00, 0xbe}, uint32(ramAt+0x1000), uint32(flashAt+0x201), int64(1))
	f.Add([]byte{0xfe, 0xe7}, uint32(0xffff_fff0), uint32(0x4000_0001), int64(2))
	f.Fuzz(func(t *testing.T, code []byte, sp, pc uint32, seed int64) {
		if len(code) > 8000 {
			return
		}
		data := make([]byte, 0x200, 0x200+len(code))
		for i := 0; i < 0x100; i += 4 {
			for k := range 4 {
				data[secondStage+i+k] = byte(pc >> (8 * k))
			}
		}
		for k := range 4 {
			data[secondStage+k] = byte(sp >> (8 * k))
		}
		im := &firmware.Image{Flash: []firmware.Segment{{Address: flashAt, Data: append(data, code...)}}}
		seal(im)
		_, _, _, err := machinetest.Both(eager, im, 4, 100*clock.Microsecond, 4, seed&0xffff)
		require.NoError(t, err)
	})
}
