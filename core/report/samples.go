package report

import (
	"fmt"
	"html"
	"strings"

	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/reel"
)

// Sample is a display in one of the states that it is drawn in.
type Sample struct {
	Name  string
	Sight reel.Sight
}

// Samples gives a display lit, ghosted (what is seen without counting as lit) and dark.
func Samples(t *reel.Track) []Sample {
	return []Sample{{"lit", sample(t, reel.Lit)}, {"ghosted", sample(t, reel.Dim)}, {"dark", sample(t, reel.Dark)}}
}

func sample(t *reel.Track, state reel.State) (s reel.Sight) {
	switch t.Look.Form {
	case reel.FormText:
		for i := 0; i < t.Look.Grid.Columns*t.Look.Grid.Rows; i++ {
			cell := reel.Cell(' ')
			if text := "Wherry Lock 3.5\xdfC "; state != reel.Dark {
				cell = reel.Cell(text[i%len(text)])
			}
			if state == reel.Dim && cell != ' ' {
				cell |= reel.WashedOut
			}
			s.Cells = append(s.Cells, cell)
		}
	case reel.FormPixels:
		b := glyph.NewBitmap(t.Look.Pixels.Columns, t.Look.Pixels.Rows)
		s.Levels = []int{255}
		if state == reel.Dim {
			s.Levels[0] = 20
		}
		if state != reel.Dark {
			b.Draw("Wherry", 2, 2, 2)
			b.Draw("Lock 3: open", 2, 20, 1)
		}
		s.Pixels = b.Pages()
	case reel.FormSound:
		if state == reel.Lit {
			s.Pitch = 440
		}
	case reel.FormLines:
		if state != reel.Dark {
			s.Line = "gate open"
		}
	default:
		n := t.Look.Lights()
		s.Lights, s.Levels = make(reel.Lights, n), make([]int, n)
		for _, x := range t.Look.Shapes {
			i := x.Light
			beside := i%8 != 6 && x.Digit%2 == 0 // a ghost stands beside something that is lit
			if t.Look.Form == reel.FormBar || t.Look.Form == reel.FormGroup || t.Look.Form == reel.FormColour {
				beside = i%2 == 0
			}
			switch {
			case state == reel.Lit || state == reel.Dim && beside && n > 1:
				s.Lights[i], s.Levels[i] = reel.Lit, 220
			case state == reel.Dim:
				s.Lights[i], s.Levels[i] = reel.Dim, 40
			}
		}
	}
	return s
}

// Gallery draws every kind of display in all its states on one sheet.
func Gallery(displays []*part.Built) string {
	const across, tallest, label, head = 400.0, 110.0, 150.0, 30.0
	var b strings.Builder
	y := head
	for _, p := range displays {
		high := 0.0
		t := &reel.Track{Display: p.Name, Look: p.Kind.Look(*p)}
		for i, s := range Samples(t) {
			w, h := t.Look.Width+2*wellMargin, t.Look.Height+2*wellMargin
			scale := min(1, (across-16)/w, tallest/h)
			high = max(high, h*scale)
			fmt.Fprintf(&b, `<g transform="translate(%s %s) scale(%s)">%s</g>`, number(label+float64(i)*across), number(y), number(scale), well(t, s.Sight))
		}
		fmt.Fprintf(&b, `<text x="10" y="%s" font-size="15" fill="#1e2a2b">%s</text>`, number(y+high/2+5), html.EscapeString(p.Name))
		y += high + 12
	}
	for i, name := range []string{"lit", "ghosted", "dark"} {
		fmt.Fprintf(&b, `<text x="%s" y="20" font-size="13" fill="#4f5d5c">%s</text>`, number(label+float64(i)*across), name)
	}
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s" font-family="sans-serif"><rect width="100%%" height="100%%" fill="#f4efe3"/>%s</svg>`,
		number(label+3*across), number(y+10), b.String())
}
