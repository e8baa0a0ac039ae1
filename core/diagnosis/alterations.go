package diagnosis

import (
	"cmp"
	"math/big"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Where no cause that is known explains everything, the program itself is changed, one place at a time, as its author
// may have meant it. A run up to a little behind the first difference tells which of the changes are of any use; those
// are run in full, and one counts only where everything is as expected then.

// Bounds of that.
const (
	behind     = clock.Second            // that a short run goes on behind the first difference ...
	overall    = 3                       // times that where a rhythm, or the like, differs
	dawdle     = 300 * clock.Millisecond // that vision takes at most to tell what was done
	starting   = 30 * clock.Millisecond  // in which a program is set up
	lasting    = 400 * clock.Millisecond // that something is shown for which the runs are compared by
	mostPoints = 8                       // at which they are compared
	forAltered = 300e6                   // effort for all of it ...
	forBuilt   = 100e6                   // and, where the program is built anew for a change, for that
	forMissing = 150e6                   // beside it, for what may be missing
	short      = 2e6                     // effort of a run that costs too little to be ended early
	slower     = 3                       // times the effort of the run as it is that one with a change may take ...
	slack      = 2e5                     // ... and that much
	wild       = 100e6                   // effort of a run that does something over and over, as fast as it can ...
	tame       = 20e6                    // ... and of one that does not
	more       = 4                       // times that for one that does more than it did
	each       = 1e5                     // that it takes to begin a run, where many are
	maxHints   = 4                       // of each kind
	unlike     = 3                       // percent by which a time differs that is a hint
)

// Point is what displays show at a time.
type Point struct {
	At     clock.Time
	States map[string]display.State
	// Ends tells that a run in which they all show that may be ended there: nothing has changed.
	Ends bool
}

// attempt is the trial on which changes of the program are tried.
type attempt struct {
	trial  int
	first  clock.Time         // the first difference
	by     *machine.Place     // that is behind it; nil where nobody knows
	bench  *exercise.Exercise // with a short trial
	points []Point            // before it, where all is as it should be
	marks  *big.Rat           // of the program as it is
	limit  int64              // effort of one run
	begun  clock.Time         // when something was first done
	born   bool               // it was there from the beginning: nothing led to it
	// overall tells that what differs first is judged as a whole, as a rhythm is: it takes a while to be seen.
	overall bool
}

// altered gives the change of one place of the program that makes everything as expected; nil where none was found.
// Where facts tell enough already, only what is likely is tried.
func (s *search) altered(reels []*reel.Reel, verdicts [][]judge.Verdict, facts bool) (*candidate, error) {
	a := firstDifference(reels, verdicts)
	if a == nil {
		return nil, nil
	}
	h := hints(verdicts)
	h.By = a.by
	h.Quiet, h.Since, h.Until = a.led(reels[a.trial])
	h.Told = numerals(example.ReplaceAllString(s.x.Brief, ""))
	base, list, err := s.begin(a, h)
	if facts {
		list = slices.DeleteFunc(list, func(c machine.Alteration) bool { return c.Rare > machine.Likely })
	}
	if err != nil || len(list) == 0 {
		return nil, err
	}
	a.marks, a.limit = s.repairer.Score(a.trial, base), slower*base.Counters.Effort()+slack
	most := more * a.limit
	if base.Counters.Effort() > wild { // what is right takes no such effort
		a.limit, most = tame, tame
	}
	a.points = points(base, min(a.first, firstIgnored(verdicts[a.trial])), aligned(verdicts[a.trial]))
	if p, ok := a.unchanged(base); ok && base.Counters.Effort() > short {
		a.points = append(a.points, p)
	}
	c := &changes{search: s, on: a, again: &again{before: reels, verdicts: verdicts}, base: base,
		list: a.ordered(list), told: h.Told, idle: map[uint32]bool{},
		there:   budget{runs: forAltered, builds: forBuilt, limit: a.limit},
		missing: budget{runs: forMissing, builds: forBuilt, limit: most, each: each}}
	return c.find()
}

// changed is a change of the program as a cause.
func (s *search) changed(a machine.Alteration) candidate {
	f, size := fault.Altered(a)
	c := candidate{fault: f, size: size, part: s.x.Subjects()[0].Name, by: &machine.Place{PC: a.Address}}
	if a.Line.File != "" {
		c.line = &a.Line
	}
	return c
}

// nearest is a number that is beside the one that stands there, where that does as well as another one, further off,
// that makes everything as expected: what is off by one is told as that.
func (s *search) nearest(a *again, c candidate, found machine.Alteration, list []machine.Alteration,
	budget *int64) (*candidate, error) {
	if found.Slip != machine.Number || found.Table != "" || found.Places > 1 || beside(found) {
		return &c, nil
	}
	for _, other := range list {
		if other.Slip != machine.Number || other.Address != found.Address || other.Element != found.Element ||
			other.Places > 1 || !beside(other) {
			continue
		}
		o := s.changed(other)
		if whole, err := s.fully(a, &o, budget); whole || err != nil {
			return &o, err
		}
	}
	return &c, nil
}

// beside reports whether a number is changed by one.
func beside(a machine.Alteration) bool {
	is, meant := a.Numbers()
	return max(is-meant, meant-is) == 1
}

// forLikely is how much of the effort must be left for a change that is likely: others have a chance, too.
func forLikely(rare int) int64 {
	if rare == machine.Likely {
		return forAltered * 3 / 4
	}
	return forAltered / 2
}

// fully runs a change in full, and tells whether everything is as expected then.
func (s *search) fully(a *again, c *candidate, budget *int64) (whole bool, err error) {
	x := s.x.Clone()
	c.size.Bench(x)
	before := s.spent
	if err := s.runAgain(a, c, x, false); err != nil {
		return false, err
	}
	*budget -= s.spent - before
	return c.reels != nil && c.marks.Cmp(s.full) >= 0 && s.beginsAlike(a, c.reels), nil
}

// beginsAlike reports whether what displays show first, before any input, comes about when it did where that is right:
// what merely sets all off later, or sooner, may have an input come at a better time by chance.
func (s *search) beginsAlike(a *again, after []*reel.Reel) bool {
	for i, verdicts := range a.verdicts {
		before := differs(verdicts) - behind
		if cues := a.before[i].Cues; len(cues) > 0 {
			before = min(before, cues[0].Start)
		}
		for _, v := range verdicts {
			k := slices.IndexFunc(v.Alignment, func(p judge.Pair) bool {
				return p.Operation == judge.Right && p.Seen != nil && p.Seen.State != nil
			})
			t := after[i].Track(v.Display)
			if k < 0 || t == nil || v.Alignment[k].Seen.From >= before || laterOn(v.Alignment[k], before) ||
				otherFirst(a.before[i].Track(v.Display), t) {
				continue
			}
			was := v.Alignment[k].Seen
			if !slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
				return max(f.From-was.From, was.From-f.From) <= dawdle && t.Alike(f.State, *was.State)
			}) {
				return false
			}
		}
	}
	return true
}

