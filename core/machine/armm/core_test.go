package armm

import (
	"fmt"
	"math/bits"
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine"
)

// nowhere is a bus with nothing on it.
type nowhere struct{}

func (nowhere) Read(uint32, int) (uint32, bool) { return 0, false }
func (nowhere) Write(uint32, int, uint32) bool  { return false }
func (nowhere) Call(uint32) bool                { return false }

const (
	flash = 0x1000_0000
	ram   = 0x2000_0000
)

// program makes a core whose flash has vectors and, from 0x40 words on, the given half-words.
func program(t testing.TB, code ...uint16) *Core {
	t.Helper()
	c := New(CortexM0Plus, nowhere{})
	data := make([]byte, 4096)
	put := func(at int, v uint32) {
		for i := range 4 {
			data[at+i] = byte(v >> (8 * i))
		}
	}
	put(0, ram+0x1000)
	for e := 1; e < 48; e++ {
		put(4*e, flash+0x100+1)
	}
	for i, v := range code {
		data[0x100+2*i], data[0x101+2*i] = byte(v), byte(v>>8)
	}
	c.Memories[flash>>28] = Memory{Data: data}
	c.Memories[ram>>28] = Memory{Data: make([]byte, 0x1000), Writable: true}
	c.Reset(flash)
	require.Empty(t, c.Stop.Reason, c.Stop.Text)
	c.Deadline = Never
	return c
}

// state is registers and flags as the manual's pseudo-code has them.
type state struct {
	r          [8]uint32
	n, z, c, v bool
}

// addWithCarry is the manual's (A2.2.1), by whole numbers.
func addWithCarry(x, y uint32, carry bool) (r uint32, c, v bool) {
	in := uint64(0)
	if carry {
		in = 1
	}
	unsigned := uint64(x) + uint64(y) + in
	signed := int64(int32(x)) + int64(int32(y)) + int64(in)
	r = uint32(unsigned)
	return r, uint64(r) != unsigned, int64(int32(r)) != signed
}

// shift is Shift_C (A2.2.1): of kinds LSL, LSR, ASR, ROR.
func shift(kind int, x uint32, n uint, c bool) (uint32, bool) {
	if n == 0 {
		return x, c
	}
	for range min(n, 40) {
		switch kind {
		case 0:
			c, x = x>>31 == 1, x<<1
		case 1:
			c, x = x&1 == 1, x>>1
		case 2:
			c, x = x&1 == 1, uint32(int32(x)>>1)
		}
	}
	if kind == 3 {
		x = bits.RotateLeft32(x, -int(n%32))
		c = x>>31 == 1
	}
	return x, c
}

