package pic14

import "hemble/core/machine/loops"

// Skipping of loops that wait; see package loops. Taking this file, follow.go and the two places in interpret away
// changes no result.

// State is where the machine stands; see loops.Machine.
func (m *Machine) State() (pc uint32, cycle, deadline int64, busy bool, instructions int64) {
	return uint32(m.pc), m.cycle, m.deadline, m.irq, m.counters.Instructions
}

// Pass lets cycles pass.
func (m *Machine) Pass(cycles int64) { m.cycle += cycles }

// Marked tells a known head.
func (m *Machine) Marked(pc uint32) bool { return m.code[pc].op == opPoll }

// Mark has run stop at an instruction, or no longer.
func (m *Machine) Mark(pc uint32, on bool) {
	switch {
	case !on:
		m.code[pc] = fast(m.plain[pc])
	case m.code[pc].op < opErased:
		m.code[pc].op = opPoll
	}
}

// Advance carries out one instruction.
func (m *Machine) Advance() (back bool) {
	from, in := m.pc, m.plain[m.pc]
	m.step()
	return in.op == opGOTO && m.pc <= from
}

var _ loops.Machine = (*Machine)(nil)

// Places of memory are the addresses of registers. What else a program keeps is behind.
const (
	placeW     = loops.Place(0x200)
	placeBits  = loops.Place(0x210) // of STATUS, one by one
	placeDepth = loops.Place(0x220)
	placeStack = loops.Place(0x230) // by how many addresses are below
)

// Counts that go on by themselves.
const (
	countTimer0 = iota
	countTimer1
	countTimer2
)

// Look gives what a place holds.
func (m *Machine) Look(p loops.Place, mask uint64) (v uint64, until int64, ok bool) {
	switch {
	case p >= placeStack:
		return uint64(m.stack[(m.sp-m.depth+int(p-placeStack))&7]), loops.Never, true
	case p == placeDepth:
		return uint64(m.depth), loops.Never, true
	case p >= placeBits:
		return uint64(m.status >> (p - placeBits) & 1), loops.Never, true
	case p == placeW:
		return uint64(m.w), loops.Never, true
	case m.v.readable[p] != 0:
		return uint64(m.ram[p]), loops.Never, true
	}
	for i := range m.v.ports {
		if uint16(p) == m.v.ports[i].port {
			return m.lookAtPort(i, uint8(mask))
		}
	}
	return 0, 0, false
}

// lookAtPort is a port, constant until an event, but for pins that float. Reading port B where its changes are looked
// at acts.
func (m *Machine) lookAtPort(i int, mask uint8) (v uint64, until int64, ok bool) {
	p, l := &m.ports[i], &m.v.ports[i]
	dead := p.analog | p.taken
	if p.analog&p.watched&^p.told != 0 && m.config.Watched != nil { // so is this
		return 0, 0, false
	}
	float := p.float &^ dead & l.exists
	if float&p.watched&^p.floated != 0 && m.config.Watched != nil { // the program is told of it at the first read
		return 0, 0, false
	}
	m.tellWave(m.cycle)
	until = loops.Never
	if mask&float != 0 {
		until = (m.cycle/noiseCycles + 1) * noiseCycles
	}
	if m.wave && (mask&m.pulsed(i) != 0 || i == m.v.onChange.port) {
		until = min(until, m.timer2.end(m), m.timer2.nextEdge(m))
	}
	v8 := (p.high | float&m.noise(i, m.cycle)) & l.exists &^ dead
	if i == m.v.onChange.port && p.seen != v8 {
		return 0, 0, false
	}
	if i == m.v.onChange.port && float != 0 {
		until = min(until, (m.cycle/noiseCycles+1)*noiseCycles)
	}
	return uint64(v8), until, true
}

// Count gives a timer's count.
func (m *Machine) Count(id uint8, cycle int64) (loops.Count, bool) {
	switch id {
	case countTimer0:
		t := &m.timer0
		if t.byPin {
			return loops.Count{Value: uint64(t.count), Until: loops.Never}, true
		}
		n := max(0, (cycle-t.since)>>t.shift)
		if cycle < t.since {
			return loops.Count{Value: uint64(t.count), Until: t.since}, true
		}
		return loops.Count{Value: uint64(t.count) + uint64(n), Base: t.since, Period: 1 << t.shift,
			Until: m.due[dueTimer0]}, true
	case countTimer1:
		t := &m.timer1
		cycles, crystal, _ := t.counting(m)
		switch {
		case crystal || cycle < t.since:
			return loops.Count{}, false
		case !cycles:
			return loops.Count{Value: uint64(t.count), Until: loops.Never}, true
		}
		shift := t.shift(m)
		n := (t.divided + cycle - t.since) >> shift
		return loops.Count{Value: uint64(t.count) + uint64(n), Base: t.since - t.divided, Period: 1 << shift,
			Until: m.due[dueTimer1]}, true
	}
	m.tellWave(m.cycle)
	t := &m.timer2
	switch {
	case !t.on(m):
		return loops.Count{Value: uint64(t.count), Until: loops.Never}, true
	case cycle < t.since:
		return loops.Count{}, false
	}
	return loops.Count{Value: uint64(t.count) + uint64((cycle-t.since)/t.divider(m)), Base: t.since,
		Period: t.divider(m), Until: t.end(m)}, true
}

// Put changes a place of those that may count rounds: W or a byte of memory.
func (m *Machine) Put(p loops.Place, v uint64) {
	if p == placeW {
		m.w = uint8(v)
		return
	}
	m.ram[p] = uint8(v)
}
