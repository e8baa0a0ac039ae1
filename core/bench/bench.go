// Package bench runs firmware on the bench of an exercise (chip, nets and parts) for one trial and returns the reel of
// what the displays showed.
package bench

import (
	"context"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/reel"
)

// slice is how often a run looks whether it was cancelled.
const slice = 50 * clock.Millisecond

// maxRounds bounds how often parts may answer each other within one instant.
const maxRounds = 1000

// attachment is a terminal of a part on a net.
type attachment struct{ part, terminal int }

// node is a net with what is connected to it.
type node struct {
	circuit.Net
	pins      []machine.Pin // of the chip
	chipSide  []int         // their terminals on the net, in the same order
	parts     []attachment
	contended clock.Time    // since when, while it is; -1 for not
	told      circuit.Drive // what the parts on it know
	dirty     bool
	sniffers  []*sniffer // of the buses it belongs to
}

// Bench is one run under way.
type Bench struct {
	exercise *exercise.Exercise
	machine  machine.Machine
	nodes    map[string]*node
	order    []*node // in the order of wiring
	byPin    []*node // by pin of the chip; nil where it is wired to nothing
	onChip   []int   // its terminal on that net
	parts    []*instance
	events   events
	now      clock.Time
	place    machine.Place
	changed  []*node
	reel     *reel.Reel
	noted    map[string]bool
	serial   [][]byte // what each serial port of the chip sent
	buses    []*sniffer
	owner    map[*circuit.Net]*node
	length   clock.Time
	effort   int64          // that the program may take; 0 for any
	logged   map[string]int // entries of each part
	loggedAt clock.Time
	load     *load // nil without a chip
	watcher  Watcher
	ear      BusWatcher // the same, where it listens; nil otherwise
	single   bool       // Advance ends with the next net that changes
	moved    bool       // one did

	effects   [][2][]effect  // of followed pins, by level
	touched   []machine.Edge // a buffer of followed
	seenBy    []*lightSink   // a buffer of repeated
	cues      []exercise.Cue
	byHand    bool         // the trial's cues are left out from now on
	started   []clock.Time // when each of them began; -1 for not yet
	waiting   []*waiting
	glanced   clock.Time
	rehearsal *[]effect // takes what parts do to lights, while followed pins are looked for
	rounds    rounds
}

// Options are what a run may have beside its trial.
type Options struct {
	Watcher   Watcher // told of everything that happens; may be nil
	Reference bool    // the reference interpreter
	NoSkip    bool    // no skipping of waits
	Cover     bool    // note down which instructions are carried out
	// Capture is in the place of the chip: recorded pin activity, in which what cues did is recorded, too.
	Capture machine.Machine
	// Effort is how much the program may take; a run that takes more is ended as too much to follow. 0 is any.
	Effort int64
	// Record is filled with a replay of the run, Play plays one in the place of the program; see Bench.Held.
	Record, Replay *Replay
}

// Run runs one trial. The error says why the firmware cannot be put on the chip at all, or that ctx
// was cancelled; a program that fails shows in the reel.
func Run(ctx context.Context, x *exercise.Exercise, t *exercise.Trial, im *firmware.Image) (*reel.Reel, error) {
	b, err := New(x, t, im, Options{})
	if err != nil {
		return nil, err
	}
	if err := b.Advance(ctx, t.Length); err != nil {
		return nil, err
	}
	return b.Finish(), nil
}

