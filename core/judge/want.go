package judge

import (
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/spec"
)

// want is what one display is to show at one time.
type want interface {
	// shows tells whether a sight is what is wanted, and otherwise how far it is off, in thousandths.
	shows(t *display.Track, s display.State) (ok bool, off int)
	// sight is how the wanted thing would look, for drawing.
	sight(look display.Geometry) *display.State
	// same tells whether no eye could tell the two apart.
	same(other want) bool
	String() string
}

// partial tells whether a want says nothing about a part of what the display shows.
func partial(w want) bool {
	switch w := w.(type) {
	case *rowWant, *patternWant:
		return true
	case *cursorWant:
		return w.want == nil || partial(w.want)
	case *groupWant:
		return slices.ContainsFunc(w.of, func(one want) bool { return one == nil || partial(one) })
	}
	return false
}

// FrameFields are those of a frame that is written as a mapping.
var FrameFields = []spec.Field{
	{Name: "text", Kind: spec.Text, Doc: "what is shown, as for a plain frame"},
	{Name: "segments", Kind: spec.List, Of: &spec.Field{Name: "segment", Kind: spec.Choice, Choices: glyph.Segments[:]}, Doc: "the lit segments of a digit"},
	{Name: "rows", Kind: spec.List, Of: &spec.Field{Name: "row", Kind: spec.Text}, Doc: "the text of each row of a character display, or of the lines of text on a graphic one"},
	{Name: "row", Kind: spec.Int, Min: 1, Max: 4, Doc: "with `text`: the row of a character display that reads so, counted from 1, whatever the others show"},
	cursorField,
	{Name: "bitmap", Kind: spec.List, Of: &spec.Field{Name: "row", Kind: spec.Text}, Doc: "rows of # for lit and . for dark dots: the whole of a matrix, or a picture anywhere on a graphic display"},
	{Name: "one-of", Kind: spec.List, Of: &spec.Field{Name: "frame", Kind: spec.Frame}, Doc: "any of several frames will do"},
	{Name: "for", Kind: spec.Text, Doc: "how long this frame lasts, in place of `each`; `any` for as long as it likes"},
}

// anyLength is the length of a frame that may last as long as it likes.
const anyLength = clock.Time(-1)

// readWant reads a frame for a display. The length is 0 where none is written.
func readWant(v spec.Value, p *part.Built, strict bool, ps *spec.Problems) (want, clock.Time) {
	length := clock.Time(0)
	text, rows, lit, dots := v.Text, []string(nil), []string(nil), []string(nil)
	look := p.Kind.Geometry(*p)
	var m spec.Values
	if v.Node.Kind == yaml.MappingNode {
		if look.Form == display.FormGroup {
			return readPhase(v, p.Name, look, strict, ps)
		}
		m = spec.Decode(v.Node, FrameFields, ps)
		given := 0
		for _, key := range []string{"text", "segments", "rows", "bitmap", "one-of"} {
			if m.Has(key) {
				given++
			}
		}
		if given != 1 && (given > 0 || !m.Has("cursor")) {
			ps.Add(v.Pos, "a frame has one of text, segments, rows, bitmap and one-of")
			return nil, 0
		}
		text = m.Text("text")
		for _, r := range m.Get("rows").List {
			rows = append(rows, r.Text)
		}
		for _, r := range m.Get("bitmap").List {
			dots = append(dots, r.Text)
		}
		for _, s := range m.Get("segments").List {
			lit = append(lit, s.Text)
		}
		length = readLength(m.Get("for"), ps)
		if m.Has("cursor") || m.Has("row") {
			return readPlaced(m, rows, v, p, strict, ps), length
		}
		if m.Has("one-of") {
			return readAny(m.Get("one-of"), p, strict, ps), length
		}
		if m.Has("segments") {
			return readSegments(lit, v, p, ps), length
		}
	}
	switch {
	case dots != nil:
		return readBitmap(dots, v, p.Name, look, ps), length
	case rows != nil && look.Form != display.FormText && look.Form != display.FormPixels:
		ps.Add(v.Pos, "%q has no rows of text", p.Name)
		return nil, length
	}
	switch look.Form {
	case display.FormText:
		if rows == nil {
			rows = []string{text}
		}
		return readRows(rows, v, look.Grid, ps), length
	case display.FormPixels:
		if rows == nil {
			rows = []string{text}
		}
		return readLines(rows, v, ps), length
	case display.FormGroup:
		return readLitMembers(text, v, p.Name, look, ps), length
	case display.FormLamp:
		return readLamp(text, v, ps), length
	case display.FormBar:
		return readBar(text, len(look.Shapes), v, ps), length
	case display.FormColour:
		return readColour(text, v, ps), length
	case display.FormLines:
		return lineWant(strings.TrimRight(text, " ")), length
	case display.FormSound:
		return readSound(text, v, ps), length
	case display.FormMatrix:
		ps.Add(v.Pos, "a frame of a matrix is {bitmap: [rows of # and .]}")
		return nil, length
	}
	return readDigits(text, look, strict, v, ps), length
}

