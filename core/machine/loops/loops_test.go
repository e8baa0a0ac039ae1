package loops_test

import (
	"math/rand"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/machine/loops"
)

// toy is a small machine of 32-bit registers, with a 64-bit timer that is read in halves, and an input that changes
// every so many cycles.
type toy struct {
	code   []instruction
	regs   [8]uint32
	memory [8]uint32
	c, z   uint32
	latch  uint32 // the upper half of the timer at the last reading of the lower one
	pc     uint32
	cycle  int64
	period int64 // cycles of a tick of the timer
	input  int64 // cycles until the input changes, from each change on
	loops  loops.Loops
	skip   bool
	steps  int
}

type instruction struct {
	op   op
	d, s int
	k    uint32
}

type op int

const (
	load     op = iota // d = memory[k]
	store              // memory[k] = d
	constant           // d = k
	move               // d = s
	add                // d += s
	addOn              // d += s + C
	addConst           // d += k
	sub                // d -= s
	subOn              // d -= s + C
	compare            // d - s
	compareOn
	compareConst // d - k
	and          // d &= k
	low          // d &= 2^k - 1
	or           // d |= s
	half         // d >>= 1
	ticks        // d = the lower half of the timer
	ticksHigh    // d = the upper half then
	read         // d = the input
	ifZero       // jump to k
	ifNot
	ifLess // jump to k where C
	ifMore
	jump
)

const (
	memories = loops.Place(100)
	flagC    = loops.Place(200)
	flagZ    = loops.Place(201)
	latch    = loops.Place(202)
	input    = loops.Place(300)
)

func (t *toy) at(cycle int64) uint64 { return uint64(cycle/t.period) + 0xffff_ff00 }

func (t *toy) in(cycle int64) uint32 { return uint32(cycle/t.input) & 1 << 3 }

func (t *toy) step() {
	in := t.code[t.pc]
	d, s := &t.regs[in.d], t.regs[in.s]
	t.steps++
	t.pc++
	t.cycle++
	subtract := func(b uint32, borrow uint32, z bool) uint32 {
		r := uint64(*d) - uint64(b) - uint64(borrow)
		t.c = uint32(r >> 63)
		if uint32(r) != 0 {
			t.z = 0
		} else if !z {
			t.z = 1
		}
		return uint32(r)
	}
	sum := func(b, carry uint32) {
		r := uint64(*d) + uint64(b) + uint64(carry)
		*d, t.c, t.z = uint32(r), uint32(r>>32), 0
		if uint32(r) == 0 {
			t.z = 1
		}
	}
	condition := false
	switch in.op {
	case load:
		*d = t.memory[in.k]
	case store:
		t.memory[in.k] = *d
	case constant:
		*d = in.k
	case move:
		*d = s
	case add:
		sum(s, 0)
	case addOn:
		sum(s, t.c)
	case addConst:
		sum(in.k, 0)
	case sub:
		*d = subtract(s, 0, false)
	case subOn:
		*d = subtract(s, t.c, true)
	case compare:
		subtract(s, 0, false)
	case compareOn:
		subtract(s, t.c, true)
	case compareConst:
		subtract(in.k, 0, false)
	case and:
		*d &= in.k
	case low:
		*d &= 1<<in.k - 1
	case or:
		*d |= s
	case half:
		*d >>= 1
	case ticks:
		v := t.at(t.cycle - 1)
		*d, t.latch = uint32(v), uint32(v>>32)
	case ticksHigh:
		*d = t.latch
	case read:
		*d = t.in(t.cycle - 1)
	case ifZero:
		condition = t.z == 1
	case ifNot:
		condition = t.z == 0
	case ifLess:
		condition = t.c == 1
	case ifMore:
		condition = t.c == 0
	case jump:
		condition = true
	}
	if condition {
		t.pc = in.k
		t.cycle++
	}
}

func (t *toy) run(until int64) {
	for t.cycle < until {
		from := t.pc
		if t.step(); t.skip && t.pc <= from {
			limit := min(until, (t.cycle/t.input+1)*t.input)
			n, _, _ := t.loops.Skip(t, t.pc, t.cycle, limit)
			t.cycle += n
		}
	}
}

func (t *toy) Look(p loops.Place, mask uint64) (uint64, int64, bool) {
	switch {
	case p == input:
		return uint64(t.in(t.cycle)), (t.cycle/t.input + 1) * t.input, true
	case p == latch:
		return uint64(t.latch), loops.Never, true
	case p == flagC:
		return uint64(t.c), loops.Never, true
	case p == flagZ:
		return uint64(t.z), loops.Never, true
	case p >= memories:
		return uint64(t.memory[p-memories]), loops.Never, true
	}
	return uint64(t.regs[p]), loops.Never, true
}

