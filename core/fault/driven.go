package fault

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// Numbers that inputs drive: what each input does is learnt from what is expected behind it, and a limit that is
// elsewhere, or is none, must then give every number that was seen.

// input is a button, a key, or a knob that is turned one way. A press that is long is another input than a short one.
type input struct {
	part, verb, key string
	back, long      bool
}

func (i input) String() string {
	switch {
	case i.verb == part.Turn && i.back:
		return i.part + " to the left"
	case i.verb == part.Turn:
		return i.part + " to the right"
	case i.verb == part.Type:
		return i.key
	case i.long:
		return strings.TrimSpace(i.part+" "+i.key) + ", held"
	}
	return strings.TrimSpace(i.part + " " + i.key)
}

// turnedBack is the knob turned the other way.
func (i input) turnedBack() input {
	i.back = !i.back
	return i
}

func byName(a, b input) int {
	return cmp.Or(cmp.Compare(a.part, b.part), cmp.Compare(a.verb, b.verb), cmp.Compare(a.String(), b.String()))
}

// used is an input that was used: which one, and how often or how far.
type used struct {
	input
	by int
}

// answer is a state that is asked for, beside the one that is seen, and the inputs that were used since the one before
// it.
type answer struct {
	at            clock.Time
	inputs        []used
	wanted, shown string // the states in few words
	state, other  display.State
	wrong         bool

	want, seen int  // their numbers
	number     bool // a number is wanted
	readable   bool // what is seen is a number
	lost       bool // what is seen is no number, and has none of the wanted figures in its place
}

// effect is what an input does: so many steps, or it sets the number.
type effect struct {
	step, to int
	sets     bool
}

// Bounds: kinds of inputs, what one may do, steps at once, answers in all.
const (
	mostInputs  = 4
	mostEffects = 6
	mostSteps   = 1000
	mostAnswers = 60
	fewAnswers  = 4
	mostAhead   = 10 // by which a number begins too high or too low
)

// span is between which numbers a count is kept, and how.
type span struct {
	low, high    int
	over, under  bool // beyond the high end it begins again; beyond the low end with high numbers
	first, last  int  // what comes beyond the high end, and beyond the low one
	above, below bool // it has no such end
	loose        bool // it is looked at before a step, which may be longer
}

// move gives the number after so many steps of a length.
func (r span) move(n, times, step int) int {
	if times < 0 {
		times, step = -times, -step
	}
	if !r.loose {
		times, step = times*abs(step), cmp.Compare(step, 0)
	}
	for range times {
		switch {
		case step > 0 && n >= r.high && !r.above:
			if r.over {
				n = r.first
			}
		case step < 0 && n <= r.low && !r.below:
			if r.under {
				n = r.last
			}
		default:
			n += step
		}
	}
	return n
}

// drivenFault is a mistake of a count that inputs drive.
type drivenFault struct {
	least   int  // right answers that it takes to learn from
	certain bool // few other mistakes look like it
	// other tells what makes the numbers that were seen of a model that gives those that are wanted; "" for nothing.
	other func(d *driven, m model) (text string)
}

// driven are the answers of a display.
type driven struct {
	name            string
	trials          map[string][]answer
	least, greatest int  // seen
	byAndBy         bool // numbers are seen between one answer and the next
}