// Each instruction that computes does what the manual's pseudo-code says, over seeded operands.
func TestInstructions(t *testing.T) {
	random := rand.New(rand.NewSource(1))
	operand := func() uint32 {
		return []uint32{0, 1, 0x7fff_ffff, 0x8000_0000, 0xffff_ffff, random.Uint32(),
			random.Uint32() >> random.Intn(32),
			uint32(random.Intn(40))}[random.Intn(8)]
	}
	add := func(s *state, d int, x, y uint32, carry bool) {
		r, c, v := addWithCarry(x, y, carry)
		s.c, s.v, s.n, s.z = c, v, r>>31 == 1, r == 0
		if d >= 0 {
			s.r[d] = r
		}
	}
	logic := func(s *state, d int, r uint32) {
		s.n, s.z = r>>31 == 1, r == 0
		if d >= 0 {
			s.r[d] = r
		}
	}
	for range 60_000 {
		d, n, m, k := random.Intn(8), random.Intn(8), random.Intn(8), uint32(random.Intn(256))
		var in uint32
		var does func(s *state)
		i5 := k & 31
		three := func(op uint32) uint32 { return op | uint32(m)<<6 | uint32(n)<<3 | uint32(d) }
		two := func(op uint32) uint32 { return 0x4000 | op<<6 | uint32(m)<<3 | uint32(d) }
		eight := func(op uint32) uint32 { return op | uint32(d)<<8 | k }
		switch random.Intn(33) {
		case 0, 1, 2:
			kind := random.Intn(3)
			in = uint32(kind)<<11 | i5<<6 | uint32(n)<<3 | uint32(d)
			does = func(s *state) {
				by := uint(i5)
				if kind > 0 && by == 0 {
					by = 32
				}
				r, c := shift(kind, s.r[n], by, s.c)
				s.c = c
				logic(s, d, r)
			}
		case 3:
			in, does = three(0x1800), func(s *state) { add(s, d, s.r[n], s.r[m], false) }
		case 4:
			in, does = three(0x1a00), func(s *state) { add(s, d, s.r[n], ^s.r[m], true) }
		case 5:
			in, does = three(0x1c00), func(s *state) { add(s, d, s.r[n], uint32(m), false) }
		case 6:
			in, does = three(0x1e00), func(s *state) { add(s, d, s.r[n], ^uint32(m), true) }
		case 7:
			in, does = eight(0x2000), func(s *state) { logic(s, d, k) }
		case 8:
			in, does = eight(0x2800), func(s *state) { add(s, -1, s.r[d], ^k, true) }
		case 9:
			in, does = eight(0x3000), func(s *state) { add(s, d, s.r[d], k, false) }
		case 10:
			in, does = eight(0x3800), func(s *state) { add(s, d, s.r[d], ^k, true) }
		case 11:
			in, does = two(0), func(s *state) { logic(s, d, s.r[d]&s.r[m]) }
		case 12:
			in, does = two(1), func(s *state) { logic(s, d, s.r[d]^s.r[m]) }
		case 13, 14, 15, 16:
			kind := random.Intn(4)
			in = two([]uint32{2, 3, 4, 7}[kind])
			does = func(s *state) {
				r, c := shift(kind, s.r[d], uint(s.r[m]&0xff), s.c)
				s.c = c
				logic(s, d, r)
			}
		case 17:
			in, does = two(5), func(s *state) { add(s, d, s.r[d], s.r[m], s.c) }
		case 18:
			in, does = two(6), func(s *state) { add(s, d, s.r[d], ^s.r[m], s.c) }
		case 19:
			in, does = two(8), func(s *state) { logic(s, -1, s.r[d]&s.r[m]) }
		case 20:
			in, does = two(9), func(s *state) { add(s, d, ^s.r[m], 0, true) }
		case 21:
			in, does = two(10), func(s *state) { add(s, -1, s.r[d], ^s.r[m], true) }
		case 22:
			in, does = two(11), func(s *state) { add(s, -1, s.r[d], s.r[m], false) }
		case 23:
			in, does = two(12), func(s *state) { logic(s, d, s.r[d]|s.r[m]) }
		case 24:
			in, does = two(13), func(s *state) { logic(s, d, s.r[d]*s.r[m]) }
		case 25:
			in, does = two(14), func(s *state) { logic(s, d, s.r[d]&^s.r[m]) }
		case 26:
			in, does = two(15), func(s *state) { logic(s, d, ^s.r[m]) }
		case 27:
			in, does = 0x4400|uint32(m)<<3|uint32(d), func(s *state) { s.r[d] += s.r[m] }
		case 28:
			in, does = 0x4600|uint32(m)<<3|uint32(d), func(s *state) { s.r[d] = s.r[m] }
		case 29, 30:
			kind := uint32(random.Intn(4))
			in = 0xb200 | kind<<6 | uint32(m)<<3 | uint32(d)
			does = func(s *state) {
				v := s.r[m]
				s.r[d] = []uint32{uint32(int32(v<<16) >> 16), uint32(int32(v<<24) >> 24), v & 0xffff, v & 0xff}[kind]
			}
		default:
			kind := random.Intn(3)
			in = 0xba00 | []uint32{0, 1, 3}[kind]<<6 | uint32(m)<<3 | uint32(d)
			does = func(s *state) {
				v := s.r[m]
				b := []uint32{v & 0xff, v >> 8 & 0xff, v >> 16 & 0xff, v >> 24}
				s.r[d] = []uint32{b[0]<<24 | b[1]<<16 | b[2]<<8 | b[3], b[2]<<24 | b[3]<<16 | b[0]<<8 | b[1],
					uint32(int32((b[0]<<8|b[1])<<16) >> 16)}[kind]
			}
		}
		c := program(t, uint16(in))
		want := state{n: random.Intn(2) == 1, z: random.Intn(2) == 1, c: random.Intn(2) == 1, v: random.Intn(2) == 1}
		for i := range want.r {
			want.r[i] = operand()
			c.R[i] = want.r[i]
		}
		c.N, c.Z, c.C, c.V = want.n, want.z, want.c, want.v
		does(&want)
		c.Step()
		got := state{n: c.N, z: c.Z, c: c.C, v: c.V, r: [8]uint32(c.R[:8])}
		require.Equal(t, want, got, "0x%04X", in)
		require.EqualValues(t, flash+0x102, c.R[15])
	}
}

