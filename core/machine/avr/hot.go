package avr

import (
	"fmt"
	"runtime"
	"sync/atomic"

	lru "github.com/hashicorp/golang-lru/v2"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// Programs that compute are translated to the instructions of the processor at hand (translate.go), where there is
// something that compiles: what was interpreted often is noted down, translated and compiled aside, and from then on
// run enters it where a block begins. A translation stops where run would have stopped for others, and counts like it,
// so that nothing but the time it takes tells whether there is one. Taking hot.go, translate.go, the files that begin
// with emit, and their places in interpret away changes no result.

// When to translate.
var (
	hotAfter  = int64(4_000_000) // instructions interpreted, for which a translation takes as long
	warmAfter = int64(200_000)   // that many, where there is a translation already
	aside     = true             // the program goes on meanwhile
)

const (
	bursts     = 16    // so often a while is noted down, since what a program does changes, ...
	watched    = 2_000 // ... so many instructions at a time
	minStretch = 25    // instructions between two that a translation has not
	mostHot    = 5_000 // instructions that are translated: each takes 80 µs, and 20 kB for a moment
	mostAsked  = 3     // translations that a run asks for
)

// heat is how far a machine is with it.
type heat struct {
	from     int64  // instructions interpreted when it was last looked at ...
	fromDone int64  // ... and those that translations had carried out
	bursts   int    // still to come
	left     int    // still to be noted down of the one under way
	breaks   int    // of those, the ones that a translation has not
	seen     []seen // by word address: those that were noted down
	asked    int    // translations
	refused  bool   // what there was does not fit this run
	job      *job   // that is waited for
	running  *job
	bound    machine.Bound // the running one, on this machine's memory
	log      []byte        // its log of pins ...
	closed   []byte        // ... and, by port, those that it must not change
	done     int64         // instructions that translations have carried out
	stack    [max(parameters, results)]uint64
	finished runtime.Cleanup
}

// job is a translation, made or under way.
type job struct {
	*translation
	compiled machine.Compiled
	ready    atomic.Bool
}

// translated is what a translation is of: the same image is loaded for each trial and each run in search of a cause.
type translated struct {
	image *firmware.Image
	v     *Variant
}

// jobs are the last translations, of a few MB at most. One is made at a time; where some wait already, no more is
// asked for.
var (
	jobs, _ = lru.New[translated, *job](16)
	turn    = make(chan struct{}, 1)
	queue   = make(chan struct{}, 8)
)

// warm looks, now and then, whether to translate, and whether a translation is there.
func (m *Machine) warm() {
	h := &m.heat
	if machine.Translator() == nil || h.left > 0 || m.cover != nil {
		return
	}
	if h.bursts > 0 {
		h.bursts--
		h.left = watched
		return
	}
	interpreted := m.counters.Instructions - h.done - h.from
	if h.job == nil && h.running == nil && !h.refused && interpreted >= warmAfter {
		h.job, _ = jobs.Get(translated{m.image, m.v})
	}
	switch {
	case h.job != nil:
		if h.job.ready.Load() {
			h.refused = !m.enter(h.job)
			h.job = nil
			m.cool()
		}
	case interpreted >= hotAfter && interpreted > (h.done-h.fromDone)/4 && h.asked < mostAsked:
		h.asked++
		h.bursts, h.breaks, h.seen = bursts, 0, make([]seen, len(m.code))
		if h.running != nil {
			copy(h.seen, h.running.seen)
		}
	}
}

// cool begins to count anew.
func (m *Machine) cool() {
	m.heat.from, m.heat.fromDone = m.counters.Instructions-m.heat.done, m.heat.done
}

// watch notes the instruction at hand down; after the last one it asks for a translation.
func (m *Machine) watch() {
	h := &m.heat
	s, leaves := m.notice()
	if h.seen[m.pc] |= s; leaves {
		h.breaks++
	}
	if h.left--; h.left > 0 || h.bursts > 0 {
		return
	}
	m.cool()
	code, n := m.hotCode(h.seen)
	if h.breaks*minStretch > bursts*watched || n > mostHot { // it would be left all the time, or take too long
		h.asked = mostAsked
		return
	}
	select {
	case queue <- struct{}{}:
	default:
		return
	}
	h.job = &job{}
	jobs.Add(translated{m.image, m.v}, h.job)
	if aside {
		go h.job.make(code)
	} else {
		h.job.make(code)
	}
}

// suits tells the instructions that a translation has, but for loops that are skipped.
func (m *Machine) suits(pc int32) bool {
	is := m.code[pc].op
	return (is == m.reference[pc].op || is == opNative) && m.v.translatable(&m.reference[pc])
}

// make translates and compiles, when its turn comes. What does not compile is never ready, and goes on being
// interpreted.
func (j *job) make(code *hotCode) {
	turn <- struct{}{}
	defer func() { <-turn; <-queue }()
	t, module := code.translate()
	compiled, err := machine.Translator().Compile(module)
	if err != nil {
		return
	}
	j.translation, j.compiled = t, compiled
	j.ready.Store(true)
}

// enter puts a translation to work. It reports false where the translation has a loop that is skipped here.
func (m *Machine) enter(j *job) bool {
	for pc, is := range j.within {
		if is && !m.suits(int32(pc)) {
			return false
		}
	}
	memory := make([]byte, j.pages*pageSize)
	bound, err := j.compiled.Bind(memory)
	if err != nil {
		return false
	}
	m.exit()
	copy(memory, m.data[:])
	copy(memory[atIO:], m.io[:])
	copy(memory[atLogic:], logicFlags[:])
	copy(memory[atInc:], incFlags[:])
	copy(memory[atDec:], decFlags[:])
	for r := range 256 {
		memory[atCOM+r] = logicFlags[r] | flagC
		memory[atShift+r] = shiftFlags(uint8(r), 0)
		memory[atShift+256+r] = shiftFlags(uint8(r), 1)
	}
	copy(memory[atAdd:], addFlags[:])
	copy(memory[atSub:], subFlags[:])
	for i := range j.blocks {
		pc := j.blocks[i].pcs[0]
		memory[atBlocks+2*pc], memory[atBlocks+2*pc+1] = uint8(i+1), uint8((i+1)>>8)
		m.code[pc].op = opNative
	}
	copy(memory[atBlocks+2*len(m.code):], m.flash)
	m.v.tables(memory)
	m.data, m.io = (*[0x10000]byte)(memory), (*[maxIO]byte)(memory[atIO:])
	h := &m.heat
	h.running, h.bound, h.log = j, bound, memory[atLog:]
	h.closed = memory[atClosed:][:len(m.ports)]
	h.finished = runtime.AddCleanup(m, machine.Bound.Close, bound)
	return true
}

// exit goes back to interpreting.
func (m *Machine) exit() {
	h := &m.heat
	if h.running == nil {
		return
	}
	for i := range h.running.blocks {
		if pc := h.running.blocks[i].pcs[0]; m.code[pc].op == opNative {
			m.code[pc].op = m.reference[pc].op
		}
	}
	h.finished.Stop()
	h.bound.Close()
	h.running, h.bound, h.log, h.closed = nil, nil, nil, nil
}

// quickly has the translation carry out instructions, and reports whether there were any.
func (m *Machine) quickly(limit int64) bool {
	h := &m.heat
	left := min(limit-m.cycle, 1<<30) - 1 // since pins change before what is due at the limit
	if left < longest {
		return false
	}
	if h.running.pins {
		for i := range h.closed {
			h.closed[i] = m.closed(i)
		}
	}
	h.stack = [len(h.stack)]uint64{localPC: uint64(m.pc), localLeft: uint64(left), localSREG: uint64(m.sreg),
		localSP: uint64(m.sp), localFloor: uint64(m.stackFloor)}
	if m.irq != 0 {
		h.stack[localIRQ] = 1
	}
	if err := h.bound.Call(h.stack[:]); err != nil {
		panic(fmt.Sprintf("the translation of a program: %v", err))
	}
	m.pc, m.sreg, m.sp = int32(h.stack[localPC]), uint8(h.stack[localSREG]), uint16(h.stack[localSP])
	end := m.cycle + left
	m.cycle = end - int64(int32(h.stack[localLeft]))
	n := int64(h.stack[givenCount])
	if log := h.stack[givenLog]; log > 0 {
		m.drain(h.log[:log], end)
	}
	if let := int64(h.stack[givenSEI]); let > 0 {
		m.noIRQBefore = end - let + 2
	}
	m.counters.Instructions += n
	h.done += n
	return n > 0
}
