package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/judge"
)

// Beside what is told first stand the same of other displays, what was repaired, facts of pins, and what went wrong
// sooner; what may follow from the first does not.
func TestIndependent(t *testing.T) {
	wrong := func(display string, at clock.Time) judge.Verdict {
		return judge.Verdict{Display: display, Outcome: judge.Missed, First: &judge.Difference{At: at}}
	}
	s := &search{seen: []Seen{{Verdicts: []judge.Verdict{wrong("count", 2*clock.Second), wrong("lamp", 3*clock.Second),
		wrong("bell", clock.Second)}}}}
	first := Finding{Code: "ignored-key", Part: "count"}
	for _, c := range []struct {
		Finding
		stands bool
	}{
		{Finding{Code: "length", Part: "lamp"}, false},
		{Finding{Code: "length", Part: "count"}, false},
		{Finding{Code: "length", Part: "bell"}, true},
		{Finding{Code: "ignored-key", Part: "lamp"}, true},
		{Finding{Code: "no-output", Part: "lamp"}, true},
		{Finding{Code: "pattern", Part: "lamp", Fidelity: OnReel}, true},
	} {
		found := s.independent([]Finding{first, c.Finding})
		assert.Equal(t, c.stands, len(found) == 2, "%s of %s", c.Code, c.Part)
	}
	for code, fact := range map[finding.Code]bool{"no-output": true, "wrong-pin": true, "pull-up": true, "ghosts": true,
		"uneven": true, "never-clears": false} {
		assert.Equal(t, fact, finding.Of(code).Fact, code)
	}
}
