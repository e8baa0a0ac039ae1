package vision

import (
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// TextLines reads a terminal: each line is a state of its own from its first character on, however soon the
// next one follows, and though it may say the same. A line that grows stays one, and what it read whenever it
// paused is kept as a stage; one that is written over, after a person could have read it, is another.
type TextLines struct {
	frames  []display.Frame
	changed clock.Time // the latest change of the last line
	stages  int
}

// Bounds of what one run keeps.
const (
	maxLines  = 10_000
	maxStages = 10_000
)

// NewTextLines is an empty one.
func NewTextLines() *TextLines { return &TextLines{frames: []display.Frame{{}}} }

// Add begins a line, whose first character began at t.
func (p *TextLines) Add(t clock.Time, text string, at machine.Place) {
	if len(p.frames) == maxLines {
		return
	}
	p.frames[len(p.frames)-1].To = t
	p.frames = append(p.frames, display.Frame{From: t, State: display.State{Line: text}, At: &at})
	p.changed = t
}

// Change is how the last line reads from t on.
func (p *TextLines) Change(t clock.Time, text string, at machine.Place) {
	last := &p.frames[len(p.frames)-1]
	was := last.State.Line
	if text == was || len(p.frames) == 1 || len(p.frames) == maxLines {
		return
	}
	if t-p.changed >= Settle {
		if !strings.HasPrefix(text, was) {
			p.Add(t, text, at)
			return
		}
		if p.stages++; p.stages <= maxStages {
			last.Stages = append(last.Stages, display.Stage{To: t, Line: was})
		}
	}
	last.State.Line, p.changed = text, t
}

// Recent gives the lines that came last, n at most.
func (p *TextLines) Recent(n int) []display.Frame { return p.frames[max(0, len(p.frames)-n):] }

// Finish ends the run at t and gives the frames.
func (p *TextLines) Finish(t clock.Time) []display.Frame {
	p.frames[len(p.frames)-1].To = t
	return p.frames
}
