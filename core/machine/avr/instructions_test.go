package avr

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// program makes a machine whose flash holds the given words at address 0.
func program(t testing.TB, plain bool, words ...uint16) *Machine {
	t.Helper()
	var data []byte
	for _, w := range words {
		data = append(data, byte(w), byte(w>>8))
	}
	m := New(ATmega328P, machine.Config{Reference: plain, Watched: []machine.Pin{}}).(*Machine)
	require.NoError(t, m.Load(&firmware.Image{Flash: []firmware.Segment{{Data: data}}}))
	return m
}

// one executes the single instruction at pc.
func (m *Machine) one() int64 {
	before := m.cycle
	m.stop = machine.Stop{}
	m.Run(m.now.at(m.cycle+1), nil)
	return m.cycle - before
}

// both runs a test on the fast and on the plain interpreter.
func both(t *testing.T, test func(t *testing.T, plain bool)) {
	for _, plain := range []bool{false, true} {
		t.Run(fmt.Sprintf("plain=%v", plain), func(t *testing.T) { test(t, plain) })
	}
}

func rr(base uint16, d, r int) uint16 { return base | uint16(d)<<4 | uint16(r&15) | uint16(r&16)<<5 }

func bit(b bool, mask uint8) uint8 {
	if b {
		return mask
	}
	return 0
}

// oracle works flags out from wide signed and unsigned results, apart from both interpreters.
func oracle(a, b, c int, subtract bool) (result, flags uint8) {
	sign := 1
	if subtract {
		sign = -1
	}
	wide, signed, low := a+sign*(b+c), int(int8(a))+sign*(int(int8(b))+c), a&15+sign*(b&15+c)
	r := uint8(wide)
	n, v := r&0x80 != 0, signed < -128 || signed > 127
	return r, bit(wide < 0 || wide > 255, flagC) | bit(r == 0, flagZ) | bit(n, flagN) | bit(v, flagV) | bit(n != v,
		flagS) | bit(low < 0 || low > 15, flagH)
}

// Every pair of operands with and without carry, for all additions, subtractions and comparisons.
func TestArithmetic(t *testing.T) {
	cases := []struct {
		name                       string
		word                       uint16
		subtract, carry, keep, cmp bool
	}{
		{"ADD", 0x0c00, false, false, false, false}, {"ADC", 0x1c00, false, true, false, false},
		{"SUB", 0x1800, true, false, false, false}, {"SBC", 0x0800, true, true, true, false},
		{"CP", 0x1400, true, false, false, true}, {"CPC", 0x0400, true, true, true, true},
	}
	both(t, func(t *testing.T, plain bool) {
		for _, x := range cases {
			m := program(t, plain, 0, rr(x.word, 17, 3))
			for i := 0; i < 1<<18; i++ {
				a, b, carry, zero := i&255, i>>8&255, i>>16&1, i>>17&1
				m.pc, m.data[17], m.data[3] = 1, uint8(a), uint8(b)
				m.sreg = uint8(carry)*flagC | uint8(zero)*flagZ | flagT
				c := 0
				if x.carry {
					c = carry
				}
				want, flags := oracle(a, b, c, x.subtract)
				if x.keep && zero == 0 {
					flags &^= flagZ
				}
				if x.cmp {
					want = uint8(a)
				}
				cycles := m.one()
				if m.data[17] != want || m.sreg != flags|flagT || cycles != 1 {
					t.Fatalf("%s %d, %d with SREG carry %d zero %d: got %d flags %08b in %d cycles, want %d flags %08b",
						x.name, a, b, carry, zero, m.data[17], m.sreg, cycles, want, flags|flagT)
				}
			}
		}
		for _, x := range []struct {
			name        string
			word        uint16
			carry, keep bool
			cmp         bool
		}{{"SUBI", 0x5000, false, false, false}, {"SBCI", 0x4000, true, true, false},
			{"CPI", 0x3000, false, false, true}} {
			for k := 0; k < 256; k++ {
				m := program(t, plain, 0, x.word|uint16(k&0xf0)<<4|uint16(k&15)|4<<4) // r20
				for i := 0; i < 1<<9; i++ {
					a, carry := i&255, i>>8
					m.pc, m.data[20], m.sreg = 1, uint8(a), uint8(carry)*flagC|flagZ
					c := 0
					if x.carry {
						c = carry
					}
					want, flags := oracle(a, k, c, true)
					if x.cmp {
						want = uint8(a)
					}
					if m.one(); m.data[20] != want || m.sreg != flags {
						t.Fatalf("%s %d, %d carry %d: got %d flags %08b, want %d flags %08b", x.name, a, k, carry,
							m.data[20], m.sreg, want, flags)
					}
				}
				if k%16 != 0 && testing.Short() {
					continue
				}
			}
		}
	})
}

