package render

import (
	_ "embed"
	"html/template"
	"io"

	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"
)

//go:embed sheet.html
var sheetPage string

// Marked is a sheet with the reels of its trials, as far as they were kept.
type Marked struct {
	Sheet *sheet.Sheet
	Reels []*reel.Reel
}

// strip is what one display showed, for the page.
type strip struct {
	Display string
	Cells   []stripCell
	More    int
}

type stripCell struct {
	From, Length, Mark, Step string
	Seen, Meant              template.HTML
}

var sheetTemplate = template.Must(template.New("sheet").Funcs(template.FuncMap{
	"sign":     func(o judge.Outcome) string { return Sign(o) },
	"fidelity": fidelity,
	"strips":   strips,
	"reel": func(m Marked, i int) *reel.Reel {
		if i < len(m.Reels) {
			return m.Reels[i]
		}
		return nil
	},
	"cutOff": func() string { return sheet.CutOffText },
	"count":  func(s *sheet.Sheet, o judge.Outcome) int { return s.Count()[o] },
}).Parse(sheetPage))

// HTML writes mark sheets as one page that needs nothing from elsewhere.
func HTML(w io.Writer, title string, all []Marked) error {
	return sheetTemplate.Execute(w, struct {
		Title string
		All   []Marked
	}{title, all})
}

// strips draws the displays of a trial: those that an expectation of a sequence is about beside what was expected.
func strips(t sheet.Trial, r *reel.Reel) (out []strip) {
	if r == nil {
		return nil
	}
	for i := range r.Tracks {
		track := &r.Tracks[i]
		if withGroup(&t, r, i) {
			continue
		}
		lanes := alignmentOf(&t, track)
		s := strip{Display: track.Display}
		if lanes == nil {
			for _, f := range track.Frames {
				s.Cells = append(s.Cells, stripCell{From: f.From.String(), Length: f.Length().Brief(),
					Seen: drawn(track, &f.State)})
			}
		}
		for _, p := range lanes {
			c := stripCell{Mark: Mark(p.Operation), Step: string(p.Operation)}
			if p.Seen != nil {
				c.From, c.Length, c.Seen = p.Seen.From.String(), (p.Seen.To - p.Seen.From).Brief(), drawn(track,
					p.Seen.State)
			}
			if p.Expected != nil && p.Operation != judge.Right {
				c.Meant = drawn(track, p.Expected.State)
				if c.From == "" {
					c.From = p.Expected.From.String()
				}
			}
			s.Cells = append(s.Cells, c)
		}
		if len(s.Cells) > maxCells {
			s.More = len(s.Cells) - maxCells
			s.Cells = s.Cells[:maxCells]
		}
		out = append(out, s)
	}
	return out
}

func drawn(t *display.Track, s *display.State) template.HTML {
	if s == nil {
		return ""
	}
	return template.HTML(SVG(t, *s)) // drawn here; what a program wrote is escaped there
}
