package fault

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
)

// change is what a display shows from a moment on.
type change struct {
	at clock.Time
	display.State
}

// readExercise reads one that is in order.
func readExercise(t *testing.T, text string) *exercise.Exercise {
	x, problems := exercise.Read("exercise.yaml", []byte(text))
	require.NotNil(t, x, "%v", problems)
	return x
}

// watched is a display in runs of the first trials of an exercise, judged: what it showed in each.
func watched(x *exercise.Exercise, name string, trials ...[]change) *Subject {
	p := x.Part(name)
	var reels []*reel.Reel
	var verdicts [][]judge.Verdict
	for i, changes := range trials {
		trial := x.Trials[i]
		track := display.Track{Display: name, Geometry: p.Kind.Geometry(*p)}
		for _, c := range changes {
			if k := len(track.Frames); k > 0 {
				if track.Alike(track.Frames[k-1].State, c.State) {
					continue
				}
				track.Frames[k-1].To = c.at
			}
			track.Frames = append(track.Frames, display.Frame{From: c.at, To: trial.Length, State: c.State})
		}
		r := &reel.Reel{Trial: trial.Name, Length: trial.Length, Tracks: []display.Track{track}}
		for _, c := range trial.Cues {
			r.Cues = append(r.Cues, reel.Fired{Name: c.Name, Verb: c.Verb, Part: c.Part, Key: c.Key, To: c.To,
				Text: c.Describe(c.Part), Start: c.At, End: c.At + c.For})
		}
		var all []judge.Verdict
		for _, e := range trial.Expect {
			all = append(all, e.Judge(r))
		}
		reels, verdicts = append(reels, r), append(verdicts, all)
	}
	return NewSubject(x, p, reels, verdicts)
}

// eachSecond is what is shown from each second on, but for the first a little later.
func eachSecond(states []display.State) (out []change) {
	for i, s := range states {
		at := clock.Time(i)*clock.Second + 20*clock.Millisecond
		if i == 0 {
			at = 0
		}
		out = append(out, change{at, s})
	}
	return out
}
