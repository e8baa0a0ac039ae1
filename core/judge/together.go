package judge

import (
	"fmt"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name:  "together",
		Parts: true,
		Doc:   "The display shows a state while a condition holds: another display shows something, a button is held down, or an input set by cues has a value. Otherwise it must not show the state, unless `outside` allows it. Half of the marks are for following each change of the condition, half for the time in agreement.",
		Fields: slices.Concat([]spec.Field{
			{Name: "shows", Kind: spec.Frame, Required: true, Doc: "the state, written as a frame of `shows`"},
			{Name: "while", Kind: spec.Name,
				Doc: "the other display, or the input (default: only the window)"},
			{Name: "is", Kind: spec.Frame,
				Doc: "what the other display shows, as a frame; what the input is set to; `pressed` (the default) or `released` for a button; for a keypad the key that is held"},
			{Name: "above", Kind: spec.Text, Doc: "condition: the input's value is at least this"},
			{Name: "below", Kind: spec.Text, Doc: "condition: the input's value is under this"},
			{Name: "outside", Kind: spec.Choice, Choices: []string{"never", "any"}, Default: "never",
				Doc: "whether the state may also be there while the condition does not hold"},
			{Name: "within", Was: "slack", Kind: spec.Duration,
				Doc: "how long before or after a change of the condition the display may change (default: `100ms` beside another display, which a person takes for one event; `250ms` for an input). A change three times as far away earns nothing"},
			strictField,
		}, windowFields),
		Example: "{together: alarm, shows: on, while: level, above: 3V, within: 200ms, marks: 3}",
		Build:   buildTogether,
	})
}

// How far from a change a display may follow where an exercise does not say: a program answers an input on its next
// pass; two displays that change a tenth of a second apart are taken for one event, at three tenths nobody takes them
// for one.
const (
	withDisplay = 100 * clock.Millisecond
	withInput   = 250 * clock.Millisecond
)

type together struct {
	display string
	want    display.Matcher
	place   spec.Pos
	window  window
	strict  bool      // nothing is near
	when    condition // nil for the window alone
	outside bool      // anything may be shown
	within  clock.Time
	text    string
}

// condition is what something else is to be at.
type condition interface {
	// spans cuts a run where the condition changes.
	spans(r *reel.Reel) []span
}

func buildTogether(s Setting, v spec.Values, ps *spec.Problems) Expectation {
	p := displayOf(s, "together", v, ps)
	if p == nil || !v.Has("shows") {
		return nil
	}
	x := &together{display: p.Name, window: readWindow(s, v, ps), outside: v.Text("outside") == "any",
		within: withInput, strict: v.Bool("strict")}
	if x.want, _ = display.ReadFrame(v.Get("shows"), p.Display(), v.Bool("strict"), ps); x.want == nil {
		return nil
	}
	x.place, x.text = v.At("shows"), fmt.Sprintf("%s shows %s", x.display, x.want)
	if name := v.Text("while"); name != "" {
		before := len(ps.List)
		var words string
		if x.when, words = readCondition(s, name, v, ps); len(ps.List) > before {
			return nil
		}
		if _, ok := x.when.(*displayIs); ok {
			x.within = withDisplay
		}
		x.text += " while " + words
	}
	if v.Has("within") {
		x.within = v.Time("within")
	}
	return x
}

// readCondition reads what `while` names, and tells it in words.
func readCondition(s Setting, name string, v spec.Values, ps *spec.Problems) (condition, string) {
	o, is := s.Part(name), v.Text("is")
	switch {
	case o == nil:
		ps.Unknown(v.At("while"), "part of the bench", name, s.Names)
	case o.Kind.Geometry != nil:
		if !v.Has("is") {
			ps.Add(v.Pos, "`is` says what %q shows", name)
			return nil, ""
		}
		if w, _ := display.ReadFrame(v.Get("is"), o.Display(), v.Bool("strict"), ps); w != nil {
			return &displayIs{name, w}, fmt.Sprintf("%s shows %s", name, w)
		}
	case v.Has("is") && is == "":
		ps.Add(v.At("is"), "%q is no display: write one value", name)
	case slices.Contains(o.Kind.Cues, part.Press):
		return readHeld(s, o, v, ps)
	case slices.Contains(o.Kind.Cues, part.Set):
		return readAt(s, o, v, ps)
	default:
		ps.Add(v.At("while"), "%q is a %s, which is neither a display nor pressed or set by cues", name, o.Kind.Name)
	}
	return nil, ""
}

