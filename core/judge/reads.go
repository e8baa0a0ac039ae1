package judge

import (
	"fmt"
	"math/big"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "reads",
		Doc:  "The display reads a text at a moment: at a time of the trial, at its end, or within a time after a cue.",
		Fields: []spec.Field{
			{Name: "text", Kind: spec.Frame, Doc: "what is shown, written as a frame of `shows`"},
			{Name: "rows", Kind: spec.List, Of: &spec.Field{Name: "row", Kind: spec.Text},
				Doc: "the text of each row of a character display, in place of text"},
			{Name: "pattern", Kind: spec.Text,
				Doc: "a regular expression (RE2) for the whole text, of any row or of the one that `row` names, in place of text"},
			display.RegionField,
			{Name: "capture", Kind: spec.Name,
				Doc: "a name for what the pattern's first group matches (or the whole pattern, if it has no group), for `same-as` in later expectations"},
			{Name: "same-as", Kind: spec.Name,
				Doc: "the pattern's first group (or the whole text, without a pattern) must equal what an earlier expectation captured under this name"},
			{Name: "row", Kind: spec.Int, Min: 1, Max: 4,
				Doc: "only this row of a character display, counted from 1"},
			{Name: "at", Kind: spec.Text, Doc: "a time since power-on, or `end`"},
			afterField,
			{Name: "within", Kind: spec.Duration, Default: "250ms",
				Doc: "how long after the cue, or how far from the time, it may be; a later input ends what is read at a time"},
			{Name: "strict", Kind: spec.Bool, Default: "no", Doc: "accept only the usual pattern of each symbol"},
			{Name: "content", Kind: spec.Percent, Default: contentShare,
				Doc: "the fraction of the marks for a right state that comes late, up to twice the time allowed"},
		},
		Example: "{reads: gauge, text: 2, after: {cue: first, from: start}, within: 250ms, marks: 2}",
		Build:   buildReads,
	})
}

// readable is the shortest time for which a person can read a display: a tenth of a second, less a margin, so that a
// stopwatch in tenths can be read. What stood for less is seen (`shows` counts it from 25 ms on), and not read.
const readable = 80 * clock.Millisecond

type reads struct {
	display string
	want    display.Matcher
	place   spec.Pos   // where the file writes it
	at      clock.Time // where no cue is named
	end     bool
	after   *moment
	within  clock.Time
	content *big.Rat
	strict  bool   // nothing is near
	sameAs  *reads // whose capture must be there; nil for none
}

func buildReads(s Setting, v spec.Values, ps *spec.Problems) Expectation {
	p := displayOf(s, "reads", v, ps)
	if p == nil {
		return nil
	}
	x := &reads{display: p.Name, strict: v.Bool("strict"), within: v.Time("within"), content: v.Get("content").Number}
	given := 0
	for _, key := range []string{"text", "rows", "pattern"} {
		if v.Has(key) {
			given++
		}
	}
	whole := p
	var region display.Region
	if v.Has("region") {
		var ok bool
		if region, ok = display.ReadRegion(v.Get("region").Map, p.Display(), ps); !ok {
			return nil
		}
		p = partOf(p, region)
	}
	switch {
	case given == 0 && (v.Has("same-as") || v.Has("capture")):
		x.place = v.Pos
		x.want = pattern(spec.Value{Pos: v.Pos, Text: display.Anything}, v, p, ps)
	case given != 1:
		ps.Add(v.Pos, "reads takes one of text, rows and pattern, or same-as")
		return nil
	case v.Has("pattern"):
		x.place = v.At("pattern")
		x.want = pattern(v.Get("pattern"), v, p, ps)
	case v.Has("rows"):
		x.place = v.At("rows")
		x.want = display.ReadRows(v.Get("rows"), p.Display(), ps)
	default:
		x.place = v.At("text")
		x.want, _ = display.ReadFrame(v.Get("text"), p.Display(), v.Bool("strict"), ps)
	}
	_, isPattern := x.want.(*display.Pattern)
	if v.Has("row") && isPattern {
		if grid := p.Kind.Geometry(*p).Grid; grid == nil || int(v.Int("row")) > grid.Rows {
			ps.Add(v.At("row"), "%q has no row %d", p.Name, v.Int("row"))
			return nil
		}
	} else if v.Has("row") {
		var one display.Matcher
		if rows, ok := x.want.(display.Rowed); ok && !v.Has("rows") {
			one = rows.Row(int(v.Int("row")) - 1)
		}
		if one == nil {
			ps.Add(v.At("row"), "row %d goes with the text of one row, on a display that has it", v.Int("row"))
			return nil
		}
		x.want = one
	}
	switch {
	case v.Has("same-as") && !isPattern:
		ps.Add(v.At("same-as"), "same-as goes with a pattern, or with nothing that says what is read")
		return nil
	case v.Has("same-as"):
		if x.sameAs = s.Captures.find(v.Text("same-as"), v.At("same-as"), ps); x.sameAs == nil {
			return nil
		}
	}
	if v.Has("region") && x.want != nil {
		x.want = region.In(x.want)
	}
	p = whole
	s.Captures.keep(v.Text("capture"), x, v.At("capture"), ps)
	switch after := v.Get("after").Map; {
	case v.Has("at") == v.Has("after"):
		ps.Add(v.Pos, "reads takes one of at or after")
	case v.Has("after"):
		m := readMoment(s, after, ps)
		x.after = &m
	case v.Text("at") == "end":
		x.end = true
	default:
		t, err := clock.Parse(v.Text("at"))
		if err != nil {
			ps.Add(v.At("at"), "%q is neither a time nor end", v.Text("at"))
		} else if t > s.Length {
			ps.Add(v.At("at"), "%s is after the end of the trial (%s)", t.Short(), s.Length.Short())
		}
		x.at = t
	}
	if x.want == nil {
		return nil
	}
	return x
}

