package hd44780

import (
	"fmt"

	"hemble/core/clock"

	"hemble/core/display"
	form "hemble/core/display/characters"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// size is a kind of glass: how many characters, and at which place of which line of the controller's
// memory each row starts.
type size struct {
	name          string
	columns, rows int
	starts        [][2]int // of each row, or each half of one: line and place
	half          int      // how many columns belong to one start
}

// sizes are the usual modules. A 16×1 is wired as two lines of eight side by side.
var sizes = []size{
	{"16x2", 16, 2, [][2]int{{0, 0}, {1, 0}}, 16},
	{"20x4", 20, 4, [][2]int{{0, 0}, {1, 0}, {0, 20}, {1, 20}}, 20},
	{"8x2", 8, 2, [][2]int{{0, 0}, {1, 0}}, 8},
	{"16x1", 16, 1, [][2]int{{0, 0}, {1, 0}}, 8},
}

// settings are those of both kinds of part.
var settings = []spec.Field{
	{Name: "size", Kind: spec.Choice, Choices: sizeNames(), Default: "16x2", Doc: "columns and rows"},
	{Name: "speed", Kind: spec.Choice, Choices: []string{"typical", "slowest"}, Default: "typical",
		Doc: "execution times at the controller's typical clock of 270 kHz, or at 190 kHz, the slowest its datasheet allows"},
}

func sizeNames() (out []string) {
	for _, s := range sizes {
		out = append(out, s.name)
	}
	return out
}

func sizeOf(b part.Instance) size {
	for _, s := range sizes {
		if s.name == b.Settings.Text("size") {
			return s
		}
	}
	return sizes[0]
}

func look(b part.Instance) display.Geometry {
	s := sizeOf(b)
	return display.Geometry{TypeName: form.Form, Width: float64(s.columns)*46 + 64, Height: float64(s.rows)*80 + 70,
		Grid: &display.Grid{Columns: s.columns, Rows: s.rows, Back: "#8fae2e", Ink: "#1c2a10", Faint: "#86a42b",
			Characters: b.Characters}}
}

// contrast is what the voltage at VO makes of the characters.
type contrast uint8

const (
	right   contrast = iota
	nothing          // too little voltage across the liquid crystal: no dot darkens
	boxes            // too much: all dots do
)

// Contrast is right while the voltage across the liquid crystal, from VCC to VO, is between these, in µV
// (typical modules for 5 V are best at 4.2 V to 4.6 V; HD44780U datasheet, "Power supply voltage for LCD
// drive", gives the limits of the chip only).
const (
	nothingBelow = 3_500_000
	boxesOver    = 4_900_000
)

// glass is what a person looks at.
type glass struct {
	controller
	world    part.Host
	sink     display.CellSink
	size     size
	contrast contrast
	shown    []display.Cell
	guessed  string // how RS is guessed from what is sent; "" where it is looked at
	lowFirst bool   // the low half of a byte comes first
	cursor   *display.Cursor
}

func newGlass(b part.Instance, w part.Host) glass {
	g := glass{controller: newController(b.Settings.Text("speed") == "slowest"), world: w,
		sink: part.Sink[display.CellSink](w), size: sizeOf(b)}
	g.clear()
	g.kept = b.Settings.Text("clear") == "later"
	g.guessed = b.Settings.Text("rs")
	g.lowFirst = b.Settings.Text("halves") == lowFirst
	g.begins = newBegins(g.size, b.Settings.Text("row-begins"))
	g.readyAt = g.powerOnTime()
	return g
}

// place gives the line, and the place on it, of a column of a row.
func (s size) place(row, column int) (line, at int) {
	start := s.starts[row+column/s.half]
	return start[0], start[1] + column%s.half
}

// paint brings the glass in line with the controller.
func (g *glass) paint() {
	if g.shown == nil {
		g.shown = make([]display.Cell, g.size.columns*g.size.rows)
	}
	var cursor *display.Cursor
	for i := range g.shown {
		line, at := g.size.place(i/g.size.columns, i%g.size.columns)
		cell := display.Cell(0)
		switch code, on := g.at(line, at); {
		case g.contrast == nothing || !on && g.contrast == right:
		case g.contrast == boxes:
			cell = 0xff
		case code < 16:
			cell = g.sink.Custom(g.custom(code))
		case code != ' ':
			cell = display.Cell(code)
		}
		if g.shown[i] != cell {
			g.shown[i] = cell
			g.sink.Cell(i, cell)
		}
		if g.contrast == right && g.cursorAt(line, at) {
			cursor = &display.Cursor{Cell: i, Block: g.blink}
		}
	}
	if g.cursor == nil && cursor == nil || g.cursor != nil && cursor != nil && *g.cursor == *cursor {
		return
	}
	g.cursor = cursor
	g.sink.Cursor(cursor)
}

// clearDisplay is the instruction; settling is how long after it what is not written anew goes away, on a display that
// keeps it for a while.
const (
	clearDisplay = 0x01
	settling     = 30 * clock.Millisecond
)

// later ends that time.
func (g *glass) later() {
	g.settle()
	g.paint()
}

// cleared is a program that clears the display and writes all of it anew, again and again: what it writes is there for
// a part of the time, and seen faintly. With a display that clears later what is not written anew, its text stays.
var cleared = part.Misread{
	Entry: finding.Entry{Code: "washed-out", Price: finding.Behaviour, Order: 6,
		Doc:      "a text is cleared before it is written anew, and is seen to go away",
		Catch:    "give `shows` its times, or ask for `steady`",
		Subsumes: []finding.Code{"not-shown", "row-empty"}},
	Setting: "clear", Assumed: true, Mends: true, Taken: map[string][]string{"": {"later"}}, Wiring: true, Partly: true,
	Told: func(_ part.Instance, log []part.Taken) bool {
		times := 0
		for _, x := range log {
			if x.What == "clear display" {
				times++
			}
		}
		return times > 10
	},
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("%s is cleared and written anew all the time, so that its text is seen faintly, or in parts: clear it only where another text comes.", b.Name)
	},
}
