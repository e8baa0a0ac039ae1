// Package terminal is a serial terminal: a person's screen and keyboard at the chip's serial port.
package terminal

import (
	"fmt"
	"strconv"

	"hemble/core/clock"
	"hemble/core/display"
	form "hemble/core/display/lines"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/serial"
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

// columns is how wide the terminal is: a longer line continues in the next; tabWidth is how far tabulators are apart.
const (
	columns  = 120
	tabWidth = 8
)

func init() {
	part.Register(&part.Kind{
		Name:   "terminal",
		Also:   []string{"serial", "uart", "usart", "console"},
		Title:  "Serial terminal",
		Doc:    "Shows what it receives on a serial line, character by character, and types what a cue says. Each line is a frame, from its first character on; a line that is overwritten, after a carriage return or backspaces, is another. It is 120 columns wide and handles carriage return, backspace, tab, bell, and the sequences that erase a line or the screen as terminals do. Text at the wrong rate is garbled, as on a real one.",
		Source: "8N1 framing of a UART; control functions of ECMA-48",
		Settings: []spec.Field{serial.Baud,
			{Name: "enter", Kind: spec.Choice, Choices: []string{"lf", "cr", "crlf"}, Default: "lf",
				Doc: "what its Enter key sends for \\n"}},
		Pins: []spec.Key{{Name: "rx", Doc: "what it receives, from the chip's TXD", Optional: true},
			{Name: "tx", Doc: "what it sends, to the chip's RXD", Optional: true}},
		Cues:    []string{part.Type},
		Example: "log: {part: terminal, baud: 9600, pins: {rx: <TXD>, tx: <RXD>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			if b.Wired[rx] == "" && b.Wired[tx] == "" {
				out = append(out, spec.Problem{Text: "a terminal needs rx or tx wired"})
			}
			return out
		},
		Exchanged: [][2]string{{"rx", "tx"}},
		Misread: []part.Misread{{
			Entry: finding.Entry{Code: "line-ending", Price: finding.Unreadable,
				Doc: "the program waits for a different line ending", Order: 5},
			Setting: "enter", Taken: map[string][]string{"cr": {"lf", "crlf"}, "lf": {"cr", "crlf"},
				"crlf": {"cr", "lf"}},
			Text: func(b part.Instance, taken string) string {
				return fmt.Sprintf("The program expects a different line ending: %s ends lines with %s, the program waits for %s.",
					b.Name, b.Settings.Text("enter"), taken)
			},
		}},
		Geometry: func(part.Instance) display.Geometry {
			return display.Geometry{TypeName: form.Form, Width: 480, Height: 60}
		},
		Controls: func(b part.Instance) []part.Control {
			if b.Wired[tx] == "" {
				return nil
			}
			return []part.Control{{Label: "type", Wish: "t", Cue: part.Cue{Verb: part.Type}}}
		},
		Notes: []finding.Entry{
			serial.Rate,
			{Code: "serial-framing", Doc: "a character arrived without its stop bit: usually the rate is wrong"},
		},
		New: func(b part.Instance, w part.Host) part.Part {
			t := &terminal{world: w, sink: part.Sink[display.LineSink](w),
				enter: map[string]string{"lf": "\n", "cr": "\r", "crlf": "\r\n"}[b.Settings.Text("enter")]}
			t.receiver = serial.NewReceiver(w, rx, timerReceive, b.Settings.Int("baud"), t.taken)
			t.sender = serial.NewSender(w, tx, timerSend, b.Settings.Int("baud"))
			return t
		},
	})
}

type terminal struct {
	world    part.Host
	sink     display.LineSink
	receiver *serial.Receiver
	sender   *serial.Sender
	enter    string
	begun    bool
	garbled  int

	start   clock.Time // of the character that came last: its start bit
	line    []rune
	cursor  int    // in the line
	shown   bool   // the line has begun on the page
	command []byte // a control sequence under way, from ESC on; nil for none
}

// Changed listens.
func (t *terminal) Changed(uint64) {
	if !t.begun {
		t.begun = true
		t.sender.Idle()
	}
	t.receiver.Changed()
}

// taken is a character.
func (t *terminal) taken(start clock.Time, v uint8, framed bool) {
	t.start = start
	if !framed {
		if t.garbled++; t.garbled == 3 {
			t.world.Note("serial-framing",
				"several characters came without their stop bit: does the program send at the terminal's rate?")
		}
	}
	if t.command != nil && framed {
		t.sequence(v)
		t.show()
		return
	}
	switch {
	case !framed || v > '~':
		t.put('\uFFFD')
	case v >= ' ':
		t.put(rune(v))
	case v == '\n', v == '\v', v == '\f':
		t.end()
		return
	case v == '\r':
		t.cursor = 0
	case v == '\b':
		t.cursor = max(0, t.cursor-1)
	case v == '\t':
		for t.put(' '); t.cursor%tabWidth != 0; {
			t.put(' ')
		}
	case v == escape:
		t.command = []byte{}
	case v == 0, v == '\a': // nothing that an eye sees
	default:
		t.put('\uFFFD')
	}
	t.show()
}

// put writes a character at the cursor.
func (t *terminal) put(r rune) {
	if t.cursor == columns {
		t.end()
	}
	for t.cursor >= len(t.line) {
		t.line = append(t.line, ' ')
	}
	t.line[t.cursor] = r
	t.cursor++
}

// show brings the page in line: a line begins with the first character that stands on it.
func (t *terminal) show() {
	text := string(t.line)
	switch {
	case t.shown:
		t.sink.LineNow(t.start, text)
	case text != "":
		t.sink.Line(t.start, text)
		t.shown = true
	}
}

// end begins the next line.
func (t *terminal) end() {
	if t.shown {
		t.sink.LineNow(t.start, string(t.line))
	}
	t.line, t.cursor, t.shown = t.line[:0], 0, false
}

const (
	escape     = 0x1b
	maxCommand = 16
)

// sequence takes a byte of a control sequence: ESC [ parameters final (ECMA-48, section 5.4). Others than those that
// move the cursor within the line, or erase, show nothing and are passed over.
func (t *terminal) sequence(v uint8) {
	t.command = append(t.command, v)
	c := t.command
	switch {
	case len(c) == 1 && v == '[':
		return
	case len(c) == 1, len(c) > maxCommand, v < ' ' || v > '~':
		t.command = nil
		return
	case v < 0x40: // a parameter
		return
	}
	t.command = nil
	n, err := strconv.Atoi(string(c[1 : len(c)-1]))
	if err != nil || n < 0 {
		n = 0
	}
	switch v {
	case 'K': // erase in line
		switch n {
		case 0:
			t.line = t.line[:min(t.cursor, len(t.line))]
		case 1:
			for i := range t.line[:min(t.cursor+1, len(t.line))] {
				t.line[i] = ' '
			}
		case 2:
			t.line = t.line[:0]
		}
	case 'J', 'H', 'f': // erase in the screen, go to another line
		t.end()
	case 'C':
		t.cursor = min(columns-1, t.cursor+min(max(1, n), columns))
	case 'D':
		t.cursor = max(0, t.cursor-min(max(1, n), columns))
	case 'G':
		t.cursor = min(columns, max(1, n)) - 1
	}
}

// Wake continues receiving or sending.
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