func (t *toy) Put(p loops.Place, v uint64) {
	if p >= memories {
		t.memory[p-memories] = uint32(v)
	} else {
		t.regs[p] = uint32(v)
	}
}

func (t *toy) Count(_ uint8, cycle int64) (loops.Count, bool) {
	return loops.Count{Value: t.at(cycle), Period: t.period, Until: loops.Never}, true
}

func (t *toy) Follow(w *loops.Walk) bool {
	in := t.code[w.PC]
	at := loops.Place(in.d)
	get := func(n int) loops.Value { return w.Get(loops.Place(n), 32) }
	flags := func(r, carry, z loops.Value) loops.Value {
		w.Set(flagC, carry)
		w.Set(flagZ, z)
		return r
	}
	nothing := w.Const(1, 0)
	sum := func(b, carry loops.Value) {
		r, c := w.Add(get(in.d), b, carry)
		w.Set(at, flags(r, c, w.Zero(r)))
	}
	difference := func(b, borrow loops.Value, on bool) loops.Value {
		r, c := w.Subtract(get(in.d), b, borrow)
		if on {
			return flags(r, c, w.AlsoZero(w.Get(flagZ, 1), r))
		}
		return flags(r, c, w.Zero(r))
	}
	carry := func() loops.Value { return w.Get(flagC, 1) }
	condition := false
	switch in.op {
	case load:
		w.Set(at, w.Get(memories+loops.Place(in.k), 32))
	case store:
		w.Set(memories+loops.Place(in.k), get(in.d))
	case constant:
		w.Set(at, w.Const(32, uint64(in.k)))
	case move:
		w.Set(at, get(in.s))
	case add:
		sum(get(in.s), nothing)
	case addOn:
		sum(get(in.s), carry())
	case addConst:
		sum(w.Const(32, uint64(in.k)), nothing)
	case sub:
		w.Set(at, difference(get(in.s), nothing, false))
	case subOn:
		w.Set(at, difference(get(in.s), carry(), true))
	case compare:
		difference(get(in.s), nothing, false)
	case compareOn:
		difference(get(in.s), carry(), true)
	case compareConst:
		difference(w.Const(32, uint64(in.k)), nothing, false)
	case and:
		w.Set(at, w.And(get(in.d), uint64(in.k)))
	case low:
		w.Set(at, w.Join(w.Slice(get(in.d), 0, uint8(in.k)), w.Const(uint8(32-in.k), 0)))
	case or:
		a, b := get(in.d), get(in.s)
		w.Set(at, w.Make(32, w.Now(a)|w.Now(b), a, b))
	case half:
		a := get(in.d)
		w.Set(at, w.Make(32, w.Now(a)>>1, a))
	case ticks:
		v := w.Count(0, 64)
		w.Set(at, w.Slice(v, 0, 32))
		w.Set(latch, w.Slice(v, 32, 32))
	case ticksHigh:
		w.Set(at, w.Get(latch, 32))
	case read:
		w.Set(at, w.Input(input, 32))
	case ifZero:
		condition = w.Decide(w.Get(flagZ, 1))
	case ifNot:
		condition = !w.Decide(w.Get(flagZ, 1))
	case ifLess:
		condition = w.Decide(carry())
	case ifMore:
		condition = w.Decide(w.Not(carry()))
	case jump:
		condition = true
	}
	w.PC++
	w.Cycle++
	if condition {
		w.PC = in.k
		w.Cycle++
	}
	return true
}

// both runs a program with and without leaving rounds out, and requires the same state at random stops. It gives how
// many instructions were carried out, with and without.
func both(t *testing.T, code []instruction, period, input, length int64, seed int64) (steps, all int) {
	random := rand.New(rand.NewSource(seed))
	a := &toy{code: code, period: period, input: input, skip: true}
	b := &toy{code: code, period: period, input: input}
	for i := range a.regs {
		a.regs[i] = random.Uint32() >> random.Intn(32)
		a.memory[i] = random.Uint32() >> random.Intn(32)
	}
	b.regs, b.memory = a.regs, a.memory
	for a.cycle < length {
		until := a.cycle + 1 + random.Int63n(length/5)
		a.run(until)
		b.run(until)
		require.Equal(t, []any{b.cycle, b.pc, b.regs, b.memory, b.c, b.z, b.latch},
			[]any{a.cycle, a.pc, a.regs, a.memory, a.c, a.z, a.latch}, "at %d: %v", until, code)
	}
	return a.steps, b.steps
}

