package avr

// Skipping of counted waits. A busy wait compiled by avr-gcc is a loop that only counts registers
// down; what it does until it ends, or until the next event, is known without doing it. A skip
// always leaves at least one iteration, which then runs as usual and sets every flag, so that the
// state comes out bit for bit as without it. Taking this file and the opLoop cases away changes
// no result.

// markLoops finds loop heads and marks them:
//
//	1: dec rA           / brne 1b   (three cycles an iteration)
//	1: sbiw rA, k       / brne 1b   (four)
//	1: subi rA, k / sbci … (one to three times) / brne 1b
//	1: rjmp 1b
func markLoops(code []instruction) {
	pcMask := len(code) - 1
	for pc := range code {
		in := &code[pc]
		back := func(behind int) bool {
			b := code[(pc+behind)&pcMask]
			return b.op == opBRBC && b.r == flagZ && b.k == int32(pc)
		}
		switch in.op {
		case opDEC:
			if back(1) {
				in.op = opLoopDEC
			}
		case opSBIW:
			if in.k > 0 && back(1) {
				in.op = opLoopSBIW
			}
		case opSUBI:
			n := 1
			for n < 4 && code[(pc+n)&pcMask].op == opSBCI && code[(pc+n)&pcMask].k == 0 && distinct(code, pc, n) {
				n++
			}
			if in.k == 1 && n > 1 && back(n) {
				in.op, in.r = opLoopSUBI, uint8(n)
				packed := uint32(0)
				for i := 1; i < n; i++ {
					packed |= uint32(code[pc+i].d) << (8 * i)
				}
				in.k = int32(packed | 1)
			}
		case opRJMP:
			if in.k == int32(pc) {
				in.op = opLoopSelf
			}
		}
	}
}

// distinct reports whether the register of the nth instruction of a loop is none of those before.
func distinct(code []instruction, pc, n int) bool {
	pcMask := len(code) - 1
	for i := 0; i < n; i++ {
		if code[(pc+i)&pcMask].d == code[(pc+n)&pcMask].d {
			return false
		}
	}
	return true
}

// skipLoop skips iterations of the loop at whose head the machine stands and gives the cycles they
// take.
func skipLoop(data *[0x10000]byte, in *instruction, now, limit int64) int64 {
	switch in.op {
	case opLoopDEC:
		return loopDEC(data, in, now, limit)
	case opLoopSBIW:
		return loopSBIW(data, in, now, limit)
	case opLoopSUBI:
		return loopSUBI(data, in, now, limit)
	}
	return (limit - now + 1) / 2 * 2 // rjmp to itself: all of it
}

// whole is how many of n iterations to skip: those that end before the limit, and never the last.
func whole(n, cycles, now, limit int64) int64 {
	return max(0, min(n-1, (limit-now-1)/cycles))
}

func loopDEC(data *[0x10000]byte, in *instruction, now, limit int64) int64 {
	n := int64(data[in.d])
	if n == 0 {
		n = 256
	}
	skip := whole(n, 3, now, limit)
	data[in.d] -= uint8(skip)
	return skip * 3
}

func loopSBIW(data *[0x10000]byte, in *instruction, now, limit int64) int64 {
	v := pair(data, in.d)
	if int64(v)%int64(in.k) != 0 {
		return 0 // wraps past zero: rare, done step by step
	}
	n := int64(v) / int64(in.k)
	if n == 0 && in.k == 1 {
		n = 0x10000
	}
	skip := whole(n, 4, now, limit)
	setPair(data, in.d, v-uint16(skip)*uint16(in.k))
	return skip * 4
}

func loopSUBI(data *[0x10000]byte, in *instruction, now, limit int64) int64 {
	v := uint32(data[in.d])
	for i := uint8(1); i < in.r; i++ {
		v |= uint32(data[uint8(in.k>>(8*i))]) << (8 * i)
	}
	n := int64(v)
	if n == 0 {
		n = int64(1) << (8 * in.r)
	}
	cycles := int64(in.r) + 2
	skip := whole(n, cycles, now, limit)
	v -= uint32(skip)
	data[in.d] = uint8(v)
	for i := uint8(1); i < in.r; i++ {
		data[uint8(in.k>>(8*i))] = uint8(v >> (8 * i))
	}
	return skip * cycles
}
