package avr

// summary goes once round a loop on paper, from the machine's present state on.
type summary struct {
	regs    [32]value
	sreg    uint8 // what the flags are in the first round
	open    uint8 // which of them are not known: what is known of those is in flags
	flags   [8]flag
	memory  []value // of those places that were touched
	touched []uint16
	seen    []uint32 // in which walk a place was touched
	serial  uint32
	varying []vary
	known   [16]loop

	head   int64 // the cycle at which the round begins
	pc     int32
	sp     uint16
	cycle  int64
	limit  int64 // the first cycle at which something that was read may change
	counts []countRead
	copies []savedFlags
	failed bool
	tcnt   value // the high byte that a 16-bit reading keeps
}

// countRead is a reading of a timer's count: when, which tick of its prescaler that was, and how far the count may go
// from round to round.
type countRead struct {
	read, base, first int64
	shift             uint8
	until             int64
}

func newWalk(m *Machine) *summary {
	w := &summary{memory: make([]value, int(m.ramEnd)+1), seen: make([]uint32, int(m.ramEnd)+1)}
	for i := range w.known {
		w.known[i].head = -1
	}
	return w
}

// round walks until it is back at the machine's present instruction. It reports whether it came there.
func (w *summary) round(m *Machine) bool {
	w.serial++
	w.touched, w.counts, w.copies = w.touched[:0], w.counts[:0], w.copies[:0]
	w.head, w.pc, w.sp, w.cycle, w.limit, w.failed = m.cycle, m.pc, m.sp, m.cycle, m.deadline, false
	for r := range w.regs {
		w.regs[r] = value{v: m.data[r]}
	}
	w.sreg, w.open = m.sreg, 0
	w.tcnt = value{kind: stale}
	for _, v := range w.varying {
		k := fresh
		if v.stale {
			k = stale
		}
		switch {
		case v.at < flagPlaces:
			w.regs[v.at].kind = k
		case v.at < place(m.sramStart):
			w.lose(1<<(v.at-flagPlaces), k, m.sreg)
		default:
			w.at(m, uint16(v.at)).kind = k
		}
	}
	for steps := 0; steps < maxSteps; steps++ {
		m.counters.Followed++
		w.step(m, &m.reference[w.pc&m.pcMask])
		w.pc &= m.pcMask
		if w.failed || w.cycle >= w.limit {
			return false
		}
		if w.pc == m.pc && w.sp == m.sp {
			return true
		}
	}
	return false
}

// at is a byte of SRAM.
func (w *summary) at(m *Machine, address uint16) *value {
	v := &w.memory[address]
	if w.seen[address] != w.serial {
		w.seen[address] = w.serial
		w.touched = append(w.touched, address)
		*v = value{v: m.data[address]}
	}
	return v
}

func (w *summary) fail() value {
	w.failed = true
	return value{}
}

// within holds the count of a form to fewer than d ticks.
func (w *summary) within(f wide, d int64) {
	c := &w.counts[f.count]
	c.until = min(c.until, d)
}

// freeze makes a value known for as long as its byte stays as it is.
func (w *summary) freeze(v value) value {
	switch v.kind {
	case known:
	case formed:
		w.within(v.wide, v.wide.next(v.wide.n-8))
	case noisy:
		w.quiet()
	default:
		w.failed = true
	}
	return value{v: v.v}
}

// decide makes a flag known for as long as it stays as it is.
func (w *summary) decide(f uint8) bool {
	if w.open>>f&1 == 1 {
		w.settled(w.flags[f])
	}
	return w.sreg>>f&1 == 1
}

func (w *summary) settled(f flag) {
	if f.kind == formed {
		w.within(f.test.wide, f.test.flip())
	} else {
		w.failed = true
	}
}

// kindOf returns what is known of a flag.
func (w *summary) kindOf(f uint8) kind {
	if w.open>>f&1 == 0 {
		return known
	}
	return w.flags[f].kind
}