// Loads and stores of all sizes and ways to address, against a memory that is laid out by hand.
func TestLoadsAndStores(t *testing.T) {
	random := rand.New(rand.NewSource(2))
	for range 5000 {
		size, signed := []int{1, 2, 4}[random.Intn(3)], random.Intn(2) == 1
		at := ram + uint32(random.Intn(30)*4/size*size)
		base := at - uint32(random.Intn(8)*size)
		op := map[int]uint16{4: 0x5000, 2: 0x5200, 1: 0x5400}[size]
		read := map[int]uint16{4: 0x5800, 2: 0x5a00, 1: 0x5c00}[size]
		if signed && size < 4 {
			read = map[int]uint16{2: 0x5e00, 1: 0x5600}[size]
		}
		c := program(t, op|2<<6|1<<3, read|2<<6|1<<3|3) // store r0 at r1+r2, load r3 from there
		c.R[0], c.R[1], c.R[2] = random.Uint32(), base, at-base
		c.Step()
		c.Step()
		want := c.R[0] & (0xffff_ffff >> (32 - 8*size))
		if signed && size < 4 {
			want = uint32(int32(want<<(32-8*size)) >> (32 - 8*size))
		}
		require.Equal(t, want, c.R[3], "%d bytes", size)
	}
	c := program(t, 0x6048) // STR r0, [r1, #4] at an odd place
	c.R[1] = ram + 2
	c.Step()
	assert.Equal(t, machine.Fault, c.Stop.Reason)
	assert.Contains(t, c.Stop.Text, "4 bytes were written at 0x20000006, which is no multiple of 4")
}