// New puts a firmware on the bench and switches it on. The image is nil on a bench without a chip.
func New(x *exercise.Exercise, t *exercise.Trial, im *firmware.Image, o Options) (*Bench, error) {
	b := &Bench{exercise: x, length: t.Length, effort: o.Effort, watcher: o.Watcher, nodes: map[string]*node{},
		noted: map[string]bool{}, owner: map[*circuit.Net]*node{},
		logged: map[string]int{}, reel: &reel.Reel{Trial: t.Name, Seed: t.Seed, Length: t.Length, Times: clock.Unit}}
	b.ear, _ = o.Watcher.(BusWatcher)
	if x.Chip != nil {
		b.serial = make([][]byte, len(x.Chip.Serial))
		n := len(x.Chip.Pins)
		b.byPin, b.onChip, b.effects = make([]*node, n), make([]int, n), make([][2][]effect, n)
	}
	b.wire(t.Seed)
	var watched []machine.Pin
	for _, n := range b.order {
		watched = append(watched, n.pins...)
	}
	if watched == nil {
		watched = []machine.Pin{}
	}
	switch {
	case o.Capture != nil:
		b.machine = o.Capture
		b.connect()
	case x.Chip != nil:
		config := machine.Config{Clock: x.Clock, Supply: x.Supply, Seed: t.Seed, ClockPin: x.ClockPin,
			Watched: watched, Bytes: b.sent,
			Sample: b.sample, Reference: o.Reference, NoSkip: o.NoSkip, Cover: o.Cover, Effort: o.Effort}
		if o.Record != nil {
			config.Bytes = func(x machine.Byte) {
				o.Record.bytes = append(o.Record.bytes, x)
				b.sent(x)
			}
			config.Sample = func(p machine.Pin) (int64, bool) {
				volts, analog := b.sample(p)
				o.Record.Whole = o.Record.Whole && !analog // a voltage is not on the replay
				return volts, analog
			}
		}
		if !o.Reference && o.Watcher == nil && o.Record == nil {
			config.Followed, config.Follow, config.Repeat = b.follow(), b.followed, b.repeated
		}
		if o.Watcher == nil && o.Record == nil && o.Replay == nil {
			config.Around = b
		}
		switch b.machine = x.Chip.New(config); {
		case o.Record != nil:
			b.machine = newRecorder(b, b.machine, o.Record, x, t)
		case o.Replay != nil:
			b.machine = newPlayer(b, o.Replay)
		}
		for _, change := range x.Mended {
			im = change(im)
		}
		if err := b.machine.Load(im); err != nil {
			return nil, err
		}
		b.reel.Program = &reel.Program{Flash: im.Size(), RAM: -1}
		if end, ok := im.DataEnd(); ok {
			b.reel.Program.RAM = int(end) - x.Chip.Data
		}
		b.connect()
		b.said(x.Chip.SaysOf(im))
	}
	if o.Capture == nil {
		b.schedule(t.Cues)
	}
	b.settle() // the state at power-on
	for _, p := range b.parts {
		p.part.Changed(^uint64(0) >> (64 - len(p.terminals)))
	}
	b.settle()
	return b, nil
}

// connect puts what the chip's pins do at first on their nets.
func (b *Bench) connect() {
	for _, n := range b.order {
		for i, pin := range n.pins {
			b.set(n, n.chipSide[i], b.own(b.machine.Drives(pin)))
		}
	}
}

// Covering tells when instructions were first carried out, on a bench that notes that down and whose machine can; else
// ok is false.
func (b *Bench) Covering() (c machine.Covering, ok bool) {
	c, ok = b.machine.(machine.Covering)
	return c, ok
}

// Now is how far the run has come.
func (b *Bench) Now() clock.Time { return b.now }

// Stop is why the program stopped, nil while it runs.
func (b *Bench) Stop() *machine.Stop { return b.reel.Stop }

// Log is what went over buses so far.
func (b *Bench) Log() []reel.Entry { return b.reel.Log }

// Notes are those of the bench and its parts so far.
func (b *Bench) Notes() []machine.Note { return b.reel.Notes }

// Serial is what the serial ports sent so far, in the order of the chip.
func (b *Bench) Serial() (out []string) {
	for _, port := range b.serial {
		out = append(out, strings.ToValidUTF8(string(port), "�"))
	}
	return out
}

// ByHand leaves out the cues of the trial that have not begun: from now on it is worked from outside. A press that has
// begun ends in its time.
func (b *Bench) ByHand() { b.byHand, b.waiting = true, nil }

// Cue carries a cue out now.
func (b *Bench) Cue(c exercise.Cue) {
	b.events.add(event{at: b.now, kind: eventCue, cue: c, number: -1})
}