// displayIs is another display that shows something.
type displayIs struct {
	display string
	want    display.Matcher
}

func (c *displayIs) spans(r *reel.Reel) (out []span) {
	t := r.Track(c.display)
	for _, f := range t.Frames {
		ok, _ := c.want.Match(t, f.State)
		out = extend(out, f.From, f.To, ok)
	}
	return out
}

// held is a contact that is pressed, or let go.
type held struct {
	part, key string
	released  bool
}

func readHeld(s Setting, o *part.Instance, v spec.Values, ps *spec.Problems) (condition, string) {
	c := &held{part: o.Name}
	is := v.Text("is")
	switch {
	case v.Has("above") || v.Has("below"):
		ps.Add(v.At("while"), "%q is a %s, which has no value: `is` says pressed or released", o.Name, o.Kind.Name)
	case is == "" || is == "pressed":
		is = "pressed"
	case is == "released":
		c.released = true
	case o.Kind.CheckCue == nil || o.Kind.CheckCue(*o, part.Cue{Verb: part.Press, Key: is}) != nil:
		ps.Add(v.At("is"), "%q is no state of a %s: write pressed or released%s", is, o.Kind.Name,
			map[bool]string{true: ", or one of its keys"}[o.Kind.CheckCue != nil])
	default:
		c.key, is = is, "held down at "+is
	}
	s.happens(o.Name, "pressed", v, ps,
		func(cue part.Cue) bool { return cue.Verb != part.Release && (c.key == "" || cue.Key == c.key) })
	return c, o.Name + " is " + is
}

func (c *held) spans(r *reel.Reel) (out []span) {
	down, at := map[string]clock.Time{}, clock.Time(0) // by key: until when
	pressed := func(t clock.Time) bool {
		for key, until := range down {
			if until > t && (c.key == "" || key == c.key) {
				return true
			}
		}
		return false
	}
	moments := []clock.Time{}
	for _, f := range r.Cues {
		if f.Part == c.part {
			moments = append(moments, f.Start, f.End)
		}
	}
	slices.Sort(moments)
	for _, t := range slices.Compact(moments) {
		out = extend(out, at, t, pressed(at) != c.released)
		for _, f := range r.Cues {
			switch {
			case f.Part != c.part || f.Start != t:
			case f.Verb == part.Press:
				down[f.Key] = f.End
			case f.Verb == part.Hold:
				down[f.Key] = clock.Never
			case f.Verb == part.Release:
				delete(down, f.Key)
			}
		}
		at = t
	}
	return extend(out, at, r.Length, pressed(at) != c.released)
}

// isAt is an input at a value.
type isAt struct {
	part         string
	is           string
	above, below *big.Rat
	initial      string // before any cue
}

func readAt(s Setting, o *part.Instance, v spec.Values, ps *spec.Problems) (condition, string) {
	c := &isAt{part: o.Name, is: v.Text("is"), initial: o.Settings.Text(o.Kind.Value)}
	words := o.Name + " is"
	if len(o.Settings.Get("curve").List) > 0 {
		ps.Add(v.At("while"), "%q follows a curve: cues that set it say when it is at what", o.Name)
		return nil, ""
	}
	given := 0
	for _, key := range []string{"is", "above", "below"} {
		if !v.Has(key) {
			continue
		}
		given++
		words += map[string]string{"is": " ", "above": " at or above ", "below": " below "}[key] + v.Text(key)
		if key == "is" {
			if o.Kind.CheckCue != nil {
				if err := o.Kind.CheckCue(*o, part.Cue{Verb: part.Set, To: c.is}); err != nil {
					ps.Add(v.At("is"), "%s: %q can never be at that", err, o.Name)
					return nil, ""
				}
			}
			continue
		}
		n, ok := Quantity(v.Text(key))
		if !ok {
			ps.Add(v.At(key), "%q is not a number, perhaps with a unit", v.Text(key))
			return nil, ""
		}
		if key == "above" {
			c.above = n
		} else {
			c.below = n
		}
	}
	if given == 0 {
		ps.Add(v.Pos, "one of is, above or below says at what value of %q", o.Name)
		return nil, ""
	}
	if !c.holds(c.initial) {
		s.happens(o.Name, strings.TrimPrefix(words, o.Name+" is "), v, ps,
			func(cue part.Cue) bool { return c.holds(cue.To) })
	}
	return c, words
}

