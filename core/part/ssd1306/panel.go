package ssd1306

import (
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
)

const (
	columns = 128
	pages   = 8
)

// Addressing modes (10.1.3).
const (
	horizontal = iota
	vertical
	pageMode
)

// panel is the controller with its memory and the glass.
type panel struct {
	world part.Host
	sink  display.CellSink
	rows  int // of the glass
	// turned returns how the glass sits on its module. On nearly all of them its first column and row are at the lower
	// right, so that programs set segment remap A1 and COM scan C8 to write upright; turned is the other way.
	turned bool
	ram    [pages][columns]uint8
	shown  []uint8

	mode             int
	forced           int // the addressing mode whatever is set; -1 for none
	column, page     int
	columnFrom, to   int // window of the horizontal and vertical modes
	pageFrom, pageTo int
	remap            bool // columns counted from the right
	look
	level   uint8
	pending []uint8 // a command that waits for its arguments
	scroll  scroll
}

// look is what decides, beside the memory, which pixels shine.
type look struct {
	start        int  // display start line
	offset       int  // vertical shift by COM
	mux          int  // rows driven, less one
	flip         bool // rows driven from the bottom
	alternative  bool // COM pins: odd and even rows at opposite sides
	inverse, all bool
	on, pump     bool
}

// intervals are the frames from one step of scrolling to the next (10.2.1). Scrolling that was never set up takes the
// first.
var intervals = [8]int{5, 64, 128, 256, 3, 4, 25, 2}

// scroll is the continuous scrolling that commands 0x26 to 0x2A set up.
type scroll struct {
	active       bool
	left         bool
	from, to     int // pages
	frames       int // between steps
	vertical     int
	fixed, lines int // of the vertical scroll area
}

func newPanel(w part.Host, rows int, turned bool, forced int) *panel {
	p := &panel{world: w, sink: part.Sink[display.CellSink](w), rows: rows, turned: turned, forced: forced,
		shown: make([]uint8, columns*rows/8)}
	for i := range p.ram {
		for k := range p.ram[i] {
			p.ram[i][k] = uint8(w.Random())
		}
	}
	p.reset()
	return p
}

// reset sets what section 8.5 says; the memory stays.
func (p *panel) reset() {
	*p = panel{world: p.world, sink: p.sink, rows: p.rows, turned: p.turned, ram: p.ram, shown: p.shown, mode: pageMode,
		to: columns - 1, pageTo: pages - 1, forced: p.forced,
		look: look{mux: 63, alternative: true}, level: 0x7f, scroll: scroll{lines: 64, frames: intervals[0]}}
	p.force()
}

func (p *panel) force() {
	if p.forced >= 0 {
		p.mode = p.forced
	}
}

// arguments is how many bytes follow a command (table 9-1).
func arguments(c uint8) int {
	switch c {
	case 0x26, 0x27:
		return 6
	case 0x29, 0x2a:
		return 5
	case 0xa3, 0x21, 0x22:
		return 2
	case 0x20, 0x81, 0xa8, 0xd3, 0xd5, 0xd9, 0xda, 0xdb, 0x8d:
		return 1
	}
	return 0
}

// command takes a byte of a command and carries it out once it is whole.
func (p *panel) command(v uint8) {
	p.pending = append(p.pending, v)
	if len(p.pending) <= arguments(p.pending[0]) {
		return
	}
	c := p.pending
	p.pending = nil
	p.world.Log("command", c...)
	before := p.look
	if p.execute(c[0], c[1:]); p.look != before { // most commands only say where data go
		p.paint()
	}
}

