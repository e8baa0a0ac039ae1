package pic14

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// quiet is a configuration word of the PIC16F877A: HS oscillator, no watchdog, no low-voltage programming.
const quiet = 0x3f72

// image puts words at addresses into an image, with a configuration word.
func image(config uint16, parts map[uint16][]uint16) *firmware.Image {
	im := &firmware.Image{Fuses: []byte{byte(config), byte(config >> 8)}}
	for at, words := range parts {
		s := firmware.Segment{Address: 2 * uint32(at)}
		for _, w := range words {
			s.Data = append(s.Data, byte(w), byte(w>>8))
		}
		im.Flash = append(im.Flash, s)
	}
	return im
}

// program makes a machine whose flash holds the given words at address 0, behind its start-up.
func program(t testing.TB, plain bool, words ...uint16) *Machine {
	t.Helper()
	m := newMachine(PIC16F877A, machine.Config{Reference: plain, Watched: []machine.Pin{}})
	require.NoError(t, m.Load(image(quiet, map[uint16][]uint16{0: words})))
	m.cycle = m.begins
	return m
}

// one executes the single instruction at pc.
func (m *Machine) one() int64 {
	before := m.cycle
	m.Run(m.now.At(m.cycle+1), nil)
	return m.cycle - before
}

// both runs a test on the fast and on the plain interpreter.
func both(t *testing.T, test func(t *testing.T, plain bool)) {
	for _, plain := range []bool{false, true} {
		t.Run(fmt.Sprintf("plain=%v", plain), func(t *testing.T) { test(t, plain) })
	}
}

func flagged(c, dc, z bool) (out uint8) {
	for i, on := range []bool{c, dc, z} {
		if on {
			out |= 1 << i
		}
	}
	return out
}

const (
	noFlags  = 0
	onlyZ    = statusZ
	allFlags = statusC | statusDC | statusZ
)

// sums works flags out from wide results, apart from both interpreters.
func sums(a, b int, minus bool) (uint8, uint8) {
	if minus { // two's complement, as the data book says it is done
		b = b ^ 0xff
		wide, low := a+b+1, a&15+b&15+1
		return uint8(wide), flagged(wide > 255, low > 15, uint8(wide) == 0)
	}
	return uint8(a + b), flagged(a+b > 255, a&15+b&15 > 15, uint8(a+b) == 0)
}

// The operations on a register and W: every pair of operands, with and without carry, to W and to the register.
func TestOperationsOnBytes(t *testing.T) {
	simple := func(f func(a, w int) int) func(a, w, c int) (uint8, uint8) {
		return func(a, w, _ int) (uint8, uint8) {
			r := uint8(f(a, w))
			return r, flagged(false, false, r == 0)
		}
	}
	cases := []struct {
		name  string
		op    uint16
		flags uint8
		want  func(a, w, c int) (r, flags uint8)
		skips bool
	}{
		{"SUBWF", 0x2, allFlags, func(a, w, _ int) (uint8, uint8) { return sums(a, w, true) }, false},
		{"DECF", 0x3, onlyZ, simple(func(a, _ int) int { return a - 1 }), false},
		{"IORWF", 0x4, onlyZ, simple(func(a, w int) int { return a | w }), false},
		{"ANDWF", 0x5, onlyZ, simple(func(a, w int) int { return a & w }), false},
		{"XORWF", 0x6, onlyZ, simple(func(a, w int) int { return a ^ w }), false},
		{"ADDWF", 0x7, allFlags, func(a, w, _ int) (uint8, uint8) { return sums(a, w, false) }, false},
		{"MOVF", 0x8, onlyZ, simple(func(a, _ int) int { return a }), false},
		{"COMF", 0x9, onlyZ, simple(func(a, _ int) int { return 255 - a }), false},
		{"INCF", 0xa, onlyZ, simple(func(a, _ int) int { return a + 1 }), false},
		{"DECFSZ", 0xb, noFlags, simple(func(a, _ int) int { return a - 1 }), true},
		{"RRF", 0xc, statusC, func(a, _, c int) (uint8, uint8) { return uint8((a | c<<8) >> 1), uint8(a & 1) }, false},
		{"RLF", 0xd, statusC, func(a, _, c int) (uint8, uint8) { return uint8(a<<1 | c), uint8(a >> 7) }, false},
		{"SWAPF", 0xe, noFlags, simple(func(a, _ int) int { return a%16*16 + a/16 }), false},
		{"INCFSZ", 0xf, noFlags, simple(func(a, _ int) int { return a + 1 }), true},
	}
	both(t, func(t *testing.T, plain bool) {
		for _, x := range cases {
			for d := range uint16(2) {
				m := program(t, plain, x.op<<8|d<<7|0x25, 0, 0)
				for i := range 1 << 17 {
					a, w, c := i&255, i>>8&255, i>>16
					before := uint8(c) | statusDC&uint8(i>>3) | statusTO | statusPD
					m.pc, m.ram[0x25], m.w, m.status = 0, uint8(a), uint8(w), before
					r, flags := x.want(a, w, c)
					wantW, wantF := uint8(w), r
					if d == 0 {
						wantW, wantF = r, uint8(a)
					}
					wantPC, wantCycles := uint16(1), int64(1)
					if x.skips && r == 0 {
						wantPC, wantCycles = 2, 2
					}
					took := m.one()
					want := before&^x.flags | flags&x.flags
					if m.w != wantW || m.ram[0x25] != wantF || m.status != want || m.pc != wantPC ||
						took != wantCycles {
						t.Fatalf("%s d=%d of %#x, W %#x, STATUS %08b: W %#x, f %#x, STATUS %08b, PC %d in %d cycles; want %#x, "+
							"%#x, %08b, %d in %d", x.name, d, a, w, before, m.w, m.ram[0x25], m.status, m.pc, took, wantW, wantF,
							want, wantPC, wantCycles)
					}
				}
			}
		}
	})
}

