package diagnosis_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/demo"
	"hemble/demo/checks"
)

// counted is a mender that returns what was asked of it.
type counted struct {
	*marking.Repairer
	plays, held, runs int
	broken            bool // no tape ever holds
}

func (m *counted) Replay(ctx context.Context, x *exercise.Exercise, trial int) (*reel.Reel, bool, error) {
	m.plays++
	if m.broken {
		return nil, false, nil
	}
	r, held, err := m.Repairer.Replay(ctx, x, trial)
	if held {
		m.held++
	}
	return r, held, err
}

func (m *counted) Run(ctx context.Context, x *exercise.Exercise, trial int, effort int64) (*reel.Reel, error) {
	m.runs++
	return m.Repairer.Run(ctx, x, trial, effort)
}

// asked looks for the causes of what a firmware lost.
func asked(t *testing.T, ctx context.Context, name string, file []byte, broken bool) ([]diagnosis.Finding, *counted,
	error) {
	e, err := demo.Find(name)
	require.NoError(t, err)
	x := checks.Read(t, e.Text)
	m, err := marking.NewRepairer(x, file)
	require.NoError(t, err)
	c := &counted{Repairer: m, broken: broken}
	var seen []diagnosis.Seen
	for i, trial := range x.Trials {
		r, err := m.Run(t.Context(), x, i, 0)
		require.NoError(t, err)
		s := diagnosis.Seen{Reel: r}
		for _, e := range trial.Expect {
			s.Verdicts = append(s.Verdicts, e.Judge(r))
		}
		seen = append(seen, s)
	}
	found, err := diagnosis.Find(ctx, x, seen, c)
	return found.Findings, c, err
}

func pick(t *testing.T, name, firmware string) []byte {
	_, data, err := demo.Pick(name, firmware)
	require.NoError(t, err)
	return data
}

// Where nothing was lost nothing is tried, and nothing is told.
func TestNothingIsLost(t *testing.T) {
	found, m, err := asked(t, t.Context(), "boat-counter", pick(t, "boat-counter", "imre-timer"), false)
	require.NoError(t, err)
	assert.Empty(t, found)
	assert.Zero(t, m.plays+m.runs)
}

// What is explained on the reel alone runs nothing, and plays nothing.
func TestTheReelComesFirst(t *testing.T) {
	found, m, err := asked(t, t.Context(), "boat-counter", pick(t, "boat-counter", "jarvis-leading-zeros"), false)
	require.NoError(t, err)
	require.NotEmpty(t, found)
	assert.Equal(t, diagnosis.OnReel, found[0].Fidelity)
	assert.Zero(t, m.plays+m.runs)
}

// A change of wiring is played on a replay, and run where that does not hold: the cause and what repairing brings are
// the same.
func TestTheReplayBeforeTheRun(t *testing.T) {
	file, err := os.ReadFile("../../faults/firmware/boat-counter-imre-timer-02bd0a6e.elf") // inverted selects
	require.NoError(t, err)
	found, m, err := asked(t, t.Context(), "boat-counter", file, false)
	require.NoError(t, err)
	require.NotEmpty(t, found)
	assert.EqualValues(t, "selects-inverted", found[0].Code)
	assert.Equal(t, diagnosis.OnReplay, found[0].Fidelity)
	assert.Positive(t, m.held)
	again, without, err := asked(t, t.Context(), "boat-counter", file, true)
	require.NoError(t, err)
	require.NotEmpty(t, again)
	assert.Equal(t, diagnosis.Rerun, again[0].Fidelity)
	assert.Greater(t, without.runs, m.runs)
	assert.Equal(t, found[0].Code, again[0].Code)
	assert.Zero(t, found[0].Marks.Cmp(again[0].Marks))
	assert.Equal(t, found[0].Evidence, again[0].Evidence)
}

// Running again is bounded: two at least, and beyond that no more than a share of what the marked runs took.
func TestEffortIsBounded(t *testing.T) {
	_, m, err := asked(t, t.Context(), "log-terminal", pick(t, "log-terminal", "wyatt-inverted"), false)
	require.NoError(t, err)
	assert.LessOrEqual(t, m.runs, 40)
	assert.Positive(t, m.runs)
}

// Who stops waiting gets an error, and no half-tested causes.
func TestCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	found, _, err := asked(t, ctx, "chamber-gauge", pick(t, "chamber-gauge", "quill-bounce"), false)
	assert.ErrorIs(t, err, context.Canceled)
	assert.Empty(t, found)
}