// laterOn reports whether what a pair stands for is expected from a time on, and may have been there sooner by chance.
func laterOn(p judge.Pair, from clock.Time) bool { return p.Expected != nil && p.Expected.From >= from }

// otherFirst reports whether what a display showed first, for a while, is nowhere any more: then what comes behind may
// come at another time.
func otherFirst(before, after *display.Track) bool {
	i := slices.IndexFunc(before.Frames, func(f display.Frame) bool {
		return !f.State.Unlit() && f.Length() >= lasting
	})
	return i >= 0 && !slices.ContainsFunc(after.Frames, func(f display.Frame) bool {
		return after.Alike(before.Frames[i].State, f.State)
	})
}

// noted reports whether a part told what went wrong, as a display does that lost what it was sent.
func (s *search) noted() bool {
	return slices.ContainsFunc(s.seen, func(t Seen) bool {
		return slices.ContainsFunc(t.Reel.Notes, func(n machine.Note) bool {
			name, _, _ := strings.Cut(n.Code, " ")
			return s.x.Part(name) != nil
		})
	})
}

// isFact reports whether a sign is a fact of pins or of a scan.
func isFact(f Finding) bool { return finding.Of(f.Code).Fact }

// unseen reports whether a sign that leaves no doubt is about more than what was seen.
func unseen(f Finding) bool { return finding.Of(f.Code).Sure && !finding.Of(f.Code).Seen }

