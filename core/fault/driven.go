package fault

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// Numbers that inputs drive: what each input does is learnt from what is expected behind it, and a limit that is
// elsewhere, or is none, must then give every number that was seen.

// input is a button, a key, or a knob that is turned one way.
type input struct {
	part, verb, key string
	back            bool
}

func (i input) String() string {
	switch {
	case i.verb == part.Turn && i.back:
		return i.part + " to the left"
	case i.verb == part.Turn:
		return i.part + " to the right"
	}
	return strings.TrimSpace(i.part + " " + i.key)
}

func byName(a, b input) int {
	return cmp.Or(cmp.Compare(a.part, b.part), cmp.Compare(a.verb, b.verb), cmp.Compare(a.String(), b.String()))
}

// used is an input that was used: which one, and how often or how far.
type used struct {
	input
	by int
}

// answer is a number that is asked for, beside the one that is seen, and the inputs that were used since the one before
// it.
type answer struct {
	at         clock.Time
	inputs     []used
	want, seen int
	readable   bool // what is seen is a number
	wrong      bool
	state      display.State // the wanted one
}

// effect is what an input does: so many steps, or it sets the number.
type effect struct {
	step, to int
	sets     bool
}

// Bounds: kinds of inputs, what one may do, steps at once, answers in all.
const (
	mostInputs  = 4
	mostEffects = 5
	mostSteps   = 1000
	mostAnswers = 60
	fewAnswers  = 4
	mostAhead   = 10 // by which a number begins too high or too low
)

// span is between which numbers a count is kept, and how.
type span struct {
	low, high    int
	over, under  bool // beyond the high end it begins again with the low one; beyond the low end with the high one
	above, below bool // it has no such end
}

// move gives the number after so many steps.
func (r span) move(n, by int) int {
	for ; by > 0; by-- {
		if n++; n > r.high && !r.above {
			if n = r.high; r.over {
				n = r.low
			}
		}
	}
	for ; by < 0; by++ {
		if n--; n < r.low && !r.below {
			if n = r.low; r.under {
				n = r.high
			}
		}
	}
	return n
}

// drivenFault is a mistake of a count that inputs drive.
type drivenFault struct {
	least int // right answers that it takes to learn from
	// other tells what makes the numbers that were seen of a model that gives those that are wanted; "" for nothing.
	other func(d *driven, m model) (text string)
}

// driven are the answers of a display.
type driven struct {
	name            string
	trials          map[string][]answer
	least, greatest int // seen
}

// sees reports whether a model gives all numbers that were seen.
func (d *driven) sees(m model) bool { return gives(d.trials, m, true) }

// wants reports whether a model gives all numbers that are wanted.
func (d *driven) wants(m model) bool { return gives(d.trials, m, false) }

func (f drivenFault) sizes(s *Subject) []Size {
	d := driven{name: s.Part.Name, trials: s.drivenAnswers()}
	wrong, right, begun := 0, 0, false
	for _, all := range d.trials {
		for _, a := range all {
			if a.wrong {
				wrong++
			} else {
				right++
			}
			if a.readable && !begun {
				d.least, d.greatest, begun = a.seen, a.seen, true
			}
			if a.readable {
				d.least, d.greatest = min(d.least, a.seen), max(d.greatest, a.seen)
			}
		}
	}
	if wrong == 0 || right < f.least || wrong+right < fewAnswers || wrong+right > mostAnswers {
		return nil
	}
	var out []Size
	learn(d.trials, func(m model) bool {
		if text := f.other(&d, m); text != "" {
			out = []Size{{Text: text, Reel: s.mended(d.trials)}}
		}
		return out != nil
	})
	return out
}

// drivenSteps looks for an input that counts by other steps than it should.
var drivenSteps = drivenFault{other: func(d *driven, m model) string {
	if d.wants(m.endless()) { // nothing is known of its ends
		m = m.endless()
	}
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		e := m.effects[of]
		for _, k := range []int{2, 3, 4, 5, 10} {
			steps := []int{e.step * k}
			if e.step%k == 0 {
				steps = append(steps, e.step/k)
			}
			for _, step := range steps {
				if !e.sets && d.sees(m.with(of, effect{step: step})) {
					return fmt.Sprintf("The number on %s changes by %d with each use of %s, where %d is expected.", d.name,
						abs(step), of, abs(e.step))
				}
			}
		}
	}
	return ""
}}

// drivenSets looks for an input that sets a number to another one than it should.
var drivenSets = drivenFault{other: func(d *driven, m model) string {
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		e := m.effects[of]
		for _, to := range []int{d.least, d.greatest} {
			if e.sets && to != e.to && d.sees(m.with(of, effect{to: to, sets: true})) {
				return fmt.Sprintf("%s sets the number on %s to %d, where %d is expected.", of, d.name, to, e.to)
			}
		}
	}
	return ""
}}