// follow makes a flag one that a test decides.
func (w *summary) follow(f uint8, t test) {
	w.open |= 1 << f
	w.flags[f] = flag{formed, t}
}

// either is what comes of values that are not followed: stale if one is.
func either(a, b kind) kind {
	if a == stale || b == stale {
		return stale
	}
	return fresh
}

// set makes flags known.
func (w *summary) set(mask uint8, sreg uint8) {
	w.sreg = w.sreg&^mask | sreg&mask
	w.open &^= mask
}

// lose marks flags whose value is not followed.
func (w *summary) lose(mask uint8, k kind, sreg uint8) {
	w.sreg = w.sreg&^mask | sreg&mask
	w.open |= mask
	for ; mask != 0; mask &= mask - 1 {
		w.flags[log2(mask)].kind = k
	}
}

const (
	indexC = 0
	indexZ = 1
	indexN = 2
	indexT = 6
)

// step walks one instruction.
func (w *summary) step(m *Machine, in *instruction) {
	regs := &w.regs
	cycles, words := int64(1), int32(1)
	switch in.op {
	case opNOP:
	case opMOV:
		regs[in.d] = regs[in.r]
	case opMOVW:
		regs[in.d], regs[in.d+1] = regs[in.r], regs[in.r+1]
	case opLDI:
		regs[in.d] = value{v: uint8(in.k)}
	case opADD, opADC:
		regs[in.d] = w.add(in, in.op == opADC)
	case opSUB, opSBC:
		regs[in.d] = w.subtract(regs[in.d], regs[in.r], in.op == opSBC)
	case opSUBI, opSBCI:
		regs[in.d] = w.subtract(regs[in.d], value{v: uint8(in.k)}, in.op == opSBCI)
	case opCP, opCPC:
		w.subtract(regs[in.d], regs[in.r], in.op == opCPC)
	case opCPI:
		w.subtract(regs[in.d], value{v: uint8(in.k)}, false)
	case opAND:
		regs[in.d] = w.logic(regs[in.d], regs[in.r], in.d == in.r, 0xff, 0, func(a, b uint8) uint8 { return a & b })
	case opANDI:
		regs[in.d] = w.logic(regs[in.d], value{v: uint8(in.k)}, false, 0xff, 0, func(a, b uint8) uint8 { return a & b })
	case opOR:
		regs[in.d] = w.logic(regs[in.d], regs[in.r], in.d == in.r, 0, 0xff, func(a, b uint8) uint8 { return a | b })
	case opORI:
		regs[in.d] = w.logic(regs[in.d], value{v: uint8(in.k)}, false, 0, 0xff, func(a, b uint8) uint8 { return a | b })
	case opEOR:
		if in.d == in.r {
			regs[in.d] = value{}
			w.set(logic, logicFlags[0])
			break
		}
		regs[in.d] = w.logic(regs[in.d], regs[in.r], false, 0, -1, func(a, b uint8) uint8 { return a ^ b })
	case opCOM, opNEG, opINC, opDEC, opLSR, opROR, opASR, opSWAP, opADIW, opSBIW, opMUL, opMULS, opMULSU, opFMUL,
		opFMULS, opFMULSU:
		cycles = w.concrete(m, in)
	case opBST:
		w.set(flagT, 0)
		if w.freeze(regs[in.d]).v&in.r != 0 {
			w.set(flagT, flagT)
		}
	case opBLD:
		v := w.freeze(regs[in.d])
		if v.v &^= in.r; w.decide(indexT) {
			v.v |= in.r
		}
		regs[in.d] = v
	case opBSET, opBCLR:
		w.set(in.r, 0)
		if in.op == opBSET {
			w.set(in.r, in.r)
		}

	case opRJMP, opJMP:
		w.pc = in.k
		w.cycle += 2
		if in.op == opJMP {
			w.cycle++
		}
		return
	case opIJMP:
		w.pc = int32(w.pointer(regZ, 0, 0))
		w.cycle += 2
		return
	case opBRBS, opBRBC:
		w.cycle++
		if w.pc++; w.decide(log2(in.r)) == (in.op == opBRBS) {
			w.pc = in.k
			w.cycle++
		}
		return
	case opCPSE:
		w.skipIf(w.freeze(regs[in.d]).v == w.freeze(regs[in.r]).v, in)
		return
	case opSBRC, opSBRS:
		w.skipIf(w.bit(regs[in.d], in.r) == (in.op == opSBRS), in)
		return
	case opSBIC, opSBIS:
		w.skipIf(w.bit(w.load(m, uint16(in.d), w.cycle), in.r) == (in.op == opSBIS), in)
		return
	case opRCALL:
		w.call(m, in.k, w.pc+1, 3)
		return
	case opICALL:
		w.call(m, int32(w.pointer(regZ, 0, 0)), w.pc+1, 3)
		return
	case opCALL:
		w.call(m, in.k, w.pc+2, 4)
		return
	case opRET:
		pc := int32(0)
		if w.cycle += 4; m.v.wide {
			w.cycle++
			pc = int32(w.freeze(w.pop(m)).v)
		}
		high, low := w.pop(m), w.pop(m)
		w.pc = pc<<16 | int32(w.freeze(high).v)<<8 | int32(w.freeze(low).v)
		return
	case opPUSH:
		w.push(m, regs[in.d])
		cycles = 2
	case opPOP:
		regs[in.d] = w.pop(m)
		cycles = 2

	case opLDX:
		regs[in.d], cycles = w.load(m, w.pointer(regX, 0, 0), w.cycle+1), 2
	case opLDXInc:
		regs[in.d], cycles = w.load(m, w.pointer(regX, 0, 1), w.cycle+1), 2
	case opLDXDec:
		regs[in.d], cycles = w.load(m, w.pointer(regX, -1, 0), w.cycle+1), 2
	case opLDYInc:
		regs[in.d], cycles = w.load(m, w.pointer(regY, 0, 1), w.cycle+1), 2
	case opLDYDec:
		regs[in.d], cycles = w.load(m, w.pointer(regY, -1, 0), w.cycle+1), 2
	case opLDDY:
		regs[in.d], cycles = w.load(m, w.pointer(regY, 0, 0)+uint16(in.k), w.cycle+1), 2
	case opLDZInc:
		regs[in.d], cycles = w.load(m, w.pointer(regZ, 0, 1), w.cycle+1), 2
	case opLDZDec:
		regs[in.d], cycles = w.load(m, w.pointer(regZ, -1, 0), w.cycle+1), 2
	case opLDDZ:
		regs[in.d], cycles = w.load(m, w.pointer(regZ, 0, 0)+uint16(in.k), w.cycle+1), 2
	case opLDS:
		regs[in.d], cycles, words = w.load(m, uint16(in.k), w.cycle+1), 2, 2
	case opSTX:
		w.store(m, w.pointer(regX, 0, 0), regs[in.d])
		cycles = 2
	case opSTXInc:
		v := regs[in.d]
		w.store(m, w.pointer(regX, 0, 1), v)
		cycles = 2
	case opSTXDec:
		v := regs[in.d]
		w.store(m, w.pointer(regX, -1, 0), v)
		cycles = 2
	case opSTYInc:
		v := regs[in.d]
		w.store(m, w.pointer(regY, 0, 1), v)
		cycles = 2
	case opSTYDec:
		v := regs[in.d]
		w.store(m, w.pointer(regY, -1, 0), v)
		cycles = 2
	case opSTDY:
		w.store(m, w.pointer(regY, 0, 0)+uint16(in.k), regs[in.d])
		cycles = 2
	case opSTZInc:
		v := regs[in.d]
		w.store(m, w.pointer(regZ, 0, 1), v)
		cycles = 2
	case opSTZDec:
		v := regs[in.d]
		w.store(m, w.pointer(regZ, -1, 0), v)
		cycles = 2
	case opSTDZ:
		w.store(m, w.pointer(regZ, 0, 0)+uint16(in.k), regs[in.d])
		cycles = 2
	case opSTS:
		w.store(m, uint16(in.k), regs[in.d])
		cycles, words = 2, 2
	case opLPM0:
		regs[0] = value{v: m.flash[int(w.pointer(regZ, 0, 0))&(len(m.flash)-1)]}
		cycles = 3
	case opLPM:
		regs[in.d] = value{v: m.flash[int(w.pointer(regZ, 0, 0))&(len(m.flash)-1)]}
		cycles = 3
	case opLPMInc:
		z := w.pointer(regZ, 0, 1)
		regs[in.d] = value{v: m.flash[int(z)&(len(m.flash)-1)]}
		cycles = 3
	case opIN:
		regs[in.d] = w.load(m, uint16(in.r), w.cycle)
	case opOUT:
		w.store(m, uint16(in.d), regs[in.r])
	default: // what acts on more than registers and memory
		w.failed = true
	}
	w.cycle += cycles
	w.pc += words
}