// Live gives each display as a hand at the bench sees it now: a track whose only frame is the latest state.
func (b *Bench) Live() []display.Track { return b.tracks(glimpse) }

// Sure is the same for what vision is sure of, a sixth of a second later or more: what frames of a reel are.
func (b *Bench) Sure() []display.Track { return b.tracks(sure) }

func (b *Bench) tracks(see func(display.Observer, clock.Time) []display.Frame) (out []display.Track) {
	for _, f := range b.parts {
		out = append(out, f.live(b.now, see)...)
	}
	parts := reel.Reel{Tracks: out}
	for _, g := range b.exercise.Groups {
		if t, ok := parts.Gather(g.Group); ok {
			out = append(out, t)
		}
	}
	return out
}

// wire makes the nets and fits the parts.
func (b *Bench) wire(seed uint64) {
	for i, p := range b.exercise.Parts {
		f := newInstance(b, i, p, seed)
		b.parts = append(b.parts, f)
		for terminal, target := range p.Wired {
			if target == "" {
				f.terminals = append(f.terminals, nil)
				f.index = append(f.index, 0)
				continue
			}
			n := b.node(target)
			n.parts = append(n.parts, attachment{i, terminal})
			f.terminals = append(f.terminals, n)
			f.index = append(f.index, n.Attach())
		}
	}
	for _, p := range b.exercise.Pulled {
		n, to := b.node(p.Pin), circuit.Supply
		if p.Down {
			to = circuit.Ground
		}
		n.Set(n.Attach(), circuit.Behind(to, benchPull, b.exercise.Supply))
	}
	if b.exercise.Chip != nil {
		b.load = newLoad(b.exercise.Chip)
	}
	for _, f := range b.parts {
		f.part = f.of.Kind.New(*f.of, f)
		f.join()
		b.sniff(f)
	}
}

// benchPull is a pull-up or pull-down resistor of the bench in Ω: stronger than those in a chip.
const benchPull = 4_700

func (b *Bench) node(target string) *node {
	if n := b.nodes[target]; n != nil {
		return n
	}
	n := &node{Net: *circuit.NewNet(target, b.exercise.Supply), contended: -1}
	b.nodes[target] = n
	b.order = append(b.order, n)
	b.owner[&n.Net] = n
	switch target {
	case "VCC":
		n.Set(n.Attach(), circuit.Supply)
	case "GND":
		n.Set(n.Attach(), circuit.Ground)
	default:
		if b.exercise.Chip == nil {
			break
		}
		if pin, ok := b.exercise.Chip.Pin(target); ok {
			n.pins = append(n.pins, pin)
			n.chipSide = append(n.chipSide, n.Attach())
			b.byPin[pin], b.onChip[pin] = n, n.chipSide[0]
		}
	}
	return n
}

// Advance continues to a time, alternating between the machine and the events of parts and cues. A machine
// that stopped leaves its pins as they are; displays go on.
func (b *Bench) Advance(ctx context.Context, length clock.Time) error {
	length = min(length, b.length)
	for b.now < length && !(b.single && b.moved) {
		if err := ctx.Err(); err != nil {
			b.Close()
			return err
		}
		until := min(length, b.events.next(), b.look(), b.now+slice)
		if b.runs() {
			stop := b.machine.Run(until, b)
			if stop.Reason == machine.Reached && b.effort > 0 && b.machine.Counters().Effort() > b.effort {
				stop = machine.Stop{Reason: machine.TooMuch, At: b.machine.Now(),
					Text: "the run took more effort than it was given"}
			}
			if stop.Reason != machine.Reached {
				b.reel.Stop = &stop
			}
			until = min(until, b.events.next()) // an answer may have come up in between
			if b.runs() {
				until = min(max(b.now, b.machine.Now()), length)
			}
		}
		b.now = max(b.now, until)
		b.glanceAt()
		for b.events.next() <= b.now && b.events.next() < length {
			b.handle(b.events.pop())
			if err := ctx.Err(); err != nil { // parts may wake each other without end
				b.Close()
				return err
			}
		}
	}
	return nil
}

