package eye

import (
	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Page reads a terminal: each line is a sight of its own from its first character on, however soon the
// next one follows, and though it may say the same.
type Page struct{ frames []reel.Frame }

// maxLines bounds what one run keeps.
const maxLines = 10_000

// NewPage is an empty one.
func NewPage() *Page { return &Page{frames: []reel.Frame{{}}} }

// Add takes a line whose first character began at t.
func (p *Page) Add(t clock.Time, text string, at machine.Place) {
	if len(p.frames) == maxLines {
		return
	}
	p.frames[len(p.frames)-1].To = t
	p.frames = append(p.frames, reel.Frame{From: t, Sight: reel.Sight{Line: text}, At: &at})
}

// Recent gives the lines that came last, n at most.
func (p *Page) Recent(n int) []reel.Frame { return p.frames[max(0, len(p.frames)-n):] }

// Finish ends the run at t and gives the frames.
func (p *Page) Finish(t clock.Time) []reel.Frame {
	p.frames[len(p.frames)-1].To = t
	return p.frames
}
