// Package serialdisplay holds displays behind one asynchronous data line: text modules and digit modules
// whose own controller takes characters and commands. There is no standard for the commands: the escape byte
// and the table of commands are settings.
package serialdisplay

import (
	"fmt"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/serial"
	"hemble/core/spec"
)

// rx is the only terminal.
const rx = 0

// action is what a command does; those with an argument take one more byte.
type action struct {
	name, doc string
	usual     byte
	argument  bool
}

// settings are those of a module with the given actions, beside its own.
func settings(actions []action, own ...spec.Field) []spec.Field {
	var keys []spec.Key
	for _, a := range actions {
		keys = append(keys,
			spec.Key{Name: a.name, Doc: fmt.Sprintf("%s (default: 0x%02X)", a.doc, a.usual),
				Optional: true})
	}
	return append(own, serial.Baud,
		spec.Field{Name: "warm-up", Kind: spec.Duration, Default: "500ms",
			Doc: "how long its controller needs after power-on; earlier characters are garbled"},
		spec.Field{Name: "escape", Kind: spec.Text, Default: "0x1B", Doc: "the byte before each command"},
		spec.Field{Name: "commands", Kind: spec.Dict, Keys: keys,
			Doc: "the byte of each command that differs from the usual one"})
}

// check finds what is wrong with a command table.
func check(actions []action) func(part.Instance) []spec.Problem {
	return func(b part.Instance) (out []spec.Problem) {
		if _, err := newParser(b, actions); err != nil {
			out = append(out, spec.Problem{Text: err.Error()})
		}
		return out
	}
}

// parser takes the bytes of a module apart.
type parser struct {
	escape  byte
	actions map[byte]action
	escaped bool
	pending *action // waits for its argument
}

func newParser(b part.Instance, actions []action) (*parser, error) {
	escape, err := byteOf(b.Settings.Text("escape"))
	if err != nil {
		return nil, err
	}
	p := &parser{escape: escape, actions: map[byte]action{}}
	given := map[string]string{}
	for _, e := range b.Settings.Get("commands").Dict {
		given[e.Name] = e.Value
	}
	for _, a := range actions {
		code := a.usual
		if text, ok := given[a.name]; ok {
			delete(given, a.name)
			if code, err = byteOf(text); err != nil {
				return nil, err
			}
		}
		if other, taken := p.actions[code]; taken {
			return nil, fmt.Errorf("commands %s and %s have the same byte, 0x%02X", other.name, a.name, code)
		}
		p.actions[code] = a
	}
	for name := range given {
		var names []string
		for _, a := range actions {
			names = append(names, a.name)
		}
		return nil, fmt.Errorf("no command is called %q%s", name, spec.Nearest(name, names))
	}
	return p, nil
}

func byteOf(text string) (byte, error) {
	v, err := strconv.ParseUint(text, 0, 8)
	if err != nil {
		return 0, fmt.Errorf("%q is no byte; write one such as 0x1B", text)
	}
	return byte(v), nil
}

// take gives what a byte means: a character, or a command with its argument once that is complete.
func (p *parser) take(v byte) (command string, argument byte, text bool) {
	switch {
	case p.pending != nil:
		command, argument = p.pending.name, v
		p.pending = nil
	case p.escaped:
		p.escaped = false
		a, ok := p.actions[v]
		switch {
		case !ok:
			command = fmt.Sprintf("unknown 0x%02X", v)
		case a.argument:
			p.pending = &a
		default:
			command = a.name
		}
	case v == p.escape:
		p.escaped = true
	default:
		return "", v, true
	}
	return command, argument, false
}

// line is the module's end of its data line.
type line struct {
	world    part.Host
	receiver *serial.Receiver
	parser   *parser
	warm     clock.Time
	begun    bool
	begin    func()
	write    func(v byte)
	command  func(name string, argument byte)
}

func newLine(b part.Instance, w part.Host, actions []action) *line {
	l := &line{world: w, warm: b.Settings.Time("warm-up")}
	l.parser, _ = newParser(b, actions)
	l.receiver = serial.NewReceiver(w, rx, 0, b.Settings.Int("baud"), l.taken)
	return l
}

func (l *line) taken(start clock.Time, v byte, framed bool) {
	if !framed {
		l.world.Note("serial-framing",
			"a character came without its stop bit: does the program send at the module's rate?")
	}
	if start < l.warm {
		l.world.Note("serial-warm-up",
			"characters came %s after power-on; the module needs %s, and garbles what comes before", start.Short(),
			l.warm.Short())
		l.write('!' + byte(l.world.Random()%90))
		return
	}
	command, argument, text := l.parser.take(v)
	switch {
	case text:
		if v == '\r' || v == '\n' {
			l.world.Note("serial-line-end", "it was sent an end of line, 0x%02X, which it shows as a character", v)
		}
		l.world.Log("write", v)
		l.write(v)
	case command != "":
		if strings.HasPrefix(command, "unknown") {
			l.world.Note("serial-command", "the module has no command %s", strings.TrimPrefix(command, "unknown "))
		}
		l.world.Log(command, argument)
		l.command(command, argument)
	}
}

// Changed listens.
func (l *line) Changed(uint64) {
	if !l.begun {
		l.begun = true
		l.begin()
	}
	l.receiver.Changed()
}

// Wake continues with the character coming in.
func (l *line) Wake(int) { l.receiver.Wake() }

// Cue refuses.
func (l *line) Cue(c part.Cue) error { return part.Passive{}.Cue(c) }

// notes are what such a module may report.
var notes = []finding.Entry{
	serial.Rate,
	{Code: "serial-framing", Doc: "a character arrived without its stop bit: usually the rate is wrong"},
	{Code: "serial-warm-up", Doc: "characters came before a module on a serial line was ready"},
	{Code: "serial-line-end", Doc: "a module on a serial line was sent an end of line, which it shows as a character"},
	{Code: "serial-command", Doc: "a module on a serial line was sent a command that it does not have"},
}