// Waits as programs write them: most of each is left out.
func TestWaits(t *testing.T) {
	for name, code := range map[string][]instruction{
		"until 64 bits of time are far enough, across the end of the lower half": {
			{ticks, 0, 0, 0}, {ticksHigh, 1, 0, 0}, {move, 2, 0, 0}, {move, 3, 1, 0}, {constant, 6, 0, 0},
			{addConst, 2, 0, 5000}, {addOn, 3, 6, 0},
			{ticks, 0, 0, 0}, {ticksHigh, 1, 0, 0}, {compare, 0, 2, 0}, {compareOn, 1, 3, 0}, {ifLess, 0, 0, 7},
			{addConst, 7, 0, 1}, {jump, 0, 0, 0},
		},
		"since a moment": {
			{ticks, 2, 0, 0}, {ticks, 0, 0, 0}, {sub, 0, 2, 0}, {compareConst, 0, 0, 3000}, {ifLess, 0, 0, 1},
			{addConst, 7, 0, 1}, {jump, 0, 0, 0},
		},
		"as many rounds as a number says": {
			{constant, 2, 0, 100_000}, {addConst, 2, 0, ^uint32(0)}, {ifNot, 0, 0, 1}, {addConst, 7, 0, 1},
			{jump, 0, 0, 0},
		},
		"up to a number, with memory for it": {
			{constant, 2, 0, 0}, {store, 2, 0, 1}, {load, 3, 0, 1}, {addConst, 3, 0, 1}, {store, 3, 0, 1},
			{compareConst, 3, 0, 50_000}, {ifLess, 0, 0, 2}, {addConst, 7, 0, 1}, {jump, 0, 0, 0},
		},
		"down from a number of sixteen bits": {
			{constant, 2, 0, 60_000}, {addConst, 2, 0, ^uint32(0)}, {low, 2, 0, 16}, {compareConst, 2, 0, 0},
			{ifNot, 0, 0, 1}, {addConst, 7, 0, 1}, {jump, 0, 0, 0},
		},
		"for an input, or until tries run out": {
			{constant, 2, 0, 20_000}, {read, 0, 0, 0}, {and, 0, 0, 8}, {compareConst, 0, 0, 8}, {ifZero, 0, 0, 7},
			{addConst, 2, 0, ^uint32(0)}, {ifNot, 0, 0, 1}, {addConst, 7, 0, 1}, {jump, 0, 0, 0},
		},
		"with a state that each round sets again": {
			{constant, 4, 0, 2}, {ticks, 2, 0, 0}, {compareConst, 4, 0, 2}, {ifNot, 0, 0, 8}, {constant, 4, 0, 2},
			{ticks, 0, 0, 0}, {sub, 0, 2, 0}, {compareConst, 0, 0, 4000}, {ifLess, 0, 0, 2}, {addConst, 7, 0, 1},
			{jump, 0, 0, 0},
		},
	} {
		for _, period := range []int64{1, 7, 125} {
			t.Run(name, func(t *testing.T) {
				steps, all := both(t, code, period, 123_457, 1_000_000, period)
				assert.Less(t, steps, all/50, "of %d", all)
			})
		}
	}
}

// Whatever a loop computes, leaving rounds out changes nothing.
func TestAtRandom(t *testing.T) {
	left, all := 0, 0
	for seed := int64(0); seed < 3000; seed++ {
		steps, n := both(t, program(rand.New(rand.NewSource(seed))), 1+seed%3*60, 3001, 20_000, seed)
		left, all = left+n-steps, all+n
	}
	t.Logf("%d %% left out", 100*left/all)
	assert.Greater(t, left, all/10)
}

func FuzzLoops(f *testing.F) {
	f.Add(int64(1), int64(1), int64(100))
	f.Fuzz(func(t *testing.T, seed, period, input int64) {
		if period < 1 || period > 1e6 || input < 1 {
			return
		}
		both(t, program(rand.New(rand.NewSource(seed))), period, input, 20_000, seed)
	})
}

// program is a loop of random instructions that waits for something, mostly.
func program(random *rand.Rand) (code []instruction) {
	small := func() uint32 { return random.Uint32() >> random.Intn(32) }
	for n := 2 + random.Intn(10); n > 0; n-- {
		in := instruction{op(random.Intn(int(ifZero))), random.Intn(6), random.Intn(6), 0}
		switch in.op {
		case load, store:
			in.k = uint32(random.Intn(3))
		case addConst:
			in.k = []uint32{1, ^uint32(0), 4, small()}[random.Intn(4)]
		case constant, compareConst:
			in.k = small()
		case low:
			in.k = []uint32{8, 16}[random.Intn(2)]
		case and:
			in.k = []uint32{8, 0xff, 1 << 31, small()}[random.Intn(4)]
		case ticks:
			code = append(code, in)
			in = instruction{ticksHigh, random.Intn(6), 0, 0}
		}
		code = append(code, in)
	}
	code = append(code, instruction{ifZero + op(random.Intn(4)), 0, 0, 0}, instruction{addConst, 7, 0, 1},
		instruction{jump, 0, 0, 0})
	return code
}
