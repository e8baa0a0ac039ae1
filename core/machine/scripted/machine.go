// Package scripted is boards that are programmed by scripts. A script runs in a process of its own under simulated
// time, and talks with its board in lines of text: what it does to pins, with the time at which it does so, and
// questions that are answered when that time has come. Nothing that it sends is trusted.
//
// The script's lines (times in ns since power-on, never going back; PIN is a number):
//
//	i TIME PIN              the pin is an input from now on
//	w TIME PIN DRIVE LINE   the pin drives 0 or 1, lets go (z), is pulled up (u) or down (d); LINE is the program's
//	b TIME                  what are inputs at?
//	s TIME WAKE PINS        sleep until WAKE, or until one of PINS changes (a mask in hexadecimal)
//	a TIME PIN              what is the voltage there?
//	o TIME TEXT             the console shows something (a JSON string)
//	n TIME CODE TEXT        something to know of the run (a JSON string)
//	m TIME NUMBERING        pins are numbered so from now on: gpio, header or own
//	l TIME FROM TO          these lines are carried out for the first time (where that is asked for)
//	x TIME TEXT             the script has ended; TEXT says by what exception, if by one
//
// What the hardware of buses and ports does by itself, meanwhile, goes by channels. LINE is the program's; HEX are
// bytes; HALF and BIT are in ns; a pin that is not there is -; MODE is 0 to 3, and 4 more where bits go from the lowest
// on; FORMAT is like 8n1:
//
//	c TIME CHANNEL SCL SDA HALF LINE WORDS               a transfer on two wires (see twoWire)
//	y TIME CHANNEL SCK OUT IN SELECT HALF MODE LINE HEX  an exchange with a clock line
//	p TIME CHANNEL TX RX BIT FORMAT                      a serial port is at these pins
//	t TIME CHANNEL LINE HEX                              the port sends
//	f TIME CHANNEL                                       what has come of the transfer?
//	r TIME CHANNEL                                       what has the port received?
//
// The answer to c, y and t is when that is over at the latest; to f how many bytes were acknowledged, and those that
// came; to r the bytes, each answer with a point at its end.
//
// Questions (b, s) are answered by a line "TIME LEVELS HORIZON": the time that it is, what inputs are at (a mask in
// hexadecimal), and up to when they surely stay so if the script changes nothing. The answer to a is µV.
package scripted