// settled reports whether a part tells the cause, or causes explain enough: everything, or most of it by what nothing
// else could bring about. Two that leave something are often traces of what one change of the program sets right,
// unless one of them is a fact of a scan.
func (s *search) settled(chain []candidate) bool {
	if s.noted() {
		return true
	}
	if len(chain) == 0 {
		return false
	}
	last, certain := chain[len(chain)-1].marks, slices.ContainsFunc(chain, candidate.certain)
	traces := len(chain) > 1 && !slices.ContainsFunc(chain, func(c candidate) bool { return c.fault.Fact })
	return last.Cmp(s.full) >= 0 || certain && (s.rounded(last) || !traces && last.Cmp(s.part(2)) > 0)
}

// firstDifference is an attempt on the trial in which something differs first; nil where nothing does.
func firstDifference(reels []*reel.Reel, verdicts [][]judge.Verdict) (a *attempt) {
	for i, all := range verdicts {
		if first := differs(all); first != clock.Never && (a == nil || first < a.first) {
			v, _ := earliest(all)
			a = &attempt{trial: i, first: first, by: behindFirst(reels[i], all), overall: len(v.Alignment) == 0}
		}
	}
	return a
}

// behindFirst is the place of the program behind what is first seen to differ; nil where nobody knows, and where a
// state differs that stands for longer: something else did not come about.
func behindFirst(r *reel.Reel, verdicts []judge.Verdict) *machine.Place {
	v, _ := earliest(verdicts)
	if v == nil {
		return nil
	}
	t := r.Track(v.Display)
	if t == nil {
		return nil
	}
	if f := t.At(v.First.At); f == nil || v.First.At-f.From > sameTime {
		return nil
	}
	return v.First.By
}

// earliest is the verdict of a trial about what is first seen to differ, and when that is; nil and clock.Never where
// nothing does.
func earliest(verdicts []judge.Verdict) (out *judge.Verdict, first clock.Time) {
	first = clock.Never
	for i := range verdicts {
		if v := &verdicts[i]; v.Outcome != judge.Met && v.First != nil && shows(*v) < first {
			out, first = v, shows(*v)
		}
	}
	return out, first
}

// differs is when something of a trial is first seen to differ; clock.Never where nothing does.
func differs(verdicts []judge.Verdict) clock.Time {
	_, first := earliest(verdicts)
	return first
}

// shows is when something is first seen to differ: of a state that lasts too long, when it should have ended, of one
// that is left out, when the next one comes.
func shows(v judge.Verdict) clock.Time {
	ended := func(seen, expected *judge.Span) clock.Time {
		return max(v.First.At, min(seen.To, seen.From+expected.To-expected.From))
	}
	for i, p := range v.Alignment {
		switch p.Operation {
		case judge.Right, judge.Ignored:
			continue
		case judge.Mistimed:
			return ended(p.Seen, p.Expected)
		case judge.Missing:
			next := seenNext(v.Alignment[i:])
			switch {
			case next == nil:
			case next.Text == p.Expected.Text: // what comes later was seen in its place
				return ended(next, p.Expected)
			default:
				return max(v.First.At, next.From)
			}
		}
		return v.First.At
	}
	return v.First.At
}

// seenNext is what was seen first beside some of what was expected; nil where nothing was.
func seenNext(pairs []judge.Pair) *judge.Span {
	for _, p := range pairs {
		if p.Seen != nil {
			return p.Seen
		}
	}
	return nil
}

// firstIgnored is when something was shown first that nothing was expected of, after the beginning: it may have been
// meant to be something else.
func firstIgnored(verdicts []judge.Verdict) clock.Time {
	first := clock.Never
	for _, v := range verdicts {
		for _, p := range v.Alignment {
			if p.Operation == judge.Ignored && p.Seen != nil && p.Seen.From > 0 {
				first = min(first, p.Seen.From)
			}
		}
	}
	return first
}