// What instructions take on a Cortex-M0+ and on a Cortex-M0 (DDI 0484C and DDI 0432C, table 3-1, for memory without
// wait states and a multiplier of one cycle), as SysTick measures it: it is read before and after, which takes some
// cycles itself.
func TestCycles(t *testing.T) {
	for _, x := range []struct {
		name     string
		code     []uint16
		plus, m0 int64
	}{
		{"MOV", []uint16{0x2001}, 1, 1}, {"ADD", []uint16{0x1840}, 1, 1}, {"MUL", []uint16{0x4348}, 1, 1},
		{"LDR", []uint16{0x6808}, 2, 2}, {"STR", []uint16{0x6008}, 2, 2}, {"LDRB", []uint16{0x7808}, 2, 2},
		{"LDM of three", []uint16{0xc991}, 4, 4}, {"STM of two", []uint16{0xc10c}, 3, 3},
		{"PUSH of four", []uint16{0xb513}, 5, 5}, {"POP of two", []uint16{0xbc03}, 3, 3},
		{"B", []uint16{0xe000, 0xbf00}, 2, 3}, {"BEQ taken", []uint16{0xd000, 0xbf00}, 2, 3},
		{"BNE not taken", []uint16{0xd100}, 1, 1},
		{"BL", []uint16{0xf000, 0xf801, 0xbf00}, 3, 4}, {"BX", []uint16{0x4728}, 2, 3}, {"BLX", []uint16{0x47a8}, 2, 3},
		{"POP with PC", []uint16{0xbd00}, 4, 5},
		{"MRS", []uint16{0xf3ef, 0x8010}, 3, 4}, {"MSR", []uint16{0xf380, 0x8800}, 3, 4},
		{"DSB", []uint16{0xf3bf, 0x8f4f}, 3, 4}, {"DMB", []uint16{0xf3bf, 0x8f5f}, 3, 4}, {"NOP", []uint16{0xbf00}, 1, 1},
		{"CPSID", []uint16{0xb672}, 1, 1}, {"MOV to PC", []uint16{0x46af}, 2, 3}, {"SEV", []uint16{0xbf40}, 1, 1},
		{"REV", []uint16{0xba00}, 1, 1}, {"UXTB", []uint16{0xb2c0}, 1, 1}, {"ADR", []uint16{0xa000}, 1, 1},
		{"LSL", []uint16{0x4088}, 1, 1}, {"CMP", []uint16{0x4288}, 1, 1}, {"ADD SP", []uint16{0xb001}, 1, 1},
	} {
		for which, v := range []Variant{CortexM0Plus, CortexM0} {
			// r6 = SYST_CVR; LDR r2, [r6]; the instruction; LDR r3, [r6]
			code := append(append([]uint16{0x6832}, x.code...), 0x6833)
			after := uint32(len(code)-1) * 2
			measure := func(code []uint16, after uint32) int64 {
				c := program(t, code...)
				c.variant = v
				c.storeSystem(regRVR, 4, 0xffffff)
				c.storeSystem(regCVR, 4, 0)
				c.storeSystem(regCSR, 4, 5)
				c.Z = true
				c.R[0], c.R[1], c.R[4], c.R[5] = 0x10, ram+0x40, 5, flash+0x100+after+1
				c.R[6] = regCVR
				c.R[13] -= 0x20
				c.store(c.R[13], 4, c.R[5])
				if x.name == "POP of two" {
					c.store(c.R[13], 4, 0)
				}
				for range 3 {
					c.Step()
					if len(code) == 2 && c.R[15] >= flash+0x104 {
						break
					}
				}
				require.Empty(t, c.Stop.Reason, c.Stop.Text)
				require.EqualValues(t, flash+0x100+after+2, c.R[15], x.name)
				return int64(c.R[2]-c.R[3]) & 0xffffff
			}
			nothing := measure([]uint16{0x6832, 0x6833}, 2)
			assert.Equal(t, []int64{x.plus, x.m0}[which], measure(code, after)-nothing, x.name)
		}
	}
}

// An exception that is pending when another ends follows at once, without what was stacked being unstacked in between.
func TestTailChaining(t *testing.T) {
	for _, v := range []Variant{CortexM0Plus, CortexM0} {
		c := program(t, 0xbf00, 0xbf00)
		c.variant = v
		data := c.Memories[flash>>28].Data
		for _, e := range []int{excIRQ + 3, excIRQ + 5} {
			at := 0x200 + 0x10*e
			data[4*e], data[4*e+1], data[4*e+3] = byte(at+1), byte(at>>8), flash>>24
			data[at], data[at+1] = 0x70, 0x47 // BX lr
		}
		c.storeSystem(regISER, 4, 1<<3|1<<5)
		sp, before := c.R[13], c.Cycle
		c.Request(3, true)
		require.True(t, c.Attend())
		assert.Equal(t, v.Enter, c.Cycle-before)
		c.Request(3, false)
		c.Request(5, true)
		c.Request(5, false)
		before = c.Cycle
		c.Step()
		assert.EqualValues(t, excIRQ+5, c.handling)
		assert.Equal(t, sp-32, c.R[13])
		assert.Equal(t, v.Branch+v.Chain, c.Cycle-before)
		c.Step()
		assert.Zero(t, c.handling)
		assert.Equal(t, sp, c.R[13])
		assert.EqualValues(t, flash+0x100, c.R[15])
	}
}

