package eye

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Screen watches a character LCD, which answers slowly: a character is there when it was present
// for SlowShare of the last Slow.
type Screen struct {
	cells   []cell
	queue   queue
	settler *settler
	frames  []reel.Frame
	check   clock.Time
	cursor  []cursorChange
}

// cell is one character position. While its content changes faster than the eye of an LCD can
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

type cursorChange struct {
	t  clock.Time
	to *reel.Cursor
}

// enough is how long a character must stand by itself.
const enough = Slow * SlowShare / 100

// NewScreen watches n character cells, blank at first.
func NewScreen(n int) *Screen {
	s := &Screen{cells: make([]cell, n), check: clock.Never}
	for i := range s.cells {
		s.cells[i].settled = true
	}
	s.settler = newSettler(n, s.accept)
	return s
}

// Paint changes one cell; 0 is blank.
func (s *Screen) Paint(t clock.Time, i int, value uint16, at machine.Place) {
	if t >= s.check {
		s.advance(t)
	}
	c := &s.cells[i]
	if c.value == value {
		return
	}
	if t > c.since {
		if c.settled || t-c.since >= enough {
			s.settle(i)
			c.stretch, c.parts = t, c.parts[:0]
		} else {
			c.parts = append(c.parts, part{c.value, c.since, t, c.at})
		}
	}
	c.value, c.since, c.at, c.settled = value, t, at, false
	s.check = min(s.check, t+enough)
}

// settle perceives a cell's present value from the edge that put it there.
func (s *Screen) settle(i int) {
	c := &s.cells[i]
	if !c.settled {
		s.queue.put(change{c.since, i, c.value, c.at})
	}
	c.settled, c.parts = true, c.parts[:0]
}

// advance judges what can be judged by the moment t.
func (s *Screen) advance(t clock.Time) {
	s.check = clock.Never
	for i := range s.cells {
		c := &s.cells[i]
		if c.settled {
			continue
		}
		for t-c.stretch >= Slow && t-c.since < enough {
			s.mixture(i, c.stretch+Slow)
		}
		if t-c.since >= enough {
			s.settle(i)
			continue
		}
		s.check = min(s.check, c.since+enough, c.stretch+Slow)
	}
	s.queue.release(t-3*Slow, s.settler)
	if len(s.queue) > 0 {
		s.check = min(s.check, s.queue[0].t+3*Slow+1)
	}
}

// mixture judges a stretch of quick changes that ends at the given moment: the value that was
// present long enough, or else the one present longest, washed out.
func (s *Screen) mixture(i int, end clock.Time) {
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
	if longest*100 < Slow*SlowShare && value != 0 {
		value |= uint16(reel.WashedOut)
	}
	s.queue.put(change{max(best.from, c.stretch), i, value, best.at})
	c.stretch = end
	c.parts = slices.DeleteFunc(c.parts, func(p part) bool { return p.to <= end })
}

// Cursor changes where the cursor is shown; nil for nowhere. It is part of the drawing, not of what
// is judged, and so makes no frames.
func (s *Screen) Cursor(t clock.Time, c *reel.Cursor) {
	if n := len(s.cursor); n > 0 && t-s.cursor[n-1].t < Settle { // it was not there long enough to be noticed
		s.cursor = s.cursor[:n-1]
	}
	s.cursor = append(s.cursor, cursorChange{t, c})
}

func (s *Screen) accept(p picture) {
	cells := make([]reel.Cell, len(p.cells))
	for i, c := range p.cells {
		if cells[i] = reel.Cell(c); c == 0 {
			cells[i] = ' '
		}
	}
	if n := len(s.frames); n > 0 {
		s.frames[n-1].To = p.from
	}
	at := p.at
	s.frames = append(s.frames, reel.Frame{From: p.from, Sight: reel.Sight{Cells: cells}, At: &at})
}

// Finish ends the run at t and gives the frames. A frame has the cursor that stood in it last.
func (s *Screen) Finish(t clock.Time) []reel.Frame {
	s.advance(t)
	s.queue.release(t+1, s.settler)
	s.settler.finish(t)
	if n := len(s.frames); n > 0 {
		s.frames[n-1].To = t
	}
	k := 0
	var cursor *reel.Cursor
	for i := range s.frames {
		for k < len(s.cursor) && s.cursor[k].t < s.frames[i].To {
			cursor = s.cursor[k].to
			k++
		}
		s.frames[i].Sight.Cursor = cursor
	}
	return s.frames
}