// The operations on literals, with every literal and every W.
func TestOperationsOnLiterals(t *testing.T) {
	cases := []struct {
		name  string
		ops   []uint16
		flags uint8
		want  func(k, w int) (uint8, uint8)
	}{
		{"MOVLW", []uint16{0x30, 0x31, 0x32, 0x33}, noFlags, func(k, _ int) (uint8, uint8) { return uint8(k), 0 }},
		{"IORLW", []uint16{0x38}, onlyZ, func(k, w int) (uint8, uint8) {
			return uint8(k | w), flagged(false, false, k|w == 0)
		}},
		{"ANDLW", []uint16{0x39}, onlyZ, func(k, w int) (uint8, uint8) {
			return uint8(k & w), flagged(false, false, k&w == 0)
		}},
		{"XORLW", []uint16{0x3a}, onlyZ, func(k, w int) (uint8, uint8) {
			return uint8(k ^ w), flagged(false, false, k == w)
		}},
		{"SUBLW", []uint16{0x3c, 0x3d}, allFlags, func(k, w int) (uint8, uint8) { return sums(k, w, true) }},
		{"ADDLW", []uint16{0x3e, 0x3f}, allFlags, func(k, w int) (uint8, uint8) { return sums(k, w, false) }},
	}
	both(t, func(t *testing.T, plain bool) {
		for _, x := range cases {
			for _, op := range x.ops {
				for k := range 256 {
					m := program(t, plain, op<<8|uint16(k), 0)
					for w := range 256 {
						before := uint8(statusC | statusZ | statusRP1)
						m.pc, m.w, m.status = 0, uint8(w), before
						r, flags := x.want(k, w)
						if took := m.one(); m.w != r || m.status != before&^x.flags|flags || took != 1 {
							t.Fatalf("%s %#x with W %#x: W %#x, STATUS %08b, want %#x, %08b", x.name, k, w, m.w, m.status, r,
								before&^x.flags|flags)
						}
					}
				}
			}
		}
	})
}

func TestOperationsOnBits(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		for n := range uint16(8) {
			for op := range uint16(4) {
				m := program(t, plain, 0x1000|op<<10|n<<7|0x25, 0, 0)
				for v := range 256 {
					m.pc, m.ram[0x25], m.status = 0, uint8(v), statusZ
					took := m.one()
					set := v>>n&1 == 1
					wantF, pc, cycles := uint8(v), uint16(1), int64(1)
					switch op {
					case 0:
						wantF &^= 1 << n
					case 1:
						wantF |= 1 << n
					case 2, 3:
						if set == (op == 3) {
							pc, cycles = 2, 2
						}
					}
					if m.ram[0x25] != wantF || m.pc != pc || took != cycles || m.status != statusZ {
						t.Fatalf("bit %d op %d of %#x: %#x, PC %d in %d", n, op, v, m.ram[0x25], m.pc, took)
					}
				}
			}
		}
	})
}

// Words that are none of the 35 instructions, nor of the two older ones.
func TestIllegalWords(t *testing.T) {
	illegal := 0
	for w := range uint16(0x4000) {
		if decode(w).op == opIllegal {
			illegal++
			m := program(t, false, w)
			assert.Equal(t, machine.IllegalOpcode, m.Run(clock.Second, nil).Reason)
		}
	}
	assert.Equal(t, 256+128-4-2-6, illegal, "11 1011 …, and those of the first 128 that are none")
}

func TestClearAndMove(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, 0x01a5, 0x0103, 0x00a6) // CLRF 25, CLRW, MOVWF 26
		m.ram[0x25], m.ram[0x26], m.w, m.status = 7, 9, 5, 0
		m.one()
		assert.Equal(t, []uint8{0, 5, statusZ}, []uint8{m.ram[0x25], m.w, m.status})
		m.status = 0
		m.one()
		assert.Equal(t, []uint8{0, statusZ}, []uint8{m.w, m.status})
		m.w, m.status = 0x33, 0
		m.one()
		assert.Equal(t, []uint8{0x33, 0}, []uint8{m.ram[0x26], m.status})
	})
}

