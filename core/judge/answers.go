package judge

import (
	"fmt"
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "answers",
		Doc:  "A table of cues and answers: after each cue the display must show a state and still show it when the time is up.",
		Fields: []spec.Field{
			{Name: "table", Kind: spec.List, Required: true, Doc: "the rows",
				Of: &spec.Field{Name: "row", Kind: spec.Mapping, Fields: []spec.Field{
					{Name: "after", Kind: spec.Name, Required: true, Doc: "the cue's name, given with `as`"},
					{Name: "shows", Kind: spec.Frame, Required: true, Doc: "the state, written as a frame of `shows`"},
				}}},
			{Name: "within", Kind: spec.Duration, Default: "250ms",
				Doc: "how long after the end of the cue the answer must be there"},
			strictField,
		},
		Example: "{answers: gauge, table: [{after: low, shows: 2}, {after: high, shows: 8}], within: 200ms, marks: 2}",
		Build:   buildAnswers,
	})
}

type answers struct {
	display string
	rows    []answer
	within  clock.Time
	strict  bool // nothing is near
}

type answer struct {
	after moment
	want  display.Matcher
	place spec.Pos
}

func buildAnswers(s Setting, v spec.Values, ps *spec.Problems) Expectation {
	var p *part.Instance
	if p = displayOf(s, "answers", v, ps); p == nil {
		return nil
	}
	x := &answers{display: p.Name, within: v.Time("within"), strict: v.Bool("strict")}
	var all []display.Matcher
	for _, row := range v.Get("table").List {
		w, _ := display.ReadFrame(row.Map.Get("shows"), p.Display(), v.Bool("strict"), ps)
		if w == nil {
			return nil
		}
		m := moment{row.Map.Text("after"), true}
		if m.cue != "" && !slices.Contains(s.Cues, m.cue) {
			ps.Add(row.Map.At("after"), "no cue of this trial is called %q%s", m.cue, spec.Nearest(m.cue, s.Cues))
		}
		all = append(all, w)
		x.rows = append(x.rows, answer{m, w, row.Map.At("shows")})
	}
	if v.Has("table") && len(x.rows) == 0 {
		ps.Add(v.At("table"), "no rows are given")
	}
	display.TellApart(all)
	return x
}

// Judge looks at the display when each answer's time is up.
func (x *answers) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: new(big.Rat),
		Text: fmt.Sprintf("%s answers %d inputs", x.display, len(x.rows))}
	frames := distinct(t, r)
	right, near := int64(0), int64(0)
	var all []display.Matcher
	for _, row := range x.rows {
		all = append(all, row.want)
	}
	forms := display.NewForms(all, t)
	for n, row := range x.rows {
		at, ok := row.after.in(r)
		at = min(at+x.within, r.Length)
		expected := meant(at, at, row.want, t, row.place)
		pair := Pair{Operation: Missing, Expected: expected}
		seen := "the cue never came"
		for i, f := range frames {
			if ok && f.From <= at && (at < f.To || f.clipped) {
				expected.To, seen = f.To, t.Short(f.State)
				pair = lane(t, Wrong, expected, f)
				if shows, _ := row.want.Match(t, f.State); shows {
					pair.Operation = Right
					right++
				} else if !x.strict && forms.Near(n, f.State, before(frames, i)) {
					pair.Operation = Near
					near++
				}
			}
		}
		v.Alignment = append(v.Alignment, pair)
		if pair.Operation != Right && v.First == nil {
			v.First = &Difference{At: at, Expected: fmt.Sprintf("%s after %s", row.want, row.after.cue), Seen: seen}
			if pair.Seen != nil {
				v.First.By = place(t, pair.Seen.From)
			}
		}
	}
	sum := new(big.Rat).Mul(nearShare, big.NewRat(near, 1))
	v.Fraction = fractionOf(sum.Add(sum, big.NewRat(right, 1)), len(x.rows))
	v.Evidence = []string{fmt.Sprintf("%d of %d answers right", right, len(x.rows))}
	if near > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d in another form", near)
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
