// Package max7219 is a MAX7219 with the eight digits or the 8×8 LEDs that it drives (Maxim 19-4452,
// "Serially Interfaced, 8-Digit LED Display Drivers").
package max7219

import (
	"fmt"
	"math/bits"
	"slices"

	"hemble/core/circuit"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/part/matrix"
	"hemble/core/part/sevensegment"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	din = iota
	clk
	load
	inputs
	dout = inputs
)

const digits = 8

// Registers (table 2).
const (
	regDecode    = 9
	regIntensity = 10
	regScan      = 11
	regShutdown  = 12
	regTest      = 15
)

// peak is the segment current in nA that the usual resistor of 10 kΩ sets (table 11).
const peak = 40_000_000

// least is the mean current in nA that a lit segment counts with at least: at the lowest intensity the chip
// pulses its segments with 40 mA for a 256th of the time, and they are seen all the same.
const least = 400_000

func init() {
	part.Register(&part.Kind{
		Name:      "max7219",
		Exchanged: [][2]string{{"din", "clk"}, {"clk", "load"}, {"din", "load"}},
		Driven:    part.Always("din", "clk", "load"),
		Signs:     signs,
		Misread: []part.Misread{reversed, assumed("shutdown", "power", finding.Unreadable),
			assumed("scan-limit", "scan", finding.Wiring), assumed("decode-mode", "decode", finding.Wiring)},
		Title:  "MAX7219 with its LEDs",
		Doc:    "Eight digits, or an 8×8 LED matrix, on three wires. Sixteen bits are shifted in at rising edges of clk, the address in bits 8 to 11; the rising edge of load executes them. Chain several from dout to din. The chip scans its digits at 800 Hz, which is never visible: the mean light counts. At power-on it is shut down, with all registers 0.",
		Source: "Maxim 19-4452, MAX7219/MAX7221",
		Settings: []spec.Field{
			{Name: "shows", Kind: spec.Choice, Choices: []string{"digits", "matrix"}, Default: "digits",
				Doc: "the modules it drives"},
			{Name: "first", Kind: spec.Choice, Choices: []string{"right", "left"}, Default: "right",
				Doc: "the end of a row of digits at which register 1 is"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the light"},
		},
		Pins: []spec.Key{{Name: "din", Doc: "serial data in"},
			{Name: "clk", Doc: "clock: data are taken at its rising edge"},
			{Name: "load", Doc: "load, or CS: its rising edge executes the last sixteen bits"},
			{Name: "dout", Doc: "serial data out, sixteen and a half clocks later, to the din of the next in a chain",
				Optional: true}},
		Input:   &part.Input{Low: 800_000, High: 3_500_000}, // electrical characteristics, at 5 V
		Example: "dial: {part: max7219, pins: {din: <1>, clk: <2>, load: <3>}}",
		Geometry: func(b part.Instance) display.Geometry {
			hex := part.FindColour(b.Settings.Text("colour")).Hex
			if b.Settings.Text("shows") == "matrix" {
				return matrix.Look(hex)
			}
			return sevensegment.Digits(digits, hex)
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &driver{world: w, sink: part.Sink[display.LightSink](w),
				matrix: b.Settings.Text("shows") == "matrix", left: b.Settings.Text("first") == "left",
				sent: b.Settings.Text("sent"), awake: b.Settings.Text("power") == "on",
				whole: b.Settings.Text("scan") == "all", decode: b.Settings.Text("decode")}
		},
	})
}

type driver struct {
	part.Passive
	part.Levels
	world        part.Host
	sink         display.LightSink
	matrix, left bool
	sent         string // data, bytes or word: what comes with its lowest bit first; else nothing
	awake, whole bool   // it is on, and scans all digits, whatever its registers say
	decode       string // none or all, whatever its register says; else nothing
	shift        uint16
	clocks       int // since load rose
	registers    [16]uint8
	shown        [8 * digits]int64
}

// State is what the registers hold.
func (d *driver) State() any {
	return struct {
		part.Levels
		shift     uint16
		clocks    int
		registers [16]uint8
	}{d.Levels, d.shift, d.clocks, d.registers}
}

// Changed follows the timing diagram: data in at the rising edge, out at the falling one.
func (d *driver) Changed(uint64) {
	before := d.High(din)
	d.Read(d.world, inputs, 0)
	if d.Rose(load) {
		if d.clocks > 0 && d.clocks < wordLength {
			d.world.Log(shortWord, uint8(d.clocks))
		}
		d.clocks = 0
		d.execute()
	}
	if d.Rose(clk) {
		d.clocks++
		d.shift <<= 1
		if before {
			d.shift |= 1
		}
	}
	if d.Fell(clk) {
		d.world.Drive(dout, circuit.Output(d.shift>>15 == 1))
	}
}

// wordLength is how many bits load executes, the last that came (table 1); shortWord is in the log where fewer came.
const (
	wordLength = 16
	shortWord  = "short word"
)

func (d *driver) execute() {
	word := d.shift
	switch d.sent {
	case "data":
		word = word&0xff00 | uint16(bits.Reverse8(uint8(word)))
	case "word":
		word = bits.Reverse16(word)
	case "bytes":
		word = uint16(bits.Reverse8(uint8(word>>8)))<<8 | uint16(bits.Reverse8(uint8(word)))
	}
	address := word >> 8 & 15
	d.world.Log("register "+names[address], uint8(word))
	if address == 0 {
		return
	}
	d.registers[address] = uint8(word)
	d.light()
}

// assumed is a register that the program sets wrong, or never: the sign of that code tells, and a chip that has it
// right would suit the program.
func assumed(code finding.Code, setting string, price finding.Price) part.Misread {
	i := slices.IndexFunc(signs, func(s part.Sign) bool { return s.Code == code })
	sign := signs[i]
	sign.Price, sign.Order = price, 3
	values := map[string][]string{"power": {"on"}, "scan": {"all"}, "decode": {"none", "all"}}
	return part.Misread{Entry: sign.Entry, Setting: setting, Assumed: true, Mends: true,
		Taken: map[string][]string{"": values[setting]},
		Told: func(b part.Instance, log []part.Taken) bool {
			text, _ := sign.Find(b, log)
			return text != ""
		},
		Text: func(b part.Instance, _ string) string {
			return fmt.Sprintf(map[string]string{
				"power":  "%s is never taken out of shutdown: register C must be set to 1, and stay so.",
				"scan":   "%s scans too few of its digits: the scan limit must be higher.",
				"decode": "%s has the wrong decode mode: FF for numbers, 0 for patterns of segments and for a matrix.",
			}[setting], b.Name)
		}}
}

// reversed is a program that sends bits from the wrong end: of the data alone, of both bytes, or of the whole word.
var reversed = part.Misread{
	Entry: finding.Entry{Code: "bit-order", Price: finding.Wiring, Order: 2,
		Doc:      "the bits of a word are sent, or wired, in reverse order",
		Subsumes: []finding.Code{"dark", "shutdown", "scan-limit", "decode-mode"}},
	Setting: "sent", Assumed: true, Taken: map[string][]string{"": {"data", "bytes", "word"}}, Wiring: true,
	Text: func(b part.Instance, taken string) string {
		return fmt.Sprintf("%s takes its data with the highest bit first, and the program sends the %s with the lowest first.",
			b.Name, map[string]string{"data": "data", "bytes": "address and the data", "word": "whole word"}[taken])
	},
}

var names = [16]string{"no-op", "digit 0", "digit 1", "digit 2", "digit 3", "digit 4", "digit 5", "digit 6", "digit 7",
	"decode mode", "intensity", "scan limit", "shutdown", "unused", "unused", "display test"}

// codeB is the font of decode mode (table 5): 0 to 9, -, E, H, L, P, blank.
var codeB = [16]glyph.Pattern{0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f, 0x40, 0x79, 0x76, 0x38, 0x73,
	0}

// segments turns a digit register without decoding, whose bits 6 to 0 are segments A to G (table 6), into a pattern,
// and a pattern into such a register.
func segments(v uint8) (p glyph.Pattern) {
	for i := 0; i < 7; i++ {
		if v>>(6-i)&1 == 1 {
			p |= 1 << i
		}
	}
	return p | glyph.Pattern(v)&glyph.DP
}

// light computes the mean currents. The digits of a scan share its time; the intensity is the share of its
// time that a digit is on, in odd 32nds (table 7).
func (d *driver) light() {
	scanned := int(d.registers[regScan]&7) + 1
	if d.whole {
		scanned = digits
	}
	test := d.registers[regTest]&1 == 1
	on := test || d.awake || d.registers[regShutdown]&1 == 1
	decoded := d.registers[regDecode]
	switch d.decode {
	case "none":
		decoded = 0
	case "all":
		decoded = 0xff
	}
	mean := int64(peak) * int64(2*(d.registers[regIntensity]&15)+1) / 32 / int64(scanned)
	if test {
		mean, scanned = peak*31/32/digits, digits
	}
	mean = max(mean, least)
	for i := 0; i < digits; i++ {
		v := d.registers[1+i]
		if test {
			v = 0xff
		}
		lit := uint8(segments(v))
		if !test && decoded>>i&1 == 1 {
			lit = uint8(codeB[v&15]) | v&uint8(glyph.DP)
		}
		if d.matrix { // its columns are the segments in the order of the register's bits, decoded or not
			lit = uint8(segments(lit))
		}
		for k := 0; k < 8; k++ {
			at, current := d.place(i, k), int64(0)
			if on && i < scanned && lit>>k&1 == 1 {
				current = mean
			}
			if d.shown[at] != current {
				d.shown[at] = current
				d.sink.Light(at, current)
			}
		}
	}
}

// place gives the light of a bit of a digit. On a matrix bit 7 is the leftmost column.
func (d *driver) place(digit, bit int) int {
	switch {
	case d.matrix:
		return digit*8 + 7 - bit
	case d.left:
		return digit*8 + bit
	}
	return (digits-1-digit)*8 + bit
}
