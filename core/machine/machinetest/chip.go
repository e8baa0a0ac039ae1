// Package machinetest is an invented chip for tests of everything that uses chips: forty pins without ports, 32-bit
// addresses, a 3.3 V supply. Code that works with it depends on no particular family.
package machinetest

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Where its memories are.
const (
	FlashAt = 0x1000_0000
	RAMAt   = 0x2000_0000
	pins    = 40
	reset   = pins // behind the others
	txd     = 8
	rxd     = 9
)

// The instructions: four bytes each, operation, pin, and an argument of 16 bits, low byte first.
const (
	opLow     = iota // drive a pin low
	opHigh           // or high
	opPull           // or make it an input with a pull-up
	opWait           // argument ms
	opSend           // a byte at the serial port
	opJump           // to the instruction of that number
	opSkipLow        // leave the next one out where the pin is low
	opNote           // tell something
)

// Low drives a pin low.
func Low(pin int) [4]byte { return [4]byte{opLow, byte(pin)} }

// High drives a pin high.
func High(pin int) [4]byte { return [4]byte{opHigh, byte(pin)} }

// Pull makes a pin an input with a pull-up.
func Pull(pin int) [4]byte { return [4]byte{opPull, byte(pin)} }

// Wait does nothing for some ms.
func Wait(ms int) [4]byte { return [4]byte{opWait, 0, byte(ms), byte(ms >> 8)} }

// Send sends a byte.
func Send(c byte) [4]byte { return [4]byte{opSend, 0, c} }

// Jump continues elsewhere.
func Jump(n int) [4]byte { return [4]byte{opJump, 0, byte(n), byte(n >> 8)} }

// SkipLow leaves the next instruction out where a pin is low.
func SkipLow(pin int) [4]byte { return [4]byte{opSkipLow, byte(pin)} }

// Note tells something.
func Note() [4]byte { return [4]byte{opNote} }

// Program is a firmware file, in Intel HEX.
func Program(code ...[4]byte) []byte {
	record := func(address uint16, kind byte, data ...byte) string {
		all := append([]byte{byte(len(data)), byte(address >> 8), byte(address), kind}, data...)
		sum := byte(0)
		for _, b := range all {
			sum -= b
		}
		return fmt.Sprintf(":%X\n", append(all, sum))
	}
	out := record(0, 4, byte(FlashAt>>24), byte(FlashAt>>16&0xff))
	for i, in := range code {
		out += record(uint16(4*i), 0, in[:]...)
	}
	return []byte(out + record(0, 1))
}

// Chip is registered by importing this package.
var Chip = &machine.Chip{
	Name: "test40", Title: "Test40", Source: "this package",
	Clock: 12_000_000, Clocks: [2]clock.Rate{1_000_000, 133_000_000}, Inside: []clock.Rate{12_000_000},
	Pins: names(), Reset: reset,
	Supplies: []machine.Rail{{Name: "IOVDD", Package: 42, Net: "VCC"}, {Name: "VSS", Package: 43, Net: "GND"}},
	Vectors:  map[string][]machine.Pin{"IO": all()},
	Serial:   []machine.SerialPort{{Name: "UART0", Receive: rxd, Transmit: txd}},
	Electric: machine.Electric{Supply: 3_300_000, Supplies: [2]int64{1_800_000, 3_600_000}, Drive: 40, Pull: 50_000},
	Limits:   machine.Limits{Pin: 12_000_000, Chip: 50_000_000},
	Flash:    2 << 20, SRAM: 264 << 10, Data: RAMAt,
	Firmware: firmware.Layout{Erased: 0xffff,
		Regions: []firmware.Region{{Kind: firmware.Ignored}, {From: FlashAt, Kind: firmware.Flash, Shown: FlashAt},
			{From: RAMAt, Kind: firmware.RAM, Shown: RAMAt}}},
	Models: []string{"pins", "a serial port"}, Unmodelled: []string{"everything else"},
	Notes:           []finding.Entry{{Code: "remark", Doc: "the program has something to tell"}},
	New:             newMachine,
	ReturnAddresses: func(*firmware.Image, []uint8) []uint32 { return nil },
	Normalise:       func(im *firmware.Image, address uint32) (uint32, uint32) { return uint32(im.Word(address)), 4 },
}

func init() {
	machine.Register(Chip)
	machine.RegisterBoard(&machine.Board{Name: "test-board", Title: "pins N0 to N39", Chips: []string{Chip.Name},
		Aliases: map[string]string{"N33": "IO33"}})
}

func all() (out []machine.Pin) {
	for i := range pins {
		out = append(out, machine.Pin(i))
	}
	return out
}