// AdvanceToChange continues to the next moment at which a net changes, or to a time. It takes a watcher: without one
// edges may come in bundles.
func (b *Bench) AdvanceToChange(ctx context.Context, until clock.Time) error {
	b.single, b.moved = true, false
	defer func() { b.single = false }()
	return b.Advance(ctx, until)
}

// runs reports whether there is a machine that has not stopped.
func (b *Bench) runs() bool { return b.machine != nil && b.reel.Stop == nil }

func (b *Bench) handle(e event) {
	switch e.kind {
	case eventTimer:
		if f := b.parts[e.part]; f.timers[e.timer] == e.serial {
			f.part.Wake(e.timer)
		}
	case eventCue:
		if b.byHand && e.number >= 0 {
			return
		}
		b.begun(e.number)
		for _, f := range b.parts {
			if f.of.Name != e.cue.Part {
				continue
			}
			err := fmt.Errorf("a %s takes no cue %q", f.of.Kind.Name, e.cue.Verb)
			if slices.Contains(f.of.Kind.Cues, e.cue.Verb) {
				err = f.part.Cue(e.cue.Cue)
			}
			if err != nil {
				b.note("cue", "%s: %s", e.cue.Part, err)
			}
		}
		b.reel.Cues = append(b.reel.Cues, reel.Fired{Name: e.cue.Name, Verb: e.cue.Verb, Part: e.cue.Part,
			Text: e.cue.Describe(e.cue.Part), To: e.cue.To, Key: e.cue.Key, Start: b.now, End: b.now + e.cue.Moves()})
	}
	b.settle()
}

// Drive takes edges from the machine; see machine.Listener.
func (b *Bench) Drive(t clock.Time, changes []machine.Change, at machine.Place) clock.Time {
	b.now, b.place = t, at
	if len(changes) == 1 {
		if n := b.byPin[changes[0].Pin]; n != nil && n.Alone(b.onChip[changes[0].Pin]) && b.watcher == nil &&
			len(n.sniffers) == 0 {
			b.driveAlone(n, b.onChip[changes[0].Pin], b.own(changes[0].Drive))
			return b.events.next()
		}
	}
	for _, c := range changes {
		if n := b.byPin[c.Pin]; n != nil {
			b.set(n, b.onChip[c.Pin], b.own(c.Drive))
		}
	}
	b.settle()
	if b.single && b.moved {
		return b.now
	}
	return b.events.next()
}

// own is a drive with the resistance that the chip's pins have.
func (b *Bench) own(d circuit.Drive) circuit.Drive {
	e := &b.exercise.Chip.Electric
	return d.Within(e.Drive, e.Pull)
}

// driveAlone is the usual edge, a shorter way to the same end: one pin changes a net that nothing else drives, so that
// the net is at what the pin does, and the machine knows that already.
func (b *Bench) driveAlone(n *node, terminal int, d circuit.Drive) {
	if !n.SetAlone(terminal, d) {
		return
	}
	n.told = d
	for _, a := range n.parts {
		b.rounds.stirred |= 1 << a.part
		b.parts[a.part].part.Changed(1 << a.terminal)
	}
	if len(b.changed) > 0 {
		b.settle()
		return
	}
	if b.load.alarm {
		b.load.check(b)
	}
}

// set changes what one terminal does to a net and marks the nets that came out differently.
func (b *Bench) set(n *node, terminal int, d circuit.Drive) {
	n.Set(terminal, d)
	b.mark(n)
}

// mark notes a net, and those that contacts join to it, for settle.
func (b *Bench) mark(n *node) {
	if !n.Joined() {
		b.markOne(n)
		return
	}
	for _, g := range n.Group() {
		b.markOne(b.owner[g])
	}
}

func (b *Bench) markOne(n *node) {
	if !n.dirty {
		n.dirty = true
		b.changed = append(b.changed, n)
	}
}