// seen are the numbers that were seen, in order.
func (d *driven) seen() []int {
	all := map[int]bool{}
	for _, answers := range d.trials {
		for _, a := range answers {
			if a.readable {
				all[a.seen] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(all))
}

// uses is how often an input is used in all.
func (d *driven) uses(of input) (n int) {
	for _, answers := range d.trials {
		for _, a := range answers {
			for _, u := range a.inputs {
				if u.input == of {
					n++
				}
			}
		}
	}
	return n
}

// alone reports whether some answer follows nothing but one input: what stands behind several may be of any of them.
func (d *driven) alone(of input) bool {
	for _, answers := range d.trials {
		for _, a := range answers {
			other := func(u used) bool { return u.input != of }
			if len(a.inputs) > 0 && !slices.ContainsFunc(a.inputs, other) {
				return true
			}
		}
	}
	return false
}

// steps are those that an input is seen to make, where it is used alone.
func (d *driven) steps(of input) (out []int) {
	for _, answers := range d.trials {
		for i := 1; i < len(answers); i++ {
			a, before := answers[i], answers[i-1]
			if len(a.inputs) != 1 || a.inputs[0].input != of || a.inputs[0].by == 0 || !a.readable || !before.readable {
				continue
			}
			by := a.seen - before.seen
			if step := by / a.inputs[0].by; by%a.inputs[0].by == 0 && step != 0 && abs(step) <= mostSteps &&
				!slices.Contains(out, step) {
				out = append(out, step)
			}
		}
	}
	slices.Sort(out)
	return out
}

// sees reports whether a model gives all numbers that were seen.
func (d *driven) sees(m model) bool { return gives(d.trials, m, true) }

// wants reports whether a model gives all numbers that are wanted.
func (d *driven) wants(m model) bool { return gives(d.trials, m, false) }

func (f drivenFault) sizes(s *Subject) []Size {
	for _, apart := range []bool{false, true} {
		d := driven{name: s.Part.Name, trials: s.drivenAnswers(apart)}
		if !f.enough(d.trials) {
			return nil
		}
		d.least, d.greatest = extremes(d.trials)
		d.byAndBy = s.byAndBy(d.trials)
		var out []Size
		if learn(d.trials, func(m model) bool {
			if text := f.other(&d, m); text != "" {
				out = []Size{{Text: text, Certain: f.certain, Reel: s.mended(d.trials)}}
			}
			return out != nil
		}) {
			return out
		}
	}
	return nil
}

// byAndBy reports whether most presses lead through several numbers: they are counted one by one.
func (s *Subject) byAndBy(trials map[string][]answer) bool {
	presses, several := 0, 0
	for _, r := range s.Reels {
		t := r.Track(s.Part.Name)
		if t == nil || trials[r.Trial] == nil {
			continue
		}
		for _, c := range r.Cues {
			if c.Verb != part.Press {
				continue
			}
			presses++
			frames := 0
			for _, f := range t.Frames {
				if _, ok := s.read(t, f.State); ok && f.From > c.Start && f.From <= c.End+soonest {
					frames++
				}
			}
			if frames > 1 {
				several++
			}
		}
	}
	return several > 0 && 2*several >= presses
}

// drivenByNumber reports whether what is expected of the display are numbers that inputs drive.
func (s *Subject) drivenByNumber() bool {
	for _, apart := range []bool{false, true} {
		if trials := s.drivenAnswers(apart); learn(trials, func(model) bool { return true }) {
			return !s.several(trials)
		}
	}
	return false
}

// several reports whether other numbers of the display should change, too.
func (s *Subject) several(trials map[string][]answer) bool {
	wants := map[int]map[int]bool{}
	for trial, all := range trials {
		i := slices.IndexFunc(s.Reels, func(r *reel.Reel) bool { return r.Trial == trial })
		if i < 0 {
			continue
		}
		t := s.Reels[i].Track(s.Part.Name)
		for _, a := range all {
			for nth := range Several {
				if n, ok := ReadNumber(t, a.state, nth); ok && nth != s.nth {
					if wants[nth] == nil {
						wants[nth] = map[int]bool{}
					}
					if wants[nth][n] = true; len(wants[nth]) > 1 {
						return true
					}
				}
			}
		}
	}
	return false
}

// enough reports whether there are answers to learn from, and wrong ones.
func (f drivenFault) enough(trials map[string][]answer) bool {
	wrong, right := 0, 0
	for _, all := range trials {
		for _, a := range all {
			if a.wrong {
				wrong++
			} else {
				right++
			}
		}
	}
	return wrong > 0 && (right >= f.least || right > 0 && wrong >= f.least+2) && wrong+right >= fewAnswers &&
		wrong+right <= mostAnswers
}

// extremes are the least and the greatest number that were seen.
func extremes(trials map[string][]answer) (least, greatest int) {
	begun := false
	for _, all := range trials {
		for _, a := range all {
			if !a.readable {
				continue
			}
			if !begun {
				least, greatest, begun = a.seen, a.seen, true
			}
			least, greatest = min(least, a.seen), max(greatest, a.seen)
		}
	}
	return least, greatest
}

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

// drivenAnswers are those of each trial of the display that ask for a number, by time.
func (s *Subject) drivenAnswers(apart bool) map[string][]answer {
	if _, ok := s.counting(); !ok {
		return nil
	}
	out := map[string][]answer{}
	for trial, all := range s.behindInputs(apart) {
		var inputs []used
		for _, a := range all {
			if slices.ContainsFunc(a.inputs, func(u used) bool { return u.verb == part.Type }) {
				return nil
			}
			if inputs = append(inputs, a.inputs...); a.number {
				a.inputs, inputs = inputs, nil
				a.lost = a.lost && !s.reported() // the display itself told why
				out[trial] = append(out[trial], a)
			}
		}
	}
	return out
}

// reported reports whether the part noted something in some run.
func (s *Subject) reported() bool {
	return slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool {
		return slices.ContainsFunc(r.Notes, func(n machine.Note) bool {
			return strings.HasPrefix(n.Code, s.Part.Name+" ")
		})
	})
}

// learn gives what each input may do, the number at power-on and the ends of the count, by what is expected, until take
// takes one; ok is false where nothing gives what is expected.
func learn(trials map[string][]answer, take func(model) bool) (ok bool) {
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
				add(u.input, effect{}) // it is about something else
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
		return false
	}
	for _, over := range []bool{false, true} {
		ends.over, ends.under, ends.first, ends.last = over, over, ends.low, ends.high
		for _, first := range starts {
			if assign(inputs, may, map[input]effect{}, func(e map[input]effect) bool {
				m := model{maps.Clone(e), first, ends}
				fits := gives(trials, m, false)
				ok = ok || fits
				return fits && take(m)
			}) {
				return true
			}
		}
	}
	return ok
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
	wrong, lost, right := !seen, false, 0 // one of the numbers seen is wrong, or beyond what can be shown
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
					n = m.move(n, u.by, e.step)
				}
			}
			wrong, lost = wrong || a.wrong && a.readable && a.seen != a.want, lost || a.wrong && a.lost
			if !a.wrong {
				right++
			}
			switch {
			case !seen && n != a.want, seen && a.readable && n != a.seen,
				seen && !a.readable && n >= m.low && n <= m.high:
				return false
			}
		}
	}
	return wrong || lost && right >= fewAnswers
}

// mended puts the wanted numbers in the places of those that were seen.
func (s *Subject) mended(trials map[string][]answer) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		cues := cuesOf(r)
		return frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
			out := cutUp(t.Frames, cues)
			by := 0 // how much is missing since the last input
			for i := range out {
				f := &out[i]
				n, ok := s.read(t, f.State)
				if a := next(trials[trial], f.From, cues); a != nil && ok == a.readable && n == a.seen {
					if by = a.want - a.seen; !ok || s.figures() || s.sameWords(t, a.state, f.State) {
						f.State, by = a.state, 0
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