// begin runs the program as it is up to where the first difference can be told, and lists what may be changed in it.
func (s *search) begin(a *attempt, h machine.Hints) (base *reel.Reel, list []machine.Alteration, err error) {
	whole := s.x.Trials[a.trial].Length
	more := behind
	if a.overall {
		more *= overall
	}
	for ; ; more *= 2 {
		a.bench = s.x.Clone()
		t := &a.bench.Trials[a.trial]
		t.Length = min(whole, a.first+more)
		base, list, err = s.repairer.Alterations(s.ctx, a.bench, a.trial, h)
		if err != nil || base == nil || t.Length == whole || a.differs(base) <= a.first+dawdle {
			return base, list, err
		}
	}
}

// unchanged is what the run as it is shows a little behind the first difference; ok is false where that is not what it
// shows from there on.
func (a *attempt) unchanged(base *reel.Reel) (p Point, ok bool) {
	p = Point{At: a.first + dawdle, States: map[string]display.State{}, Ends: true}
	for k := range base.Tracks {
		t := &base.Tracks[k]
		f := t.At(p.At)
		if f == nil || f.From > a.first {
			return p, false
		}
		p.States[t.Display] = f.State
	}
	return p, p.At < base.Length
}

// glows reports whether brightness is asked for, which a little more changes by less than anybody sees.
func (a *attempt) glows() bool {
	return slices.ContainsFunc(a.bench.Trials[a.trial].Expect, func(e exercise.Expectation) bool {
		_, ok := e.Expectation.(judge.Glowing)
		return ok
	})
}

// differs is when a run differs first from what is expected.
func (a *attempt) differs(r *reel.Reel) clock.Time {
	var verdicts []judge.Verdict
	for _, e := range a.bench.Trials[a.trial].Expect {
		verdicts = append(verdicts, e.Judge(r))
	}
	return differs(verdicts)
}

// ordered has those first that are most likely, and leaves out what was carried out too late to matter. Each place
// comes once before any of them comes twice, and what was carried out last comes first.
func (a *attempt) ordered(list []machine.Alteration) []machine.Alteration {
	list = slices.DeleteFunc(list, func(c machine.Alteration) bool { return c.Reached > a.first+dawdle })
	type turn struct {
		machine.Alteration
		weight, round int
	}
	turns, tried := make([]turn, len(list)), map[[3]int]int{}
	for i, c := range list {
		at := [3]int{int(c.Address), c.Element, a.weight(c)}
		turns[i] = turn{c, at[2], tried[at]}
		tried[at]++
	}
	slices.SortStableFunc(turns, func(x, y turn) int {
		return cmp.Or(cmp.Compare(x.weight, y.weight), cmp.Compare(x.round, y.round), cmp.Compare(y.Reached, x.Reached))
	})
	for i, t := range turns {
		list[i] = t.Alteration
	}
	return list
}

// weight is how unlikely a change is.
func (a *attempt) weight(c machine.Alteration) int {
	w := 10 * c.Rare
	switch { // what was new shortly before is more suspicious
	case c.Recent && c.Reached >= a.begun:
		w -= 6 // it answers what was done
	case c.Recent: // something else comes here, too, as what is drawn at first
	case c.Reached < a.first/2 || c.Reached < starting:
		w += 5
	}
	if c.Slip == machine.Missing && a.born { // rather something is otherwise that stands there
		w += 10
	}
	if c.Slip == machine.Regardless || c.Slip == machine.Level || c.Loaded {
		w += 3
	}
	if c.Leads {
		w -= 4
	}
	return w
}

// aligned are the displays of which all that they show is expected, from the beginning.
func aligned(verdicts []judge.Verdict) map[string]bool {
	out := map[string]bool{}
	for _, v := range verdicts {
		for _, p := range v.Alignment {
			if p.Seen != nil && p.Seen.From == 0 {
				out[v.Display] = true
			}
		}
	}
	return out
}

