package fault

import (
	"cmp"
	"maps"
	"slices"
	"strings"
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

// with is the same where some edges lead elsewhere.
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
			case len(a.inputs) == 0 && before != a.wanted: // it changes by itself
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
	moves, known := m.moves(), slices.SortedFunc(maps.Keys(m.to), byState)
	for _, at := range known {
		for _, next := range known {
			if next.state != m.to[at] || slices.Contains(moves, at.input) || !slices.Contains(moves, next.input) {
				continue
			}
			if here := (edge{at.state, next.input}); m.to[here] == "" {
				m.to[here] = m.to[next]
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
		state, before := m.first, m.first
		for i, a := range answers {
			if itself := i > 0 && len(a.inputs) == 0 && a.wanted != before; itself {
				state, before = a.shown, a.wanted
				continue
			}
			before = a.wanted
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
	}, byState)
}

func byState(a, b edge) int { return cmp.Or(cmp.Compare(a.state, b.state), byName(a.input, b.input)) }

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

// driving gives the transitions that are expected, of which something tells how they go instead; where numbers tell
// more, that is left to them.
func (s *Subject) driving(other func(trials map[string][]answer, m transitions) string) []Size {
	if s.drivenByNumber() {
		return nil
	}
	trials := s.behindInputs(false)
	m, ok := learnt(trials)
	if !ok {
		trials = s.behindInputs(true)
		m, ok = learnt(trials)
	}
	if !ok || len(seenIn(trials)) < 2 { // it never changes
		return nil
	}
	if text := other(trials, m); text != "" {
		return []Size{{Text: text, Certain: true, Reel: s.answersMended(trials)}}
	}
	return nil
}

// moving is driving by each input that leads through states, until one tells something.
func (s *Subject) moving(other func(trials map[string][]answer, m transitions, of input) string) []Size {
	return s.driving(func(trials map[string][]answer, m transitions) (text string) {
		for _, of := range m.moves() {
			if text = other(trials, m, of); text != "" {
				break
			}
		}
		return text
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