// settle tells chip and parts of changed nets until nothing changes any more.
func (b *Bench) settle() {
	for round := 0; len(b.changed) > 0; round++ {
		if round == maxRounds {
			b.note("unstable", "the circuit does not settle: parts keep reacting to each other")
			b.changed = b.changed[:0]
			return
		}
		touched := uint64(0)
		for _, n := range b.changed {
			n.dirty = false
			for _, s := range n.sniffers {
				b.rounds.unlike++
				s.changed(b)
			}
			if b.watcher != nil {
				b.watcher.Net(n.Name, n.Drive, n.Contended)
			}
			for _, pin := range n.pins {
				b.machine.Input(pin, n.Drive.Level)
			}
			if n.Contended != (n.contended >= 0) {
				b.contention(n)
			}
			if n.told == n.Drive {
				continue
			}
			n.told, b.moved = n.Drive, true
			for _, a := range n.parts {
				b.parts[a.part].changed |= 1 << a.terminal
				touched |= 1 << a.part
			}
		}
		b.changed = b.changed[:0]
		b.rounds.stirred |= touched
		for ; touched != 0; touched &= touched - 1 {
			f := b.parts[bits.TrailingZeros64(touched)]
			terminals := f.changed
			f.changed = 0
			f.part.Changed(terminals)
		}
	}
	if b.load != nil && b.load.alarm {
		b.load.check(b)
	}
	if b.watcher != nil {
		b.watcher.Settled(b.now, b.place)
	}
}

// contention notes when two drivers work against each other, and for how long.
func (b *Bench) contention(n *node) {
	if n.Contended {
		n.contended = b.now
		return
	}
	b.contentionNote(n, b.now-n.contended)
	n.contended = -1
}

// turnRound is how long the two ends of a bus may drive a line against each other while it changes hands, as at an
// acknowledge: both follow the protocol, and an output bears its own current for that long.
const turnRound = 20 * clock.Microsecond

func (b *Bench) contentionNote(n *node, d clock.Time) {
	if d <= turnRound && len(n.pins) <= 1 && !n.Joined() {
		return
	}
	if d > 0 {
		b.note("contention-"+n.Name, "%s was driven high and low at the same time for %s", n.Name, d.Short())
	}
}

func (b *Bench) note(code, format string, args ...any) {
	if b.noted[code] {
		return
	}
	b.noted[code] = true
	b.rounds.unlike++
	b.reel.Notes = append(b.reel.Notes, machine.Note{Code: code, Text: fmt.Sprintf(format, args...), At: b.now,
		PC: b.place.PC})
}

// log adds an entry, or joins data to the entry before where part and text are the same, no line ended and no
// pause came between. Each part has its own room in the log. It gives the index of the entry, -1 where there was
// no room.
func (b *Bench) log(t clock.Time, who, what string, data []byte) int {
	b.rounds.log(t, who, what, data)
	if b.ear != nil {
		b.ear.Sent(t, who, what, data)
	}
	log := b.reel.Log
	last := len(log) - 1
	if last >= 0 && len(data) > 0 && log[last].Part == who && log[last].What == what && t-b.loggedAt < pause &&
		b.joins(last, data) {
		b.loggedAt = t
		return last
	}
	b.loggedAt = t
	if b.logged[who]++; b.logged[who] > reel.MaxLog {
		b.reel.Unlogged++
		return -1
	}
	b.reel.Log = append(log, reel.Entry{At: t, Part: who, What: what})
	b.joins(last+1, data)
	return last + 1
}

// pause between two bytes makes them two entries.
const pause = 20 * clock.Millisecond

// joins adds data to an entry if they fit.
func (b *Bench) joins(entry int, data []byte) bool {
	e := &b.reel.Log[entry]
	if n := len(e.Data); n+len(data) > reel.MaxData || n > 0 && e.Data[n-1] == '\n' {
		return false
	}
	for _, v := range data {
		e.Data = append(e.Data, int(v))
	}
	return true
}

// sample is the voltage of a pin's net where a source of voltage decides it.
func (b *Bench) sample(pin machine.Pin) (microvolts int64, analog bool) {
	b.rounds.unlike++
	n := b.byPin[pin]
	if n == nil || n.Net.Drive.Strength != circuit.Analog && n.Net.Drive.Strength != circuit.Resistive {
		return 0, false
	}
	return int64(n.Net.Drive.Microvolts), true
}

