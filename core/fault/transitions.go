package fault

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/reel"
)

// States that inputs lead through: what each input makes of each state is learnt from what is expected, and one change
// of that must give every state that was seen.

// edge is an input used in a state.
type edge struct {
	state string
	input
}

// transitions are what inputs make of states. A state that is not known has an empty name.
type transitions struct {
	first string // at power-on
	to    map[edge]string
}

// without is the same with some edges that lead elsewhere.
func (m transitions) with(to map[edge]string) transitions {
	all := maps.Clone(m.to)
	maps.Copy(all, to)
	return transitions{m.first, all}
}

// after is the state behind inputs.
func (m transitions) after(state string, inputs []used) string {
	for _, u := range inputs {
		for range abs(u.by) {
			state = m.to[edge{state, u.input}]
		}
	}
	return state
}

// mostStates bounds the states in all.
const mostStates = 40

// unlike marks a state that is none of those that are wanted.
const unlike = "\x00"

// learnt are the transitions that are expected; ok is false where an input does now this, now that.
func learnt(trials map[string][]answer) (m transitions, ok bool) {
	m.to = map[edge]string{}
	states := map[string]bool{}
	for _, all := range trials {
		before := ""
		for i, a := range all {
			states[a.wanted] = true
			switch {
			case i == 0 && len(a.inputs) == 0:
				if m.first != "" && m.first != a.wanted {
					return m, false
				}
				m.first = a.wanted
			case len(a.inputs) == 0 && before != "" && before != a.wanted:
				return m, false // it changes by itself
			case len(a.inputs) == 1 && abs(a.inputs[0].by) == 1 && before != "":
				at := edge{before, a.inputs[0].input}
				if was, is := m.to[at]; is && was != a.wanted {
					return m, false
				}
				m.to[at] = a.wanted
			}
			before = a.wanted
		}
	}
	m.alikeIn()
	m.stillIn(states)
	return m, len(states) >= 3 && len(states) <= mostStates
}

// alikeIn fills in what is not asked for: where an input only marks a state, one that moves leads on from both, with
// the mark and without it, to the same state.
func (m transitions) alikeIn() {
	moves := m.moves()
	for at, to := range maps.Clone(m.to) {
		for next, then := range maps.Clone(m.to) {
			if next.state != to || slices.Contains(moves, at.input) || !slices.Contains(moves, next.input) {
				continue
			}
			if here := (edge{at.state, next.input}); m.to[here] == "" {
				m.to[here] = then
			}
		}
	}
}

// shows reports whether the transitions give all states that were seen: at least half of them are known, and two
// of those are wrong.
func (m transitions) shows(trials map[string][]answer) bool {
	return m.showsAs(trials, nil, 2)
}

// showsAs is shows where some states look like others, with so many wrong ones at least.
func (m transitions) showsAs(trials map[string][]answer, like map[string]string, least int) bool {
	known, wrong, all := 0, 0, 0
	for _, answers := range trials {
		state := m.first
		for i, a := range answers {
			all++
			if state = m.after(state, a.inputs); i == 0 && m.first == "" && !a.wrong {
				state = a.wanted
			}
			looks := state
			if other, ok := like[state]; ok {
				looks = other
			}
			name, none := strings.CutPrefix(looks, unlike)
			switch {
			case state == "":
				continue
			case none && name != "" && a.shown != name, !none && a.shown != looks:
				return false
			}
			if known++; a.wrong {
				wrong++
			}
		}
	}
	return wrong >= least && known >= fewAnswers && 2*known >= all
}

// moves are the inputs that lead through at least three states, and how.
func (m transitions) moves() (out []input) {
	count := map[input]int{}
	for at, to := range m.to {
		if at.state != to {
			count[at.input]++
		}
	}
	for _, of := range slices.SortedFunc(maps.Keys(count), byName) {
		if count[of] >= 3 {
			out = append(out, of)
		}
	}
	return out
}

// others are the inputs but for one that change states.
func (m transitions) others(but input) (out []input) {
	for at, to := range m.to {
		if at.input != but && at.state != to && !slices.Contains(out, at.input) {
			out = append(out, at.input)
		}
	}
	slices.SortFunc(out, byName)
	return out
}

// edges are those of an input that lead elsewhere, by the states that they begin with.
func (m transitions) edges(of input) []edge {
	return slices.SortedFunc(func(yield func(edge) bool) {
		for at, to := range m.to {
			if at.input == of && at.state != to && !yield(at) {
				return
			}
		}
	}, func(a, b edge) int { return cmp.Compare(a.state, b.state) })
}

