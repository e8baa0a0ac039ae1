package policy

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"hemble/service/record"
	"hemble/wire"
)

var noon = time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)

func after(d time.Duration) *time.Time {
	t := noon.Add(d)
	return &t
}

const day = 24 * time.Hour

func TestLateness(t *testing.T) {
	for _, c := range []struct {
		name          string
		terms         record.Policy
		by            time.Duration
		late, percent int
	}{
		{"no due time", record.Policy{Late: wire.LateNone}, day, 0, 100},
		{"on the dot", record.Policy{Due: after(0), Late: wire.LatePerDay, PerDay: 10}, 0, 0, 100},
		{"a moment late is a day begun", record.Policy{Due: after(0), Late: wire.LatePerDay, PerDay: 10},
			time.Millisecond, 1, 90},
		{"a day to the second", record.Policy{Due: after(0), Late: wire.LatePerDay, PerDay: 10}, day, 86400, 90},
		{"two days begun", record.Policy{Due: after(0), Late: wire.LatePerDay, PerDay: 10}, day + time.Second, 86401,
			80},
		{"never below nothing", record.Policy{Due: after(0), Late: wire.LatePerDay, PerDay: 60}, 5 * day, 432000, 0},
		{"within the grace", record.Policy{Due: after(0), Late: wire.LateGrace, Grace: 15}, 15 * time.Minute, 900, 100},
		{"beyond it", record.Policy{Due: after(0), Late: wire.LateGrace, Grace: 15}, 16 * time.Minute, 960, 0},
		{"none", record.Policy{Due: after(0), Late: wire.LateNone}, time.Second, 1, 0},
		{"full", record.Policy{Due: after(0), Late: wire.LateFull}, day, 86400, 100},
	} {
		late, percent := Lateness(c.terms, noon.Add(c.by))
		assert.Equal(t, []int{c.late, c.percent}, []int{late, percent}, c.name)
	}
}

func TestStanding(t *testing.T) {
	base := record.Policy{Opens: noon, Due: after(day), Late: wire.LatePerDay, PerDay: 10, Attempts: 2, Wait: 10}
	for _, c := range []struct {
		name     string
		terms    record.Policy
		attempts int
		last     time.Time
		now      time.Duration
		open     bool
		why      string
	}{
		{"before it opens", base, 0, time.Time{}, -time.Second, false, "it opens at 1 March 2027 12:00:00 UTC"},
		{"open", base, 0, time.Time{}, time.Second, true, ""},
		{"late work is taken", base, 0, time.Time{}, 3 * day, true, ""},
		{"waiting", base, 1, noon, 5 * time.Minute, false,
			"the next attempt may come from 1 March 2027 12:10:00 UTC on"},
		{"waited", base, 1, noon, 10 * time.Minute, true, ""},
		{"no attempts left", base, 2, noon, day, false, "all 2 attempts are made"},
		{"closed", record.Policy{Opens: noon, Closes: after(day)}, 0, time.Time{}, day + time.Second, false,
			"it closed at 2 March 2027 12:00:00 UTC"},
		{"late: none closes when it is due", record.Policy{Opens: noon, Due: after(day), Closes: after(2 * day),
			Late: wire.LateNone}, 0, time.Time{}, day + time.Second, false, "it closed at 2 March 2027 12:00:00 UTC"},
		{"grace closes behind the grace", record.Policy{Opens: noon, Due: after(day), Late: wire.LateGrace, Grace: 30},
			0, time.Time{}, day + 31*time.Minute, false, "it closed at 2 March 2027 12:30:00 UTC"},
	} {
		s := Standing(c.terms, c.attempts, c.last, noon.Add(c.now))
		assert.Equal(t, c.open, s.Open, c.name)
		assert.Equal(t, c.why, s.Why, c.name)
	}
	assert.Equal(t, 1, *Standing(base, 1, noon, noon).Left)
	assert.Nil(t, Standing(record.Policy{}, 9, noon, noon).Left)
}

func TestExtensions(t *testing.T) {
	base := record.Policy{Due: after(day), Closes: after(2 * day), Attempts: 3}
	given := []record.Extension{
		{Kind: "student", Who: "oke", Due: after(5 * day)},
		{Kind: "group", Who: "evening", Due: after(3 * day), Attempts: 2}, {Kind: "student", Who: "haq", Due: after(0)},
	}
	oke := Of(base, given, "oke", "evening")
	assert.Equal(t, after(5*day), oke.Due, "the later of two")
	assert.Equal(t, after(5*day), oke.Closes, "it closes no earlier than it is due")
	assert.Equal(t, 5, oke.Attempts)
	assert.Equal(t, base, Of(base, given, "haq", "morning"), "an extension never takes away")
	assert.Equal(t, base, Of(base, given, "evening", ""), "a login is no group")
	assert.Nil(t, Of(record.Policy{}, given, "oke", "").Due)
}

func TestCounting(t *testing.T) {
	attempt := func(marks string, percent int, state wire.State) record.Submission {
		return record.Submission{Marks: json.Number(marks), Percent: percent, State: state}
	}
	all := []record.Submission{attempt("7", 100, wire.Marked), attempt("8", 100, wire.Marked),
		attempt("10", 80, wire.Marked), attempt("", 50, wire.Queued), attempt("9", 50, wire.Marked),
		attempt("", 50, wire.Cancelled)}
	assert.Equal(t, 1, Counting(wire.CountsBest, all), "8, and not 10 less 20 percent, which is no more")
	assert.Equal(t, 4, Counting(wire.CountsLast, all))
	assert.Equal(t, -1, Counting(wire.CountsBest, all[3:4]))
	assert.Equal(t, "8", Counted("10", 80).RatString())
	assert.Equal(t, "0", Counted("", 80).RatString())
}

func TestShown(t *testing.T) {
	now := noon.Add(2 * day)
	due := record.Policy{Due: after(day)}
	for _, c := range []struct {
		moment   wire.Moment
		terms    record.Policy
		released *time.Time
		want     bool
	}{
		{wire.AtOnce, due, nil, true}, {wire.AfterDue, due, nil, true},
		{wire.AfterDue, record.Policy{Due: after(3 * day)}, nil, false},
		{wire.AfterDue, record.Policy{Due: after(3 * day)}, after(0), true},
		{wire.OnRelease, due, nil, false}, {wire.OnRelease, due, after(0), true},
	} {
		assert.Equal(t, c.want, Shown(c.moment, c.terms, c.released, now), "%+v", c)
	}
}