func TestLogicAndShifts(t *testing.T) {
	nz := func(r uint8, v bool) uint8 {
		return bit(r == 0, flagZ) | bit(r&0x80 != 0, flagN) | bit(v, flagV) | bit((r&0x80 != 0) != v, flagS)
	}
	two := map[string]struct {
		word uint16
		f    func(a, b uint8) uint8
	}{
		"AND": {0x2000, func(a, b uint8) uint8 { return a & b }},
		"OR":  {0x2800, func(a, b uint8) uint8 { return a | b }},
		"EOR": {0x2400, func(a, b uint8) uint8 { return a ^ b }},
	}
	shift := func(r uint8, c uint8) uint8 { return nz(r, (r>>7 == 1) != (c == 1)) | c }
	one := map[string]struct {
		word uint16
		f    func(a, carry uint8) (r, flags, kept uint8)
	}{
		"COM":  {0x9400, func(a, _ uint8) (uint8, uint8, uint8) { return ^a, nz(^a, false) | flagC, flagH }},
		"NEG":  {0x9401, func(a, _ uint8) (uint8, uint8, uint8) { r, f := oracle(0, int(a), 0, true); return r, f, 0 }},
		"SWAP": {0x9402, func(a, _ uint8) (uint8, uint8, uint8) { return a<<4 | a>>4, 0, 0x3f }},
		"INC":  {0x9403, func(a, _ uint8) (uint8, uint8, uint8) { return a + 1, nz(a+1, a == 0x7f), flagH | flagC }},
		"DEC":  {0x940a, func(a, _ uint8) (uint8, uint8, uint8) { return a - 1, nz(a-1, a == 0x80), flagH | flagC }},
		"ASR": {0x9405,
			func(a, _ uint8) (uint8, uint8, uint8) { r := uint8(int8(a) >> 1); return r, shift(r, a&1), flagH }},
		"LSR": {0x9406, func(a, _ uint8) (uint8, uint8, uint8) { return a >> 1, shift(a>>1, a&1), flagH }},
		"ROR": {0x9407, func(a, c uint8) (uint8, uint8, uint8) {
			r := a>>1 | c<<7
			return r, shift(r, a&1), flagH
		}},
	}
	both(t, func(t *testing.T, plain bool) {
		for name, x := range two {
			m := program(t, plain, 0, rr(x.word, 9, 30))
			for i := 0; i < 1<<16; i++ {
				a, b := uint8(i), uint8(i>>8)
				m.pc, m.data[9], m.data[30], m.sreg = 1, a, b, 0xff
				r := x.f(a, b)
				if m.one(); m.data[9] != r || m.sreg != 0xff&^logic|nz(r, false) {
					t.Fatalf("%s %d, %d: got %d flags %08b", name, a, b, m.data[9], m.sreg)
				}
			}
		}
		for name, x := range one {
			m := program(t, plain, 0, x.word|22<<4)
			for i := 0; i < 1<<9; i++ {
				for _, other := range []uint8{0, flagH} {
					a, c := uint8(i), uint8(i>>8)
					m.pc, m.data[22], m.sreg = 1, a, c|other|flagI
					r, flags, kept := x.f(a, c)
					want := flags&^kept | (c|other)&kept | flagI
					if m.one(); m.data[22] != r || m.sreg != want {
						t.Fatalf("%s %d carry %d: got %d flags %08b, want %d flags %08b", name, a, c, m.data[22],
							m.sreg, r, want)
					}
				}
			}
		}
	})
}