func (w *summary) skipIf(condition bool, in *instruction) {
	w.pc++
	w.cycle++
	if condition {
		w.pc += int32(in.skip)
		w.cycle += int64(in.skip)
	}
}

// bit is a bit of a value, known for as long as it stays as it is.
func (w *summary) bit(v value, mask uint8) bool {
	switch v.kind {
	case formed:
		w.within(v.wide, v.wide.next(v.wide.n-8+log2(mask)))
	case saved:
		if c := &w.copies[v.copy]; c.open&mask != 0 {
			w.settled(c.flags[log2(mask)])
		}
	case noisy:
		if v.copy&mask != 0 {
			w.quiet()
		}
	case fresh, stale:
		w.failed = true
	}
	return v.v&mask != 0
}

// pointer gives the address in a pair of registers, and moves it.
func (w *summary) pointer(r uint8, before, after int32) uint16 {
	p := uint16(w.freeze(w.regs[r]).v) | uint16(w.freeze(w.regs[r+1]).v)<<8
	p += uint16(before)
	if before != 0 || after != 0 {
		next := p + uint16(after)
		w.regs[r], w.regs[r+1] = value{v: uint8(next)}, value{v: uint8(next >> 8)}
	}
	return p
}

func (w *summary) call(m *Machine, target, back int32, cycles int64) {
	w.push(m, value{v: uint8(back)})
	w.push(m, value{v: uint8(back >> 8)})
	if w.cycle += cycles; m.v.wide {
		w.push(m, value{v: uint8(back >> 16)})
		w.cycle++
	}
	w.pc = target
}

