package report

import (
	"fmt"
	"html"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/part"
)

// Sample is a display in one of the states that it is drawn in.
type Sample struct {
	Name  string
	State display.State
}

// Samples gives a display lit, ghosted (what is seen without counting as lit) and dark.
func Samples(t *display.Track) []Sample {
	return []Sample{{"lit", sample(t, display.Lit)}, {"ghosted", sample(t, display.Dim)}, {"dark", sample(t, display.Dark)}}
}

func sample(t *display.Track, state display.Light) (s display.State) {
	switch t.Geometry.Form {
	case display.FormText:
		for i := 0; i < t.Geometry.Grid.Columns*t.Geometry.Grid.Rows; i++ {
			cell := display.Cell(' ')
			if text := "Wherry Lock 3.5\xdfC "; state != display.Dark {
				cell = display.Cell(text[i%len(text)])
			}
			if state == display.Dim && cell != ' ' {
				cell |= display.WashedOut
			}
			s.Cells = append(s.Cells, cell)
		}
	case display.FormPixels:
		b := glyph.NewBitmap(t.Geometry.Pixels.Columns, t.Geometry.Pixels.Rows)
		s.Levels = []int{255}
		if state == display.Dim {
			s.Levels[0] = 20
		}
		if state != display.Dark {
			b.Draw("Wherry", 2, 2, 2)
			b.Draw("Lock 3: open", 2, 20, 1)
		}
		s.Pixels = b.Pages()
	case display.FormSound:
		if state == display.Lit {
			s.Pitch = 440
		}
	case display.FormLines:
		if state != display.Dark {
			s.Line = "gate open"
		}
	default:
		n := t.Geometry.Lights()
		s.Lights, s.Levels = make(display.Lights, n), make([]int, n)
		for _, x := range t.Geometry.Shapes {
			i := x.Light
			beside := i%8 != 6 && x.Digit%2 == 0 // a ghost stands beside something that is lit
			if t.Geometry.Form == display.FormBar || t.Geometry.Form == display.FormGroup || t.Geometry.Form == display.FormColour {
				beside = i%2 == 0
			}
			switch {
			case state == display.Lit || state == display.Dim && beside && n > 1:
				s.Lights[i], s.Levels[i] = display.Lit, 220
			case state == display.Dim:
				s.Lights[i], s.Levels[i] = display.Dim, 40
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
		t := &display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
		for i, s := range Samples(t) {
			w, h := t.Geometry.Width+2*wellMargin, t.Geometry.Height+2*wellMargin
			scale := min(1, (across-16)/w, tallest/h)
			high = max(high, h*scale)
			fmt.Fprintf(&b, `<g transform="translate(%s %s) scale(%s)">%s</g>`, number(label+float64(i)*across), number(y), number(scale), well(t, s.State))
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