func (p *panel) execute(c uint8, a []uint8) {
	switch {
	case c <= 0x0f:
		p.column = p.column&0xf0 | int(c)
	case c <= 0x1f:
		p.column = (p.column&0x0f | int(c&15)<<4) % columns
	case c == 0x20:
		p.mode = min(pageMode, int(a[0]&3))
		p.force()
	case c == 0x21:
		p.columnFrom, p.to = int(a[0]&127), int(a[1]&127)
		p.column = p.columnFrom
	case c == 0x22:
		p.pageFrom, p.pageTo = int(a[0]&7), int(a[1]&7)
		p.page = p.pageFrom
	case c == 0x26, c == 0x27, c == 0x29, c == 0x2a:
		p.scroll.left = c&1 == 1 != (c >= 0x29)
		p.scroll.from, p.scroll.to = int(a[1]&7), int(a[3]&7)
		p.scroll.frames = intervals[a[2]&7]
		p.scroll.vertical = 0
		if c >= 0x29 {
			p.scroll.vertical = int(a[4] & 63)
		}
	case c == 0x2e:
		p.scroll.active = false
	case c == 0x2f:
		p.scroll.active = true
		p.world.After(timerScroll, p.step())
	case c >= 0x40 && c <= 0x7f:
		p.start = int(c & 63)
	case c == 0x81:
		p.level = a[0]
		p.sink.Shade(int(p.level))
	case c == 0x8d:
		p.pump = a[0]&4 != 0
	case c&0xfe == 0xa0:
		p.remap = c&1 == 1
	case c == 0xa3:
		p.scroll.fixed, p.scroll.lines = int(a[0]&63), int(a[1]&127)
	case c&0xfe == 0xa4:
		p.all = c&1 == 1
	case c&0xfe == 0xa6:
		p.inverse = c&1 == 1
	case c == 0xa8:
		if m := int(a[0] & 63); m >= 15 {
			p.mux = m
		}
	case c&0xfe == 0xae:
		p.on = c&1 == 1
		if p.on && !p.pump {
			p.world.Note("charge-pump",
				"the display was switched on while its charge pump was off (0x8D 0x14 switches it on): it stays dark")
		}
	case c >= 0xb0 && c <= 0xb7:
		p.page = int(c & 7)
	case c&0xf0 == 0xc0:
		p.flip = c&8 != 0
	case c == 0xd3:
		p.offset = int(a[0] & 63)
	case c == 0xda:
		p.alternative = a[0]&0x10 != 0
	case c == 0xd5, c == 0xd9, c == 0xdb, c == 0xe3: // clock, pre-charge, VCOMH, no-op: nothing that an eye sees
	default:
		p.world.Note("command", "0x%02X is no command of an SSD1306", c)
	}
}

// write is a byte of data: eight pixels of a column, and the address moves on (figures 10-1 to 10-4).
func (p *panel) write(v uint8) {
	at := p.column
	if p.remap {
		at = columns - 1 - at
	}
	p.ram[p.page][at] = v
	switch p.mode {
	case pageMode:
		p.column = (p.column + 1) % columns
	case horizontal:
		if p.column = p.next(p.column, p.columnFrom, p.to, columns); p.column == p.columnFrom {
			p.page = p.next(p.page, p.pageFrom, p.pageTo, pages)
		}
	case vertical:
		if p.page = p.next(p.page, p.pageFrom, p.pageTo, pages); p.page == p.pageFrom {
			p.column = p.next(p.column, p.columnFrom, p.to, columns)
		}
	}
	if !p.turned {
		at = columns - 1 - at
	}
	p.paintColumn(at)
}

func (p *panel) next(v, from, to, n int) int {
	if v == to {
		return from
	}
	return (v + 1) % n
}

// timerScroll moves a scrolling display on.
const timerScroll = 0

// frame is the time of one frame: 370 kHz by 54 clocks a row by 64 rows (8.3, table 13-1).
const frame = clock.Second * 54 * 64 / 370_000

func (p *panel) step() clock.Time { return frame * clock.Time(p.scroll.frames) }

// Wake is the next step of scrolling: the rows of the chosen pages move by a column, round and round.
func (p *panel) Wake(int) {
	if !p.scroll.active {
		return
	}
	for i := p.scroll.from; i <= p.scroll.to; i++ {
		row := p.ram[i]
		for k := range row {
			if p.scroll.left {
				p.ram[i][k] = row[(k+1)%columns]
			} else {
				p.ram[i][(k+1)%columns] = row[k]
			}
		}
	}
	p.start = (p.start + p.scroll.vertical) % 64
	p.paint()
	p.world.After(timerScroll, p.step())
}

// lit reports whether a pixel shines, by its place as a person sees it.
func (p *panel) lit(x, y int) bool {
	if !p.on || !p.pump {
		return false
	}
	if !p.turned {
		x, y = columns-1-x, p.rows-1-y
	}
	// The glass of 64 rows is wired for odd and even rows at opposite sides, that of 32 for one after the
	// other; the other setting mixes its halves.
	row := y
	switch wired := p.rows == 64; {
	case wired && !p.alternative:
		row = y/2 + y%2*32
	case !wired && p.alternative:
		row = 2 * y
	}
	if row > p.mux {
		return false
	}
	if p.flip {
		row = p.mux - row
	}
	if p.all {
		return true
	}
	line := (row + p.start + p.offset) % 64
	return p.ram[line/8][x]>>(line%8)&1 == 1 != p.inverse
}

// paint brings the glass in line with the memory.
func (p *panel) paint() {
	for x := 0; x < columns; x++ {
		p.paintColumn(x)
	}
}

func (p *panel) paintColumn(x int) {
	for page := 0; page < p.rows/8; page++ {
		v := uint8(0)
		for i := 0; i < 8; i++ {
			if p.lit(x, page*8+i) {
				v |= 1 << i
			}
		}
		if i := page*columns + x; p.shown[i] != v {
			p.shown[i] = v
			p.sink.Cell(i, display.Cell(v))
		}
	}
}
