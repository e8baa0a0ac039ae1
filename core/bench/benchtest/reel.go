// Package benchtest runs benches for tests.
package benchtest

import (
	"encoding/json"
	"testing"

	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Reel is what a trial shows from its beginning to its end, as JSON, without what tells the effort: two ways of running
// are the same where it is.
func Reel(t testing.TB, x *exercise.Exercise, trial *exercise.Trial, im *firmware.Image, o bench.Options) string {
	t.Helper()
	text, _ := Run(t, x, trial, im, o)
	return text
}

// Run is Reel, with the effort.
func Run(t testing.TB, x *exercise.Exercise, trial *exercise.Trial, im *firmware.Image, o bench.Options,
) (string, machine.Counters) {
	t.Helper()
	b, err := bench.New(x, trial, im, o)
	if err == nil {
		err = b.Advance(t.Context(), trial.Length)
	}
	if err != nil {
		t.Fatal(err)
	}
	r := b.Finish()
	effort := r.Counters
	r.Counters = machine.Counters{}
	text, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	return string(text), effort
}
