// Package diagnosis finds likely causes of lost marks: it proposes faults, tests each by repairing it, and judges
// again. What cannot be repaired is reported by its symptoms.
package diagnosis

import (
	"cmp"
	"context"
	"fmt"
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// Seen is one trial as it was run and judged.
type Seen struct {
	Reel     *reel.Reel
	Verdicts []judge.Verdict
}

// Repairer judges and runs on behalf of advice.
type Repairer interface {
	// Score gives the exact marks of one trial for a reel.
	Score(trial int, r *reel.Reel) *big.Rat
	// Marks gives the exact marks of each expectation of a trial, before anything that adds them up.
	Marks(trial int, r *reel.Reel) []*big.Rat
	// Replay gives what a changed bench shows of what the program did at the chip's pins on the bench as it is. held is
	// false where that tells nothing: the program would have been told something else, or there is no tape of it.
	Replay(ctx context.Context, x *exercise.Exercise, trial int) (r *reel.Reel, held bool, err error)
	// Run runs the firmware on a changed exercise for one trial. It is ended as too much where it takes more than an
	// effort.
	Run(ctx context.Context, x *exercise.Exercise, trial int, effort int64) (*reel.Reel, error)
	// Alterations runs the program as it is, and lists how it may have been meant in one place of what was carried out.
	Alterations(ctx context.Context, x *exercise.Exercise, trial int, hints machine.Hints) (r *reel.Reel,
		out []machine.Alteration, err error)
	// Attempt runs the firmware like Run, and tells the effort; r is nil where that is too much, or where displays show
	// something else at one of the points, and ends early at one that says so.
	Attempt(ctx context.Context, x *exercise.Exercise, trial int, effort int64, points []Point) (r *reel.Reel,
		spent int64, err error)
}

// Fidelity is how a finding was tested.
type Fidelity string

// The fidelities.
const (
	OnReel     Fidelity = "reel"   // what was seen, changed and judged again
	OnReplay   Fidelity = "replay" // what the program did at its pins, played through a changed bench
	Rerun      Fidelity = "run"    // run again on a changed bench
	BySymptoms Fidelity = ""       // told by its signs alone
)

// Finding is a likely cause.
type Finding struct {
	Code     finding.Code
	Text     string
	Part     string
	More     []string // other parts that it is about
	Trial    int      // where it shows first
	At       clock.Time
	Evidence []string
	By       *machine.Place
	Line     *firmware.Line // that it is about, where that is known without By
	// the exact marks with this repaired, and with those before it that it builds on; nil for by signs
	Marks    *big.Rat
	Fidelity Fidelity
	// After are the exact marks of each expectation of each trial with this repaired, and those before it; nil for by
	// symptoms.
	After [][]*big.Rat
	// Cured are the notes of the run that it does not make with this repaired: they follow from it.
	Cured []string
	// Tested tells that the repair is a rule that mends more than it was made from, or was run again: it has a price.
	Tested bool
}

// Bounds of the search.
const (
	effort    = 30      // percent of the cycles of the marked runs that running again may interpret
	minReruns = 2       // of them, even if they take more than that together
	most      = 20      // times the effort of the marked run for one, at most: who works takes more than who waits ...
	mostOfAll = 4       // ... and times what all may take
	least     = 100e6   // effort that any may take, where the program stopped before it had done much
	maxKept   = 100     // reels of changed benches that are kept: a second cause is tried on the same ones
	maxSecond = 3       // first causes to which a second one is looked for
	maxHidden = 10      // more of those that bring nothing by themselves
	maxFound  = 4       // findings told
	maxJudged = 400_000 // frames that are judged again while two causes are looked for
)

// candidate is a repair that was tried.
type candidate struct {
	fault *fault.Fault
	size  fault.Size
	part  string
	more  []string // other parts that it concerns in the same way
	marks *big.Rat
	reels []*reel.Reel
	order int
	tier  Fidelity // how it was tested
	one   one
	by    *machine.Place // the place of the program that is changed; nil for other repairs
	line  *firmware.Line // of its source, where that is known
}

// ruled reports whether a rule of numbers or of time makes one state of another: it must hold throughout, since many
// causes look like it for a while.
func (c candidate) ruled() bool {
	return c.size.Throughout || c.fault.Vague && !c.fault.Once && !c.size.Certain
}

// one is a size of a fault on parts of a kind.
type one struct {
	fault *fault.Fault
	kind  *part.Kind
	size  int
}

// Advice is what a search came to.
type Advice struct {
	Findings []Finding
	// CutOff tells that something is left unexplained, and that the search ended at its limit before everything was
	// tried.
	CutOff bool
}

type search struct {
	ctx      context.Context
	x        *exercise.Exercise
	seen     []Seen
	repairer Repairer
	reruns   int
	spent    int64 // instructions and edges of reruns
	replayed int64 // of replays
	budget   int64
	kept     map[string]rerun
	judged   int      // frames that were judged again
	marks    *big.Rat // without any repair
	full     *big.Rat
	cutOff   bool // not everything was tried
	twins    []int
}

// Find gives the causes of lost marks, the best explanation first; none where nothing was lost. An error means that ctx
// was cancelled.
func Find(ctx context.Context, x *exercise.Exercise, seen []Seen, m Repairer) (Advice, error) {
	s := &search{ctx: ctx, x: x, seen: seen, repairer: m, full: x.Marks(), kept: map[string]rerun{}}
	for _, row := range x.ByHand {
		s.full.Sub(s.full, row.Marks)
	}
	var reels []*reel.Reel
	var verdicts [][]judge.Verdict
	lost := false
	for _, t := range seen {
		reels, verdicts = append(reels, t.Reel), append(verdicts, t.Verdicts)
		s.budget += t.Reel.Counters.Cycles * effort / 100
		for _, v := range t.Verdicts {
			lost = lost || v.Outcome != judge.Met
		}
	}
	if !lost {
		return Advice{}, nil
	}
	s.marks = s.score(reels)
	if s.marks.Cmp(s.full) >= 0 {
		return Advice{}, nil
	}
	first, err := s.try(reels, verdicts, s.marks, nil)
	if err != nil {
		return Advice{}, err
	}
	var found []Finding
	told, chain := symptoms(all(), x, seen), best(first)
	if s.doubtful(chain) { // else signs add nothing
		if told, err = s.unfollowed(told, reels, verdicts); err != nil {
			return Advice{}, err
		}
	}
	// no repair helps, and signs leave no doubt
	sure := len(first) == 0 && slices.ContainsFunc(told, leavesNoDoubt)
	if explained := len(chain) > 0 && (chain[0].marks.Cmp(s.full) >= 0 || chain[0].fault.Whole &&
		s.nearly(chain[0].marks) || chain[0].certain() && s.rounded(chain[0].marks)); !explained && !sure {
		longer, err := s.second(first, reels, verdicts)
		if err != nil {
			return Advice{}, err
		}
		if longer != nil && (contains(first, longer[0]) || longer[1].marks.Cmp(s.part(2)) >= 0) &&
			(len(chain) == 0 || longer[1].marks.Cmp(chain[0].marks) > 0) {
			chain = longer // where neither alone helps, both together must explain much
		}
	}
	for _, c := range [][]candidate{chain, best(first), s.undisputed(first), nil} {
		if chain = c; s.explains(c) {
			break
		}
	}
	if len(chain) == 2 && !s.nearly(chain[1].marks) && contains(first, chain[0]) {
		chain = chain[:1] // the second may well be a trace of what is left
	}
	// nothing follows an input: that leaves no doubt, and repairs that bring back only some of it, or that many causes
	// could bring about, are about its traces
	traces := len(chain) > 0 && s.doubtful(chain) ||
		slices.ContainsFunc(chain, func(c candidate) bool { return !c.certain() })
	if traces && slices.ContainsFunc(told, func(f Finding) bool {
		return finding.Of(f.Code).Sure && finding.Of(f.Code).Input
	}) {
		chain = nil
	}
	if slices.ContainsFunc(told, chance) && !slices.ContainsFunc(chain, candidate.isFact) {
		chain = nil // an input is read that nothing defines: whatever else fits may be chance
	}
	if !s.settled(chain) {
		c, err := s.altered(reels, verdicts, slices.ContainsFunc(told, isFact))
		if err != nil {
			return Advice{}, err
		}
		if c != nil {
			chain = []candidate{*c}
		} else if slices.ContainsFunc(told, unseen) {
			// it tells enough
		} else if f, err := s.withoutInput(reels, verdicts); err != nil {
			return Advice{}, err
		} else if f != nil && goesFirst(*f, len(chain) == 0, told) && !s.endsByItself(*f, told) {
			chain, told = nil, []Finding{*f}
		}
	}
	for i, c := range chain {
		before := reels
		if i > 0 {
			before = chain[i-1].reels
		}
		found = append(found, s.report(c, before))
	}
	// what follows from what is repaired is no sign of anything else, unless many causes could bring that about
	if slices.ContainsFunc(chain, candidate.certain) {
		left := symptoms(all(), x, s.repaired(chain[len(chain)-1].reels))
		told = slices.DeleteFunc(told, func(f Finding) bool {
			return !instead(f, found) && !slices.ContainsFunc(left, func(g Finding) bool {
				return g.Code == f.Code && g.Part == f.Part
			})
		})
	}
	// what is wrong everywhere brings the rest about, but facts
	if len(chain) == 0 && !s.noted() && !slices.ContainsFunc(told, isFact) {
		if everywhere := symptoms(written, x, seen); len(everywhere) > 0 {
			told = everywhere
		}
	}
	for _, f := range told {
		if len(found) == maxFound || len(chain) > 0 && !s.doubtful(chain) && !instead(f, found) { // or all is explained
			continue
		}
		if !slices.ContainsFunc(found, func(g Finding) bool {
			return finding.Of(g.Code).Covers(finding.Of(f.Code)) &&
				(g.about(f.Part) || x.Part(g.Part).Kind.Geometry == nil || finding.Of(f.Code).Input ||
					finding.Of(g.Code).Whole || followsFrom(f, g))
		}) {
			found = append(found, f)
		}
	}
	found = stated(found)
	for _, signs := range [][]symptom{readings, fields} {
		if len(found) == 0 && !s.noted() {
			found = append(found, symptoms(signs, x, seen)...)
		}
	}
	if s.doubtful(chain) { // strong signs go first
		slices.SortStableFunc(found, func(a, b Finding) int { return strength(b) - strength(a) })
	}
	found = s.independent(found)
	if len(found) > 0 && found[0].Fidelity == BySymptoms && s.follows(chain) {
		found = slices.DeleteFunc(found, func(f Finding) bool { return f.Fidelity != BySymptoms })
	}
	explained := len(chain) > 0 && s.rounded(chain[len(chain)-1].marks) ||
		slices.ContainsFunc(found, func(f Finding) bool { return strength(f) > 0 })
	return Advice{found, s.cutOff && !explained}, nil
}

// nearly tells whether marks are all but full: where all time is stretched, that of contacts is, too.
func (s *search) nearly(marks *big.Rat) bool {
	left := new(big.Rat).Sub(s.full, marks)
	return left.Mul(left, big.NewRat(10, 1)).Cmp(s.full) <= 0
}

// rounded tells whether marks are full once they are rounded: what is left is too little for a cause of its own.
func (s *search) rounded(marks *big.Rat) bool {
	left := new(big.Rat).Sub(s.full, marks)
	return left.Mul(left, big.NewRat(2, 1)).Cmp(s.x.Step) <= 0
}

// repaired are the trials as they are with a repair.
func (s *search) repaired(reels []*reel.Reel) (out []Seen) {
	for i, r := range reels {
		one := Seen{Reel: r}
		for _, e := range s.x.Trials[i].Expect {
			one.Verdicts = append(one.Verdicts, e.Judge(r))
		}
		out = append(out, one)
	}
	return out
}

func contains(list []candidate, c candidate) bool {
	return slices.ContainsFunc(list, func(o candidate) bool { return o.fault == c.fault && o.part == c.part })
}

// doubtful reports whether a chain of repairs leaves something unexplained, or repairs numbers and texts alone, which
// many causes can bring about.
func (s *search) doubtful(chain []candidate) bool {
	if len(chain) == 0 || chain[len(chain)-1].marks.Cmp(s.full) < 0 {
		return true
	}
	return !slices.ContainsFunc(chain, candidate.certain)
}

// certain reports whether few causes but this one could bring about what it repairs.
func (c candidate) certain() bool {
	return !c.fault.Vague || c.size.Certain || c.fault.Value && c.tier == Rerun
}

// instead reports whether a sign that leaves no doubt stands for some of what was found, which it brings with it.
func instead(f Finding, found []Finding) bool {
	return strength(f) > 0 && slices.ContainsFunc(found, func(g Finding) bool {
		return slices.Contains(finding.Of(f.Code).Subsumes, g.Code) && f.about(g.Part)
	})
}

// chance reports whether a sign is a fact of an input.
func chance(f Finding) bool { return finding.Of(f.Code).Fact && finding.Of(f.Code).Input }

// isFact reports whether what is repaired is a fact, too, or an input.
func (c candidate) isFact() bool { return c.fault.Fact || finding.Of(c.fault.Code).Input }

// about reports whether a finding is about a part.
func (f *Finding) about(part string) bool { return f.Part == part || slices.Contains(f.More, part) }

// goesFirst reports whether what leaving out an input told goes before what was found: an input that nothing follows
// does, a state that goes on only where there is nothing else.
func goesFirst(f Finding, unexplained bool, told []Finding) bool {
	if f.Code == "goes-on" {
		return unexplained && len(told) == 0
	}
	return finding.Of(f.Code).Input || !slices.ContainsFunc(told, leavesNoDoubt)
}

// endsByItself reports whether a sign tells that a display never goes dark again which should have done so by itself,
// sooner than an input that nothing follows was used.
func (s *search) endsByItself(f Finding, told []Finding) bool {
	return f.Code == ignoredKey && slices.ContainsFunc(told, func(g Finding) bool {
		return g.Code == display.NeverClears.Code && g.about(f.Part) &&
			slices.ContainsFunc(s.seen[g.Trial].Verdicts, func(v judge.Verdict) bool {
				return v.Display == g.Part && slices.ContainsFunc(v.Alignment, func(p judge.Pair) bool {
					if p.Operation != judge.Mistimed || p.Seen.From != g.At {
						return false
					}
					n, _ := endedBy(p, s.seen[g.Trial].Reel.Cues)
					return n < 0
				})
			})
	})
}

// followsFrom reports whether a limit is in another place since the value that it is about is shown by the wrong scale.
func followsFrom(f, g Finding) bool { return f.Code == "edge" && g.Code == "scale" }

func leavesNoDoubt(f Finding) bool { return finding.Of(f.Code).Sure }

// strength is how much a sign tells that leaves no doubt: what is wrong more than what is seen alone; 0 for all others.
func strength(f Finding) int {
	switch e := finding.Of(f.Code); {
	case f.Fidelity != BySymptoms || !e.Sure:
		return 0
	case e.Seen:
		return 1
	default:
		return 2
	}
}

// try tests all faults on all parts that had a part in what went wrong, those on the reel first. What changes nothing
// for the better is left out.
func (s *search) try(reels []*reel.Reel, verdicts [][]judge.Verdict, before *big.Rat, skip *candidate) (out []candidate,
	err error) {
	worth := func(c candidate) {
		gain := new(big.Rat).Sub(c.marks, before)
		lost := new(big.Rat).Sub(s.full, before)
		if gain.Sign() > 0 && gain.Cmp(lost.Quo(lost, big.NewRat(8, 1))) >= 0 {
			out = append(out, c)
		}
	}
	var later []candidate
	var tried sets
	faults := fault.All()
	for _, p := range s.x.Subjects() {
		subject := fault.NewSubject(s.x, p, reels, verdicts)
		if p.Kind.Geometry != nil && !s.concerns(verdicts, p.Name) {
			continue
		}
		for order, f := range faults {
			if skip != nil && skip.fault == f && skip.part == p.Name {
				continue
			}
			if f.Wiring && !f.Partly && p.Kind.Geometry != nil && everRight(verdicts, p.Name) {
				continue
			}
			sizes := f.Sizes(subject)
			tried.add(f, order, p, sizes)
			for n, size := range sizes {
				c := candidate{fault: f, size: size, part: p.Name, order: order, one: one{f, p.Kind, n}}
				if size.Reel == nil {
					later = append(later, c)
					continue
				}
				for _, r := range reels {
					c.reels = append(c.reels, size.Reel(r))
				}
				c.marks, c.tier = s.score(c.reels), OnReel
				worth(c)
			}
			if err := s.ctx.Err(); err != nil {
				return nil, err
			}
		}
	}
	all := func(c candidate) bool { return c.marks.Cmp(s.full) >= 0 && !c.fault.Vague }
	if slices.ContainsFunc(out, all) {
		return out, nil
	}
	var first []candidate // those on all parts of a kind: where that is of no use, none is on a single one
	for _, c := range tried.together() {
		if c.size.Reel == nil {
			first = append(first, c)
			continue
		}
		for _, r := range reels {
			c.reels = append(c.reels, c.size.Reel(r))
		}
		c.marks, c.tier = s.score(c.reels), OnReel
		worth(c)
	}
	if slices.ContainsFunc(out, all) {
		return out, nil
	}
	later = append(first, later...)
	slices.SortStableFunc(later, func(a, b candidate) int {
		return cmp.Or(likely(a)-likely(b), cmp.Compare(a.fault.Last(), b.fault.Last()))
	})
	again := &again{before: reels, verdicts: verdicts, skip: skip}
	useless := map[one]bool{}
	for _, c := range later {
		if useless[c.one] {
			continue
		}
		wiring := c.fault.Wiring && (skip == nil || skip.size.Bench == nil || skip.fault.Wiring)
		if s.over() && (!wiring || s.replayed > s.budget) {
			s.cutOff = true
			continue
		}
		again.played = s.over()
		s.reruns++
		x := s.x.Clone()
		c.size.Bench(x)
		if skip != nil && skip.size.Bench != nil {
			skip.size.Bench(x)
		}
		if err = s.runAgain(again, &c, x, wiring); err != nil {
			return nil, err
		}
		if c.reels == nil {
			useless[c.one] = c.more != nil
			continue
		}
		all := c.marks.Cmp(s.full) >= 0
		if c.fault.Value && disturbs(reels, c.reels, verdicts) ||
			!all && c.fault.Input && unmoved(reels, c.reels, verdicts) {
			continue
		}
		if worth(c); all {
			break
		}
	}
	return out, nil
}

// over reports whether nothing may be run any more.
func (s *search) over() bool { return s.reruns >= minReruns && s.spent > s.budget }

// unmoved reports whether a display is wrong before any input is used, and shows the same then with a repair of inputs:
// something else is wrong.
func unmoved(before, after []*reel.Reel, verdicts [][]judge.Verdict) bool {
	for i, all := range verdicts {
		if len(before[i].Cues) == 0 {
			continue
		}
		first := before[i].Cues[0].Start
		for _, v := range all {
			a, b := before[i].Track(v.Display), after[i].Track(v.Display)
			if v.First == nil || v.First.At >= first || a == nil || b == nil {
				continue
			}
			if x, y := a.At(first-1), b.At(first-1); x != nil && y != nil && a.Alike(x.State, y.State) {
				return true
			}
		}
	}
	return false
}

// disturbs reports whether a repair of a sensor's value changes what a display shows that is right throughout: what it
// shows then is of the same value, which was read as it is.
func disturbs(before, after []*reel.Reel, verdicts [][]judge.Verdict) bool {
	right := map[string]bool{}
	for _, all := range verdicts {
		for _, v := range all {
			if was, known := right[v.Display]; v.Display != "" {
				right[v.Display] = v.Outcome == judge.Met && (was || !known)
			}
		}
	}
	for i := range before {
		if i >= len(after) || after[i] == nil {
			continue
		}
		for k := range before[i].Tracks {
			a := &before[i].Tracks[k]
			if b := after[i].Track(a.Display); right[a.Display] && b != nil && !sameTrack(a, b) {
				return true
			}
		}
	}
	return false
}

func sameTrack(a, b *display.Track) bool {
	if len(a.Frames) != len(b.Frames) {
		return false
	}
	for i := range a.Frames {
		x, y := &a.Frames[i], &b.Frames[i]
		if !a.Alike(x.State, y.State) || x.From-y.From > sameTime || y.From-x.From > sameTime {
			return false
		}
	}
	return true
}

// sameTime is by how much the times of two tracks may differ that show the same.
const sameTime = 60 * clock.Millisecond

// likely orders those first that what was seen speaks for.
func likely(c candidate) int {
	if c.size.Likely {
		return 0
	}
	return 1
}

// everRight reports whether a display showed anything that was expected of it.
func everRight(verdicts [][]judge.Verdict, name string) bool {
	for _, t := range verdicts {
		for _, v := range t {
			if v.Display != name {
				continue
			}
			for _, l := range v.Alignment {
				if l.Operation == judge.Right || l.Operation == judge.Mistimed || l.Operation == judge.Near {
					return true
				}
			}
		}
	}
	return false
}

// concerns reports whether some expectation that was not met is about a display.
func (s *search) concerns(verdicts [][]judge.Verdict, name string) bool {
	for _, t := range verdicts {
		for _, v := range t {
			if v.Outcome != judge.Met && (v.Display == name || s.x.Holds(v.Display, name)) {
				return true
			}
		}
	}
	return false
}

// ordered gives candidates with those first that bring most; of equals by rank.
func ordered(all []candidate) []candidate {
	return slices.SortedStableFunc(slices.Values(all), func(a, b candidate) int {
		if c := b.marks.Cmp(a.marks); c != 0 {
			return c
		}
		return rank(a) - rank(b)
	})
}

// best gives the first of them, as a chain of one; none where there is none.
func best(all []candidate) []candidate { return ordered(all)[:min(1, len(all))] }

// rank prefers general causes, and those that were repaired without the help of what was expected.
func rank(c candidate) int {
	r := c.order
	if c.fault.Once || c.fault.Vague {
		r += 100
	}
	if c.fault.Explains {
		r += 200
	}
	if c.size.Reel == nil {
		r += 50
	}
	return r
}

// report makes a finding of a candidate.
func (s *search) report(c candidate, before []*reel.Reel) Finding {
	f := Finding{Code: c.fault.Code, Text: c.size.Text, Part: c.part, More: c.more, Marks: c.marks, Fidelity: c.tier,
		By: c.by, Line: c.line}
	for i := range s.seen {
		f.After = append(f.After, s.repairer.Marks(i, c.reels[i]))
	}
	if c.tier != OnReel {
		f.Cured = cured(before, c.reels)
	}
	gained := s.amiss(before) - s.amiss(c.reels)
	f.Tested = (!c.fault.Explains || c.size.Given > 0 && gained >= c.size.Given+mended) &&
		(!c.fault.Once || gained >= mended)
	for i, t := range s.seen {
		for _, v := range t.Verdicts {
			if v.First == nil || v.Outcome == judge.Met || f.Evidence != nil {
				continue
			}
			if v.Display == c.part || c.by != nil || s.x.Part(c.part).Kind.Geometry == nil {
				f.Trial, f.At, f.By = i, v.First.At, cmp.Or(c.by, v.First.By)
				f.Evidence = []string{fmt.Sprintf("at %s %s where %s was expected", v.First.At, v.First.Seen,
					v.First.Expected)}
			}
		}
	}
	return f
}