// stillIn fills in what is not asked for: an input that changes nothing wherever it is asked for does so in all states.
func (m transitions) stillIn(states map[string]bool) {
	changes := map[input]bool{}
	for at, to := range m.to {
		changes[at.input] = changes[at.input] || at.state != to
	}
	for of, does := range changes {
		for state := range states {
			if !does {
				m.to[edge{state, of}] = state
			}
		}
	}
}

// states are those that are wanted behind some input, or before it.
func (m transitions) states() []string {
	all := map[string]bool{}
	for at, to := range m.to {
		all[at.state], all[to] = true, true
	}
	return slices.Sorted(maps.Keys(all))
}

// seenIn are the states that were seen.
func seenIn(trials map[string][]answer) map[string]bool {
	seen := map[string]bool{}
	for _, all := range trials {
		for _, a := range all {
			seen[a.shown] = true
		}
	}
	return seen
}

// driving gives the transitions that are expected and every input that leads through states, until one is found to
// tell how it goes instead; where numbers tell more, that is left to them.
func (s *Subject) driving(other func(trials map[string][]answer, m transitions, of input) string) []Size {
	if s.drivenByNumber() {
		return nil
	}
	trials := s.behindInputs(false)
	m, ok := learnt(trials)
	if !ok {
		trials = s.behindInputs(true)
		m, ok = learnt(trials)
	}
	if !ok {
		return nil
	}
	if len(seenIn(trials)) < 2 { // it never changes
		return nil
	}
	moves := m.moves()
	if len(moves) == 0 {
		moves = []input{{}}
	}
	for _, of := range moves {
		if text := other(trials, m, of); text != "" {
			return []Size{{Text: text, Certain: true, Reel: s.answersMended(trials)}}
		}
	}
	return nil
}

// ignores looks for an input that does nothing.
func (s *Subject) ignores() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, _ input) string {
		inputs := map[input]bool{}
		for at, to := range m.to {
			inputs[at.input] = inputs[at.input] || at.state != to
		}
		for _, of := range slices.SortedFunc(maps.Keys(inputs), byName) {
			if inputs[of] && m.ignoring(of).shows(trials) {
				return nothingFollows(of)
			}
		}
		return ""
	})
}

// ignoring is the same where an input does nothing.
func (m transitions) ignoring(of input) transitions {
	stays := map[edge]string{}
	for _, state := range m.states() {
		stays[edge{state, of}] = state
	}
	return m.with(stays)
}

// looksLike looks for a state of lights that looks like another one.
func (s *Subject) looksLike() []Size {
	if s.shown == nil || s.shown.Geometry.Grid != nil || s.shown.Geometry.Digits() > 0 {
		return nil
	}
	return s.driving(func(trials map[string][]answer, m transitions, _ input) string {
		seen := seenIn(trials)
		for _, is := range m.states() {
			for _, looks := range slices.Sorted(maps.Keys(seen)) {
				if !seen[is] && m.showsAs(trials, map[string]string{is: looks}, 1) {
					return fmt.Sprintf("One pattern of %s is wrong: %s for %s.", s.Part.Name, looks, is)
				}
			}
		}
		return ""
	})
}

// leavesOut looks for a state that an input passes over, and maybe over others behind it.
func (s *Subject) leavesOut() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, of input) string {
		for _, at := range m.edges(of) {
			for _, to := range m.states() {
				gone := m.to[at]
				if to != gone && to != at.state && m.with(map[edge]string{at: to}).shows(trials) {
					return fmt.Sprintf("%s leaves out %s: after %s, %s leads to %s.", s.Part.Name, gone, at.state, of, to)
				}
			}
		}
		return ""
	})
}

// passesTwice looks for a state that takes one use of an input more to leave, or one that does not belong there.
func (s *Subject) passesTwice() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, of input) string {
		for _, at := range m.edges(of) {
			same := unlike + at.state
			if m.with(map[edge]string{at: same, {same, of}: m.to[at]}).shows(trials) {
				return fmt.Sprintf("%s takes two uses of %s to go on from %s to %s.", s.Part.Name, of, at.state, m.to[at])
			}
			if m.with(map[edge]string{at: unlike, {unlike, of}: m.to[at]}).shows(trials) {
				return fmt.Sprintf("%s shows one state too many %s.", s.Part.Name, between(at.state, m.to[at]))
			}
		}
		return ""
	})
}

// beginsElsewhere looks for another state at power-on, from which all goes on as it should.
func (s *Subject) beginsElsewhere() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, of input) string {
		if m.first == "" {
			return ""
		}
		for _, at := range m.edges(of) {
			if at.state != m.first && (transitions{at.state, m.to}).shows(trials) {
				return fmt.Sprintf("%s begins with %s where %s is expected.", s.Part.Name, at.state, m.first)
			}
		}
		before := m.with(map[edge]string{{unlike, of}: m.first})
		if before.first = unlike; before.shows(trials) {
			return fmt.Sprintf("%s shows %s only when %s is used, where it should begin with it.", s.Part.Name, m.first, of)
		}
		return ""
	})
}

