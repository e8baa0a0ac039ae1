package bench

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Replay is what the chip did in one run, and what it was told meanwhile. Played through the parts of a changed bench
// it is in the place of the program: much cheaper, and the same, as long as the chip is told the same at the same
// times.
type Replay struct {
	Whole bool // it can be played: nothing was left out of it

	config exerciseConfig
	drives []circuit.Drive // by pin, at power-on
	edges  []edge
	inputs [][]input // by pin
	bytes  []machine.Byte
	// where the chip ended up when it was to run until a moment, where that is another one
	ends     map[clock.Time]clock.Time
	stop     machine.Stop
	notes    []machine.Note
	counters machine.Counters
}

// exerciseConfig is what a program can tell apart beside what happens at its pins.
type exerciseConfig struct {
	chip   *machine.Chip
	clock  clock.Rate
	supply int64
	seed   uint64
	length clock.Time
}

func configOf(x *exercise.Exercise, t *exercise.Trial) exerciseConfig {
	return exerciseConfig{x.Chip, x.Clock, x.Supply, t.Seed, t.Length}
}

// edge is one pin that starts to drive otherwise.
type edge struct {
	at, limit clock.Time // limit is how far the chip was to run then: it finishes an instruction that passes it
	drive     circuit.Drive
	pin       machine.Pin
	more      bool // the next one is of the same instruction
}

// input is a level that a pin was told.
type input struct {
	at    clock.Time
	level circuit.Level
}

// maxEdges bounds a replay; a longer one is not worth it.
const maxEdges = 400_000

// Fits reports whether the replay can be tried on a trial of an exercise at all.
func (t *Replay) Fits(x *exercise.Exercise, trial *exercise.Trial) bool {
	return t.Whole && len(x.Mended) == 0 && t.config == configOf(x, trial)
}

// recorder is a machine that writes a replay of itself.
type recorder struct {
	machine.Machine
	bench  *Bench
	replay *Replay
	told   told
	limit  clock.Time
	next   machine.Listener
}

// Close ends what the machine has running.
func (r *recorder) Close() { machine.Close(r.Machine) }

// told is what each pin was told last.
type told map[machine.Pin]circuit.Level

// news reports whether a level is one that a program could notice: pins that drive their net know what it is at.
func (t told) news(own circuit.Drive, p machine.Pin, level circuit.Level) bool {
	if own.Strength == circuit.PushPull && own.Level == level {
		return false
	}
	if was, known := t[p]; known && was == level {
		return false
	}
	t[p] = level
	return true
}

func newRecorder(b *Bench, m machine.Machine, tape *Replay, x *exercise.Exercise, t *exercise.Trial) *recorder {
	*tape = Replay{Whole: true, config: configOf(x, t), inputs: make([][]input, len(x.Chip.Pins)),
		ends: map[clock.Time]clock.Time{}}
	return &recorder{Machine: m, bench: b, replay: tape, told: told{}}
}

// Load starts the replay with what the pins do at power-on.
func (r *recorder) Load(im *firmware.Image) error {
	err := r.Machine.Load(im)
	for pin := range r.replay.inputs {
		r.replay.drives = append(r.replay.drives, r.Machine.Drives(machine.Pin(pin)))
	}
	return err
}

// Run records what happens.
func (r *recorder) Run(until clock.Time, l machine.Listener) machine.Stop {
	r.limit, r.next = until, l
	stop := r.Machine.Run(until, r)
	if stop.Reason != machine.Reached {
		r.replay.stop = stop
	}
	if now := r.Machine.Now(); now != r.limit {
		r.replay.ends[r.limit] = now
	}
	return stop
}

// Drive records edges.
func (r *recorder) Drive(t clock.Time, changes []machine.Change, at machine.Place) clock.Time {
	if len(r.replay.edges)+len(changes) > maxEdges {
		r.replay.Whole = false
	} else if r.replay.Whole {
		for i, c := range changes {
			r.replay.edges = append(r.replay.edges, edge{t, r.limit, c.Drive, c.Pin, i+1 < len(changes)})
		}
	}
	limit := r.next.Drive(t, changes, at)
	r.limit = min(r.limit, max(t, limit))
	return limit
}

