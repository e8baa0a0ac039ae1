package diagnosis

import (
	"math/big"
	"reflect"
	"slices"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/reel"
)

// What reels earn.

// score is what the runs earn together.
func (s *search) score(reels []*reel.Reel) *big.Rat { return sum(s.scores(reels)) }

// scores are what they earn, one by one. Trials that differ by their seeds alone, and show the same to the last edge,
// earn the same.
func (s *search) scores(reels []*reel.Reel) (out []*big.Rat) {
	for i, r := range reels {
		s.judges(r)
		j := s.twinOf(i)
		if j == i || !sameReel(reels[j], r) {
			out = append(out, s.repairer.Score(i, r))
			continue
		}
		out = append(out, out[j])
	}
	return out
}

// sameReel reports whether two runs had the same inputs at the same times, and show the same to the last edge.
func sameReel(a, b *reel.Reel) bool {
	return a.Length == b.Length && slices.Equal(a.Cues, b.Cues) &&
		slices.EqualFunc(a.Tracks, b.Tracks, func(x, y display.Track) bool { return x.Same(&y) })
}

// sameInputs reports whether the same is done in two trials, as it is where they differ by their seeds alone.
func sameInputs(a, b *exercise.Trial) bool {
	return a.Length == b.Length && reflect.DeepEqual(a.Cues, b.Cues)
}

// twinOf is the first trial that asks for the same as a trial: the trial itself, where no other does.
func (s *search) twinOf(trial int) int {
	for i := len(s.twins); i <= trial; i++ {
		t := s.x.Trials[i]
		s.twins = append(s.twins, slices.IndexFunc(s.x.Trials[:i+1], func(o exercise.Trial) bool {
			return sameInputs(&o, &t) && reflect.DeepEqual(o.Expect, t.Expect)
		}))
	}
	return s.twins[trial]
}

// judges counts what is judged again.
func (s *search) judges(r *reel.Reel) {
	for k := range r.Tracks {
		s.judged += len(r.Tracks[k].Frames)
	}
}

func sum(of []*big.Rat) *big.Rat {
	all := new(big.Rat)
	for _, r := range of {
		all.Add(all, r)
	}
	return all
}
