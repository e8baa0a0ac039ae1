package vision

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// A cursor makes a stretch of its own where it stays, and none while a text is written or the display is cleared.
func TestCursorStretches(t *testing.T) {
	const ms = clock.Millisecond
	type move struct {
		at   int
		cell int // -1 for nowhere
	}
	for _, c := range []struct {
		name  string
		moves []move
		text  []int // when the content changes, in ms
		want  string
	}{
		{"beside one text", []move{{100, 3}, {500, 4}}, []int{100}, "100:3 500:4"},
		{"a moment after the text", []move{{140, 3}}, []int{100}, "100:3"},
		{"a moment before the next", []move{{140, 3}, {480, 5}}, []int{100, 500}, "100:3 500:5"},
		{"runs through", []move{{140, 3}, {400, 4}, {430, 5}, {460, 6}, {500, 7}}, []int{100}, "100:3 500:7"},
		{"put out", []move{{100, 3}, {500, -1}}, []int{100}, "100:3 500:-1"},
		{"to the same place", []move{{100, 3}, {300, 3}}, []int{100}, "100:3"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := NewLCD(8, LCDResponse, false)
			k := 0
			for at := 0; at < 1000; at += 10 {
				for _, when := range c.text {
					if when == at {
						s.Paint(clock.Time(at)*ms, 0, uint16('A'+at/100), machine.Place{})
					}
				}
				for k < len(c.moves) && c.moves[k].at == at {
					var cursor *display.Cursor
					if c.moves[k].cell >= 0 {
						cursor = &display.Cursor{Cell: c.moves[k].cell}
					}
					s.Cursor(clock.Time(at)*ms, cursor)
					k++
				}
			}
			got := ""
			for _, f := range s.Finish(clock.Second) {
				if f.From == 0 {
					continue
				}
				cell := -1
				if f.State.Cursor != nil {
					cell = f.State.Cursor.Cell
				}
				if got != "" {
					got += " "
				}
				got += fmt.Sprintf("%d:%d", f.From/ms, cell)
			}
			assert.Equal(t, c.want, got)
		})
	}
}
