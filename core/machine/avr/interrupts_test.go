package avr

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// counting is a machine each of whose vectors counts its interrupts in SRAM: vector n increments
// byte 0x200+n. The program behind sets I and waits.
func counting(t *testing.T) *Machine {
	const vectors = 26
	code := make([]uint16, 2*vectors)
	handlers := uint16(2*vectors + 2)
	body := []uint16{sei, self}
	for n := uint16(0); n < vectors; n++ {
		start := handlers + n*6
		code[2*n], code[2*n+1] = 0x940c, start // jmp
		// lds r16,0x200+n; inc r16; sts 0x200+n,r16; reti
		body = append(body, 0x9100, 0x0200+n, 0x9503, 0x9300, 0x0200+n, reti)
	}
	code[0], code[1] = 0x940c, 2*vectors
	m := program(t, false, append(code, body...)...)
	for i := range m.ports {
		m.ports[i].watched = 0xff
		m.releasePort(i)
	}
	clear(m.data[0x200:0x240])
	m.to(20)
	return m
}

func (m *Machine) counts() map[int]int {
	out := map[int]int{}
	for n := 0; n < 26; n++ {
		if v := m.data[0x200+n]; v != 0 {
			out[n] = int(v)
		}
	}
	return out
}

// Every source reaches its own vector, as often as it should.
func TestVectors(t *testing.T) {
	for name, c := range map[string]struct {
		set  func(m *Machine)
		want map[int]int
	}{
		"timer 0 overflow": {func(m *Machine) { m.store(0x6e, 1); m.store(0x45, 1) }, map[int]int{16: 39}},
		"timer 0 compare": {func(m *Machine) {
			m.store(0x47, 99)
			m.store(0x44, 2)
			m.store(0x6e, 2)
			m.store(0x45,
				1)
		}, map[int]int{14: 100}},
		"timer 0 compare B": {func(m *Machine) {
			m.store(0x47, 199)
			m.store(0x48, 7)
			m.store(0x44, 2)
			m.store(0x6e, 4)
			m.store(0x45, 1)
		}, map[int]int{15: 50}},
		"timer 1 compare": {func(m *Machine) {
			m.store(0x89, 3)
			m.store(0x88, 0xe7)
			m.store(0x6f, 2)
			m.store(0x81,
				9)
		}, map[int]int{11: 10}},
		"timer 1 top": {func(m *Machine) {
			m.store(0x81, 0x18)
			m.store(0x87, 3)
			m.store(0x86, 0xe7)
			m.store(0x6f, bitICF)
			m.store(0x81, 0x19)
		}, map[int]int{10: 10}},
		"timer 2 overflow": {func(m *Machine) { m.store(0x70, 1); m.store(0xb1, 2) }, map[int]int{9: 4}},
		"timer 2 compare": {func(m *Machine) {
			m.store(0xb3, 49)
			m.store(0xb0, 2)
			m.store(0x70, 2)
			m.store(0xb1,
				1)
		}, map[int]int{7: 200}},
		"USART empty": {func(m *Machine) { m.store(0xc1, bitTXEN|0x20) }, nil},
		"USART sent": {func(m *Machine) { m.store(0xc4, 9); m.store(0xc1, bitTXEN|0x40); m.store(0xc6, 1) },
			map[int]int{20: 1}},
		"watchdog": {func(m *Machine) { m.store(regWDTCSR, bitWDIE) }, nil},
	} {
		t.Run(name, func(t *testing.T) {
			m := counting(t)
			m.presync.base, m.preasync.base = m.cycle, m.cycle
			c.set(m)
			m.to(m.cycle + 10_020)
			if c.want == nil { // by time, or for ever
				m.Run(m.Now()+20*clock.Millisecond, nil)
				require.Len(t, m.counts(), 1)
				return
			}
			for vector, n := range c.want {
				assert.InDelta(t, n, m.counts()[vector], 1)
				assert.Len(t, m.counts(), 1)
			}
		})
	}
}

func TestPinsInterrupt(t *testing.T) {
	m := counting(t)
	for _, p := range []machine.Pin{18, 19, 0, 9, 23} {
		m.Input(p, circuit.High)
	}
	m.store(regEICRA, 0x06) // INT0 falling, INT1 any
	m.store(regEIMSK, 3)
	m.store(regPCICR, 7)
	m.store(regPCMSK0, 1)
	m.store(regPCMSK0+1, 2)
	m.store(regPCMSK0+2, 0x80)
	for i := 0; i < 10; i++ {
		level := circuit.Level(i & 1)
		for _, p := range []machine.Pin{18, 19, 0, 9, 23} {
			m.Input(p, level)
			m.to(m.cycle + 100)
		}
	}
	assert.Equal(t, map[int]int{1: 5, 2: 10, 3: 10, 4: 10, 5: 10}, m.counts())
}

// While its pin is low a level interrupt comes again and again; the program runs on between.
func TestLevelInterrupt(t *testing.T) {
	m := counting(t)
	m.Input(18, circuit.High)
	m.store(regEIMSK, 1)
	m.to(m.cycle + 200)
	assert.Empty(t, m.counts())
	m.Input(18, circuit.Low)
	m.externalRequests()
	m.to(m.cycle + 500)
	n := m.counts()[1]
	assert.Greater(t, n, 10)
	m.Input(18, circuit.High)
	m.externalRequests()
	m.to(m.cycle + 500)
	assert.LessOrEqual(t, m.counts()[1], n+1)
}

// A byte that comes in wakes the program by its interrupt.
func TestReceiveInterrupt(t *testing.T) {
	m := counting(t)
	m.Input(16, circuit.High)
	m.store(0xc4, 9)
	m.store(0xc1, bitRXEN|0x80)
	frame := uint16('A')<<1 | 0x200
	for i := 0; i < 10; i++ {
		m.Input(16, circuit.Level(frame>>i&1))
		m.to(m.cycle + 160)
	}
	assert.NotZero(t, m.counts()[18])
	assert.Equal(t, uint8('A'), m.load(0xc6))
}

// The noise canceler stores the count four cycles after the edge.
func TestCaptureNoiseCanceler(t *testing.T) {
	m := counting(t)
	m.Input(0, circuit.Low)
	m.store(0x6f, bitICF)
	m.store(0x81, 0xc1)
	m.store(0x85, 0)
	m.store(0x84, 0)
	start := m.cycle
	m.to(start + 500)
	edge := m.cycle
	m.Input(0, circuit.High)
	m.to(m.cycle + 50)
	assert.Equal(t, map[int]int{10: 1}, m.counts())
	assert.Equal(t, uint16(edge-start+4), uint16(m.load(0x86))|uint16(m.load(0x87))<<8)
}

// A floating pin with a pin-change interrupt keeps interrupting at random; a pull-up ends it.
func TestFloatingPinInterrupts(t *testing.T) {
	m := counting(t)
	m.store(regPCICR, 4)
	m.store(regPCMSK0+2, 0x80)
	m.Run(m.Now()+10*clock.Millisecond, nil)
	n := m.counts()[5]
	assert.Greater(t, n, 10)
	m.store(0x2b, 0x80)
	m.Run(m.Now()+clock.Millisecond, nil)
	n = m.counts()[5]
	m.Run(m.Now()+10*clock.Millisecond, nil)
	assert.Equal(t, n, m.counts()[5])
}
