package judge

import (
	"fmt"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "together",
		Doc:  "The display shows a sight while something holds: another display shows something, or an input that cues set is at a value. Outside of that it must not show it, unless `outside` says otherwise.",
		Fields: slices.Concat([]spec.Field{
			{Name: "shows", Kind: spec.Frame, Required: true, Doc: "the sight, written as a frame of `shows`"},
			{Name: "while", Kind: spec.Name, Doc: "the other display, or the input; the window alone where it is not given"},
			{Name: "is", Kind: spec.Text, Doc: "what the other display shows, or the input is set to"},
			{Name: "above", Kind: spec.Text, Doc: "the input's value is at least this"},
			{Name: "below", Kind: spec.Text, Doc: "the input's value is under this"},
			{Name: "outside", Kind: spec.Choice, Choices: []string{"never", "any"}, Default: "never", Doc: "whether the sight may stand while the condition does not hold"},
			{Name: "slack", Kind: spec.Duration, Default: "250ms", Doc: "how long after each change of the condition anything may be shown"},
			strictField,
		}, windowFields),
		Example: "{together: alarm, shows: on, while: level, above: 3V, slack: 200ms, marks: 3}",
		Build:   buildTogether,
	})
}

type together struct {
	display      string
	want         want
	place        spec.Pos
	window       window
	other        string
	otherWant    want // where the other is a display
	is           string
	above, below *big.Rat
	initial      string // what the input is at before any cue
	outside      bool   // anything may be shown
	slack        clock.Time
	text         string
}

func buildTogether(s Setting, v spec.Values, ps *spec.Problems) Expectation {
	p := display(s, "together", v, ps)
	if p == nil || !v.Has("shows") {
		return nil
	}
	x := &together{display: p.Name, window: readWindow(s, v, ps), other: v.Text("while"), is: v.Text("is"), outside: v.Text("outside") == "any", slack: v.Time("slack")}
	if x.want, _ = readWant(v.Get("shows"), p, v.Bool("strict"), ps); x.want == nil {
		return nil
	}
	x.place, x.text = v.At("shows"), fmt.Sprintf("%s shows %s", x.display, x.want)
	if x.other == "" {
		return x
	}
	o := s.Part(x.other)
	switch {
	case o == nil:
		ps.Add(v.At("while"), "no part of the bench is called %q", x.other)
		return nil
	case o.Kind.Look != nil:
		if !v.Has("is") {
			ps.Add(v.Pos, "`is` says what %q shows", x.other)
			return nil
		}
		if x.otherWant, _ = readWant(spec.Value{Pos: v.At("is"), Text: x.is, Node: v.Get("together").Node}, o, v.Bool("strict"), ps); x.otherWant == nil {
			return nil
		}
		x.text += fmt.Sprintf(" while %s shows %s", x.other, x.otherWant)
		return x
	case !slices.Contains(o.Kind.Cues, part.Set):
		ps.Add(v.At("while"), "%q is a %s, which is neither a display nor set by cues", x.other, o.Kind.Name)
		return nil
	}
	x.text += " while " + x.other + " is"
	given := 0
	for _, key := range []string{"is", "above", "below"} {
		if !v.Has(key) {
			continue
		}
		given++
		x.text += map[string]string{"is": " ", "above": " at or above ", "below": " below "}[key] + v.Text(key)
		if key == "is" {
			continue
		}
		n, ok := quantity(v.Text(key))
		if !ok {
			ps.Add(v.At(key), "%q is not a number, perhaps with a unit", v.Text(key))
			return nil
		}
		if key == "above" {
			x.above = n
		} else {
			x.below = n
		}
	}
	if given == 0 {
		ps.Add(v.Pos, "one of is, above or below says at what value of %q", x.other)
	}
	for _, key := range []string{"volts", "position", "temperature", "at"} { // what inputs call the value they start at
		if o.Settings.Has(key) && x.initial == "" {
			x.initial = o.Settings.Text(key)
		}
	}
	return x
}

