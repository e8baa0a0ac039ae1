package serialdisplay

import (
	"hemble/core/display"
	form "hemble/core/display/characters"
	"hemble/core/part"
	"hemble/core/spec"
)

var textActions = []action{
	{"clear", "empty the display and go to its first place", 'C', false},
	{"home", "go to the first place", 'H', false},
	{"go", "go to the place that the next byte counts from 0, row by row", 'P', true},
	{"on", "show the text", 'O', false},
	{"off", "hide the text", 'F', false},
	{"light", "set the backlight to the next byte, 0 to 255", 'B', true},
}

var textSizes = map[string][2]int{"16x2": {16, 2}, "20x4": {20, 4}}

func init() {
	part.Register(&part.Kind{
		Name:   "serial-lcd",
		Title:  "Serial text display",
		Doc:    "A character display with its own controller on one data line: characters are written one after another, row by row, and start again after the last row; an escape byte starts a command. Its backlight is a display of its own: this part's name and -backlight.",
		Source: "8N1 framing of a UART; commands by settings",
		Settings: settings(textActions,
			spec.Field{Name: "size", Kind: spec.Choice, Choices: []string{"16x2", "20x4"}, Default: "16x2",
				Doc: "columns and rows"}),
		Pins:    []spec.Key{{Name: "rx", Doc: "the data line, from the chip's TXD or any pin that the program drives"}},
		Example: "log: {part: serial-lcd, baud: 9600, pins: {rx: <TXD>}}",
		Check:   check(textActions),
		Backlit: func(part.Instance) bool { return true },
		Geometry: func(b part.Instance) display.Geometry {
			s := textSizes[b.Settings.Text("size")]
			return display.Geometry{TypeName: form.Form, Width: float64(s[0])*46 + 64, Height: float64(s[1])*80 + 70,
				Grid: &display.Grid{Columns: s[0], Rows: s[1], Back: "#3f74b5", Ink: "#f2f7ff", Faint: "#4a7dbb"}}
		},
		Notes: notes,
		New: func(b part.Instance, w part.Host) part.Part {
			s := textSizes[b.Settings.Text("size")]
			d := &text{line: newLine(b, w, textActions), sink: part.Sink[display.CellSink](w),
				cells: make([]byte, s[0]*s[1]), on: true}
			d.begin, d.write, d.command = d.start, d.put, d.do
			for i := range d.cells {
				d.cells[i] = ' '
			}
			return d
		},
	})
}

// fullLight is the current of the backlight in nA at level 255.
const fullLight = 15_000_000

type text struct {
	*line
	sink  display.CellSink
	cells []byte
	at    int
	on    bool
}

func (d *text) start() { d.world.Backlight().Light(0, fullLight) }

// put shows a character; control characters do nothing.
func (d *text) put(v byte) {
	if v < ' ' {
		return
	}
	d.cells[d.at] = v
	d.show(d.at)
	d.at = (d.at + 1) % len(d.cells)
}

func (d *text) show(i int) {
	cell := display.Cell(0)
	if d.on && d.cells[i] != ' ' {
		cell = display.Cell(d.cells[i])
	}
	d.sink.Cell(i, cell)
}

func (d *text) do(name string, argument byte) {
	switch name {
	case "clear", "home":
		d.at = 0
		for i := range d.cells {
			if name == "clear" {
				d.cells[i] = ' '
			}
		}
	case "go":
		d.at = int(argument) % len(d.cells)
	case "on", "off":
		d.on = name == "on"
	case "light":
		d.world.Backlight().Light(0, fullLight*int64(argument)/255)
	}
	for i := range d.cells {
		d.show(i)
	}
}