func (w *summary) push(m *Machine, v value) {
	if w.sp <= m.stackFloor || w.sp > m.ramEnd {
		w.failed = true
		return
	}
	*w.at(m, w.sp) = v
	w.sp--
}

func (w *summary) pop(m *Machine) value {
	if w.sp+1 > m.ramEnd || w.sp+1 < m.sramStart {
		return w.fail()
	}
	w.sp++
	return *w.at(m, w.sp)
}

// load reads the data space at a cycle.
func (w *summary) load(m *Machine, address uint16, cycle int64) value {
	switch {
	case address > m.ramEnd || address < 0x20:
		return w.fail()
	case address >= m.sramStart:
		return *w.at(m, address)
	case address == regSREG:
		return w.saveFlags()
	case address == regSPL:
		return value{v: uint8(w.sp)}
	case address == regSPH:
		return value{v: uint8(w.sp >> 8)}
	case m.v.pinsOf[address] >= 0:
		return w.readPort(m, int(m.v.pinsOf[address]))
	case m.v.registers[address].name == "":
		return w.fail()
	case m.v.isPlain[address]:
		return value{v: m.data[address]}
	}
	for i := range m.timers {
		switch t := &m.timers[i]; {
		case address == t.tifr:
			w.timerBound(m, t)
			return value{v: m.data[address]}
		case address == t.tcnt:
			return w.count(m, t, cycle)
		case t.wide && address == t.tcnt+1:
			return w.tcnt
		}
	}
	for i := range m.usarts {
		if address == m.usarts[i].l.ucsra() {
			return value{v: m.v.registers[address].read(m, address)}
		}
	}
	return w.fail()
}