func names() (out []machine.PinInfo) {
	for i := range pins {
		out = append(out, machine.PinInfo{Name: fmt.Sprintf("IO%d", i), Package: i + 1})
	}
	return append(out, machine.PinInfo{Name: "RUN", Package: 41})
}

// chip is one under way: an instruction takes a microsecond.
type chip struct {
	config machine.Config
	image  *firmware.Image
	code   []byte
	at     int // the next instruction
	now    clock.Time
	drives [pins + 1]circuit.Drive
	levels [pins + 1]circuit.Level
	held   bool // by its reset pin
	notes  []machine.Note
	count  machine.Counters
}

func newMachine(c machine.Config) machine.Machine {
	m := &chip{config: c}
	m.Reset()
	return m
}

func (m *chip) Load(im *firmware.Image) error {
	for _, s := range im.Flash {
		if s.Address != FlashAt {
			return fmt.Errorf("the file begins at 0x%08X; the %s starts at 0x%08X", s.Address, Chip.Title, FlashAt)
		}
		m.image, m.code = im, s.Data
	}
	m.Reset()
	return nil
}

func (m *chip) Reset() {
	m.at = 0
	for i := range m.drives {
		m.drives[i], m.levels[i] = circuit.Released, circuit.Float
	}
	m.drives[reset] = circuit.PulledUp
}

func (m *chip) Now() clock.Time                      { return m.now }
func (m *chip) Drives(p machine.Pin) circuit.Drive   { return m.drives[p] }
func (m *chip) Notes() []machine.Note                { return m.notes }
func (m *chip) Counters() machine.Counters           { return m.count }
func (m *chip) Input(p machine.Pin, l circuit.Level) { m.levels[p] = l }
func (m *chip) place() machine.Place                 { return machine.Place{PC: uint32(FlashAt + 4*m.at)} }

func (m *chip) Hash() [32]byte {
	return sha256.Sum256(fmt.Append(nil, m.at, m.now, m.drives, m.levels))
}

func (m *chip) Run(until clock.Time, l machine.Listener) machine.Stop {
	for m.now < until {
		switch low := m.levels[reset] == circuit.Low; {
		case low:
			m.held, m.now = true, until
			continue
		case m.held:
			m.held = false
			m.Reset()
		}
		if 4*m.at+4 > len(m.code) {
			return machine.Stop{Reason: machine.OffFlash,
				Text: fmt.Sprintf("execution reached 0x%08X, where nothing was programmed", FlashAt+4*m.at), At: m.now,
				PC: m.place().PC}
		}
		in := m.code[4*m.at : 4*m.at+4]
		arg := int(binary.LittleEndian.Uint16(in[2:]))
		m.count.Instructions++
		next := m.at + 1
		m.now += clock.Microsecond
		switch in[0] {
		case opLow, opHigh, opPull:
			d := map[byte]circuit.Drive{opLow: circuit.DrivenLow, opHigh: circuit.DrivenHigh,
				opPull: circuit.PulledUp}[in[0]]
			if pin := machine.Pin(in[1]); m.drives[pin] != d {
				m.drives[pin] = d
				until = min(until, m.tell(pin, d, l))
			}
		case opWait:
			m.now += clock.Time(arg) * clock.Millisecond
		case opSend:
			if m.config.Bytes != nil {
				m.config.Bytes(machine.Byte{At: m.now, Port: Chip.Serial[0].Name, Value: in[2]})
			}
		case opJump:
			next = arg
		case opSkipLow:
			if m.levels[in[1]] == circuit.Low {
				next++
			}
		case opNote:
			m.notes = append(m.notes, machine.Note{Code: "remark", Text: "the program came by here", At: m.now,
				PC: m.place().PC})
		default:
			return machine.Stop{Reason: machine.IllegalOpcode, Text: fmt.Sprintf("0x%02X is no instruction", in[0]),
				At: m.now, PC: m.place().PC}
		}
		m.at = next
	}
	m.count.Cycles = int64(m.now / clock.Microsecond)
	return machine.Stop{At: m.now}
}

// tell tells of an edge, late where the pin is followed.
func (m *chip) tell(pin machine.Pin, d circuit.Drive, l machine.Listener) clock.Time {
	m.count.Edges++
	for _, f := range m.config.Followed {
		if f == pin && d.Strength == circuit.PushPull {
			const wide = 32
			from := pin / wide * wide
			bit := uint32(1) << (pin - from)
			levels := uint32(0)
			if d.Level == circuit.High {
				levels = bit
			}
			m.config.Follow([]machine.Edge{{At: m.now, From: from, Pins: bit, Levels: levels, Place: m.place()}})
			return clock.Never
		}
	}
	return l.Drive(m.now, []machine.Change{{Pin: pin, Drive: d}}, m.place())
}
