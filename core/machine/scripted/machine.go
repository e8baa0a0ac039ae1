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
//	o TIME TEXT             the terminal shows something (a JSON string)
//	n TIME CODE TEXT        something to know of the run (a JSON string)
//	x TIME TEXT             the script has ended; TEXT says by what exception, if by one
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
)

// What a script costs, in instructions of an interpreted chip.
const (
	startEffort   = 1_000_000
	messageEffort = 20
	cycle         = 100 * clock.Nanosecond
)

// drift is how long an input that nothing drives keeps its level.
const drift = 700 * clock.Microsecond

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

	levels  []circuit.Level
	drives  []circuit.Drive
	watched []bool
	moved   uint64 // inputs that changed since the last answer
	asked   uint64 // pins that the script takes for inputs
	driven  uint64 // pins that it has driven

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
		m.levels[i], m.drives[i] = circuit.Float, circuit.Released
		m.watched[i] = config.Watched == nil
	}
	for _, p := range config.Watched {
		m.watched[p] = true
	}
	m.drives[chip.Reset] = circuit.PulledUp
	return m
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
	return m.begin()
}

// begin starts the script.
func (m *Machine) begin() error {
	child, err := host.Start(m.image.Script, Board{Name: m.chip.Name, Pins: len(m.chip.Pins) - 1, Seed: m.config.Seed})
	if err != nil {
		return err
	}
	m.child, m.lines = child, bufio.NewReaderSize(child, mostLine)
	m.peeked, m.asleep, m.over, m.stop = nil, false, false, machine.Stop{}
	if m.now > 0 { // time goes on where it is
		m.answer()
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
		if machine.Pin(i) != m.chip.Reset {
			m.drives[i] = circuit.Released
		}
	}
	m.counters.Resets++
	if err := m.begin(); err != nil {
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
	c.Instructions, c.Cycles = startEffort+messageEffort*c.Instructions, int64(m.now/cycle)
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
		if m.watched[pin] && m.asked>>pin&1 == 1 {
			name := m.chip.Pins[pin].Name
			m.notes.Add("floating-"+name, m.now, 0, "%s was read while nothing drove it: what it reads is chance (is a pull-up missing?)",
				name)
		}
		return machine.Mix(m.config.Seed^uint64(pin+1)<<40^uint64(m.now/drift))&1 == 1
	}
	return m.levels[pin] == circuit.High
}

// Run continues until the given moment.
func (m *Machine) Run(until clock.Time, l machine.Listener) machine.Stop {
	for m.stop.Reason == "" && !m.over && m.child != nil {
		x := m.peek()
		if x == nil || x.at > until {
			break
		}
		m.now = max(m.now, x.at)
		switch x.kind {
		case 'w':
			until = min(until, m.write(x, l))
			continue
		case 's':
			woken := m.asleep && m.moved&x.pins != 0
			if !woken && x.wake > until {
				if !m.asleep {
					m.asleep, m.moved = true, 0
				}
				m.now = until
				return machine.Stop{At: m.now}
			}
			if !woken {
				m.now = max(m.now, x.wake)
			}
			m.asleep = false
			m.reply(until)
		case 'b':
			m.reply(until)
		case 'i':
			m.asked |= 1 << x.pin
		case 'a':
			volts := int64(0)
			if m.config.Sample != nil {
				if v, analog := m.config.Sample(machine.Pin(x.pin)); analog {
					volts = v
				} else if m.high(x.pin) {
					volts = m.config.Supply
				}
			}
			m.say("%d\n", volts)
		case 'o':
			m.show(x)
		case 'n':
			if m.told++; m.told <= mostNotes {
				m.notes.Add(x.code, x.at, x.line, "%s", x.text)
			}
		case 'x':
			m.over = true
			if x.text != "" {
				m.end(machine.Exception, "%s", x.text)
			}
		}
		m.peeked = nil
	}
	if m.stop.Reason != "" {
		return m.stop
	}
	m.now = max(m.now, until)
	return machine.Stop{At: m.now}
}

// write has pins drive otherwise: all that the script does at one moment.
func (m *Machine) write(x *message, l machine.Listener) clock.Time {
	at, line := x.at, x.line
	var changes []machine.Change
	for x != nil && x.kind == 'w' && x.at == at {
		if x.drive.Strength == circuit.PushPull {
			m.driven |= 1 << x.pin
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

// show gives the terminal what the script prints.
func (m *Machine) show(x *message) {
	if m.config.Bytes == nil || len(m.chip.Serial) == 0 {
		return
	}
	for _, b := range []byte(x.text) {
		m.config.Bytes(machine.Byte{At: x.at, Port: m.chip.Serial[0].Name, Value: b})
	}
}

// reply answers a question.
func (m *Machine) reply(horizon clock.Time) {
	m.moved = 0
	for i := range len(m.chip.Pins) - 1 {
		if m.asked>>i&1 == 1 && m.floats(i) {
			horizon = min(horizon, (m.now/drift+1)*drift)
		}
	}
	m.say("%d %x %d\n", (m.now+clock.Nanosecond-1)/clock.Nanosecond, m.mask(), horizon/clock.Nanosecond)
}

// answer tells a script that begins late what time it is.
func (m *Machine) answer() { m.reply(m.now) }

func (m *Machine) mask() (out uint64) {
	for i := range len(m.chip.Pins) - 1 {
		if m.high(i) {
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
	if m.counters.Instructions++; m.counters.Instructions > mostMessages {
		m.end(machine.TooMuch, "the script does more than can be followed: after %s it has done %d things to pins", m.now,
			mostMessages)
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