// readLength reads how long a frame lasts; 0 where nothing is written.
func readLength(f spec.Value, ps *spec.Problems) clock.Time {
	switch f.Text {
	case "":
		return 0
	case "any":
		return anyLength
	}
	t, err := clock.Parse(f.Text)
	if err != nil || t == 0 {
		ps.Add(f.Pos, "%q is not a time; write one such as 250ms, or any", f.Text)
	}
	return t
}

// lampWant is a lamp on or off.
type lampWant bool

func readLamp(text string, v spec.Value, ps *spec.Problems) want {
	switch strings.ToLower(text) {
	case "on", "yes", "true", "1":
		return lampWant(true)
	case "off", "no", "false", "0":
		return lampWant(false)
	}
	ps.Add(v.Pos, "%q is not what a lamp can show; write on or off", text)
	return nil
}

func (w lampWant) shows(_ *display.Track, s display.State) (bool, int) {
	if (s.Lights[0] == display.Lit) == bool(w) {
		return true, 0
	}
	return false, 1000
}

func (w lampWant) sight(display.Geometry) *display.State {
	if w {
		return &display.State{Lights: display.Lights{display.Lit}, Levels: []int{255}}
	}
	return &display.State{Lights: display.Lights{display.Dark}, Levels: []int{0}}
}

func (w lampWant) same(other want) bool { return w == other }

func (w lampWant) String() string {
	if w {
		return "on"
	}
	return "off"
}

// digitsWant is a seven-segment display of one or more digits.
type digitsWant struct {
	digits []glyph.Want
	colon  bool
	after  int // behind how many digits the display has a colon; 0 for none
	strict bool
	used   []glyph.Want // all digits that the expectation uses: they stay distinct
}

// readDigits reads a text for a display of digits. A shorter one stands at the right, as numbers do. A
// colon is written where the display has one.
func readDigits(text string, look display.Geometry, strict bool, v spec.Value, ps *spec.Problems) want {
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
			ps.Add(v.Pos, "%q is not what a seven-segment digit can show; write symbols, perhaps with a point behind, or {segments: [a, d]}", symbol)
			return nil
		}
		digits = append(digits, d)
	}
	if len(digits) > n {
		ps.Add(v.Pos, "%q has %d symbols; the display has %s", text, len(digits), plural(n, "digit"))
		return nil
	}
	written := len(digits)
	blank, _ := glyph.ParseSeven(" ")
	for len(digits) < n {
		digits = append([]glyph.Want{blank}, digits...)
	}
	if colon >= 0 && colon+n-written != look.Colon {
		ps.Add(v.Pos, "the colon of %q stands behind %s; that of the display behind %d", text, plural(colon+n-written, "digit"), look.Colon)
		return nil
	}
	return &digitsWant{digits: digits, strict: strict, colon: colon >= 0, after: look.Colon}
}

func readSegments(names []string, v spec.Value, p *part.Built, ps *spec.Problems) want {
	if look := p.Kind.Geometry(*p); look.Form != display.FormDigits || look.Digits() != 1 {
		ps.Add(v.Pos, "%q is not a single seven-segment digit", p.Name)
		return nil
	}
	pattern, _ := glyph.ParseSegments(names)
	return &digitsWant{digits: []glyph.Want{{Usual: pattern}}, strict: true}
}