// store writes the data space. Of I/O registers only SREG and the stack pointer may be written: others act.
func (w *summary) store(m *Machine, address uint16, v value) {
	switch {
	case address >= m.sramStart && address <= m.ramEnd:
		*w.at(m, address) = v
	case address == regSREG:
		if v.kind == saved {
			c := &w.copies[v.copy]
			w.sreg, w.open, w.flags = c.sreg, c.open, c.flags
		} else {
			w.set(0xff, w.freeze(v).v)
		}
	case address == regSPL:
		w.sp = w.sp&0xff00 | uint16(w.freeze(v).v)
	case address == regSPH:
		w.sp = w.sp&0x00ff | uint16(w.freeze(v).v)<<8
	default:
		w.failed = true
	}
}

// saveFlags copies SREG.
func (w *summary) saveFlags() value {
	if len(w.copies) == maxReads {
		return w.fail()
	}
	v := value{v: w.sreg, copy: uint8(len(w.copies))}
	if w.open != 0 {
		v.kind = saved
		w.copies = append(w.copies, savedFlags{w.sreg, w.open, w.flags})
	}
	return v
}

// savedFlags is a copy of SREG.
type savedFlags struct {
	sreg, open uint8
	flags      [8]flag
}

// readPort is PINx, constant until an event while no pin of it floats.
func (w *summary) readPort(m *Machine, i int) value {
	p := &m.ports[i]
	if m.cycle <= p.changed {
		return w.fail()
	}
	high, float := p.high&^m.ext.analog[i], p.float&^m.ext.analog[i]
	if float&p.watched != 0 && m.config.Watched != nil { // the program is told of it at the first read
		return w.fail()
	}
	if float == 0 {
		return value{v: high}
	}
	return value{kind: noisy, v: high | float&m.noise(i, m.cycle), copy: float}
}

// quiet limits the walk to the time for which floating pins keep their levels.
func (w *summary) quiet() {
	w.limit = min(w.limit, (w.head/noiseCycles+1)*noiseCycles)
}

// timerBound limits the walk to the time before anything happens to a timer, and brings the timer up to date.
func (w *summary) timerBound(m *Machine, t *timer) {
	t.sync(m, m.cycle)
	p := t.prescaler(m)
	if t.shift >= pinRising || t.frozen || p.held {
		return
	}
	tick := (t.synced-p.base)>>t.shift + 1 + t.distance()
	w.limit = min(w.limit, p.base+tick<<t.shift)
}

// count is a reading of a timer's count.
func (w *summary) count(m *Machine, t *timer, cycle int64) value {
	w.timerBound(m, t)
	p := t.prescaler(m)
	if t.shift >= pinRising || t.frozen || p.held {
		w.tcnt = value{v: uint8(t.count >> 8)}
		return value{v: uint8(t.count)}
	}
	if t.down || len(w.counts) == maxReads {
		return w.fail()
	}
	c := countRead{read: cycle, base: p.base, first: (cycle - p.base) >> t.shift, shift: t.shift, until: noFlip}
	now := uint64(t.count) + uint64(c.first-(t.synced-p.base)>>t.shift)
	f := wide{count: uint8(len(w.counts)), n: 16, q: 1, r: now}
	w.counts = append(w.counts, c)
	w.tcnt = value{kind: formed, v: uint8(now >> 8), wide: f}
	return value{kind: formed, v: uint8(now), wide: f.mod(8)}
}

// holdsStale reports whether a copy of SREG has something stale in it.
func (w *summary) holdsStale(v value) bool {
	c := &w.copies[v.copy]
	for rest := c.open; rest != 0; rest &= rest - 1 {
		if c.flags[log2(rest)].kind == stale {
			return true
		}
	}
	return false
}

// maxReads is how many readings of counts, and of SREG, a round may have.
const maxReads = 8