// Input records what a pin is told.
func (r *recorder) Input(p machine.Pin, level circuit.Level) {
	if r.told.news(r.Machine.Drives(p), p, level) {
		r.replay.inputs[p] = append(r.replay.inputs[p], input{r.bench.now, level})
	}
	r.Machine.Input(p, level)
}

// finish keeps what a run comes to.
func (r *recorder) finish() {
	r.replay.notes, r.replay.counters = r.Machine.Notes(), r.Machine.Counters()
}

// replayed is a replay in the place of a chip.
type replayed struct {
	replay *Replay
	bench  *Bench
	bytes  func(machine.Byte)
	drives []circuit.Drive
	told   told
	taken  []int // of each pin's inputs
	edge   int
	byte   int
	now    clock.Time
	wrong  bool // the chip was told something else
}

func newPlayer(b *Bench, t *Replay) *replayed {
	return &replayed{replay: t, bench: b, bytes: b.sent, drives: append([]circuit.Drive{}, t.drives...), told: told{},
		taken: make([]int, len(t.inputs))}
}

// diverged ends a run in which the replay does not hold.
const diverged machine.Reason = "otherwise"

// Run plays what the chip did.
func (p *replayed) Run(until clock.Time, l machine.Listener) machine.Stop {
	for p.edge < len(p.replay.edges) && !p.wrong {
		e := p.replay.edges[p.edge]
		if e.at > until && e.limit > until {
			break
		}
		p.send(e.at)
		var changes []machine.Change
		for more := true; more; p.edge++ {
			e := p.replay.edges[p.edge]
			p.drives[e.pin] = e.drive
			changes = append(changes, machine.Change{Pin: e.pin, Drive: e.drive})
			more = e.more
		}
		p.now = e.at
		until = min(until, max(e.at, l.Drive(e.at, changes, machine.Place{})))
	}
	if p.wrong {
		return machine.Stop{Reason: diverged, At: p.now}
	}
	if end, known := p.replay.ends[until]; known {
		until = end
	}
	p.send(until)
	p.now = max(p.now, until)
	if s := p.replay.stop; s.Reason != machine.Reached && s.At <= p.now && p.edge == len(p.replay.edges) {
		return s
	}
	return machine.Stop{At: p.now}
}

// send tells of bytes up to a moment.
func (p *replayed) send(until clock.Time) {
	for ; p.byte < len(p.replay.bytes) && p.replay.bytes[p.byte].At <= until; p.byte++ {
		p.bytes(p.replay.bytes[p.byte])
	}
}

// Input compares what a pin is told with what it was told.
func (p *replayed) Input(pin machine.Pin, level circuit.Level) {
	if !p.told.news(p.drives[pin], pin, level) {
		return
	}
	if k := p.taken[pin]; k >= len(p.replay.inputs[pin]) || p.replay.inputs[pin][k] != (input{p.bench.now, level}) {
		p.wrong = true
	}
	p.taken[pin]++
}

// held reports whether the chip was told the same all along.
func (p *replayed) held() bool {
	for pin, list := range p.replay.inputs {
		if p.taken[pin] != len(list) {
			return false
		}
	}
	return !p.wrong
}

// Now is how far the replay was played.
func (p *replayed) Now() clock.Time { return p.now }

// Load and Reset change nothing: what was recorded happened.
func (p *replayed) Load(*firmware.Image) error { return nil }

// Reset changes nothing.
func (p *replayed) Reset() {}

// Drives is what a pin does now.
func (p *replayed) Drives(pin machine.Pin) circuit.Drive { return p.drives[pin] }

// Notes are those of the run that was recorded.
func (p *replayed) Notes() []machine.Note { return p.replay.notes }

// Counters has no instructions: none were interpreted.
func (p *replayed) Counters() machine.Counters {
	return machine.Counters{Cycles: p.replay.counters.Cycles, Edges: p.replay.counters.Edges,
		Resets: p.replay.counters.Resets, Writes: p.replay.counters.Writes}
}

// Hash is not that of a machine's state.
func (p *replayed) Hash() [32]byte { return [32]byte{} }

// Held tells, after a run by a replay, whether that was valid: the chip was told the same at the same times as when it
// was recorded.
func (b *Bench) Held() bool {
	p, playing := b.machine.(*replayed)
	return playing && p.held()
}
