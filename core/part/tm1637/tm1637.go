// Package tm1637 is a module of four or six digits behind a TM1637, with keys (Titan Micro Electronics,
// "TM1637 LED drive control special circuit").
package tm1637

import (
	"fmt"
	"math/bits"
	"strconv"

	"hemble/core/circuit"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/sevensegment"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	clk = iota
	dio
)

const (
	maxDigits = 6
	keys      = 16
)

func init() {
	part.Register(&part.Kind{
		Name:      "tm1637",
		Exchanged: [][2]string{{"clk", "dio"}},
		Title:     "TM1637 digits with keys",
		Doc:       "Four or six digits on two wires, with brightness, a colon or points, and up to sixteen keys that are read back. Bytes are sent lowest bit first; the chip acknowledges each. It scans too fast to see: the mean light counts. At power-on it is off and its memory is random.",
		Source:    "Titan Micro Electronics, TM1637 data sheet V2.4 (interface, commands, key scanning)",
		Settings: []spec.Field{
			{Name: "digits", Kind: spec.Int, Min: 4, Max: maxDigits, Default: "4", Doc: "how many digits: 4 or 6"},
			{Name: "points", Kind: spec.Choice, Choices: []string{"colon", "dots"}, Default: "colon",
				Doc: "what bit 7 of a digit does: the colon (at the second digit), or that digit's own point"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the segments"},
			{Name: "pull-ups", Kind: spec.Bool, Default: "yes",
				Doc: "the module's own pull-up resistors on both lines"},
		},
		Pins:    []spec.Key{{Name: "clk", Doc: "clock"}, {Name: "dio", Doc: "data, bidirectional"}},
		Cues:    []string{part.Press, part.Hold, part.Release},
		Input:   part.CMOS,
		Example: "clock: {part: tm1637, digits: 4, pins: {clk: <1>, dio: <2>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			if b.Settings.Int("digits") == 5 || b.Settings.Int("digits") == 6 && b.Settings.Text("points") == "colon" {
				out = append(out,
					spec.Problem{Text: "a module has four digits, with a colon or points, or six with points"})
			}
			return out
		},
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := keyOf(c)
			return err
		},
		Geometry: func(b part.Instance) display.Geometry {
			look := sevensegment.Digits(int(b.Settings.Int("digits")), part.FindColour(b.Settings.Text("colour")).Hex)
			if b.Settings.Text("points") == "colon" {
				sevensegment.AddColon(&look)
			}
			return look
		},
		Controls: func(part.Instance) (out []part.Control) {
			for k := 1; k <= 4; k++ {
				out = append(out, part.PressControls("key "+strconv.Itoa(k), strconv.Itoa(k))[0])
			}
			return out
		},
		Misread: []part.Misread{reversed, unacknowledged},
		New: func(b part.Instance, w part.Host) part.Part {
			m := &module{world: w, turned: b.Settings.Text("sent") == "reversed",
				eager: b.Settings.Text("acknowledge") == "none", sink: part.Sink[display.LightSink](w),
				digits: int(b.Settings.Int("digits")),
				colon:  b.Settings.Text("points") == "colon", idle: circuit.Released}
			if b.Settings.Bool("pull-ups") {
				m.idle = circuit.PulledUp
			}
			for i := range m.memory {
				m.memory[i] = uint8(w.Random())
			}
			m.shown = make([]int64, 8*m.digits+1)
			return m
		},
	})
}

// reversed is a program that sends the highest bit of each byte first; the chip takes the lowest first.
var reversed = part.Misread{
	Entry: finding.Entry{Code: "bit-order", Price: finding.Wiring, Order: 2,
		Doc: "the bits of a word are sent, or wired, in reverse order"},
	Setting: "sent", Assumed: true, Taken: map[string][]string{"": {"reversed"}}, Wiring: true, Garbles: true,
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("%s takes the lowest bit of each byte first, and the program sends the highest first.",
			b.Name)
	},
}

// unacknowledged is a program that gives no ninth clock to the acknowledgement: from the second byte on all is off by
// a bit.
var unacknowledged = part.Misread{
	Entry: finding.Entry{Code: "no-acknowledge", Price: finding.Unreadable, Order: 3,
		Doc:      "a byte has eight clocks where a ninth is due for the acknowledgement",
		Subsumes: []finding.Code{"dark"}},
	Setting: "acknowledge", Assumed: true, Taken: map[string][]string{"": {"none"}}, Wiring: true, Garbles: true,
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("The program gives %s eight clocks for each byte; a ninth is due, for the acknowledgement.",
			b.Name)
	},
}

func keyOf(c part.Cue) (int, error) {
	n, err := strconv.Atoi(c.Key)
	if err != nil || n < 1 || n > keys {
		return 0, fmt.Errorf("which key? `key: 1` to `key: %d`", keys)
	}
	return n, nil
}

// full is the mean current in nA of a segment at full brightness, 14/16 of its time.
const full = display.Nominal

// widths are the shares of time, in 16ths, of the eight steps of brightness ("Display control").
var widths = [8]int64{1, 2, 4, 10, 11, 12, 13, 14}