// pattern reads one for the text of a display, or of the row that is asked for.
func pattern(of spec.Value, v spec.Values, p *part.Instance, ps *spec.Problems) display.Matcher {
	if m := display.ReadPattern(of, int(v.Int("row"))-1, p.Display(), ps); m != nil {
		return m
	}
	return nil
}

// Judge looks for the state in its window, and in as much time again behind it.
func (x *reads) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: new(big.Rat)}
	want := x.want
	if x.sameAs != nil {
		text, ok := x.sameAs.captured(r)
		if !ok {
			v.Outcome, v.Text = NotJudged, fmt.Sprintf("%s reads what %s read: nothing was captured there",
				x.display, x.sameAs.display)
			return v
		}
		want = wanting(x.want, text)
	}
	from, to, when := max(0, x.at-x.within), min(r.Length, x.at+x.within), fmt.Sprintf("at %s", x.at)
	for _, c := range r.Cues { // what a later input does is not what was to be read
		if c.Start > x.at {
			to = min(to, c.Start)
		}
	}
	switch {
	case x.end:
		from, to, when = r.Length, r.Length, "at the end"
	case x.after != nil:
		when = fmt.Sprintf("within %s of %s", x.within.Short(), x.after.cue)
		at, ok := x.after.in(r)
		if !ok {
			v.Outcome, v.Text = NotJudged, fmt.Sprintf("%s reads %s %s: the cue never came", x.display, want, when)
			return v
		}
		from, to = at, min(at+x.within, r.Length)
	}
	v.Text = fmt.Sprintf("%s reads %s %s", x.display, want, when)
	late := to
	if x.after != nil {
		late = min(r.Length, to+x.within)
	}
	stood := to // when what was there in its place is looked at
	if x.after == nil {
		stood = min(to, x.at)
	}
	if x.end {
		stood = to
	}
	var last *seen // what was there in its place
	for _, s := range staged(t, r) {
		if s.From > late || s.To < from || s.To == from && s.To < r.Length {
			continue
		}
		if x.after != nil && s.From < from && s.To < to { // it was there before the cue, and went
			continue
		}
		ok, _ := want.Match(t, s.State)
		if ok && s.Length() < readable && !s.clipped && !t.Geometry.Type().Traits().Lines {
			v.Evidence = append(v.Evidence[:0], fmt.Sprintf("%s was there at %s for %s only: too short to be read",
				want, s.From, s.Length().Brief()))
		}
		if ok && (s.Length() >= readable || s.clipped || t.Geometry.Type().Traits().Lines) {
			if s.From <= to {
				v.Fraction.SetInt64(1)
			} else {
				v.Fraction.Set(x.content)
				v.First = &Difference{At: from, Expected: fmt.Sprintf("%s %s", want, when),
					Seen: fmt.Sprintf("%s after %s", want, (s.From - from).Short()), By: place(t, s.From)}
			}
			v.Evidence = []string{fmt.Sprintf("there at %s", max(s.From, from))}
			v.Alignment = []Pair{{Right, meant(from, to, want, t, x.place), shown(t, s)}}
			break
		}
		if s.From <= stood || last == nil && s.From <= to {
			here := s
			last = &here
		}
	}
	if v.Fraction.Sign() > 0 || last == nil {
		v.Outcome = outcome(v.Fraction)
		return v
	}
	step := Wrong
	if !x.strict && display.Near(want, t, last.State) {
		step = Near
		v.Fraction.Set(nearShare)
		v.Evidence = append(v.Evidence, "the same in another form")
	}
	v.Outcome = outcome(v.Fraction)
	v.First = &Difference{At: max(last.From, from), Expected: fmt.Sprintf("%s %s", want, when),
		Seen: t.Short(last.State), By: place(t, last.From)}
	v.Evidence = append(v.Evidence, fmt.Sprintf("it read %s", t.Describe(last.State)))
	expected := meant(from, to, want, t, x.place)
	if p, ok := want.(*display.Pattern); ok && x.sameAs == nil {
		expected.Example = p.Example(t, last.State)
	}
	v.Alignment = []Pair{{step, expected, shown(t, *last)}}
	return v
}
