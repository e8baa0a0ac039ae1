package diagnosis

import (
	"fmt"
	"math/big"
	"slices"

	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
)

// Repairs that need another bench: a replay of the program, or a run.

// again is what repairs are run again beside: how it was, and what it earned.
type again struct {
	before   []*reel.Reel
	verdicts [][]judge.Verdict
	skip     *candidate // what is repaired already
	base     []*big.Rat // what each trial earned
	order    []int      // the trials, those that lost most first
	wrong    int        // how many of them lost something
	played   bool       // nothing is run any more: replays alone tell
	lost     []*big.Rat // what those lost, up to each of them, and those that went like one of them
}

// weigh finds out which trials lost most.
func (s *search) weigh(a *again) {
	if a.base != nil {
		return
	}
	lost := make([]*big.Rat, len(a.before))
	for i, r := range a.before {
		a.base = append(a.base, s.repairer.Score(i, r))
		a.order = append(a.order, i)
		full := new(big.Rat)
		for _, e := range s.x.Trials[i].Expect {
			full.Add(full, e.Marks)
		}
		lost[i] = full.Sub(full, a.base[i])
	}
	isWrong := func(i int) bool {
		return slices.ContainsFunc(a.verdicts[i], func(v judge.Verdict) bool { return v.Outcome != judge.Met })
	}
	slices.SortStableFunc(a.order, func(i, j int) int {
		switch {
		case isWrong(i) != isWrong(j) && isWrong(i):
			return -1
		case isWrong(i) != isWrong(j):
			return 1
		}
		return lost[j].Cmp(lost[i])
	})
	for _, i := range a.order {
		if isWrong(i) {
			a.wrong++
		}
	}
	all, counted := new(big.Rat), make([]bool, len(lost))
	for _, i := range a.order[:a.wrong] {
		for _, j := range a.order[:a.wrong] {
			if !counted[j] && (i == j || lost[i].Cmp(lost[j]) == 0 && s.alike(a.before, i, j)) {
				counted[j] = true
				all = new(big.Rat).Add(all, lost[j])
			}
		}
		a.lost = append(a.lost, all)
	}
}

// alike reports whether two trials do the same and show the same, as those do that differ by their seeds alone: what is
// of no use in one is of none in the other.
func (s *search) alike(reels []*reel.Reel, i, j int) bool {
	if !sameInputs(&s.x.Trials[i], &s.x.Trials[j]) || len(reels[i].Tracks) != len(reels[j].Tracks) {
		return false
	}
	for k := range reels[i].Tracks {
		if !sameTrack(&reels[i].Tracks[k], &reels[j].Tracks[k]) {
			return false
		}
	}
	return true
}

// runAgain runs the trials again on a changed exercise, those first that lost most: it gives up where those that lost
// three quarters of it earn no more. Where the change is one of wiring alone, a replay of the program is tried first,
// which is cheaper.
func (s *search) runAgain(a *again, c *candidate, x *exercise.Exercise, wiring bool) error {
	s.weigh(a)
	var changes []func(*reel.Reel) *reel.Reel
	if c.size.After != nil {
		changes = append(changes, c.size.After)
	}
	if a.skip != nil && a.skip.size.After != nil {
		changes = append(changes, a.skip.size.After)
	}
	if a.skip != nil && a.skip.size.Reel != nil {
		changes = append(changes, a.skip.size.Reel)
	}
	out, scores := make([]*reel.Reel, len(s.seen)), make([]*big.Rat, len(s.seen))
	gain := new(big.Rat)
	c.tier = OnReplay
	for n, i := range a.order {
		r, tier, err := s.show(x, i, wiring, a.played)
		if err != nil {
			return err
		}
		if r == nil { // it would have to be run
			s.cutOff = true
			return nil
		}
		if tier == Rerun {
			c.tier = Rerun
		}
		if r.Stop != nil && r.Stop.Reason == machine.TooMuch { // nobody saw how it goes on
			s.cutOff = true
			return nil
		}
		for _, change := range changes {
			r = change(r)
		}
		out[i], scores[i] = r, s.repairer.Score(i, r)
		gain.Add(gain, scores[i]).Sub(gain, a.base[i])
		if n < a.wrong && gain.Sign() <= 0 {
			most := new(big.Rat).Mul(a.lost[n], big.NewRat(4, 3))
			if n == a.wrong-1 || most.Cmp(a.lost[a.wrong-1]) > 0 {
				return nil
			}
		}
	}
	for _, r := range out {
		s.judges(r)
	}
	c.reels, c.marks = out, sum(scores)
	return nil
}

// rerun is what a changed bench showed.
type rerun struct {
	reel  *reel.Reel
	tier  Fidelity
	bench *exercise.Exercise // kept, since keys have the addresses of what hangs on it
}

// benchKey is the same only for benches that are the same in all that a repair may change.
func benchKey(x *exercise.Exercise, trial int) string {
	t := &x.Trials[trial]
	key := fmt.Sprint(trial, t.Length, t.Seed, t.Cues, x.Clock, x.ClockPin, x.Supply, x.Pulled)
	for _, p := range x.Parts {
		key += fmt.Sprintf("\n%+v", *p)
	}
	return key
}

// show gives what a changed bench shows in a trial, by a replay or a run, or as it was found out before; nil where it
// would have to be run, and nothing may be run any more.
func (s *search) show(x *exercise.Exercise, trial int, wiring, played bool) (*reel.Reel, Fidelity, error) {
	key := ""
	if len(x.Mended) == 0 { // changes of the program are functions
		key = fmt.Sprint(wiring, benchKey(x, trial))
		if k, ok := s.kept[key]; ok {
			return k.reel, k.tier, nil
		}
	}
	var r *reel.Reel
	var err error
	tier, held := OnReplay, false
	if wiring {
		if r, held, err = s.repairer.Replay(s.ctx, x, trial); r != nil {
			// the instructions are those of the run that was recorded
			s.spent += r.Counters.Instructions
			s.replayed += r.Counters.Effort() - r.Counters.Instructions
		}
	}
	if !held && err == nil {
		if played {
			return nil, "", nil
		}
		tier = Rerun
		limit := min(most*s.seen[trial].Reel.Counters.Effort(), mostOfAll*s.budget)
		if r, err = s.repairer.Run(s.ctx, x, trial, max(limit, least)); err == nil {
			s.spent += r.Counters.Effort()
		}
	}
	if err != nil {
		return nil, "", err
	}
	if key != "" && len(s.kept) < maxKept {
		s.kept[key] = rerun{r, tier, x}
	}
	return r, tier, nil
}