// ADIW and SBIW with every constant around the carries of both bytes.
func TestWords(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		for _, subtract := range []bool{false, true} {
			for k := 0; k < 64; k++ {
				word := uint16(0x9600) | uint16(k&0x30)<<2 | uint16(k&15) | 2<<4 // r28
				if subtract {
					word |= 0x0100
				}
				m := program(t, plain, 0, word)
				for _, a := range []int{0, 1, k - 1, k, k + 1, 0xff, 0x100, 0x7fff - k, 0x7fff, 0x8000, 0x8000 + k,
					0xffff - k, 0x10000 - k, 0xffff, 0x1234} {
					a &= 0xffff
					setPair(m.data, regY, uint16(a))
					m.pc, m.sreg = 1, flagH
					wide, signed := a+k, int(int16(a))+k
					if subtract {
						wide, signed = a-k, int(int16(a))-k
					}
					r := uint16(wide)
					n, v := r>>15 == 1, signed < -32768 || signed > 32767
					want := bit(wide < 0 || wide > 0xffff, flagC) | bit(r == 0, flagZ) | bit(n, flagN) | bit(v,
						flagV) | bit(n != v, flagS) | flagH
					cycles := m.one()
					require.Equal(t, []any{r, want, int64(2)}, []any{pair(m.data, regY), m.sreg, cycles},
						"%d with %d, subtract %v", a, k, subtract)
				}
			}
		}
	})
}

func TestProducts(t *testing.T) {
	signed := func(v uint8) int { return int(int8(v)) }
	plainly := func(v uint8) int { return int(v) }
	cases := []struct {
		name     string
		word     uint16
		x, y     func(uint8) int
		fraction bool
	}{
		{"MUL", rr(0x9c00, 18, 19), plainly, plainly, false}, {"MULS", 0x0223, signed, signed, false},
		{"MULSU", 0x0323, signed, plainly, false}, {"FMUL", 0x032b, plainly, plainly, true},
		{"FMULS", 0x03a3, signed, signed, true}, {"FMULSU", 0x03ab, signed, plainly, true},
	}
	both(t, func(t *testing.T, plain bool) {
		for _, x := range cases {
			m := program(t, plain, 0, x.word)
			for i := 0; i < 1<<16; i++ {
				a, b := uint8(i), uint8(i>>8)
				m.pc, m.data[18], m.data[19], m.sreg = 1, a, b, flagN
				p := uint16(x.x(a) * x.y(b))
				r := p
				if x.fraction {
					r = p << 1
				}
				want := flagN | bit(p>>15 == 1, flagC) | bit(r == 0, flagZ)
				if cycles := m.one(); pair(m.data, 0) != r || m.sreg != want || cycles != 2 {
					t.Fatalf("%s %d, %d: got %04x flags %08b, want %04x flags %08b", x.name, a, b, pair(m.data, 0),
						m.sreg, r, want)
				}
			}
		}
	})
}