import (
	"bufio"
	"crypto/sha256"
	"fmt"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Bounds of what a script may send.
const (
	mostMessages = 4_000_000
	mostLine     = 1 << 16
	mostNotes    = 20
	// how many steps of a bus are as much as a message
	stepsPerMessage = 4
	mostSteps       = 2_000_000 // that wait on one channel
)

// consoleFormat is that of the console's line.
var consoleFormat = format{bit: (1_000_000_000 + consoleBaud/2) / consoleBaud, bits: 8, parity: 'n', stops: 1}

const (
	consoleBaud = 115_200
	consoleRoom = 4096 // characters that wait before a script does
)

// What a script costs, in instructions of an interpreted chip: to start, for each message, and for the time in which
// it asks and computes, of which nothing is known here, for each of some µs.
const (
	startEffort   = 6_000_000
	messageEffort = 100
	perEffort     = 4 * clock.Microsecond
	cycle         = 50 * clock.Nanosecond
	// one that was stopped has taken seconds: it counts as so many messages, after which nothing more is tried
	stoppedMessages = 3_000_000
)

// drift is how long an input that nothing drives keeps its level.
const drift = 700 * clock.Microsecond

// settling is how long a script takes at most to make an input what it is to be: libraries make a pin an input first,
// and an output, or one with a pull, then.
const settling = clock.Millisecond

// Machine is a board with a script.
type Machine struct {
	config machine.Config
	chip   *machine.Chip
	image  *firmware.Image
	child  Child
	lines  *bufio.Reader
	peeked *message
	asleep bool // the first of what it sent is a sleep that has begun
	over   bool // it has ended by itself
	now    clock.Time

	levels    []circuit.Level
	drives    []circuit.Drive
	watched   []bool
	sequences [channels]*sequence
	ports     [channels]*port
	one       [1]machine.Change
	typed     []byte // at the console, up to Enter
	numbering string // of pins, that the program says
	moved     uint64 // inputs that changed since the last answer
	cover     cover
	asked     uint64         // pins that the script takes for inputs ...
	since     [64]clock.Time // ... and since when
	driven    uint64         // pins that it has driven

	stop     machine.Stop
	notes    machine.Notes
	told     int
	counters machine.Counters
}

// newMachine makes a board whose first pins are those that scripts can name.
func newMachine(chip *machine.Chip, config machine.Config) machine.Machine {
	n := len(chip.Pins)
	m := &Machine{config: config, chip: chip, levels: make([]circuit.Level, n), drives: make([]circuit.Drive, n),
		watched: make([]bool, n)}
	for i := range n {
		m.levels[i], m.drives[i] = circuit.Float, m.rest(machine.Pin(i))
		m.watched[i] = config.Watched == nil
	}
	for _, p := range config.Watched {
		m.watched[p] = true
	}
	return m
}

// boardPull is what the Linux board has at its bus, in Ω.
const boardPull = 1_800

// rest is what a pin does that the script leaves alone: the Linux board has resistors of its own at its bus.
func (m *Machine) rest(p machine.Pin) circuit.Drive {
	switch {
	case p == m.chip.Reset:
		return circuit.PulledUp
	case m.chip == Linux && (p == 2 || p == 3):
		return circuit.Behind(circuit.Supply, boardPull, m.chip.Electric.Supply)
	}
	return circuit.Released
}

// Load puts a script on the board and starts it.
func (m *Machine) Load(im *firmware.Image) error {
	if im.Script == nil {
		return fmt.Errorf("this is no script")
	}
	if host == nil {
		return fmt.Errorf("scripts run on the service, not here")
	}
	m.Close()
	m.image = im
	return m.start()
}

// start starts the script.
func (m *Machine) start() error {
	console := m.chip.Serial[0]
	child, err := host.Start(m.image.Script, Board{Name: m.chip.Name, Seed: m.config.Seed, Cover: m.config.Cover,
		Console: Console{Pin: int(console.Receive), Wired: m.watched[console.Transmit],
			Typed:     m.watched[console.Receive],
			Character: int64(consoleFormat.bit) * int64(consoleFormat.length()), Room: consoleRoom}})
	if err != nil {
		return err
	}
	m.child, m.lines = child, bufio.NewReaderSize(child, mostLine)
	m.peeked, m.asleep, m.over, m.stop = nil, false, false, machine.Stop{}
	m.sequences, m.ports, m.typed = [channels]*sequence{}, [channels]*port{}, nil
	m.open(0, &port{tx: uint8(console.Transmit), rx: uint8(console.Receive), format: consoleFormat})
	if m.now > 0 { // it begins late, and is told what time it is
		m.reply(m.now)
	}
	return nil
}

// Close ends the script.
func (m *Machine) Close() {
	if m.child != nil {
		m.child.Stop()
		m.child.Wait()
		m.child = nil
	}
}

// Reset starts the script anew.
func (m *Machine) Reset() {
	m.Close()
	for i := range m.drives {
		m.drives[i] = m.rest(machine.Pin(i))
	}
	m.counters.Resets++
	if err := m.start(); err != nil {
		m.end(machine.NoStart, "%v", err)
	}
}

// Now is the present simulated time.
func (m *Machine) Now() clock.Time { return m.now }

// Notes lists what a person should know of.
func (m *Machine) Notes() []machine.Note {
	m.tellNumbering()
	return m.notes.List
}

// Counters tell the effort so far. What a script costs is mostly its start; its cycles are those of a processor that
// would have been busy all the time.
func (m *Machine) Counters() machine.Counters {
	c := m.counters
	c.Instructions, c.Cycles = startEffort+messageEffort*c.Instructions+int64(m.now/perEffort), int64(m.now/cycle)
	return c
}

// Drives gives what a pin does to its net now.
func (m *Machine) Drives(p machine.Pin) circuit.Drive { return m.drives[p] }

// Hash is over what can be seen of the state.
func (m *Machine) Hash() [32]byte {
	h := sha256.New()
	fmt.Fprint(h, m.now, m.levels, m.drives, m.stop, m.over)
	return [32]byte(h.Sum(nil))
}

// Input is what a pin's net is at, from now on.
func (m *Machine) Input(p machine.Pin, level circuit.Level) {
	if m.levels[p] == level {
		return
	}
	m.levels[p] = level
	if p == m.chip.Reset {
		if level == circuit.Low {
			m.Reset()
		}
		return
	}
	m.moved |= 1 << p
	for _, port := range m.ports {
		if port != nil && int(port.rx) == int(p) {
			port.changed(m.now, level != circuit.Low)
		}
	}
}

// floats tells whether nothing drives a pin, the board's own pulls included.
func (m *Machine) floats(pin int) bool {
	return m.levels[pin] == circuit.Float && m.drives[pin] == circuit.Released
}

// high is what an input reads: one that nothing drives is chance.
func (m *Machine) high(pin int) bool {
	if m.levels[pin] == circuit.Float && !m.floats(pin) {
		return m.drives[pin].Level == circuit.High
	}
	if m.floats(pin) {
		if m.watched[pin] && m.asked>>pin&1 == 1 && m.now-m.since[pin] >= settling {
			name := m.chip.Pins[pin].Name
			m.notes.Add("floating-"+name, m.now, 0, "%s was read while nothing drove it: what it reads is chance (is a pull-up missing?)",
				name)
		}
		return machine.Mix(m.config.Seed^uint64(pin+1)<<40^uint64(m.now/drift))&1 == 1
	}
	return m.levels[pin] == circuit.High
}

// measured is the voltage of a pin, in µV. Of one that nothing drives it is chance.
func (m *Machine) measured(pin int) int64 {
	if m.config.Sample == nil {
		return 0
	}
	if v, analog := m.config.Sample(machine.Pin(pin)); analog {
		return v
	}
	if name := m.chip.Pins[pin].Name; m.config.Watched != nil && m.floats(pin) {
		m.notes.Add("floating-"+name, m.now, 0, "%s was measured while nothing drove it; the value is random", name)
	}
	if m.high(pin) {
		return m.config.Supply
	}
	return 0
}

// Run continues until the given moment.
func (m *Machine) Run(until clock.Time, l machine.Listener) machine.Stop {
	for m.stop.Reason == "" {
		x, at := m.due()
		if m.stop.Reason != "" {
			break
		}
		next, channel, hears := m.next()
		if min(at, next) > until {
			break
		}
		if next <= at {
			if hears {
				m.hear(channel)
			} else {
				until = min(until, m.advance(channel, l))
			}
			continue
		}
		m.now = max(m.now, at)
		if x.kind == 'w' {
			until = min(until, m.write(x, l))
			continue
		}
		if x.kind == 's' && !m.asleep {
			m.asleep, m.moved = true, 0
			continue
		}
		m.peeked, m.asleep = nil, false
		m.take(x, until)
	}
	if m.stop.Reason != "" {
		return m.stop
	}
	m.now = max(m.now, until)
	return machine.Stop{At: m.now}
}

// due is what the script does next, and when; Never for nothing.
func (m *Machine) due() (*message, clock.Time) {
	if m.over || m.child == nil {
		return nil, clock.Never
	}
	x := m.peek()
	switch {
	case x == nil:
		return nil, clock.Never
	case m.asleep && m.moved&x.pins != 0:
		return x, m.now
	case m.asleep:
		return x, max(x.at, x.wake)
	}
	return x, x.at
}

// take does what a message says that concerns nobody's pins at this moment.
func (m *Machine) take(x *message, until clock.Time) {
	switch x.kind {
	case 'b', 's':
		m.reply(until)
	case 'i':
		m.asked |= 1 << x.pin
		m.since[x.pin] = m.now
	case 'a':
		m.say("%d\n", m.measured(x.pin))
	case 'o':
		m.show(x.text)
	case 'n':
		if m.told++; m.told <= mostNotes {
			m.notes.Add(x.code, x.at, x.line, "%s", x.text)
		}
	case 'x':
		m.over = true
		if x.text != "" {
			m.end(machine.Exception, "%s", x.text)
		}
	case 'm':
		m.numbering = x.code
	case 'l':
		m.cover.reach(x.line, x.last, x.at)
	case 'p':
		m.open(x.channel, x.port)
	case 't':
		p := m.ports[x.channel]
		if p == nil || p.tx == nobody {
			m.end(machine.Exception, "the script has broken out of its surroundings: it has no such port")
			return
		}
		m.begin(x.channel, x.line, p.send(x.data))
		m.tellEnd(x.channel)
	case 'c', 'y':
		if q := m.sequences[x.channel]; q != nil && (len(q.steps) > 0 || m.ports[x.channel] != nil) {
			m.end(machine.Exception, "the script has broken out of its surroundings: its bus is busy")
			return
		}
		m.sequences[x.channel] = &sequence{}
		m.begin(x.channel, x.line, x.steps)
		m.tellEnd(x.channel)
	case 'f':
		q := m.sequences[x.channel]
		if q == nil {
			q = &sequence{}
		}
		m.say("%d %x.\n", q.answers, q.data)
	case 'r':
		var got []byte
		if p := m.ports[x.channel]; p != nil {
			got, p.received = p.received, nil
		}
		m.say("%x.\n", got)
	}
}

// begin has a channel begin with some steps; their effort is bounded as that of messages is.
func (m *Machine) begin(channel int, line uint32, steps []step) {
	q := m.sequences[channel]
	if len(steps) > 0 {
		q.begin(m.now, line, steps)
	}
	m.count(int64(len(steps) / stepsPerMessage))
	if len(q.steps) > mostSteps {
		m.end(machine.TooMuch, "the script sends faster than its port can: %d bits wait", len(q.steps))
	}
}

// tellEnd tells the script when a channel will have done what it has to.
func (m *Machine) tellEnd(channel int) {
	m.say("%d\n", (m.sequences[channel].over+clock.Nanosecond-1)/clock.Nanosecond)
}

// write has pins drive otherwise: all that the script does at one moment.
func (m *Machine) write(x *message, l machine.Listener) clock.Time {
	at, line := x.at, x.line
	var changes []machine.Change
	for x != nil && x.kind == 'w' && x.at == at {
		if x.drive.Strength == circuit.PushPull {
			m.driven |= 1 << x.pin
		} else if pull := m.rest(machine.Pin(x.pin)); pull != circuit.Released {
			x.drive = pull
		}
		if m.drives[x.pin] != x.drive {
			m.drives[x.pin] = x.drive
			if m.watched[x.pin] {
				changes = append(changes, machine.Change{Pin: machine.Pin(x.pin), Drive: x.drive})
			}
		}
		line = x.line
		m.peeked = nil
		x = m.peek()
	}
	if len(changes) == 0 || l == nil {
		return clock.Never
	}
	m.counters.Edges += int64(len(changes))
	return l.Drive(at, changes, machine.Place{PC: line})
}

// reply answers a question.
func (m *Machine) reply(horizon clock.Time) {
	m.moved = 0
	next, _, _ := m.next()
	horizon = min(horizon, next)
	for i := range len(m.chip.Pins) - 1 {
		if m.asked>>i&1 == 1 && m.floats(i) {
			horizon = min(horizon, (m.now/drift+1)*drift)
		}
	}
	anew := ""
	if m.cover.anew { // of a script that tells of its lines
		anew, m.cover.anew = " anew", false
	}
	m.say("%d %x %d%s\n", (m.now+clock.Nanosecond-1)/clock.Nanosecond, m.mask(), horizon/clock.Nanosecond, anew)
}

func (m *Machine) mask() (out uint64) {
	for i := range len(m.chip.Pins) - 1 {
		// one that floats and is no input of the script is chance that nobody looks at
		if (m.asked>>i&1 == 1 || !m.floats(i)) && m.high(i) {
			out |= 1 << i
		}
	}
	return out
}

// say writes to the script; one that has ended tells so when it is read.
func (m *Machine) say(format string, args ...any) { _, _ = fmt.Fprintf(m.child, format, args...) }

// peek reads what the script sends next; nil where it has ended.
func (m *Machine) peek() *message {
	if m.peeked != nil {
		return m.peeked
	}
	line, err := m.lines.ReadSlice('\n')
	if err != nil {
		m.ended(len(line) > 0 && err == bufio.ErrBufferFull)
		return nil
	}
	if m.count(1); m.stop.Reason != "" {
		return nil
	}
	x, err := parse(strings.TrimSuffix(string(line), "\n"), len(m.chip.Pins)-1)
	if err == nil && x.at < m.now {
		err = fmt.Errorf("its time goes back")
	}
	if err != nil {
		m.end(machine.Exception, "the script has broken out of its surroundings: %v", err)
		return nil
	}
	m.peeked = x
	return x
}

// count counts what a script has done.
func (m *Machine) count(n int64) {
	if m.counters.Instructions += n; m.counters.Instructions > mostMessages {
		m.end(machine.TooMuch, "the script does more than can be followed: after %s it has done %d things to pins", m.now,
			mostMessages)
	}
}

// ended finds out why there is nothing more to read.
func (m *Machine) ended(long bool) {
	if long {
		m.end(machine.Exception, "the script has broken out of its surroundings: a line of it has no end")
		return
	}
	stopped, messages := m.child.Wait()
	m.child = nil
	switch {
	case stopped != "":
		m.counters.Instructions += stoppedMessages
		m.end(machine.TooMuch, "the script was stopped: it needed %s", stopped)
	default:
		m.end(machine.Exception, "the script's process ended: %.300s", strings.TrimSpace(messages))
	}
}

func (m *Machine) end(reason machine.Reason, format string, args ...any) {
	if m.stop.Reason == "" {
		m.stop = machine.Stop{Reason: reason, Text: fmt.Sprintf(format, args...), At: m.now}
	}
}
