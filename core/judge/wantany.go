package judge

import (
	"regexp"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/spec"
)

// anyWant is one of several sights.
type anyWant []want

// readAny reads a list of frames of which any will do.
func readAny(v spec.Value, p *part.Built, strict bool, ps *spec.Problems) want {
	var out anyWant
	for _, f := range v.List {
		w, length := readWant(f, p, strict, ps)
		if w == nil {
			return nil
		}
		if length != 0 {
			ps.Add(f.Pos, "the length of a frame stands beside `one-of`, not within it")
			return nil
		}
		out = append(out, w)
	}
	if len(out) < 2 {
		ps.Add(v.Pos, "`one-of` lists two frames or more")
		return nil
	}
	share(out)
	return out
}

func (w anyWant) shows(t *display.Track, s display.State) (bool, int) {
	least := 1000
	for _, one := range w {
		ok, off := one.shows(t, s)
		if ok {
			return true, 0
		}
		least = min(least, off)
	}
	return false, least
}

func (w anyWant) sight(look display.Geometry) *display.State { return w[0].sight(look) }

func (w anyWant) same(other want) bool { return false }

func (w anyWant) String() string {
	var words []string
	for _, one := range w {
		words = append(words, one.String())
	}
	return strings.Join(words, " or ")
}

// patternWant is a text that a regular expression matches as a whole.
type patternWant struct {
	pattern *regexp.Regexp
	text    string
	row     int // of a character display, -1 for all rows
}

// readTextPattern reads a regular expression for the text of a display.
func readTextPattern(v spec.Value, row int, p *part.Built, ps *spec.Problems) want {
	switch p.Kind.Geometry(*p).Form {
	case display.FormText, display.FormLines, display.FormDigits, display.FormPixels:
	default:
		ps.Add(v.Pos, "%q shows no text that a pattern could match", p.Name)
		return nil
	}
	pattern, err := regexp.Compile("^(?:" + v.Text + ")$")
	if err != nil {
		ps.Add(v.Pos, "%q is no regular expression: %s", v.Text, strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		return nil
	}
	return &patternWant{pattern, v.Text, row}
}

func (w *patternWant) shows(t *display.Track, s display.State) (bool, int) {
	for _, text := range w.texts(t, s) {
		if w.pattern.MatchString(text) {
			return true, 0
		}
	}
	return false, 500
}

// texts are those that may match: of a display with rows each row that was asked for.
func (w *patternWant) texts(t *display.Track, s display.State) (out []string) {
	switch t.Geometry.Form {
	case display.FormLines:
		return []string{strings.TrimRight(s.Line, " ")}
	case display.FormDigits:
		d := glyph.Digits(s.Lights.Bits(), min(8, t.Geometry.Digits()))
		return []string{strings.TrimSpace(d.Symbols())}
	case display.FormPixels:
		return t.Bitmap(s).Text()
	}
	for i, row := range t.Rows(s) {
		if w.row < 0 || i == w.row {
			out = append(out, strings.TrimRight(row, " "))
		}
	}
	return out
}

func (w *patternWant) sight(display.Geometry) *display.State { return nil }

func (w *patternWant) same(want) bool { return false }

func (w *patternWant) String() string {
	if w.text == anything {
		return "some text"
	}
	return "/" + w.text + "/"
}
