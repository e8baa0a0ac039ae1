package avr

import (
	"encoding/binary"

	"hemble/core/clock"
	"hemble/core/machine"
)

// What a translation does to pins goes to a log in its memory, and from there to who follows them when it is left: pins
// that are outputs, of ports that nothing on the chip looks at or takes a hand in, and whose edges nobody answers.
// Others are closed to it.

// An entry of the log, with the low byte of each number first.
const (
	logWhere   = 4 // after the cycles left: the word address, and ...
	logPort    = 24
	logPins    = 8 // ... from this bit on the port; the pins that changed, and PORTx then
	logStack   = 16
	logEntry   = logStack + logStackSize
	logEntries = machine.MostKept

	logStackSize = 24
)

// seen is what is known of an instruction.
type seen uint8

const (
	seenHere seen = 1 << iota // it was carried out
	seenIO                    // it goes by a pointer, which was one to an I/O register
)

// closed tells which pins of a port a translation must not change.
func (m *Machine) closed(i int) uint8 {
	p := &m.ports[i]
	if m.waves != 0 || p.compare|p.override|p.direction|p.inputs|m.ext.sensing[i] != 0 { // waves are told in order
		return 0xff
	}
	return ^p.out | p.watched&^p.followed
}

// notice tells what is seen of the instruction at hand, and whether a translation would be left there.
func (m *Machine) notice() (s seen, leaves bool) {
	in := &m.reference[m.pc]
	if s = seenHere; !m.suits(m.pc) {
		return s, true
	}
	address, store := uint16(in.d), in.op >= opSTX && in.op <= opSTS
	switch pointer, before, _, offset, ok := in.through(); {
	case in.op == opOUT || in.op == opSBI || in.op == opCBI:
	case in.op == opSTS:
		address = uint16(in.k)
	case ok && in.op != opLPMInc:
		if address = pair(m.data, pointer) + uint16(before) + uint16(offset); address >= m.sramStart {
			return s, false
		}
		if s |= seenIO; !store {
			return s, !m.v.isPlain[address]
		}
	default:
		return s, false
	}
	i, direction, ok := m.v.portAt(address)
	if !ok {
		return s, store && address < m.sramStart
	}
	register := m.io[m.v.registers[address].at]
	changed := in.puts(m.data, register) ^ register
	return s, changed != 0 && (direction || changed&m.closed(int(i)) != 0)
}

// tables puts into a translation's memory where registers and ports are.
func (v *Variant) tables(memory []byte) {
	for address := range uint16(maxIO) {
		if v.isPlain[address] {
			binary.LittleEndian.PutUint16(memory[atPlain+2*int(address):], v.registers[address].at+1)
		}
		if i, direction, ok := v.portAt(address); ok && !direction {
			memory[atPorts+int(address)] = uint8(i + 1)
		}
	}
}

// drain does what the log of a translation says that was entered with so many cycles left to the given one.
func (m *Machine) drain(log []byte, limit int64) {
	m.unlike++
	if len(m.kept)+len(log)/logEntry > cap(m.kept) {
		m.handOver()
	}
	kept, n := m.kept[:cap(m.kept)], len(m.kept)
	var pins, before [maxPorts]uint8 // of each port, those that change, and without the last time
	var last [maxPorts]*[logEntry]byte
	end, step := m.now.at(limit), m.now.step()
	for ; len(log) >= logEntry; log = log[logEntry:] {
		entry := (*[logEntry]byte)(log)
		where := binary.LittleEndian.Uint32(entry[logWhere:])
		i, changed := where>>logPort%maxPorts, entry[logPins]
		before[i], last[i] = pins[i], entry
		pins[i] |= changed
		told := changed & m.ports[i].watched
		if told == 0 {
			continue
		}
		e := &kept[n]
		n++
		left := logLeft(entry)
		if e.At = end - clock.Time(left)*step; step == 0 {
			e.At = m.now.at(limit - left)
		}
		e.From, e.Pins, e.Levels = machine.Pin(i)<<3, uint32(told), uint32(entry[logPins+1]&told)
		e.Place.Core, e.Place.PC = 0, where&(1<<logPort-1)*2
		e.Place.Stack = *(*[logStackSize]uint8)(entry[logStack:])
	}
	m.kept = kept[:n]
	for i := range m.ports {
		if entry := last[i]; entry != nil {
			p, v := &m.ports[i], entry[logPins+1]
			p.latch, p.level = v, p.level&^pins[i]|v&pins[i]
			was := v ^ entry[logPins] // before the last time
			p.set(p.high&^before[i]|was&before[i], p.float&^before[i], limit-logLeft(entry)-1)
			p.set(p.high&^pins[i]|v&pins[i], p.float&^pins[i], limit-logLeft(entry))
		}
	}
}

// logLeft are the cycles that were left.
func logLeft(entry *[logEntry]byte) int64 { return int64(int32(binary.LittleEndian.Uint32(entry[:]))) }
