package vision

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// Response is how quickly a display follows: a content is there when it was present for Share percent
// of Time.
type Response struct {
	Time     clock.Time
	Fraction clock.Time
}

// The responses of a liquid crystal and of what shines by itself, where vision decides.
var (
	LCDResponse      = Response{Slow, SlowFraction}
	EmissiveResponse = Response{Window, SlowFraction}
)

// LCD watches a display of cells: the characters of an LCD, or columns of eight pixels.
type LCD struct {
	response Response
	enough   clock.Time // how long a content must stand by itself
	pixels   bool
	cells    []cell
	queue    queue
	settler  *settler
	frames   []display.Frame
	check    clock.Time
	trims    []trim
	glimpsed []uint16 // what a glimpse saw of each cell last; nil before the first
}

// cell is one character position. While its content changes faster than vision of an LCD can
// follow, the parts of the present stretch of time are kept.
type cell struct {
	value   uint16
	since   clock.Time
	at      machine.Place
	settled bool // value is what is perceived
	stretch clock.Time
	parts   []part
}

type part struct {
	value    uint16
	from, to clock.Time
	at       machine.Place
}

// trim is what is drawn with a state without being part of it: the cursor, and how strongly it shines.
type trim struct {
	t      clock.Time
	cursor *display.Cursor
	level  int
}

// NewLCD watches n cells, blank at first; pixels returns what a cell is.
func NewLCD(n int, response Response, pixels bool) *LCD {
	s := &LCD{response: response, enough: response.Time * response.Fraction / 100, pixels: pixels,
		cells: make([]cell, n), check: clock.Never}
	for i := range s.cells {
		s.cells[i].settled = true
	}
	s.settler = newSettler(n, s.accept)
	return s
}

// Paint changes one cell; 0 is blank.
func (s *LCD) Paint(t clock.Time, i int, value uint16, at machine.Place) {
	if t >= s.check {
		s.advance(t)
	}
	c := &s.cells[i]
	if c.value == value {
		return
	}
	if t > c.since {
		if c.settled || t-c.since >= s.enough {
			s.settle(i)
			c.stretch, c.parts = t, c.parts[:0]
		} else {
			c.parts = append(c.parts, part{c.value, c.since, t, c.at})
		}
	}
	c.value, c.since, c.at, c.settled = value, t, at, false
	s.check = min(s.check, t+s.enough)
}

// settle perceives a cell's present value from the edge that put it there.
func (s *LCD) settle(i int) {
	c := &s.cells[i]
	if !c.settled {
		s.queue.put(change{c.since, i, c.value, c.at})
	}
	c.settled, c.parts = true, c.parts[:0]
}

// advance judges what can be judged by the moment t.
func (s *LCD) advance(t clock.Time) {
	s.check = clock.Never
	for i := range s.cells {
		c := &s.cells[i]
		if c.settled {
			continue
		}
		for t-c.stretch >= s.response.Time && t-c.since < s.enough {
			s.mixture(i, c.stretch+s.response.Time)
		}
		if t-c.since >= s.enough {
			s.settle(i)
			continue
		}
		s.check = min(s.check, c.since+s.enough, c.stretch+s.response.Time)
	}
	s.queue.release(t-3*s.response.Time, s.settler)
	if len(s.queue) > 0 {
		s.check = min(s.check, s.queue[0].t+3*s.response.Time+1)
	}
}

// mixture judges a stretch of quick changes that ends at the given moment: the value that was
// present long enough, or else the one present longest, washed out.
func (s *LCD) mixture(i int, end clock.Time) {
	c := &s.cells[i]
	parts := append(slices.Clone(c.parts), part{c.value, c.since, end, c.at})
	var best part
	longest := clock.Time(-1)
	for _, p := range parts {
		total := clock.Time(0)
		for _, q := range parts {
			if q.value == p.value {
				total += max(0, min(q.to, end)-max(q.from, c.stretch))
			}
		}
		if total > longest || total == longest && best.value == 0 {
			best, longest = p, total
		}
	}
	value := best.value
	if longest < s.enough && value != 0 && !s.pixels {
		value |= uint16(display.WashedOut)
	}
	s.queue.put(change{max(best.from, c.stretch), i, value, best.at})
	c.stretch = end
	c.parts = slices.DeleteFunc(c.parts, func(p part) bool { return p.to <= end })
}