// Cycles and effect of everything that moves data or goes somewhere else.
func TestMovesAndJumps(t *testing.T) {
	const x, y, z = regX, regY, regZ
	cases := []struct {
		name   string
		words  []uint16
		before func(m *Machine)
		cycles int64
		pc     int32
		after  func(m *Machine) bool
	}{
		{"MOV", []uint16{rr(0x2c00, 5, 31)}, func(m *Machine) { m.data[31] = 7 }, 1, 2,
			func(m *Machine) bool { return m.data[5] == 7 }},
		{"MOVW", []uint16{0x0128}, func(m *Machine) { setPair(m.data, 16, 0x1234) }, 1, 2,
			func(m *Machine) bool { return pair(m.data, 4) == 0x1234 }},
		{"LDI", []uint16{0xea05}, nil, 1, 2, func(m *Machine) bool { return m.data[16] == 0xa5 }},
		{"LDS", []uint16{0x9100, 0x0200}, func(m *Machine) { m.data[0x200] = 9 }, 2, 3,
			func(m *Machine) bool { return m.data[16] == 9 }},
		{"STS", []uint16{0x9300, 0x0201}, func(m *Machine) { m.data[16] = 8 }, 2, 3,
			func(m *Machine) bool { return m.data[0x201] == 8 }},
		{"LD X+", []uint16{0x900d}, func(m *Machine) { setPair(m.data, x, 0x1ff); m.data[0x1ff] = 3 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 3 && pair(m.data, x) == 0x200 }},
		{"LD -X", []uint16{0x900e}, func(m *Machine) { setPair(m.data, x, 0x200); m.data[0x1ff] = 4 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 4 && pair(m.data, x) == 0x1ff }},
		{"LD X", []uint16{0x900c}, func(m *Machine) { setPair(m.data, x, 0x1ff); m.data[0x1ff] = 4 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 4 && pair(m.data, x) == 0x1ff }},
		{"LDD Y+63", []uint16{0xac0f}, func(m *Machine) { setPair(m.data, y, 0x200); m.data[0x23f] = 5 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 5 && pair(m.data, y) == 0x200 }},
		{"LDD Z+1", []uint16{0x8001}, func(m *Machine) { setPair(m.data, z, 0x200); m.data[0x201] = 6 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 6 }},
		{"ST -Y", []uint16{0x920a}, func(m *Machine) { setPair(m.data, y, 0x300); m.data[0] = 7 }, 2, 2,
			func(m *Machine) bool { return m.data[0x2ff] == 7 && pair(m.data, y) == 0x2ff }},
		{"ST Z+", []uint16{0x9201}, func(m *Machine) { setPair(m.data, z, 0x300); m.data[0] = 8 }, 2, 2,
			func(m *Machine) bool { return m.data[0x300] == 8 && pair(m.data, z) == 0x301 }},
		{"STD Y+2", []uint16{0x820a}, func(m *Machine) { setPair(m.data, y, 0x300); m.data[0] = 9 }, 2, 2,
			func(m *Machine) bool { return m.data[0x302] == 9 }},
		{"LD from a register", []uint16{0x900c}, func(m *Machine) { setPair(m.data, x, 17); m.data[17] = 77 }, 2, 2,
			func(m *Machine) bool { return m.data[0] == 77 }},
		{"LPM", []uint16{0x95c8}, func(m *Machine) { setPair(m.data, z, 2) }, 3, 2,
			func(m *Machine) bool { return m.data[0] == 0xc8 }},
		{"LPM Rd, Z", []uint16{0x9124}, func(m *Machine) { setPair(m.data, z, 3) }, 3, 2,
			func(m *Machine) bool { return m.data[18] == 0x91 && pair(m.data, z) == 3 }},
		{"LPM Rd, Z+", []uint16{0x9125}, func(m *Machine) { setPair(m.data, z, 2) }, 3, 2,
			func(m *Machine) bool { return m.data[18] == 0x25 && pair(m.data, z) == 3 }},
		{"PUSH", []uint16{0x92ff}, func(m *Machine) { m.data[15] = 1 }, 2, 2,
			func(m *Machine) bool { return m.data[ramEnd] == 1 && m.sp == ramEnd-1 }},
		{"POP", []uint16{0x90ff}, func(m *Machine) { m.sp = ramEnd - 1; m.data[ramEnd] = 2 }, 2, 2,
			func(m *Machine) bool { return m.data[15] == 2 && m.sp == ramEnd }},
		{"RJMP", []uint16{0xc003}, nil, 2, 5, nil},
		{"RJMP back", []uint16{0xcffe}, nil, 2, 0, nil},
		{"JMP", []uint16{0x940c, 0x0123}, nil, 3, 0x123, nil},
		{"IJMP", []uint16{0x9409}, func(m *Machine) { setPair(m.data, z, 0x321) }, 2, 0x321, nil},
		{"RCALL", []uint16{0xd003}, nil, 3, 5,
			func(m *Machine) bool { return m.data[ramEnd] == 2 && m.data[ramEnd-1] == 0 && m.sp == ramEnd-2 }},
		{"CALL", []uint16{0x940e, 0x0123}, nil, 4, 0x123,
			func(m *Machine) bool { return m.data[ramEnd] == 3 && m.data[ramEnd-1] == 0 && m.sp == ramEnd-2 }},
		{"ICALL", []uint16{0x9509}, func(m *Machine) { setPair(m.data, z, 0x321) }, 3, 0x321,
			func(m *Machine) bool { return m.data[ramEnd] == 2 }},
		{"RET", []uint16{0x9508},
			func(m *Machine) { m.sp = ramEnd - 2; m.data[ramEnd] = 0x34; m.data[ramEnd-1] = 0x12 }, 4, 0x1234,
			func(m *Machine) bool { return m.sp == ramEnd }},
		{"RETI", []uint16{0x9518},
			func(m *Machine) { m.sp = ramEnd - 2; m.data[ramEnd] = 0x34; m.data[ramEnd-1] = 0x12 }, 4, 0x1234,
			func(m *Machine) bool { return m.sreg&flagI != 0 }},
		{"BREQ taken", []uint16{0xf011}, func(m *Machine) { m.sreg = flagZ }, 2, 4, nil},
		{"BREQ not taken", []uint16{0xf011}, nil, 1, 2, nil},
		{"BRCC taken", []uint16{0xf410}, nil, 2, 4, nil},
		{"CPSE over one word", []uint16{rr(0x1000, 1, 2), 0x0000}, nil, 2, 3, nil},
		{"CPSE over two words", []uint16{rr(0x1000, 1, 2), 0x940c, 0}, nil, 3, 4, nil},
		{"CPSE no skip", []uint16{rr(0x1000, 1, 2), 0x940c, 0}, func(m *Machine) { m.data[1] = 1 }, 1, 2, nil},
		{"SBRC over LDS", []uint16{0xfc10, 0x9100, 0x0200}, nil, 3, 4, nil},
		{"SBRS no skip", []uint16{0xfe10, 0x0000}, nil, 1, 2, nil},
		{"SBIC over STS", []uint16{0x99f0, 0x9300, 0x0200}, nil, 3, 4, nil},
		{"SBIS over one", []uint16{0x9bf0, 0x0000}, func(m *Machine) { m.io[0x3e] = 1 }, 2, 3, nil},
		{"SBI", []uint16{0x9af3}, nil, 2, 2, func(m *Machine) bool { return m.io[0x3e] == 8 }},
		{"CBI", []uint16{0x98f3}, func(m *Machine) { m.io[0x3e] = 0xff }, 2, 2,
			func(m *Machine) bool { return m.io[0x3e] == 0xf7 }},
		{"IN", []uint16{0xb60e}, func(m *Machine) { m.io[0x3e] = 0; m.sp = 0x4ff }, 1, 2,
			func(m *Machine) bool { return m.data[0] == 4 }},
		{"OUT SREG", []uint16{0xbe0f}, func(m *Machine) { m.data[0] = 0x2a }, 1, 2,
			func(m *Machine) bool { return m.sreg == 0x2a }},
		{"BST", []uint16{0xfa13}, func(m *Machine) { m.data[1] = 8 }, 1, 2,
			func(m *Machine) bool { return m.sreg == flagT }},
		{"BLD", []uint16{0xf813}, func(m *Machine) { m.sreg = flagT }, 1, 2,
			func(m *Machine) bool { return m.data[1] == 8 }},
		{"BSET", []uint16{0x9448}, nil, 1, 2, func(m *Machine) bool { return m.sreg == flagS }},
		{"BCLR", []uint16{0x9498}, func(m *Machine) { m.sreg = 0x7f }, 1, 2,
			func(m *Machine) bool { return m.sreg == 0x7d }},
		{"WDR", []uint16{0x95a8}, nil, 1, 2, nil},
		{"NOP", []uint16{0x0000}, nil, 1, 2, nil},
	}
	both(t, func(t *testing.T, plain bool) {
		for _, c := range cases {
			m := program(t, plain, append([]uint16{0}, c.words...)...)
			m.pc = 1
			if c.before != nil {
				c.before(m)
			}
			cycles := m.one()
			assert.Equal(t, c.cycles, cycles, "%s: cycles", c.name)
			assert.Equal(t, c.pc, m.pc, "%s: PC", c.name)
			assert.True(t, c.after == nil || c.after(m), "%s: effect", c.name)
		}
	})
}