// points are what some displays of a run show before a time, where they show it for a while.
func points(r *reel.Reel, before clock.Time, of map[string]bool) (out []Point) {
	var times []clock.Time
	for k := range r.Tracks {
		if !of[r.Tracks[k].Display] {
			continue
		}
		for _, f := range r.Tracks[k].Frames {
			if at := f.From + (f.To-f.From)/2 + lasting/2; f.To-f.From >= lasting && at < min(f.To, before-dawdle) {
				times = append(times, at)
			}
		}
	}
	slices.Sort(times)
	for n := range min(len(times), mostPoints) {
		p := Point{At: times[n*len(times)/min(len(times), mostPoints)], States: map[string]display.State{}}
		for k := range r.Tracks {
			t := &r.Tracks[k]
			if !of[t.Display] {
				continue
			}
			if f := t.At(p.At); f != nil && p.At-f.From >= lasting/2 {
				p.States[t.Display] = f.State
			}
		}
		out = append(out, p)
	}
	return out
}

// hints are taken from the first differences.
func hints(verdicts [][]judge.Verdict) (h machine.Hints) {
	add := func(list *[]int64, n int64) {
		if n != 0 && len(*list) < maxHints && !slices.Contains(*list, n) {
			*list = append(*list, n)
		}
	}
	h.Timing = true
	pair := func(list *[][2]int64, want, seen int64) {
		if p := [2]int64{want, seen}; len(*list) < maxHints && !slices.Contains(*list, p) {
			*list = append(*list, p)
		}
	}
	var beside []int64 // numbers that are right, beside something that is not: it may depend on them
	for _, all := range verdicts {
		for _, v := range all {
			for i, p := range v.Alignment {
				if next := seenNext(v.Alignment[i:]); p.Operation == judge.Missing && next != nil {
					want, seen := numerals(p.Expected.Text), numerals(next.Text)
					if len(want) == 1 && len(seen) == 1 && want[0] != seen[0] {
						pair(&h.Pairs, want[0], seen[0])
					}
				}
				switch p.Operation {
				case judge.Near, judge.Wrong, judge.Missing, judge.Extra:
					h.Timing = false
				}
				if p.Expected == nil || p.Seen == nil || p.Operation == judge.Right {
					continue
				}
				if t := [2]string{p.Expected.Text, p.Seen.Text}; t[0] != t[1] && len(h.Texts) < maxHints {
					h.Texts = append(h.Texts, t)
				}
				if want, seen := numerals(p.Expected.Text), numerals(p.Seen.Text); len(want) == len(seen) {
					for i, w := range want {
						if w != seen[i] {
							add(&h.Shifts, w-seen[i])
							add(&h.Wanted, w)
							pair(&h.Pairs, w, seen[i])
						} else {
							beside = append(beside, w)
						}
					}
				}
				meant, took := lasts(p.Expected), lasts(p.Seen)
				if meant > 0 && took > 0 && 100*max(meant-took, took-meant) > unlike*took && len(h.Ratios) < maxHints {
					h.Ratios = append(h.Ratios, [2]int64{meant, took})
				}
			}
		}
	}
	for _, w := range beside {
		add(&h.Wanted, w)
	}
	return h
}

// lasts is how long something is shown, in ms.
func lasts(s *judge.Span) int64 { return int64((s.To - s.From) / clock.Millisecond) }

// example finds what a text gives as an example of what is shown.
var example = regexp.MustCompile(`"[^"\n]*"|“[^”]*”|«[^»]*»|„[^“”]*[“”]`)

// numeral finds the numbers in a text; one that belongs to a name is none.
var numeral = regexp.MustCompile(`(^|[^\pL\d.])(\d+(?:\.\d+)?)`)

// numerals are the numbers in a text, without their points.
func numerals(text string) (out []int64) {
	for _, w := range numeral.FindAllStringSubmatch(text, -1) {
		if n, err := strconv.ParseInt(strings.ReplaceAll(w[2], ".", ""), 10, 32); err == nil {
			out = append(out, n)
		}
	}
	return out
}