// happens warns of a condition that no cue of the trial brings about.
func (s Setting) happens(name, what string, v spec.Values, ps *spec.Problems, does func(part.Cue) bool) {
	if s.Does != nil && !s.Does(name, does) {
		ps.Warn(v.At("while"), "%s is never %s in this trial, so that this cannot be judged: no cue brings it about",
			name, what)
	}
}

// Quantity reads the number that a value begins with: "3.2V" is 16/5.
func Quantity(text string) (*big.Rat, bool) {
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

// extend adds a stretch to those before it.
func extend(out []span, from, to clock.Time, holds bool) []span {
	if n := len(out); n > 0 && out[n-1].holds == holds {
		out[n-1].to = to
	} else if to > from {
		out = append(out, span{from, to, holds})
	}
	return out
}

func (c *isAt) spans(r *reel.Reel) (out []span) {
	at, value := clock.Time(0), c.initial
	for _, f := range r.Cues {
		if f.Part == c.part && f.Verb == part.Set {
			out = extend(out, at, f.Start, c.holds(value))
			at, value = f.Start, f.To
		}
	}
	return extend(out, at, r.Length, c.holds(value))
}

func (c *isAt) holds(value string) bool {
	n, ok := Quantity(value)
	if is, number := Quantity(c.is); c.is != "" && !(ok && number && is.Cmp(n) == 0) &&
		!strings.EqualFold(c.is, value) {
		return false
	}
	return (c.above == nil || ok && n.Cmp(c.above) >= 0) && (c.below == nil || ok && n.Cmp(c.below) < 0)
}

// conditions are those stretches of the window in which the condition holds or does not.
func (x *together) conditions(r *reel.Reel) (out []span) {
	from, to := x.window.from, min(x.window.to, r.Length)
	if x.when == nil {
		return []span{{from, to, true}}
	}
	for _, s := range x.when.spans(r) {
		if s.from, s.to = max(s.from, from), min(s.to, to); s.to > s.from {
			out = append(out, s)
		}
	}
	return out
}

// matched are the stretches of the window in which the display shows the state, and in which it does not.
func (x *together) matched(t *display.Track, frames []seen) (out []span) {
	for _, f := range frames {
		ok, _ := x.want.Match(t, f.State)
		out = extend(out, f.From, f.To, ok)
	}
	return out
}

// Judge gives half by changes and half by time; without a change all by time. The state in another form is near.
func (x *together) Judge(r *reel.Reel) Verdict {
	v := x.judge(r)
	return inForm(v, x.strict, func() Verdict {
		other := *x
		other.want = lenient{x.want}
		return other.judge(r)
	})
}

func (x *together) judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: new(big.Rat), Text: x.text}
	frames := x.window.of(t, r)
	spans := x.conditions(r)
	if !slices.ContainsFunc(spans, func(s span) bool { return s.holds }) || len(frames) == 0 {
		v.Outcome, v.Evidence = NotJudged, []string{"what it depends on never happened"}
		return v
	}
	ideal := x.want.Ideal(t.Geometry)
	v.Asks = ideal != nil && !ideal.Blank()
	byTime := x.byTime(t, frames, spans, &v)
	v.Fraction.Set(byTime)
	percent, _ := byTime.Float64()
	v.Evidence = []string{fmt.Sprintf("right for %d %% of the time", int(percent*100))}
	if changes, followed, n, late := x.byChanges(t, frames, spans); n > 0 {
		v.Fraction.Add(v.Fraction, changes).Quo(v.Fraction, big.NewRat(2, 1))
		v.Evidence = append(v.Evidence, fmt.Sprintf("%d of %d changes followed within %s", followed, n,
			x.within.Short()))
		if late != nil {
			v.Evidence[1] += ", the first of the others " + late.Seen
			if v.First == nil || late.At <= v.First.At {
				v.First = late
			}
		}
	}
	if v.Fraction.Cmp(big.NewRat(99, 100)) >= 0 { // what a person does not notice
		v.Fraction.SetInt64(1)
		v.First, v.Alignment = nil, nil
	}
	v.Outcome = outcome(v.Fraction)
	return v
}