// What the ATmega328P lacks, and what no AVR has, stops the machine.
func TestIllegal(t *testing.T) {
	for name, w := range map[string]uint16{"ELPM": 0x95d8, "ELPM Z+": 0x9007, "EIJMP": 0x9419, "EICALL": 0x9519,
		"DES": 0x940b, "XCH": 0x9204, "LAT": 0x9207, "reserved": 0x0001, "reserved 9": 0x9003, "SPM Z+": 0x95f8} {
		both(t, func(t *testing.T, plain bool) {
			m := program(t, plain, 0, w)
			stop := m.Run(clock.Millisecond, nil)
			assert.Equal(t, machine.IllegalOpcode, stop.Reason, name)
			assert.Equal(t, uint32(2), stop.PC, name)
		})
	}
}

// Erased flash is no program, though its words decode as an instruction; 0xFFFF that was programmed
// does what the silicon does.
func TestOffFlash(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		stop := program(t, plain, 0, 0).Run(clock.Millisecond, nil)
		assert.Equal(t, machine.OffFlash, stop.Reason)
		assert.Equal(t, uint32(4), stop.PC)
		m := program(t, plain, 0, 0xffff, 0, 0)
		m.pc, m.data[31] = 1, 0x80
		m.one()
		assert.Equal(t, int32(3), m.pc, "0xFFFF acts as SBRS r31, 7")
	})
}
