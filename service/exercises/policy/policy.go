// Package policy computes what the terms of an assignment mean for one student: the deadline, the number of attempts,
// and the deduction for lateness.
package policy

import (
	"fmt"
	"math/big"
	"slices"
	"time"

	"hemble/core/exercise"
	"hemble/service/record"
	"hemble/wire"
)

// works are the kinds of work that can be taken.
var works = []string{exercise.Firmware, exercise.Source, exercise.Capture}

// Of are the terms as they are for one student: the class's, with the extensions of the student and of the group. Of
// several extensions the later time and the more attempts count.
func Of(t record.Policy, extensions []record.Extension, login, group string) record.Policy {
	later := func(have, given *time.Time) *time.Time {
		if have == nil || given == nil || !given.After(*have) {
			return have
		}
		return given
	}
	more := 0
	for _, x := range extensions {
		if x.Kind == "student" && x.Who == login || x.Kind == "group" && x.Who == group && group != "" {
			t.Due, t.Closes = later(t.Due, x.Due), later(t.Closes, x.Closes)
			more = max(more, x.Attempts)
		}
	}
	if t.Closes != nil && t.Due != nil && t.Due.After(*t.Closes) {
		t.Closes = t.Due
	}
	if t.Attempts > 0 {
		t.Attempts += more
	}
	return t
}

// end is when nothing more is taken, nil for never.
func end(t record.Policy) *time.Time {
	e := t.Closes
	if t.Due == nil {
		return e
	}
	last := t.Due
	switch t.Late {
	case wire.LateNone:
	case wire.LateGrace:
		g := t.Due.Add(time.Duration(t.Grace) * time.Minute)
		last = &g
	default:
		return e
	}
	if e == nil || last.Before(*e) {
		return last
	}
	return e
}

// Standing returns where a student is who has made that many attempts, the last of them at last.
func Standing(t record.Policy, attempts int, last, now time.Time) wire.Standing {
	s := wire.Standing{Due: t.Due, Closes: end(t), Attempts: attempts, Open: true}
	shut := func(format string, args ...any) {
		if s.Open {
			s.Open, s.Why = false, fmt.Sprintf(format, args...)
		}
	}
	if now.Before(t.Opens) {
		shut("it opens at %s", wire.Stamp(t.Opens))
	}
	if s.Closes != nil && now.After(*s.Closes) {
		shut("it closed at %s", wire.Stamp(*s.Closes))
	}
	if t.Attempts > 0 {
		left := max(0, t.Attempts-attempts)
		if s.Left = &left; left == 0 {
			shut("all %d attempts are made", t.Attempts)
		}
	}
	if t.Wait > 0 && attempts > 0 {
		if from := last.Add(time.Duration(t.Wait) * time.Minute); now.Before(from) {
			s.NextFrom = &from
			shut("the next attempt may come from %s on", wire.Stamp(from))
		}
	}
	return s
}

// Lateness tells by how many seconds work was late, and how many percent of its marks count.
func Lateness(t record.Policy, submitted time.Time) (late, percent int) {
	if t.Due == nil || !submitted.After(*t.Due) {
		return 0, 100
	}
	by := submitted.Sub(*t.Due)
	late = max(1, int(by/time.Second))
	switch t.Late {
	case wire.LateFull:
		return late, 100
	case wire.LateGrace:
		if by <= time.Duration(t.Grace)*time.Minute {
			return late, 100
		}
	case wire.LatePerDay:
		days := int((by + 24*time.Hour - 1) / (24 * time.Hour))
		return late, max(0, 100-days*t.PerDay)
	}
	return late, 0
}

// Counted is the mark that counts: marks less what lateness costs.
func Counted(marks string, percent int) *big.Rat {
	r, ok := new(big.Rat).SetString(marks)
	if !ok {
		return new(big.Rat)
	}
	return r.Mul(r, big.NewRat(int64(percent), 100))
}

// Counting gives the index of the attempt whose mark counts, -1 for none. The attempts are one student's, in order.
func Counting(c wire.Counts, attempts []record.Submission) int {
	found := -1
	for i, s := range attempts {
		if s.State != wire.Marked {
			continue
		}
		if found < 0 || c == wire.CountsLast ||
			Counted(string(s.Marks),
				s.Percent).Cmp(Counted(string(attempts[found].Marks), attempts[found].Percent)) > 0 {
			found = i
		}
	}
	return found
}

// Shown reports whether students may see something by now. student is whose terms these are: an extension holds a
// solution back from those who are done, too, only until their own due time.
func Shown(m wire.Moment, t record.Policy, released *time.Time, now time.Time) bool {
	switch m {
	case wire.AtOnce:
		return true
	case wire.AfterDue:
		return released != nil || t.Due != nil && now.After(*t.Due)
	}
	return released != nil
}

// Check finds what is wrong with terms, and fills in what was left out.
func Check(t *record.Policy) error {
	if t.Late == "" {
		t.Late = wire.LateFull
	}
	if t.Counts == "" {
		t.Counts = wire.CountsBest
	}
	if t.ShowSheet == "" {
		t.ShowSheet = wire.AtOnce
	}
	if t.ShowMarks == "" {
		t.ShowMarks = wire.AtOnce
	}
	for _, m := range []wire.Moment{t.ShowSheet, t.ShowMarks} {
		if m != wire.AtOnce && m != wire.AfterDue && m != wire.OnRelease {
			return fmt.Errorf("expected at-once, after-due or on-release, got %q", m)
		}
	}
	for i, kind := range t.Takes {
		if !slices.Contains(works, kind) || slices.Contains(t.Takes[:i], kind) {
			return fmt.Errorf("takes: expected firmware, source or capture, each once, got %q", kind)
		}
	}
	switch {
	case t.Late != wire.LateNone && t.Late != wire.LateFull && t.Late != wire.LatePerDay && t.Late != wire.LateGrace:
		return fmt.Errorf("late: expected none, full, per-day or grace, got %q", t.Late)
	case t.Counts != wire.CountsBest && t.Counts != wire.CountsLast:
		return fmt.Errorf("counts: expected best or last, got %q", t.Counts)
	case t.Late == wire.LatePerDay && (t.PerDay < 1 || t.PerDay > 100):
		return fmt.Errorf("per_day is 1 to 100 percent with late: per-day, not %d", t.PerDay)
	case t.Late == wire.LateGrace && (t.Grace < 1 || t.Grace > 60*24*30):
		return fmt.Errorf("grace is 1 to 43200 minutes with late: grace, not %d", t.Grace)
	case t.Attempts < 0 || t.Attempts > 1000:
		return fmt.Errorf("attempts are 0 (any number) to 1000, not %d", t.Attempts)
	case t.Wait < 0 || t.Wait > 60*24*7:
		return fmt.Errorf("wait is 0 to 10080 minutes, not %d", t.Wait)
	case t.Due != nil && t.Due.Before(t.Opens):
		return fmt.Errorf("it is due at %s, before it opens at %s", wire.Stamp(*t.Due), wire.Stamp(t.Opens))
	case t.Closes != nil && t.Closes.Before(t.Opens):
		return fmt.Errorf("it closes at %s, before it opens at %s", wire.Stamp(*t.Closes), wire.Stamp(t.Opens))
	case t.Closes != nil && t.Due != nil && t.Closes.Before(*t.Due):
		return fmt.Errorf("it closes at %s, before it is due at %s", wire.Stamp(*t.Closes), wire.Stamp(*t.Due))
	case t.Due == nil && (t.ShowSheet == wire.AfterDue || t.ShowMarks == wire.AfterDue):
		return fmt.Errorf("after-due needs a due time")
	}
	return nil
}