// byTime is the mean of the share of the time that the condition holds, and of the time that it does not, for which the
// display does as it must; what comes within reach of a change belongs to that.
func (x *together) byTime(t *display.Track, frames []seen, spans []span, v *Verdict) *big.Rat {
	var right, all [2]clock.Time // while it does not hold, and while it does
	for i, s := range spans {
		if i > 0 {
			s.from += x.within
		}
		k := 0
		if s.holds {
			k = 1
		} else if x.outside {
			continue
		}
		for _, f := range frames {
			from, to := max(s.from, f.From), min(s.to, f.To)
			if to <= from {
				continue
			}
			all[k] += to - from
			if ok, _ := x.want.Match(t, f.State); ok == s.holds {
				right[k] += to - from
			} else if v.First == nil && to-from >= readable {
				v.First = &Difference{At: from, Expected: x.text,
					Seen: fmt.Sprintf("%s for %s", t.Short(f.State), (to - from).Brief()), By: place(t, f.From)}
				v.Alignment = []Pair{lane(t, Wrong, meant(from, to, x.want, t, x.place), f)}
				if !s.holds {
					v.First.Expected, v.Alignment[0].Expected = "not "+x.want.String()+" here", nil
				}
			}
		}
	}
	sum, n := new(big.Rat), int64(0)
	for k := range all {
		if all[k] > 0 {
			n++
			sum.Add(sum, big.NewRat(int64(right[k]), int64(all[k])))
		}
	}
	return sum.Quo(sum, big.NewRat(max(1, n), 1))
}

// byChanges is the mean credit of the changes of the condition, how many of them were followed within the time that is
// given, and the first that was not. A change that the next one comes too soon after is none to follow.
func (x *together) byChanges(t *display.Track, frames []seen, spans []span) (share *big.Rat, followed, n int,
	late *Difference) {
	shown := x.matched(t, frames)
	share = new(big.Rat)
	for i := 1; i < len(spans); i++ {
		s := spans[i]
		if s.to-s.from <= x.within || x.outside && !s.holds {
			continue
		}
		n++
		off := x.distance(shown, s, spans[i-1].from)
		credit := falling(off, x.within)
		if held := x.rightFor(shown, s, s.from+max(0, off)); held != nil {
			credit.Mul(credit, held)
		}
		share.Add(share, credit)
		if credit.Cmp(big.NewRat(99, 100)) >= 0 {
			followed++
			continue
		}
		if late == nil {
			late = &Difference{At: s.from, Expected: x.follows(s), Seen: "never", By: place(t, s.from+off)}
			switch {
			case off < 0:
				late.Seen = (-off).Brief() + " early"
			case off > x.within && s.from+off < s.to:
				late.Seen = off.Brief() + " late"
			case s.from+off < s.to:
				late.Seen = "for a part of the time only"
			}
		}
	}
	if n > 0 {
		share.Quo(share, big.NewRat(int64(n), 1))
	}
	return share, followed, n, late
}

// follows returns what the display must do at a change.
func (x *together) follows(s span) string {
	if s.holds {
		return fmt.Sprintf("%s within %s", x.want, x.within.Short())
	}
	return fmt.Sprintf("%s to end within %s", x.want, x.within.Short())
}

// distance is how far from a change the display changed: later, or before it, if it then did as it must before the
// change. A display that never followed is as late as the stretch is long.
func (x *together) distance(shown []span, s span, before clock.Time) clock.Time {
	for i, m := range shown {
		switch {
		case m.to <= s.from || m.holds != s.holds:
			continue
		case m.from >= s.to:
			return s.to - s.from
		case m.from >= s.from:
			return m.from - s.from
		case x.outside && s.holds: // it may have been there before
			return 0
		case i == 0: // it never did anything else
			return before - s.from
		}
		return max(m.from, before) - s.from
	}
	return s.to - s.from
}

// rightFor is the share of the rest of a stretch for which the display does as it must; nil where nothing is left.
func (x *together) rightFor(shown []span, s span, from clock.Time) *big.Rat {
	if from >= s.to {
		return nil
	}
	right := clock.Time(0)
	for _, m := range shown {
		if m.holds == s.holds {
			right += max(0, min(m.to, s.to)-max(m.from, from))
		}
	}
	return big.NewRat(int64(right), int64(s.to-from))
}

// falling is 1 up to a distance, and falls in a line to 0 at three times that.
func falling(off, within clock.Time) *big.Rat {
	off = max(off, -off)
	switch {
	case off <= within:
		return big.NewRat(1, 1)
	case off >= 3*within:
		return new(big.Rat)
	}
	return big.NewRat(int64(3*within-off), int64(2*within))
}