// An exception stacks eight words, runs its handler, and goes on where the program was, with all it had; a more urgent
// one comes between.
func TestExceptions(t *testing.T) {
	c := program(t, 0x2005, 0x2106, 0xbf00)
	handler := func(exception int, at uint32, code ...uint16) {
		data := c.Memories[flash>>28].Data
		v := flash + at + 1
		for i := range 4 {
			data[4*exception+i] = byte(v >> (8 * i))
		}
		for i, w := range code {
			data[int(at)+2*i], data[int(at)+2*i+1] = byte(w), byte(w>>8)
		}
	}
	handler(excIRQ+3, 0x200, 0x2009, 0x2207, 0x4770) // r0 = 9, r2 = 7, back
	handler(excIRQ+5, 0x300, 0x2308, 0x4770)         // r3 = 8, back
	c.storeSystem(regISER, 4, 1<<3|1<<5)
	c.storeSystem(regIPR, 4, 0x80<<24)
	c.storeSystem(regIPR+4, 4, 0x40<<8)
	c.R[2], c.R[3] = 22, 33
	c.Step()
	sp := c.R[13]
	c.Request(3, true)
	require.True(t, c.Attend())
	assert.EqualValues(t, flash+0x200, c.R[15])
	assert.Equal(t, sp-32, c.R[13])
	c.Request(3, false)
	c.Step()
	c.Request(5, true) // more urgent
	c.Request(5, false)
	require.True(t, c.Attend())
	assert.EqualValues(t, flash+0x300, c.R[15])
	assert.EqualValues(t, excIRQ+5, c.handling)
	c.Step()
	c.Step() // back in the first handler
	assert.EqualValues(t, flash+0x202, c.R[15])
	assert.EqualValues(t, 33, c.R[3], "as it was stacked")
	c.Step()
	c.Step()
	assert.EqualValues(t, flash+0x102, c.R[15])
	assert.Equal(t, []uint32{5, 22, sp}, []uint32{c.R[0], c.R[2], c.R[13]})
	require.True(t, c.Attend())
	assert.Zero(t, c.handling, "nothing is left to do")
}

// What the processor cannot do ends the run with the reason and the place.
func TestFaults(t *testing.T) {
	for text, code := range map[string][]uint16{
		"the instruction 0xDE00 at 0x10000100 is not defined":   {0xde00},
		"0x30000000 was read, where the chip has nothing":       {0x2003, 0x0700, 0x6801},
		"0x10000000 was written, which is memory that can only": {0x2001, 0x0700, 0x6001},
		"a branch led to 0x00000002, which is even":             {0x2002, 0x4700},
		"execution reached 0x20001000, where the chip has no": {0x2080, 0x0580, 0x2110, 0x0209, 0x1840, 0x3001,
			0x4700},
	} {
		c := program(t, code...)
		for range 20 {
			if c.Step(); c.Stop.Reason != "" {
				break
			}
		}
		assert.Equal(t, machine.Fault, c.Stop.Reason)
		assert.Contains(t, c.Stop.Text, text)
	}
	c := program(t, 0xbe00)
	c.Step()
	assert.Equal(t, machine.Breakpoint, c.Stop.Reason)
}

// SysTick counts down, flags each time it comes to 0, and requests its exception.
func TestSysTick(t *testing.T) {
	c := program(t)
	c.storeSystem(regRVR, 4, 9)
	c.storeSystem(regCVR, 4, 0)
	c.storeSystem(regCSR, 4, 7)
	var seen []string
	for range 24 {
		c.Cycle++
		v, _ := c.loadSystem(regCVR, 4)
		control, _ := c.loadSystem(regCSR, 4)
		seen = append(seen, fmt.Sprint(v, control>>16))
	}
	assert.Equal(t, []string{"9 0", "8 0", "7 0", "6 0", "5 0", "4 0", "3 0", "2 0", "1 0", "0 1", "9 0", "8 0", "7 0",
		"6 0",
		"5 0", "4 0", "3 0", "2 0", "1 0", "0 1", "9 0", "8 0", "7 0", "6 0"}, seen)
	require.True(t, c.Attend())
	assert.EqualValues(t, excSysTick, c.handling)
}

// Random code ends in some way, with a reason, and never goes on for ever or breaks the simulation.
func FuzzCode(f *testing.F) {
	f.Add([]byte{0x00, 0xbe})
	f.Fuzz(func(t *testing.T, code []byte) {
		var words []uint16
		for i := 0; i+1 < len(code) && i < 3000; i += 2 {
			words = append(words, uint16(code[i])|uint16(code[i+1])<<8)
		}
		c := program(t, words...)
		for range 5000 {
			c.Deadline = Never
			if c.Stop.Reason != "" || !c.Attend() {
				return
			}
			c.Step()
		}
	})
}