// Banks, the addresses that they share, and FSR with IRP.
func TestBanks(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, 0x1683, 0x00a0, 0x1703, 0x1283, 0x00a0, 0x00f0, 0x1303, 0x0870, // f 0x20 of bank 1 and 2
			0x3020, 0x0084, 0x0080, // movlw 0x20, movwf FSR, movwf INDF
			0x1783, 0x0084, 0x0000, 0x0800) // bsf IRP; movf INDF,w
		m.status, m.w = statusTO|statusPD, 0x5a
		for range 8 {
			m.one()
		}
		assert.Equal(t, uint8(0x5a), m.ram[0xa0])
		assert.Equal(t, uint8(0x5a), m.ram[0x120])
		assert.Equal(t, uint8(0x5a), m.ram[0x70])
		assert.Equal(t, uint8(0x5a), m.w)
		for range 3 {
			m.one()
		}
		assert.Equal(t, uint8(0x20), m.ram[0x20])
		m.ram[0x120] = 0x77
		for range 4 {
			m.one()
		}
		assert.Equal(t, uint8(0x77), m.w, "FSR 0x20 with IRP is 0x120")
	})
}

// STATUS as the destination of an operation that sets flags: those bits are not written, nor TO and PD ever.
func TestStatusAsDestination(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, 0x0183, 0x0083, 0x0683)
		m.status = 0xff
		m.one() // CLRF STATUS
		assert.Equal(t, uint8(statusTO|statusPD|statusZ), m.status)
		m.w, m.status = 0xff, statusPD
		m.one() // MOVWF STATUS
		assert.Equal(t, uint8(0xff&^statusTO), m.status)
		m.w, m.status = 0xff, 0 // XORWF STATUS,F
		m.one()
		assert.Equal(t, uint8(0xff&^(statusTO|statusPD|statusZ)), m.status)
	})
}

func TestCallsAndJumps(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := newMachine(PIC16F877A, machine.Config{Reference: plain, Watched: []machine.Pin{}})
		require.NoError(t, m.Load(image(quiet, map[uint16][]uint16{0: {0x3008, 0x008a, 0x2010, 0x2803, 0x018a, 0x2805},
			0x810: {0x0782, 0x3441, 0x3442, 0x3443}}))) // pclath 8: page 1; table
		m.cycle = m.begins
		m.one()
		m.one()
		assert.Equal(t, int64(2), m.one(), "CALL")
		assert.Equal(t, uint16(0x810), m.pc)
		m.w = 2
		assert.Equal(t, int64(2), m.one(), "a write of PCL")
		assert.Equal(t, uint16(0x813), m.pc)
		assert.Equal(t, int64(2), m.one(), "RETLW")
		assert.Equal(t, uint8(0x43), m.w)
		assert.Equal(t, uint16(3), m.pc)
	})
}

// A stack of eight that runs round: nine calls lose the first one, and a return from nothing goes where the oldest
// leads.
func TestStackRunsRound(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, 0x2000) // CALL 0, for ever
		end := m.Run(m.now.At(m.cycle+100_000), nil)
		assert.Equal(t, machine.Reached, end.Reason)
		require.Len(t, m.Notes(), 1)
		assert.Equal(t, "stack-wraps", m.Notes()[0].Code)
		m = program(t, plain, 0x0008)
		m.Run(m.now.At(m.cycle+100), nil)
		require.Len(t, m.Notes(), 1)
		assert.Equal(t, "stack-underflow", m.Notes()[0].Code)
	})
}

// Erased flash does nothing (ADDLW 0xFF) and runs round to address 0, as programs that end without a loop do.
func TestErasedFlashRunsRound(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, 0x0aa5, 0x3000) // INCF 25; MOVLW 0
		m.ram[0x25] = 0
		m.Run(m.now.At(m.cycle+3*0x2000), nil)
		assert.Equal(t, uint8(3), m.ram[0x25])
		require.Len(t, m.Notes(), 1)
		assert.Equal(t, "erased", m.Notes()[0].Code)
		assert.Contains(t, m.Notes()[0].Text, "0x0002", "addresses are words")
	})
}

// A nest of decfsz loops takes what a count by hand gives, to the cycle, skipped or not.
func TestDelayNest(t *testing.T) {
	inner, middle, outer := int64(200), int64(166), int64(10)
	words := []uint16{0x3000 | uint16(outer), 0x00a2, 0x3000 | uint16(middle), 0x00a1, 0x3000 | uint16(inner), 0x00a0,
		0x0ba0, 0x2806, 0x0ba1, 0x2804, 0x0ba2, 0x2802, 0x280c}
	// decfsz takes 1 and its goto 2, but for the last round of a loop, in which it takes 2: 3n-1 in all
	want := 2 + outer*(2+middle*(2+3*inner-1)+3*middle-1) + 3*outer - 1
	assert.Greater(t, want, int64(900_000))
	both(t, func(t *testing.T, plain bool) {
		m := program(t, plain, words...)
		began := m.cycle
		for m.pc != 12 && m.cycle < began+2_000_000 {
			m.Run(m.now.At(min(m.cycle+10_007, began+want)), nil)
		}
		assert.Equal(t, want, m.cycle-began)
		if !plain {
			assert.Less(t, m.counters.Instructions, want/20)
		}
	})
}
