package digits

import (
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/spec"
)

// matcher is a seven-segment display of one or more digits.
type matcher struct {
	digits []glyph.Want
	colon  bool
	after  int // behind how many digits the display has a colon; 0 for none
	strict bool
	used   []glyph.Want // all digits that the expectation uses: they stay distinct
}

// Read reads a text for a display of digits. A shorter one is at the right, as numbers do. A
// colon is written where the display has one.
func (digits) Read(w display.Written, ps *spec.Problems) display.Matcher {
	if w.Has(segments.Name) {
		return readSegments(w, ps)
	}
	look, text := w.Geometry, w.Text
	n := look.Digits()
	var digits []glyph.Want
	colon := -1
	for _, r := range text {
		if r == ':' && look.Colon > 0 && colon < 0 {
			colon = len(digits)
			continue
		}
		symbol := string(r)
		if last := len(digits) - 1; r == '.' && last >= 0 && digits[last].Usual&glyph.DP == 0 {
			symbol = string(digits[last].Symbol) + "."
			digits = digits[:last]
		}
		d, ok := glyph.ParseSeven(symbol)
		if !ok {
			ps.Add(w.Pos,
				"%q is not what a seven-segment digit can show; write symbols, perhaps with a point behind, or {segments: [a, d]}", symbol)
			return nil
		}
		digits = append(digits, d)
	}
	if len(digits) > n {
		ps.Add(w.Pos, "%q has %d symbols; the display has %s", text, len(digits), display.Plural(n, "digit"))
		return nil
	}
	written := len(digits)
	blank, _ := glyph.ParseSeven(" ")
	for len(digits) < n {
		digits = append([]glyph.Want{blank}, digits...)
	}
	if colon >= 0 && colon+n-written != look.Colon {
		ps.Add(w.Pos, "the colon of %q is after %s; the display's colon is after digit %d", text,
			display.Plural(colon+n-written, "digit"), look.Colon)
		return nil
	}
	return &matcher{digits: digits, strict: w.Strict, colon: colon >= 0, after: look.Colon}
}

// segments are the lit segments of a single digit.
var segments = display.Key{Field: spec.Field{Name: "segments", Kind: spec.List,
	Of:  &spec.Field{Name: "segment", Kind: spec.Choice, Choices: glyph.Segments[:]},
	Doc: "the lit segments of a digit"}, Refused: notSingle}

const notSingle = "%q is not a single seven-segment digit"

func (digits) Keys() []display.Key { return []display.Key{segments} }

func readSegments(w display.Written, ps *spec.Problems) display.Matcher {
	if w.Geometry.Digits() != 1 {
		ps.Add(w.Pos, notSingle, w.Name)
		return nil
	}
	pattern, _ := glyph.ParseSegments(w.List(segments.Name))
	return &matcher{digits: []glyph.Want{{Usual: pattern}}, strict: true}
}

func (m *matcher) Match(_ *display.Track, s display.State) (bool, int) {
	ok, off := true, 0
	for i, p := range glyph.Digits(s.Lights.Bits(), len(m.digits)) {
		if !m.digits[i].Shows(p, m.strict, m.used) {
			ok = false
			off += glyph.Distance(p, m.digits[i].Usual)
		}
	}
	if m.after > 0 && (s.Lights[per*len(m.digits)] == display.Lit) != m.colon {
		ok = false
		off++
	}
	return ok, off * 125 / len(m.digits)
}

func (m *matcher) Ideal(display.Geometry) *display.State {
	n := per
	s := &display.State{Lights: make(display.Lights, n*len(m.digits)), Levels: make([]int, n*len(m.digits))}
	for i := range s.Lights {
		if m.digits[i/n].Usual>>(i%n)&1 == 1 {
			s.Lights[i], s.Levels[i] = display.Lit, 255
		}
	}
	if m.after > 0 {
		s.Lights, s.Levels = append(s.Lights, display.Dark), append(s.Levels, 0)
		if m.colon {
			s.Lights[n*len(m.digits)], s.Levels[n*len(m.digits)] = display.Lit, 255
		}
	}
	return s
}

func (m *matcher) Same(other display.Matcher) bool {
	o, ok := other.(*matcher)
	if !ok {
		return false
	}
	for i := range m.digits {
		if m.digits[i].Usual != o.digits[i].Usual {
			return false
		}
	}
	return m.colon == o.colon
}

func (m *matcher) String() string {
	if m.digits[0].Symbol == 0 {
		return m.digits[0].Usual.String()
	}
	text, blank := "", true
	for i, d := range m.digits {
		if m.colon && i == m.after {
			text += ":"
		}
		text += string(d.Symbol)
		if d.Usual&glyph.DP != 0 {
			text += "."
		}
		blank = blank && d.Usual == 0
	}
	switch {
	case blank:
		return "blank"
	case len(m.digits) > 1:
		return `"` + text + `"`
	}
	return text
}

// TellFrom keeps the digits of all matchers distinct: no other form of a symbol is taken for one that is asked for,
// too.
func (m *matcher) TellFrom(all []display.Matcher) {
	m.used = nil
	for _, o := range all {
		if d, ok := o.(*matcher); ok {
			m.used = append(m.used, d.digits...)
		}
	}
}
