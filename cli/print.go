package cli

import (
	"fmt"
	"io"

	"hemble/wire"
)

// writeSubmission prints one submission as a line of a table.
func writeSubmission(w io.Writer, s wire.Submission) {
	marks := string(s.State)
	sign := "·"
	switch {
	case s.State == wire.Failed:
		sign, marks = "✗", "failed: "+s.Error
	case s.State == wire.Marked:
		marks = fmt.Sprintf("%5s / %-4s met %d · partly %d · missed %d   %s", s.Marks, s.Of, s.Met, s.Partly, s.Missed,
			s.First)
		switch {
		case s.Missed == 0 && s.Partly == 0 && s.Met > 0:
			sign = "✓"
		case s.Marks == "0":
			sign = "✗"
		default:
			sign = "≈"
		}
	}
	if s.Late > 0 {
		marks += fmt.Sprintf("   late, %d %%", s.Percent)
	}
	fmt.Fprintf(w, "%s %-16s %-28s #%d  %s\n", sign, s.Student, s.File, s.Attempt, marks)
}
