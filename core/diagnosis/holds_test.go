package diagnosis

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
)

// What many causes could bring about, and leaves much, follows from a sign that goes before it.
func TestFollows(t *testing.T) {
	s := &search{full: big.NewRat(10, 1), marks: big.NewRat(4, 1)}
	vague, plain := &fault.Fault{Entry: finding.Entry{Vague: true}}, &fault.Fault{}
	assert.False(t, s.follows(nil))
	for _, c := range []struct {
		fault   *fault.Fault
		marks   int64
		follows bool
	}{{vague, 8, true}, {vague, 9, false}, {vague, 10, false}, {plain, 8, false}} {
		assert.Equal(t, c.follows, s.follows([]candidate{{fault: c.fault, marks: big.NewRat(c.marks, 1)}}), "%+v", c)
	}
}

// A cause of inputs that brings back little is none beside one that almost anything could bring about.
func TestChanceBesideVague(t *testing.T) {
	x, problems := exercise.Read("exercise.yaml", []byte(gate))
	require.NotNil(t, x, "%v", problems)
	s := &search{x: x, full: big.NewRat(10, 1), marks: big.NewRat(4, 1)}
	vague, plain := &fault.Fault{Entry: finding.Entry{Vague: true}}, &fault.Fault{}
	for _, c := range []struct {
		part     string
		tier     Fidelity
		alone    int64
		second   *fault.Fault
		explains bool
	}{
		{"ring", Rerun, 5, vague, false},
		{"ring", Rerun, 6, vague, true},
		{"ring", Rerun, 5, plain, true},
		{"ring", OnReel, 5, vague, true},
		{"lamp", Rerun, 5, vague, true},
	} {
		chain := []candidate{{fault: plain, part: c.part, tier: c.tier, marks: big.NewRat(c.alone, 1)},
			{fault: c.second, part: "lamp", tier: OnReel, marks: s.full}}
		assert.Equal(t, c.explains, s.explains(chain), "%+v", c)
	}
}
