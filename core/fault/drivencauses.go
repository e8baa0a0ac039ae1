package fault

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"hemble/core/part"
)

// What may be wrong with a count that inputs drive: each looks for the one change of what is expected that gives every
// number that was seen.

// drivenSteps looks for an input that counts by other steps than it should, or a knob that does so both ways.
var drivenSteps = drivenFault{certain: true, other: func(d *driven, m model) string {
	if d.wants(m.endless()) { // nothing is known of its ends
		m = m.endless()
	}
	if d.byAndBy || drivenTurned.other(d, m) != "" {
		return ""
	}
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		e := m.effects[of]
		if !d.alone(of) || d.sees(m.with(of, effect{})) { // it does nothing: a step round to where it was is none
			continue
		}
		for _, k := range []int{2, 3, 4, 5, 10} {
			steps := []int{e.step * k}
			if e.step%k == 0 {
				steps = append(steps, e.step/k)
			}
			if seen := d.steps(of); k == 2 && len(seen) == 1 && d.uses(of) > 1 {
				steps = append(steps, seen[0])
			}
			for _, step := range steps {
				if e.sets || e.step == 0 || d.uses(of) < 2 { // one use may as well set it
					continue
				}
				others := []model{m.with(of, effect{step: step})}
				if back, ok := m.effects[of.turnedBack()]; ok && of.verb == part.Turn && back.step == e.step {
					others = append(others, others[0].with(of.turnedBack(), effect{step: step}))
				}
				for i, other := range others {
					loose := other
					loose.loose = true
					if !d.sees(other) && !d.sees(loose) {
						continue
					}
					if d.sees(m.with(of, effect{step: step + step/abs(step)})) { // nobody knows: it ends at a limit
						continue
					}
					name := of.String()
					if i > 0 {
						name = of.part
					}
					return fmt.Sprintf("The number on %s changes by %d with each use of %s, where %d is expected.", d.name,
						abs(step), name, abs(e.step))
				}
			}
		}
	}
	return ""
}}

// drivenTurned looks for an input that counts the other way.
var drivenTurned = drivenFault{certain: true, other: func(d *driven, m model) string {
	if d.least == d.greatest { // it never changes
		return ""
	}
	if d.wants(m.endless()) {
		m = m.endless()
	}
	way := map[bool]string{true: "up", false: "down"}
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		e := m.effects[of]
		if !e.sets && e.step != 0 && d.alone(of) && d.uses(of) > 1 && d.sees(m.with(of, effect{step: -e.step})) {
			return fmt.Sprintf("The number on %s goes %s with each use of %s, where it should go %s.", d.name, way[e.step < 0],
				of, way[e.step > 0])
		}
	}
	return ""
}}

// drivenBehind looks for a number that is what it should have been one use before.
var drivenBehind = drivenFault{certain: true, other: func(d *driven, m model) string {
	if d.least == d.greatest || !d.behind(m, false) && !d.behind(m, true) {
		return ""
	}
	return fmt.Sprintf("The number on %s is one use behind: it is shown before it is counted.", d.name)
}}

// behind reports whether each number that was seen is the one before the last use of an input, or of one that changed
// it; one that cannot be read may be that at power-on.
func (d *driven) behind(m model, changed bool) bool {
	wrong := 0
	for _, all := range d.trials {
		n, before := m.first, m.first
		for _, a := range all {
			for _, u := range a.inputs {
				e, last, then := m.effects[u.input], n, n
				if e.sets {
					then = e.to
				} else if abs(e.step*u.by) <= mostSteps {
					last = m.move(n, u.by-cmp.Compare(u.by, 0), e.step)
					then = m.move(n, u.by, e.step)
				}
				if n = then; !changed || last != then {
					before = last
				}
			}
			if a.readable && a.seen != before || !a.readable && before != m.first {
				return false
			}
			if a.wrong {
				wrong++
			}
		}
	}
	return wrong >= 2
}

// drivenIgnored looks for an input that does nothing.
var drivenIgnored = drivenFault{certain: true, other: func(d *driven, m model) string {
	if d.least == d.greatest { // it never changes
		return ""
	}
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		if e := m.effects[of]; (e.sets || e.step != 0) && d.alone(of) && d.sees(m.with(of, effect{})) {
			return nothingFollows(of)
		}
	}
	return ""
}}

func nothingFollows(of input) string {
	return fmt.Sprintf("Nothing follows when %s is used: the program does not look at it, or not at that time.", of)
}