// drivenStart looks for a number that begins with another one than it should.
var drivenStart = drivenFault{other: func(d *driven, m model) string {
	for by := 1; by <= mostAhead; by++ {
		for _, first := range []int{m.first + by, m.first - by} {
			if d.sees(model{m.effects, first, m.span}) {
				return fmt.Sprintf("The number on %s begins with %d where %d is expected.", d.name, first, m.first)
			}
		}
	}
	return ""
}}

// drivenLimit looks for a limit that is elsewhere.
var drivenLimit = drivenFault{least: 3, other: func(d *driven, m model) string {
	kept := !d.wants(m.endless()) // the wanted numbers come to an end and stay there
	for _, try := range m.elsewhere(d.name, d.least, d.greatest) {
		shorter := try.low >= m.low && try.high <= m.high && (try.low > m.low || try.high < m.high)
		if try.low < try.high && try.span != m.span && (kept || shorter) &&
			d.sees(model{m.effects, m.first, try.span}) {
			return try.text
		}
	}
	return ""
}}

// with is the count where one input does something else.
func (m model) with(i input, e effect) model {
	m.effects = maps.Clone(m.effects)
	m.effects[i] = e
	return m
}

// endless is the count without ends.
func (m model) endless() model {
	m.above, m.below = true, true
	return m
}

// model is a count that inputs drive.
type model struct {
	effects map[input]effect
	first   int
	span
}

// limits are ends of a count that is wrong, and what to say of them.
type limits struct {
	span
	text string
}

// elsewhere are the limits that a count may have in place of its own: given the least and the greatest number seen.
func (m model) elsewhere(name string, least, greatest int) []limits {
	return []limits{
		{span{low: m.low, high: greatest, over: m.over, under: m.under},
			fmt.Sprintf("The number on %s ends at %d; %d is expected to be the last.", name, greatest, m.high)},
		{span{low: least, high: m.high, over: m.over, under: m.under},
			fmt.Sprintf("The number on %s ends at %d below; %d is expected to be the last.", name, least, m.low)},
		{span{low: m.low, high: m.high, over: true, under: true},
			fmt.Sprintf("The number on %s begins again beyond its ends, %d and %d, where it should stay.", name, m.low, m.high)},
		{span{low: m.low, high: m.high, over: true},
			fmt.Sprintf("After %d the number on %s begins again with %d, where it should stay.", m.high, name, m.low)},
		{span{low: m.low, high: m.high, under: true},
			fmt.Sprintf("Below %d the number on %s goes on with %d, where it should stay.", m.low, name, m.high)},
		{span{low: m.low, high: m.high, above: true, below: true},
			fmt.Sprintf("The number on %s goes beyond its ends, %d and %d.", name, m.low, m.high)},
		{span{low: m.low, high: m.high, above: true, under: m.under},
			fmt.Sprintf("The number on %s goes beyond %d, where it should stay.", name, m.high)},
		{span{low: m.low, high: m.high, below: true, over: m.over},
			fmt.Sprintf("The number on %s goes below %d, where it should stay.", name, m.low)},
		{span{low: m.low, high: m.high},
			fmt.Sprintf("The number on %s stays at its ends, %d and %d, where it should begin again.", name, m.low, m.high)},
	}
}

// drivenAnswers are those of each trial of the display, by time.
func (s *Subject) drivenAnswers() map[string][]answer {
	if _, ok := s.counting(); !ok || s.Verdicts == nil {
		return nil
	}
	out := map[string][]answer{}
	for trial, verdicts := range s.Verdicts {
		x := s.Exercise.Trials[trial]
		var all []answer
		for k, v := range verdicts {
			if kind := x.Expect[k].Kind; v.Display != s.Part.Name || kind != "answers" && kind != "reads" {
				continue
			}
			for _, l := range v.Alignment {
				if l.Expected == nil || l.Expected.State == nil || l.Seen == nil || l.Seen.State == nil {
					return nil
				}
				a := answer{at: l.Expected.From, state: *l.Expected.State,
					wrong: l.Operation == judge.Wrong || l.Operation == judge.Near}
				want, ok := s.number(*l.Expected.State)
				if !ok {
					continue // another text
				}
				a.want = want
				a.seen, a.readable = s.number(*l.Seen.State)
				all = append(all, a)
			}
		}
		slices.SortStableFunc(all, func(a, b answer) int { return cmp.Compare(a.at, b.at) })
		before := clock.Time(-1)
		for i := range all {
			for _, c := range s.Reels[trial].Cues {
				if c.Start <= before || c.Start > all[i].at {
					continue
				}
				by := 1
				if c.Verb == part.Set || c.Verb == part.Type {
					return nil // the number follows a value
				}
				for _, cue := range x.Cues {
					if cue.Verb == part.Turn && cue.Describe(cue.Part) == c.Text {
						by = int(max(-mostSteps, min(mostSteps, cue.By)))
					}
				}
				if c.Verb == part.Press || c.Verb == part.Hold || c.Verb == part.Turn {
					all[i].inputs = append(all[i].inputs, used{input{c.Part, c.Verb, c.Key, by < 0}, by})
				}
			}
			before = all[i].at
		}
		if len(all) > 0 {
			out[x.Name] = all
		}
	}
	return out
}