func plural(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

func (w *digitsWant) shows(_ *display.Track, s display.State) (bool, int) {
	ok, off := true, 0
	for i, p := range glyph.Digits(s.Lights.Bits(), len(w.digits)) {
		if !w.digits[i].Shows(p, w.strict, w.used) {
			ok = false
			off += glyph.Distance(p, w.digits[i].Usual)
		}
	}
	if w.after > 0 && (s.Lights[len(glyph.Segments)*len(w.digits)] == display.Lit) != w.colon {
		ok = false
		off++
	}
	return ok, off * 125 / len(w.digits)
}

func (w *digitsWant) sight(display.Geometry) *display.State {
	n := len(glyph.Segments)
	s := &display.State{Lights: make(display.Lights, n*len(w.digits)), Levels: make([]int, n*len(w.digits))}
	for i := range s.Lights {
		if w.digits[i/n].Usual>>(i%n)&1 == 1 {
			s.Lights[i], s.Levels[i] = display.Lit, 255
		}
	}
	if w.after > 0 {
		s.Lights, s.Levels = append(s.Lights, display.Dark), append(s.Levels, 0)
		if w.colon {
			s.Lights[n*len(w.digits)], s.Levels[n*len(w.digits)] = display.Lit, 255
		}
	}
	return s
}

func (w *digitsWant) same(other want) bool {
	o, ok := other.(*digitsWant)
	if !ok {
		return false
	}
	for i := range w.digits {
		if w.digits[i].Usual != o.digits[i].Usual {
			return false
		}
	}
	return w.colon == o.colon
}

func (w *digitsWant) String() string {
	if w.digits[0].Symbol == 0 {
		return w.digits[0].Usual.String()
	}
	text, blank := "", true
	for i, d := range w.digits {
		if w.colon && i == w.after {
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
	case len(w.digits) > 1:
		return `"` + text + `"`
	}
	return text
}

// share gives all digits of an expectation to each other.
func share(wants []want) {
	var all []*digitsWant
	for _, w := range wants {
		all = append(all, digitsOf(w)...)
	}
	var used []glyph.Want
	for _, d := range all {
		used = append(used, d.digits...)
	}
	for _, d := range all {
		d.used = used
	}
}

// digitsOf lists the displays of digits that a want is about.
func digitsOf(w want) (out []*digitsWant) {
	switch w := w.(type) {
	case *digitsWant:
		return []*digitsWant{w}
	case anyWant:
		for _, one := range w {
			out = append(out, digitsOf(one)...)
		}
	case *groupWant:
		for _, one := range w.of {
			out = append(out, digitsOf(one)...)
		}
	}
	return out
}

// rowsWant is the text of a character display; rows that are not given are blank.
type rowsWant struct {
	rows []string // padded to the width
}

func readRows(rows []string, v spec.Value, g *display.Grid, ps *spec.Problems) want {
	if len(rows) > g.Rows {
		ps.Add(v.Pos, "%d rows for a display of %d", len(rows), g.Rows)
		return nil
	}
	w := &rowsWant{}
	for i := 0; i < g.Rows; i++ {
		row := ""
		if i < len(rows) {
			row = rows[i]
		}
		n := len([]rune(row))
		if n > g.Columns {
			ps.Add(v.Pos, "%q has %d characters; a row of this display has %d", row, n, g.Columns)
			return nil
		}
		for _, r := range row {
			if _, ok := g.Cell(r); !ok {
				ps.Add(v.Pos, "%q: the display's character ROM cannot show %q; write what it shows, ▢ for any custom character, or draw this one under `characters`", row, r)
				return nil
			}
		}
		w.rows = append(w.rows, row+strings.Repeat(" ", g.Columns-n))
	}
	return w
}

func (w *rowsWant) shows(t *display.Track, s display.State) (bool, int) {
	wrong, all := 0, 0
	for i, row := range t.Rows(s) {
		n, k := misread(t, s, i, row, w.rows[i])
		wrong += n
		all += k
	}
	return wrong == 0, min(1000, wrong*2000/all)
}

// misread counts the characters of a row that are not those that were wanted; any custom character will do for a nameless one.
func misread(t *display.Track, s display.State, i int, row, wanted string) (wrong, all int) {
	want := []rune(wanted)
	for k, r := range []rune(row) {
		all++
		cell := s.Cells[i*t.Geometry.Grid.Columns+k]
		custom := cell >= display.CustomCell && cell&display.WashedOut == 0
		if r != want[k] && !(want[k] == display.Nameless && custom) {
			wrong++
		}
	}
	return wrong, all
}

func (w *rowsWant) sight(g display.Geometry) *display.State {
	s := &display.State{}
	for _, row := range w.rows {
		for _, r := range row {
			cell, _ := g.Grid.Cell(r)
			s.Cells = append(s.Cells, cell)
		}
	}
	return s
}

func (w *rowsWant) same(other want) bool {
	o, ok := other.(*rowsWant)
	return ok && w.String() == o.String()
}

func (w *rowsWant) String() string {
	var out []string
	for _, r := range w.rows {
		out = append(out, fmt.Sprintf("%q", strings.TrimRight(r, " ")))
	}
	return strings.Join(out, " / ")
}

// rowWant is the text of one row, whatever the others show.
type rowWant struct {
	row  int
	text string // padded to the width
}

func (w *rowWant) shows(t *display.Track, s display.State) (bool, int) {
	wrong, _ := misread(t, s, w.row, t.Rows(s)[w.row], w.text)
	return wrong == 0, 500
}

func (w *rowWant) sight(look display.Geometry) *display.State {
	rows := &rowsWant{rows: make([]string, look.Grid.Rows)}
	for i := range rows.rows {
		rows.rows[i] = strings.Repeat(" ", look.Grid.Columns)
	}
	rows.rows[w.row] = w.text
	return rows.sight(look)
}

func (w *rowWant) same(other want) bool {
	o, ok := other.(*rowWant)
	return ok && *o == *w
}

func (w *rowWant) String() string {
	return fmt.Sprintf("%q in row %d", strings.TrimRight(w.text, " "), w.row+1)
}