// quantity reads the number that a value begins with: "3.2V" is 16/5.
func quantity(text string) (*big.Rat, bool) {
	text = strings.TrimSpace(text)
	end := strings.IndexFunc(text, func(r rune) bool { return !strings.ContainsRune("+-.0123456789", r) })
	scale := int64(1)
	if end >= 0 {
		if strings.HasPrefix(text[end:], "m") {
			scale = 1000
		}
		text = text[:end]
	}
	if _, err := strconv.ParseFloat(text, 64); err != nil {
		return nil, false
	}
	n, ok := new(big.Rat).SetString(text)
	if !ok {
		return nil, false
	}
	return n.Quo(n, big.NewRat(scale, 1)), true
}

// span is a stretch for which the condition holds, or does not.
type span struct {
	from, to clock.Time
	holds    bool
}

// conditions cuts the run where the condition changes.
func (x *together) conditions(r *reel.Reel) (out []span) {
	add := func(from, to clock.Time, holds bool) {
		if n := len(out); n > 0 && out[n-1].holds == holds {
			out[n-1].to = to
		} else if to > from {
			out = append(out, span{from, to, holds})
		}
	}
	switch {
	case x.other == "":
		return []span{{x.window.from, min(x.window.to, r.Length), true}}
	case x.otherWant != nil:
		t := r.Track(x.other)
		for _, f := range t.Frames {
			ok, _ := x.otherWant.shows(t, f.Sight)
			add(f.From, f.To, ok)
		}
		return out
	}
	at, value := clock.Time(0), x.initial
	for _, c := range r.Cues {
		if c.Part == x.other && c.Verb == part.Set {
			add(at, c.Start, x.holds(value))
			at, value = c.Start, c.To
		}
	}
	add(at, r.Length, x.holds(value))
	return out
}

func (x *together) holds(value string) bool {
	if x.is != "" && x.is != value {
		return false
	}
	n, ok := quantity(value)
	return (x.above == nil || ok && n.Cmp(x.above) >= 0) && (x.below == nil || ok && n.Cmp(x.below) < 0)
}

// Judge gives the part of the time for which the display does as it must; up to 1 % too little is none.
func (x *together) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Share: new(big.Rat), Text: x.text}
	right, all := clock.Time(0), clock.Time(0)
	frames := x.window.of(t, r)
	held := false
	for i, s := range x.conditions(r) {
		held = held || s.holds
		if i > 0 || s.from > 0 {
			s.from += x.slack
		}
		if !s.holds && x.outside {
			continue
		}
		for _, f := range frames {
			from, to := max(s.from, f.From), min(s.to, f.To)
			if to <= from {
				continue
			}
			all += to - from
			if ok, _ := x.want.shows(t, f.Sight); ok == s.holds {
				right += to - from
			} else if v.First == nil && to-from >= readable {
				v.First = &Difference{At: from, Expected: x.text, Seen: fmt.Sprintf("%s for %s", t.Short(f.Sight), (to - from).Brief()), By: place(t, f.From)}
				v.Lanes = []Pair{lane(t, Wrong, meant(from, to, x.want, t, x.place), f)}
				if !s.holds {
					v.First.Expected, v.Lanes[0].Expected = "not "+x.want.String()+" here", nil
				}
			}
		}
	}
	if !held || all == 0 {
		v.Outcome, v.Evidence = NotJudged, []string{"what it depends on never happened"}
		return v
	}
	v.Share = big.NewRat(int64(right), int64(all))
	if v.Share.Cmp(big.NewRat(99, 100)) >= 0 {
		v.Share.SetInt64(1)
		v.First, v.Lanes = nil, nil
	}
	v.Evidence = []string{fmt.Sprintf("right for %d %% of the time", int64(right)*100/int64(all))}
	v.Outcome = outcome(v.Share)
	return v
}