type module struct {
	world  part.Host
	sink   display.LightSink
	digits int
	colon  bool
	idle   circuit.Drive

	turned bool // bytes come with their highest bit first
	eager  bool // no clock belongs to the acknowledgement
	shown  []int64

	state
}

// state is what changes.
type state struct {
	high    [2]bool // CLK, DIO before
	begun   bool
	active  bool // between START and STOP
	first   bool // the next byte is a command
	bits    int
	shift   uint8
	sending int // bits of the key code still to put out; 0 for none

	memory  [maxDigits]uint8
	address int
	fixed   bool
	test    bool
	control uint8 // the display control command
	key     int   // pressed now, 0 for none
}

// State compares all but the currents, which follow from it.
func (m *module) State() any { return m.state }

// Changed follows the two wires: START is DIO falling while CLK is high, STOP is DIO rising; bits are taken at
// rising edges.
func (m *module) Changed(uint64) {
	if !m.begun {
		m.begun = true
		m.world.Drive(clk, m.idle)
		m.world.Drive(dio, m.idle)
	}
	now := [2]bool{m.world.Net(clk).Level != circuit.Low, m.world.Net(dio).Level != circuit.Low}
	was := m.high
	m.high = now
	switch {
	case was[0] && now[0] && was[1] && !now[1]:
		m.active, m.first, m.bits, m.shift, m.sending = true, true, 0, 0, 0
	case was[0] && now[0] && !was[1] && now[1]:
		m.active = false
	case !m.active:
	case !was[0] && now[0]:
		if m.bits++; m.bits <= 8 && m.sending == 0 && now[1] {
			m.shift |= 1 << (m.bits - 1)
		}
	case was[0] && !now[0]:
		m.fall()
	}
}

// fall is a falling edge of CLK: after the eighth comes the acknowledgement, after the ninth the next byte.
func (m *module) fall() {
	switch {
	case m.bits == 8:
		if m.sending > 0 {
			m.sending = 0
		} else if m.turned {
			m.take(bits.Reverse8(m.shift))
		} else {
			m.take(m.shift)
		}
		if m.eager {
			m.bits, m.shift = 0, 0
			return
		}
		m.world.Drive(dio, circuit.DrivenLow)
	case m.bits > 8:
		m.bits, m.shift = 0, 0
		m.world.Drive(dio, m.idle)
		if m.sending > 0 {
			m.put()
		}
	case m.sending > 0:
		m.put()
	}
}

// take is a byte from the program.
func (m *module) take(v uint8) {
	if !m.first {
		m.world.Log(fmt.Sprintf("display 0x%02X", m.address), v)
		if m.address < maxDigits {
			m.memory[m.address] = v
		}
		if !m.fixed {
			m.address++
		}
		m.light()
		return
	}
	m.first = false
	switch v >> 6 {
	case 1: // data command
		m.fixed, m.test = v&4 != 0, v&8 != 0
		if v&3 == 2 {
			m.sending = 8
			m.world.Log("read keys")
		} else {
			m.world.Log(map[bool]string{false: "write data, addresses counting",
				true: "write data, fixed address"}[m.fixed])
		}
	case 2: // display control
		m.control = v
		m.world.Log("display control", v)
		m.light()
	case 3: // address
		m.address = int(v & 15)
	default:
		m.world.Log("no command", v)
	}
}

// put is the next bit of the key code, lowest first.
func (m *module) put() {
	if m.code()>>(8-m.sending)&1 == 1 {
		m.world.Drive(dio, m.idle)
	} else {
		m.world.Drive(dio, circuit.DrivenLow)
	}
	m.sending = max(1, m.sending-1)
}

// code returns which key is pressed ("Key scanning data"): the lowest three bits are the segment line, counted
// down from 7, bits 3 and 4 the key line that is pulled.
func (m *module) code() uint8 {
	switch {
	case m.key == 0:
		return 0xff
	case m.key <= 8:
		return 0xf0 | uint8(8-m.key)
	}
	return 0xe8 | uint8(16-m.key)
}

// light computes the mean currents.
func (m *module) light() {
	on, mean := m.control&8 != 0, full*widths[m.control&7]/widths[7]
	set := func(light int, lit bool) {
		current := int64(0)
		if on && lit {
			current = mean
		}
		if m.shown[light] != current {
			m.shown[light] = current
			m.sink.Light(light, current)
		}
	}
	for d := 0; d < m.digits; d++ {
		for s := 0; s < 8; s++ {
			set(8*d+s, m.memory[d]>>s&1 == 1 && (s < 7 || !m.colon))
		}
	}
	if m.colon {
		set(8*m.digits, m.memory[1]>>7 == 1)
	}
}

// timerRelease ends a press.
const timerRelease = 0

// Cue presses a key or lets it go.
func (m *module) Cue(c part.Cue) error {
	key, err := keyOf(c)
	if err != nil {
		return err
	}
	switch c.Verb {
	case part.Press:
		m.key = key
		m.world.After(timerRelease, c.For)
	case part.Hold:
		m.key = key
	case part.Release:
		m.key = 0
	default:
		return fmt.Errorf("this part takes no cue %q", c.Verb)
	}
	return nil
}

// Wake lets a key go.
func (m *module) Wake(int) { m.key = 0 }
