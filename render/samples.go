package render

import (
	"fmt"
	"html"
	"strings"

	"hemble/core/display"
	"hemble/core/part"
)

// Sample is a display in one of the states that it is drawn in.
type Sample struct {
	Name  string
	State display.State
}

// Samples gives a display lit, ghosted (what is seen without counting as lit) and dark.
func Samples(t *display.Track) []Sample {
	of := t.Geometry.Type().Sample
	return []Sample{{"lit", of(t.Geometry, display.Lit)}, {"ghosted", of(t.Geometry, display.Dim)},
		{"dark", of(t.Geometry, display.Dark)}}
}

// Gallery draws every kind of display in all its states on one sheet.
func Gallery(displays []*part.Instance) string {
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
			fmt.Fprintf(&b, `<g transform="translate(%s %s) scale(%s)">%s</g>`, number(label+float64(i)*across),
				number(y), number(scale), well(t, s.State))
		}
		fmt.Fprintf(&b, `<text x="10" y="%s" font-size="15" fill="#1e2a2b">%s</text>`, number(y+high/2+5),
			html.EscapeString(p.Name))
		y += high + 12
	}
	for i, name := range []string{"lit", "ghosted", "dark"} {
		fmt.Fprintf(&b, `<text x="%s" y="20" font-size="13" fill="#4f5d5c">%s</text>`, number(label+float64(i)*across),
			name)
	}
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s" font-family="sans-serif"><rect width="100%%" height="100%%" fill="#f4efe3"/>%s</svg>`,
		number(label+3*across), number(y+10), b.String())
}