// goesBackwards looks for an input that leads through its states in reverse.
func (s *Subject) goesBackwards() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, of input) string {
		turned := transitions{m.first, maps.Clone(m.to)}
		for _, at := range m.edges(of) {
			delete(turned.to, at)
		}
		for _, at := range m.edges(of) {
			turned.to[edge{m.to[at], of}] = at.state
		}
		if turned.shows(trials) {
			return fmt.Sprintf("%s leads through the states of %s in reverse.", of, s.Part.Name)
		}
		for _, back := range m.others(of) {
			same := transitions{m.first, maps.Clone(m.to)}
			for _, state := range m.states() {
				delete(same.to, edge{state, back})
			}
			for _, at := range m.edges(of) {
				same.to[edge{at.state, back}] = m.to[at]
			}
			if len(m.edges(back)) > 1 && same.shows(trials) {
				return fmt.Sprintf("%s leads through the states of %s as %s does, where it should lead back.", back, s.Part.Name, of)
			}
		}
		return ""
	})
}

// setsOther looks for an input that leads to one state from all others, and to another one than it should.
func (s *Subject) setsOther() []Size {
	return s.driving(func(trials map[string][]answer, m transitions, _ input) string {
		to, seen, moves := map[input]map[string]bool{}, seenIn(trials), map[input]bool{}
		for _, of := range m.moves() {
			moves[of] = true
		}
		for at, state := range m.to {
			if to[at.input] == nil {
				to[at.input] = map[string]bool{}
			}
			to[at.input][state] = true
		}
		for _, of := range slices.SortedFunc(maps.Keys(to), byName) {
			for _, shown := range slices.Sorted(maps.Keys(seen)) {
				always, from := map[edge]string{}, 0
				for at := range m.to {
					always[edge{at.state, of}] = shown
					if at.input == of {
						from++
					}
				}
				if len(to[of]) == 1 && from >= 1 && (from > 1 || !moves[of]) && !m.ignoring(of).shows(trials) &&
					m.with(always).shows(trials) {
					wanted := slices.Collect(maps.Keys(to[of]))[0]
					return fmt.Sprintf("%s sets %s to %s, where %s is expected.", of, s.Part.Name, shown, wanted)
				}
			}
		}
		return ""
	})
}

func init() {
	register(&Fault{Entry: finding.Entry{Code: "pattern", Price: finding.Single, Doc: "the pattern of one symbol is wrong",
		Vague: true}, Once: true, Sizes: (*Subject).looksLike})
	register(&Fault{Entry: finding.Entry{Code: "ignored-key", Price: finding.Behaviour, Input: true, Order: 8,
		Doc: "a button, or a key, is never answered", Catch: "use the input, and read the display behind it", Vague: true,
		Subsumes: []finding.Code{"dark", "never-clears", "never-changes", "goes-dark", "goes-on"}}, Once: true,
		Sizes: either(drivenIgnored.sizes, (*Subject).ignores)})
}

// either looks one way, and where nothing is found, another way.
func either(one, other func(*Subject) []Size) func(*Subject) []Size {
	return func(s *Subject) []Size {
		if out := one(s); out != nil {
			return out
		}
		return other(s)
	}
}

// between says where a step is.
func between(before, after string) string { return "between " + before + " and " + after }

// answersMended puts the wanted states in the places of those that were seen behind the same inputs.
func (s *Subject) answersMended(trials map[string][]answer) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		cuts := slices.Sorted(func(yield func(clock.Time) bool) {
			for _, c := range r.Cues {
				if !yield(c.Start) {
					return
				}
			}
		})
		return frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
			out := cutUp(t.Frames, cuts)
			for i := range out {
				k := slices.IndexFunc(trials[trial], func(a answer) bool { return a.at >= out[i].From })
				if k < 0 {
					continue
				}
				a := trials[trial][k]
				other := slices.ContainsFunc(cuts, func(at clock.Time) bool { return at > out[i].From && at <= a.at })
				if a.wrong && !other && t.Alike(out[i].State, a.other) {
					out[i].State = a.state
				}
			}
			return out
		})(r)
	}
}

// cutUp cuts frames at some moments: between what belongs to one input and to the next.
func cutUp(list []display.Frame, cuts []clock.Time) (out []display.Frame) {
	for _, f := range list {
		for _, at := range cuts {
			if at > f.From && at < f.To {
				head := f
				head.To, f.From = at, at
				out = append(out, head)
			}
		}
		out = append(out, f)
	}
	return out
}
