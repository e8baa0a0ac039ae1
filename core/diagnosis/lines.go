package diagnosis

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/judge"
)

// Signs of the lines of a log.

// otherLine looks for one line in whose place another one comes, where all others are right.
func otherLine(v *view) (string, clock.Time, bool) {
	if !v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	for _, x := range v.verdicts {
		if x.First == nil || len(x.Alignment) < 3 || !inItsPlace(x) {
			continue
		}
		wrong := 0
		for _, l := range x.Alignment {
			if l.Operation != judge.Right {
				wrong++
			}
		}
		if wrong == 1 {
			return fmt.Sprintf("%s says %s where %s is expected; all other lines are right.", v.track.Display,
				strings.TrimSuffix(x.First.Seen, " next"), x.First.Expected), x.First.At, true
		}
	}
	return "", 0, false
}

// inItsPlace reports whether what comes next, where a line is missing first, is none of those that are expected behind
// it.
func inItsPlace(x judge.Verdict) bool {
	next, ok := strings.CutSuffix(x.First.Seen, " next")
	first := slices.IndexFunc(x.Alignment, amiss)
	return ok && first >= 0 && !slices.ContainsFunc(x.Alignment[first+1:], func(l judge.Pair) bool {
		return l.Operation == judge.Right && l.Seen.Text == next
	})
}

// lineLeftOut looks for one line that never comes, where all others do, and none comes in its place.
func (v *view) lineLeftOut() (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		var gone *judge.Span
		for _, l := range x.Alignment {
			switch {
			case l.Operation == judge.Right:
			case l.Operation == judge.Missing && gone == nil:
				gone = l.Expected
			default:
				return "", 0, false
			}
		}
		if gone != nil && len(x.Alignment) > 2 && !inItsPlace(x) {
			return fmt.Sprintf("%s leaves out %s; all other lines come.", v.track.Display, gone.Text), gone.From, true
		}
	}
	return "", 0, false
}

// brokenLines looks for lines that are missing, where each of them comes in two parts.
func brokenLines(v *view) (string, clock.Time, bool) {
	if !v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	for _, x := range v.verdicts {
		var first string
		var at clock.Time
		missing := 0
		for _, l := range x.Alignment {
			if l.Operation != judge.Missing || l.Expected == nil {
				continue
			}
			parts, from := v.inTwo(l.Expected.Text)
			if parts == "" {
				missing = 0
				break
			}
			if missing++; missing == 1 {
				first, at = fmt.Sprintf("%s comes as %s", l.Expected.Text, parts), from
			}
		}
		if missing >= 2 {
			return fmt.Sprintf("Lines of %s are ended too soon: %s.", v.track.Display, first), at, true
		}
	}
	return "", 0, false
}

// inTwo gives a line as the two that are one after the other on the display in its place; "" where they are not.
func (v *view) inTwo(line string) (parts string, at clock.Time) {
	whole := strings.Trim(line, `"`)
	for i := 1; i < len(v.track.Frames); i++ {
		a, b := v.track.Frames[i-1], v.track.Frames[i]
		if one, two := a.State.Line, b.State.Line; one != "" && two != "" && one+two == whole {
			return fmt.Sprintf("%q and %q", one, two), a.From
		}
	}
	return "", 0
}
