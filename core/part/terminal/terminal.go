// Package terminal is a serial terminal: a person's screen and keyboard at the chip's USART.
package terminal

import (
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/part/serial"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	rx = iota
	tx
)

// Timers.
const (
	timerReceive = iota
	timerSend
)

// longest is how long a line gets before it is broken.
const longest = 120

func init() {
	part.Register(&part.Kind{
		Name:   "terminal",
		Title:  "Serial terminal",
		Doc:    "Shows, line by line, what comes over a serial line, and types what a cue says. Each line is a frame of its own, from its first character on. Text at another rate than the terminal's shows as it would on a real one: garbled.",
		Source: "8N1 framing of a UART",
		Settings: []spec.Field{serial.Baud,
			{Name: "enter", Kind: spec.Choice, Choices: []string{"lf", "cr", "crlf"}, Default: "lf", Doc: "what its Enter key sends for \\n"}},
		Pins:    []spec.Key{{Name: "rx", Doc: "what it receives, from the chip's TXD", Optional: true}, {Name: "tx", Doc: "what it sends, to the chip's RXD", Optional: true}},
		Cues:    []string{part.Type},
		Example: "log: {part: terminal, baud: 9600, pins: {rx: PD1, tx: PD0}}",
		Check: func(b part.Built) (out []spec.Problem) {
			if b.Wired[rx] == "" && b.Wired[tx] == "" {
				out = append(out, spec.Problem{Text: "a terminal needs rx or tx wired"})
			}
			return out
		},
		Look: func(part.Built) reel.Look { return reel.Look{Form: reel.FormLines, Width: 480, Height: 60} },
		Controls: func(b part.Built) []part.Control {
			if b.Wired[tx] == "" {
				return nil
			}
			return []part.Control{{Label: "type", Wish: "t", Cue: part.Cue{Verb: part.Type}}}
		},
		New: func(b part.Built, w part.World) part.Part {
			t := &terminal{world: w, enter: map[string]string{"lf": "\n", "cr": "\r", "crlf": "\r\n"}[b.Settings.Text("enter")]}
			t.receiver = serial.NewReceiver(w, rx, timerReceive, b.Settings.Int("baud"), t.taken)
			t.sender = serial.NewSender(w, tx, timerSend, b.Settings.Int("baud"))
			return t
		},
	})
}

type terminal struct {
	world    part.World
	receiver *serial.Receiver
	sender   *serial.Sender
	enter    string
	begun    bool
	line     []rune
	from     clock.Time // of the line's first character
	garbled  int
}

// Changed listens.
func (t *terminal) Changed(uint64) {
	if !t.begun {
		t.begun = true
		t.sender.Idle()
	}
	t.receiver.Changed()
}

// taken is a character. A line ends with a line feed, or with a carriage return.
func (t *terminal) taken(start clock.Time, v uint8, framed bool) {
	if !framed {
		if t.garbled++; t.garbled == 3 {
			t.world.Note("serial-framing", "several characters came without their stop bit: does the program send at the terminal's rate?")
		}
	}
	if v == '\n' || v == '\r' {
		t.end()
		return
	}
	if len(t.line) == 0 {
		t.from = start
	}
	r := rune(v)
	if v < ' ' || v > '~' || !framed {
		r = '\uFFFD'
	}
	if t.line = append(t.line, r); len(t.line) == longest {
		t.end()
	}
}

func (t *terminal) end() {
	if len(t.line) > 0 {
		t.world.Line(t.from, string(t.line))
		t.line = t.line[:0]
	}
}

// Finish shows a line that was not ended.
func (t *terminal) Finish() { t.end() }

// Wake goes on receiving or sending.
func (t *terminal) Wake(timer int) {
	if timer == timerReceive {
		t.receiver.Wake()
	} else {
		t.sender.Wake()
	}
}

// Cue types.
func (t *terminal) Cue(c part.Cue) error {
	var out []byte
	for _, b := range []byte(c.Text) {
		if b == '\n' {
			out = append(out, t.enter...)
		} else {
			out = append(out, b)
		}
	}
	t.sender.Send(out)
	return nil
}