// learn gives what each input may do, the number at power-on and the ends of the count, by what is expected, until take
// takes one.
func learn(trials map[string][]answer, take func(model) bool) {
	may := map[input][]effect{}
	add := func(i input, e effect) {
		if !slices.Contains(may[i], e) && len(may[i]) < mostEffects {
			may[i] = append(may[i], e)
		}
	}
	starts, ends, begun := []int{0}, span{}, false
	for _, trial := range slices.Sorted(maps.Keys(trials)) {
		all := trials[trial]
		for i, a := range all {
			if !begun {
				ends.low, ends.high, begun = a.want, a.want, true
			}
			ends.low, ends.high = min(ends.low, a.want), max(ends.high, a.want)
			for _, u := range a.inputs {
				add(u.input, effect{step: 1})
				add(u.input, effect{step: -1})
			}
			if i == 0 && len(a.inputs) == 0 && !slices.Contains(starts, a.want) {
				starts = slices.Insert(starts, 0, a.want)
			}
			if i == 0 || len(a.inputs) != 1 {
				continue
			}
			u, by := a.inputs[0], a.want-all[i-1].want
			if by != 0 && u.by != 0 && by%u.by == 0 && max(by, -by) <= mostSteps {
				add(u.input, effect{step: by / u.by})
			}
			if u.by == 1 {
				add(u.input, effect{to: a.want, sets: true})
			}
		}
	}
	inputs := slices.SortedFunc(maps.Keys(may), byName)
	if len(inputs) == 0 || len(inputs) > mostInputs {
		return
	}
	for _, over := range []bool{false, true} {
		ends.over, ends.under = over, over
		for _, first := range starts {
			if assign(inputs, may, map[input]effect{}, func(e map[input]effect) bool {
				m := model{maps.Clone(e), first, ends}
				return gives(trials, m, false) && take(m)
			}) {
				return
			}
		}
	}
}

// assign tries the effects that each input may have, until all together are fit.
func assign(inputs []input, may map[input][]effect, so map[input]effect, fit func(map[input]effect) bool) bool {
	if len(inputs) == 0 {
		return fit(so)
	}
	return slices.ContainsFunc(may[inputs[0]], func(e effect) bool {
		so[inputs[0]] = e
		return assign(inputs[1:], may, so, fit)
	})
}

// gives reports whether a model gives all numbers: those that were seen, or those that are wanted. What cannot be read
// as a number may be one beyond the ends.
func gives(trials map[string][]answer, m model, seen bool) bool {
	for _, all := range trials {
		n := m.first
		for _, a := range all {
			for _, u := range a.inputs {
				e := m.effects[u.input]
				switch by := e.step * u.by; {
				case e.sets:
					n = e.to
				case abs(by) > mostSteps:
					return false
				default:
					n = m.move(n, by)
				}
			}
			switch {
			case !seen && n != a.want, seen && a.readable && n != a.seen,
				seen && !a.readable && n >= m.low && n <= m.high:
				return false
			}
		}
	}
	return true
}

// mended puts the wanted numbers in the places of those that were seen.
func (s *Subject) mended(trials map[string][]answer) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		return frames(s.Part.Name, func(trial string, t *display.Track) (out []display.Frame) {
			var cuts []clock.Time // between what belongs to one input and to the next
			for _, c := range r.Cues {
				cuts = append(cuts, c.Start)
			}
			for _, f := range t.Frames {
				for _, at := range cuts {
					if at > f.From && at < f.To {
						head := f
						head.To, f.From = at, at
						out = append(out, head)
					}
				}
				out = append(out, f)
			}
			by := 0 // how much is missing since the last input
			for i := range out {
				f := &out[i]
				n, ok := s.read(t, f.State)
				k := slices.IndexFunc(trials[trial], func(a answer) bool { return a.at >= f.From })
				if k >= 0 {
					a := trials[trial][k]
					between := slices.ContainsFunc(cuts, func(at clock.Time) bool { return at > f.From && at <= a.at })
					if !between && ok == a.readable && n == a.seen {
						if by = a.want - a.seen; !ok {
							f.State, by = a.state, 0
						}
					}
				}
				if ok && by != 0 && n+by >= 0 {
					f.State = s.write(t, f.State, n+by)
				}
			}
			return out
		})(r)
	}
}