// keep adds a track to the reel.
func (b *Bench) keep(t display.Track) {
	for i := range t.Frames {
		t.Frames[i].Text = t.Short(t.Frames[i].State)
	}
	b.reel.Tracks = append(b.reel.Tracks, t)
}

// sent keeps what the chip's serial ports sent.
func (b *Bench) sent(x machine.Byte) {
	b.log(x.At, x.Port, "sent", []byte{x.Value})
	for i, port := range b.exercise.Chip.Serial {
		if x.Port == port.Name && len(b.serial[i]) < reel.MaxSerial {
			b.serial[i] = append(b.serial[i], x.Value)
		}
	}
}

// Transmitted is how many bytes the serial ports sent so far, of those that are kept.
func (b *Bench) Transmitted() (n int) {
	for _, port := range b.serial {
		n += len(port)
	}
	return n
}

// Finish ends the run where it has come to, and gives the reel.
func (b *Bench) Finish() *reel.Reel {
	b.now = min(b.now, b.length) // the last instruction may have gone beyond
	b.reel.Length = b.now
	for _, n := range b.order {
		if n.Contended {
			b.contentionNote(n, b.now-n.contended)
		}
	}
	for _, f := range b.parts {
		f.finish(b.now)
	}
	for _, g := range b.exercise.Groups {
		if t, ok := b.reel.Gather(g.Group); ok {
			b.keep(t)
		}
	}
	if r, recording := b.machine.(*recorder); recording {
		r.finish()
	}
	if b.machine != nil {
		b.Close()
		b.load.finish(b)
		b.reel.Notes = append(b.reel.Notes, b.machine.Notes()...)
		b.reel.Counters = b.machine.Counters()
		b.reel.Pins = b.standing()
	}
	slices.SortStableFunc(b.reel.Notes, func(x, y machine.Note) int { return int(min(1, max(-1, x.At-y.At))) })
	if ports := b.Serial(); len(ports) > 0 {
		b.reel.Serial = ports[0]
	}
	return b.reel
}

// Close ends what runs outside of the bench, as scripts do. Who leaves a bench without Finish calls it.
func (b *Bench) Close() { machine.Close(b.machine) }

// standing tells which pins of the chip are no outputs though something is wired to them, and the reverse.
func (b *Bench) standing() (out reel.Pins) {
	if b.exercise.Chip == nil { // a capture
		return out
	}
	for i, pin := range b.exercise.Chip.Pins {
		d := b.machine.Drives(machine.Pin(i))
		drives := d.Strength == circuit.PushPull
		switch wired := b.byPin[i] != nil; {
		case d.Strength == circuit.Pull && d.Level == circuit.High && !wired && machine.Pin(i) != b.exercise.Chip.Reset:
			out.Waiting = append(out.Waiting, pin.Name)
		case wired && !drives:
			out.Silent = append(out.Silent, pin.Name)
		case drives && !wired:
			out.Loose = append(out.Loose, pin.Name)
		}
		if d.Strength == circuit.Pull && b.byPin[i] != nil {
			if d.Level == circuit.Low {
				out.Down = append(out.Down, pin.Name)
			} else {
				out.Up = append(out.Up, pin.Name)
			}
		}
	}
	return out
}

func init() {
	finding.Provide(finding.Note, func() []finding.Entry {
		return []finding.Entry{
			{Code: "cue", Doc: "a part could not do what a cue asked"},
			{Code: "unstable", Doc: "nets kept changing each other without settling"},
			{Code: "contention", Doc: "two outputs drove the same net against each other"},
			{Code: "level", Doc: "a part at another supply than the board's was given what is neither low nor high for sure"},
			{Code: "volts", Doc: "a part puts more on a pin of the chip than that bears"},
			{Code: "current", Doc: "more current went through the chip's pins than its limits allow"},
			{Code: "nobody", Doc: "the program called an address on a two-wire bus that no device answers"},
		}
	})
}
