package fault

import (
	"fmt"
	"maps"
	"slices"

	"hemble/core/finding"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "pattern", Price: finding.Single, Doc: "the pattern of one symbol is wrong",
		Vague: true}, Once: true, Sizes: (*Subject).looksLike})
	register(&Fault{Entry: finding.Entry{Code: "ignored-key", Price: finding.Behaviour, Input: true, Order: 8,
		Doc: "a button, or a key, is never answered", Catch: "use the input, and read the display behind it", Vague: true,
		Subsumes: []finding.Code{"dark", "never-clears", "never-changes", "goes-dark", "goes-on"}}, Once: true,
		Sizes: either(drivenIgnored.sizes, (*Subject).ignores)})
}

// What may be wrong with states that inputs lead through: each looks for the one change of what is expected that gives
// every state that was seen.

// ignores looks for an input that does nothing.
func (s *Subject) ignores() []Size {
	return s.driving(func(trials map[string][]answer, m transitions) string {
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

// looksLike looks for a state of lights that looks like another one.
func (s *Subject) looksLike() []Size {
	if s.shown == nil || s.shown.Geometry.Grid != nil || s.shown.Geometry.Digits() > 0 {
		return nil
	}
	return s.driving(func(trials map[string][]answer, m transitions) string {
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
	return s.moving(func(trials map[string][]answer, m transitions, of input) string {
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
	return s.moving(func(trials map[string][]answer, m transitions, of input) string {
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
	return s.moving(func(trials map[string][]answer, m transitions, of input) string {
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
	return s.moving(func(trials map[string][]answer, m transitions, of input) string {
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
	return s.driving(func(trials map[string][]answer, m transitions) string {
		to := map[input]map[string]bool{}
		for at, state := range m.to {
			if to[at.input] == nil {
				to[at.input] = map[string]bool{}
			}
			to[at.input][state] = true
		}
		for _, of := range slices.SortedFunc(maps.Keys(to), byName) {
			if len(to[of]) > 1 || m.ignoring(of).shows(trials) {
				continue
			}
			for _, shown := range slices.Sorted(maps.Keys(seenIn(trials))) {
				always := map[edge]string{}
				for _, state := range m.states() {
					always[edge{state, of}] = shown
				}
				if m.with(always).shows(trials) {
					wanted := slices.Collect(maps.Keys(to[of]))[0]
					return fmt.Sprintf("%s sets %s to %s, where %s is expected.", of, s.Part.Name, shown, wanted)
				}
			}
		}
		return ""
	})
}

// between says where a step is.
func between(before, after string) string { return "between " + before + " and " + after }
