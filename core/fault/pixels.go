package fault

import (
	"fmt"

	"hemble/core/display"
	"hemble/core/glyph"
)

// turns are the ways in which a picture stands wrong on its glass: each undoes itself. A controller reads its memory from either
// end in both directions (SSD1306 Rev 1.1, 10.1.8 Set Segment Re-map and 10.1.12 Set COM Output Scan Direction).
var turns = []struct {
	text           string
	across, upside bool
}{
	{"The picture of %s hangs upside down: its columns and its rows are both sent from the other end.", true, true},
	{"The picture of %s is mirrored, left and right exchanged: its columns are sent from the other end.", true, false},
	{"The picture of %s is mirrored, top and bottom exchanged: its rows are sent from the other end.", false, true},
}

func init() {
	register(&Fault{Code: "turned", Doc: "a picture hangs upside down or is mirrored", Sizes: func(s *Subject) (out []Size) {
		if s.form() != display.FormPixels {
			return nil
		}
		for _, turn := range turns {
			out = append(out, Size{Text: fmt.Sprintf(turn.text, s.Part.Name), Reel: sights(s.Part.Name, func(t *display.Track, seen display.State) display.State {
				if seen.Pixels == nil { // it is off
					return seen
				}
				from := t.Bitmap(seen)
				to := glyph.NewBitmap(from.Width, from.Height)
				for y := range from.Height {
					for x := range from.Width {
						if !from.At(x, y) {
							continue
						}
						at, down := x, y
						if turn.across {
							at = from.Width - 1 - x
						}
						if turn.upside {
							down = from.Height - 1 - y
						}
						to.Set(at, down)
					}
				}
				seen.Pixels = to.Pages()
				return seen
			})})
		}
		return out
	}})
}
