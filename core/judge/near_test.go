package judge_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/judge"
)

// The same value in another form earns three fifths of its content; what tells two frames of an expectation apart is
// never form, and nothing is near where the exercise is strict.
func TestNear(t *testing.T) {
	for _, c := range []struct {
		name, expect, seen, share string
		outcome                   judge.Outcome
	}{
		{"leading zeros", `{reads: count, text: 12, at: end}`, "0012", "3/5", judge.Partly},
		{"another place", `{reads: count, text: 12, at: end}`, "12  ", "3/5", judge.Partly},
		{"another number", `{reads: count, text: 12, at: end}`, "  21", "0", judge.Missed},
		{"another number that shares its end", `{reads: count, text: 12, at: end}`, " 112", "0", judge.Missed},
		{"nothing", `{reads: count, text: 0, at: end}`, "    ", "0", judge.Missed},
		{"strict", `{reads: count, text: 12, at: end, strict: yes}`, "0012", "0", judge.Missed},
		{"always", `{always: count, frame: 12}`, "0012", "3/5", judge.Partly},
		{"always, strict", `{always: count, frame: 12, strict: yes}`, "0012", "0", judge.Missed},
		{"together", `{together: count, shows: 12}`, "0012", "3/5", judge.Partly},
		{"never", `{never: count, frame: 12}`, "0012", "1", judge.Met},
		{"a digit that walks", `{shows: count, frames: ["   1", "  1 "]}`, "  1 ", "1/2", judge.Partly},
		{"all in another form", `{shows: count, frames: [" 12 ", {text: 13, for: any}]}`, "  12", "3/10", judge.Partly},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := judged(t, c.expect, fourDigits(c.seen))
			assert.Equal(t, c.share, v.Fraction.RatString())
			assert.Equal(t, c.outcome, v.Outcome)
		})
	}
}