// Cursor changes where the cursor is shown; nil for nowhere. A cursor that stood for as long as a content must is a
// stretch of its own: a frame that differs from the one before by its cursor alone.
func (s *LCD) Cursor(t clock.Time, c *display.Cursor) {
	s.trim(t, func(x *trim) { x.cursor = c })
}

// Shade changes how strongly the display shines, 0 to 255; it makes no frames either.
func (s *LCD) Shade(t clock.Time, level int) {
	s.trim(t, func(x *trim) { x.level = level })
}

func (s *LCD) trim(t clock.Time, change func(*trim)) {
	n := len(s.trims)
	if n == 0 || t-s.trims[n-1].t >= Settle { // else it was not there long enough to be noticed
		next := trim{level: 255}
		if n > 0 {
			next = s.trims[n-1]
		}
		s.trims = append(s.trims, next)
		n++
	}
	s.trims[n-1].t = t
	change(&s.trims[n-1])
}

// state makes one of cells.
func (s *LCD) state(cells []uint16) (state display.State) {
	for _, c := range cells {
		switch {
		case s.pixels:
			state.Pixels = append(state.Pixels, byte(c))
		case c == 0:
			state.Cells = append(state.Cells, ' ')
		default:
			state.Cells = append(state.Cells, display.Cell(c))
		}
	}
	return state
}

func (s *LCD) accept(p picture) {
	if n := len(s.frames); n > 0 {
		s.frames[n-1].To = p.from
	}
	at := p.at
	s.frames = append(s.frames, display.Frame{From: p.from, State: s.state(p.cells), At: &at})
}

// Now gives the state that vision is sure of by the moment t, with the cursor and level of the moment.
func (s *LCD) Now(t clock.Time) display.State {
	s.advance(t)
	var state display.State
	if p, ok := s.settler.standing(t - 3*s.response.Time); ok {
		state = s.state(p.cells)
	} else if n := len(s.frames); n > 0 {
		state = s.frames[n-1].State
	} else {
		state = s.state(make([]uint16, len(s.cells)))
	}
	if n := len(s.trims); n > 0 {
		state.Cursor = s.trims[n-1].cursor
		if s.pixels {
			state.Levels = []int{s.trims[n-1].level}
		}
	}
	return state
}

// Finish ends the run at t and gives the frames. A frame has the level that it had last, and the cursor that it has
// from its beginning on, or soon after.
func (s *LCD) Finish(t clock.Time) []display.Frame {
	s.advance(t)
	s.queue.release(t+1, s.settler)
	s.settler.finish(t)
	if n := len(s.frames); n > 0 {
		s.frames[n-1].To = t
	}
	if !s.pixels {
		s.frames = s.withCursors(t)
		return s.frames
	}
	k, level := 0, 255
	for i := range s.frames {
		for k < len(s.trims) && s.trims[k].t < s.frames[i].To {
			level = s.trims[k].level
			k++
		}
		s.frames[i].State.Levels = []int{level}
	}
	return s.frames
}

// withCursors gives the frames their cursors. One that was put somewhere while the text changed, or for too short a
// time to be there on the glass, makes no stretch of its own.
func (s *LCD) withCursors(end clock.Time) (out []display.Frame) {
	var stood []trim
	for i, x := range s.trims {
		to := end
		if i+1 < len(s.trims) {
			to = s.trims[i+1].t
		}
		if to-x.t >= s.enough {
			stood = append(stood, x)
		}
	}
	k := 0
	var now *display.Cursor
	take := func(until clock.Time) {
		for k < len(stood) && stood[k].t <= until {
			now = stood[k].cursor
			k++
		}
	}
	for _, f := range s.frames {
		take(min(f.From+s.enough, f.To-1))
		f.State.Cursor = now
		for k < len(stood) && stood[k].t <= f.To-s.enough {
			next := f
			f.To, next.From = stood[k].t, stood[k].t
			if take(stood[k].t); !same(f.State.Cursor, now) {
				out = append(out, f)
			} else {
				next.From = f.From
			}
			next.State.Cursor = now
			f = next
		}
		out = append(out, f)
	}
	return out
}

func same(a, b *display.Cursor) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }
