// Package hd44780 is a 16×2 character LCD with an HD44780U controller on parallel wires (Hitachi
// ADE-207-272(Z), "HD44780U (LCD-II)").
package hd44780

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Geometry of the glass.
const (
	columns = 16
	rows    = 2
)

// Terminals, in the order of Pins.
const (
	pinRS = iota
	pinRW
	pinE
	pinD0
)

func init() {
	pins := []spec.Key{
		{Name: "rs", Doc: "register select: low for instructions, high for data"},
		{Name: "rw", Doc: "low to write, high to read; GND where nothing is read back"},
		{Name: "e", Doc: "enable: what stands at the other pins counts when it falls"},
	}
	for i, d := range []string{"d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7"} {
		pins = append(pins, spec.Key{Name: d, Doc: "data line " + d[1:], Optional: i < 4})
	}
	part.Register(&part.Kind{
		Name:   "lcd",
		Title:  "Character LCD 16×2",
		Doc:    "A character LCD of two rows of sixteen characters with an HD44780U controller and ROM code A00. In 4-bit mode only d4 to d7 are wired. What is sent while the controller is busy is lost, as on the real one.",
		Source: "Hitachi HD44780U datasheet ADE-207-272(Z)",
		Settings: []spec.Field{
			{Name: "speed", Kind: spec.Choice, Choices: []string{"typical", "slowest"}, Default: "typical", Doc: "execution times at the controller's typical clock of 270 kHz, or at 190 kHz, the slowest its datasheet allows"},
		},
		Pins:    pins,
		Example: "board: {part: lcd, pins: {rs: PB0, rw: GND, e: PB1, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}",
		Look: func(part.Built) reel.Look {
			return reel.Look{Form: reel.FormText, Width: 800, Height: 230, Grid: &reel.Grid{Columns: columns, Rows: rows, Back: "#8fae2e", Ink: "#1c2a10", Faint: "#86a42b"}}
		},
		New: func(b part.Built, w part.World) part.Part {
			l := &lcd{world: w, controller: newController(b.Settings.Text("speed") == "slowest")}
			l.controller.clear()
			l.readyAt = l.powerOnTime()
			return l
		},
	})
}

// minEnable is the shortest E pulse of the datasheet at 5 V (PW_EH, "Bus timing characteristics").
const minEnable = 230 * clock.Nanosecond

// lcd is the controller on its wires.
type lcd struct {
	part.Passive
	world part.World
	controller
	before  uint64     // the levels before the present instant, by terminal
	eRose   clock.Time // when E last rose
	driving bool
	low     bool  // 4-bit mode: the next nibble is the low one
	high    uint8 // the high nibble that came before it
	shown   [columns * rows]reel.Cell
	painted bool
}

// levels reads all terminals. Unwired and floating ones are high: the chip has pull-ups on all but E.
func (l *lcd) levels() (out uint64) {
	for i := pinRS; i < pinD0+8; i++ {
		if d := l.world.Net(i); d.Level == circuit.High || d.Level == circuit.Float && i != pinE {
			out |= 1 << i
		}
	}
	return out
}

// Changed looks at the wires. Data are taken at the falling edge of E, as they stood before it:
// what changes together with E comes too late.
func (l *lcd) Changed(uint64) {
	if !l.painted {
		l.painted = true
		l.paint()
	}
	now := l.levels()
	if l.driving {
		now = now&^(0xff<<pinD0) | l.before&(0xff<<pinD0)
	}
	fell := l.before&^now>>pinE&1 == 1
	rose := now&^l.before>>pinE&1 == 1
	before := l.before
	l.before = now
	switch {
	case rose:
		l.eRose = l.world.Now()
		if now>>pinRW&1 == 1 {
			l.answer(now)
		}
	case fell:
		if width := l.world.Now() - l.eRose; width < minEnable {
			l.world.Note("lcd-enable", "E was high for only %s; the datasheet asks for %s", width.Short(), minEnable.Short())
		}
		if before>>pinRW&1 == 1 {
			l.answered(before)
		} else {
			l.take(before>>pinRS&1 == 1, uint8(before>>pinD0))
		}
	}
}

// take is a write cycle: a byte, or a nibble of one.
func (l *lcd) take(data bool, bus uint8) {
	now := l.world.Now()
	if now < l.readyAt {
		what := "an instruction"
		if data {
			what = "a character"
		}
		l.world.Note("lcd-busy", "%s was sent %s before the controller was ready, and lost", what, (l.readyAt - now).Short())
		return
	}
	if !l.wide {
		if !l.low {
			l.high, l.low = bus&0xf0, true
			return
		}
		l.low = false
		bus = l.high | bus>>4
	}
	l.readyAt = now + l.execute(data, bus)
	l.paint()
}

// answer drives the data lines while a read cycle holds E high.
func (l *lcd) answer(levels uint64) {
	v := l.peek(levels>>pinRS&1 == 1, l.world.Now() < l.readyAt)
	if !l.wide && l.low {
		v <<= 4
	}
	l.driving = true
	first := pinD0
	if !l.wide {
		first += 4
	}
	for i := first; i < pinD0+8; i++ {
		l.world.Drive(i, circuit.Output(v>>(i-pinD0)&1 == 1))
	}
}

// answered ends a read cycle.
func (l *lcd) answered(levels uint64) {
	for i := pinD0; i < pinD0+8; i++ {
		l.world.Drive(i, circuit.Released)
	}
	l.driving = false
	whole := l.wide || l.low
	if !l.wide {
		l.low = !l.low
	}
	if whole && levels>>pinRS&1 == 1 && l.world.Now() >= l.readyAt {
		l.step()
		l.readyAt = l.world.Now() + l.time(dataTime)
		l.paint()
	}
}

// paint brings the glass in line with the controller.
func (l *lcd) paint() {
	for r := 0; r < rows; r++ {
		for c := 0; c < columns; c++ {
			cell := reel.Cell(0)
			switch code, on := l.at(r, c); {
			case !on:
			case code < 16:
				cell = l.world.Custom(l.custom(code))
			case code != ' ':
				cell = reel.Cell(code)
			}
			if i := r*columns + c; l.shown[i] != cell {
				l.shown[i] = cell
				l.world.Cell(i, cell)
			}
		}
	}
	var cursor *reel.Cursor
	if r, c, ok := l.cursorAt(); ok {
		cursor = &reel.Cursor{Cell: r*columns + c, Block: l.blink}
	}
	l.world.Cursor(cursor)
}