// drivenSets looks for an input that sets a number to another one than it should.
var drivenSets = drivenFault{certain: true, other: func(d *driven, m model) string {
	for _, of := range slices.SortedFunc(maps.Keys(m.effects), byName) {
		e := m.effects[of]
		for _, to := range d.seen() {
			if e.sets && to != e.to && d.alone(of) && d.sees(m.with(of, effect{to: to, sets: true})) {
				return fmt.Sprintf("%s sets the number on %s to %d, where %d is expected.", of, d.name, to, e.to)
			}
		}
	}
	return ""
}}

// drivenStart looks for a number that begins with another one than it should.
var drivenStart = drivenFault{certain: true, other: func(d *driven, m model) string {
	for by := 1; by <= mostAhead; by++ {
		for _, first := range []int{m.first + by, m.first - by} {
			if (first >= 0 || m.first < 0) && d.sees(model{m.effects, first, m.span}) {
				return fmt.Sprintf("The number on %s begins with %d where %d is expected.", d.name, first, m.first)
			}
		}
	}
	return ""
}}

// drivenLimit looks for a limit that is elsewhere.
var drivenLimit = drivenFault{least: 3, other: func(d *driven, m model) string {
	if d.least == d.greatest { // it never changes
		return ""
	}
	if !slices.ContainsFunc(slices.Collect(maps.Keys(m.effects)), d.alone) { // nobody knows what counts
		return ""
	}
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

// limits are ends of a count that is wrong, and what to say of them.
type limits struct {
	span
	text string
}

// elsewhere are the limits that a count may have in place of its own: given the least and the greatest number seen.
func (m model) elsewhere(name string, least, greatest int) []limits {
	within := func(change func(*span)) span {
		r := span{low: m.low, high: m.high, first: m.low, last: m.high}
		change(&r)
		return r
	}
	return []limits{
		{within(func(r *span) { r.high, r.last, r.over, r.under = greatest, greatest, m.over, m.under }),
			fmt.Sprintf("The number on %s ends at %d; %d is expected to be the last.", name, greatest, m.high)},
		{within(func(r *span) { r.low, r.first, r.over, r.under = least, least, m.over, m.under }),
			fmt.Sprintf("The number on %s ends at %d below; %d is expected to be the last.", name, least, m.low)},
		{within(func(r *span) { r.high, r.over, r.under = greatest, m.over, m.under }),
			fmt.Sprintf("The number on %s begins again after %d; %d is expected to be the last.", name, greatest, m.high)},
		{within(func(r *span) { r.last, r.over, r.under = greatest, m.over, m.under }),
			fmt.Sprintf("Below %d the number on %s goes on with %d, where %d is expected.", m.low, name, greatest, m.high)},
		{within(func(r *span) { r.first, r.over, r.under = m.low+1, m.over, m.under }),
			fmt.Sprintf("After %d the number on %s goes on with %d, where %d is expected.", m.high, name, m.low+1, m.low)},
		{within(func(r *span) { r.over, r.under = true, true }), m.atEnds(name, true, true)},
		{within(func(r *span) { r.over = true }), m.atEnds(name, true, false)},
		{within(func(r *span) { r.under = true }), m.atEnds(name, false, true)},
		{within(func(*span) {}), m.atEnds(name, false, false)},
		{within(func(r *span) { r.above, r.below = true, true }),
			fmt.Sprintf("The number on %s goes beyond its ends, %d and %d.", name, m.low, m.high)},
		{within(func(r *span) { r.above, r.under = true, m.under }),
			fmt.Sprintf("The number on %s goes beyond %d, where it should %s.", name, m.high, m.end())},
		{within(func(r *span) { r.below, r.over = true, m.over }),
			fmt.Sprintf("The number on %s goes below %d, where it should %s.", name, m.low, m.end())},
	}
}

// atEnds tells of a number that begins again at some of its ends, and stays at others, where it should not.
func (m model) atEnds(name string, over, under bool) string {
	switch {
	case over == m.over && under == m.under:
		return ""
	case m.over && !over && !under:
		return fmt.Sprintf("The number on %s stays at its ends, %d and %d, where it should begin again.", name, m.low, m.high)
	case m.over && !over:
		return fmt.Sprintf("The number on %s stays at %d, where it should begin again with %d.", name, m.high, m.first)
	case m.over:
		return fmt.Sprintf("The number on %s stays at %d, where it should go on with %d.", name, m.low, m.last)
	case over && under:
		return fmt.Sprintf("The number on %s begins again beyond its ends, %d and %d, where it should stay.", name, m.low, m.high)
	case over:
		return fmt.Sprintf("After %d the number on %s begins again with %d, where it should stay.", m.high, name, m.low)
	default:
		return fmt.Sprintf("Below %d the number on %s goes on with %d, where it should stay.", m.low, name, m.high)
	}
}

// end is what the count does at its ends.
func (m model) end() string {
	if m.over {
		return "begin again"
	}
	return "stay"
}
