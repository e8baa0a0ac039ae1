package fault

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "stays-lit", Price: finding.Behaviour,
		Subsumes: []finding.Code{"length", "step-missing"},
		Doc:      "what was lit before stays lit when the next state comes",
		Catch:    "write the states of all lights in the frames of `shows`"}, Once: true, Sizes: mergedSteps})
}

// mergedSteps looks for a step that is not seen because a light of the one before stays lit in it, which makes it the
// step that comes next.
func mergedSteps(s *Subject) []Size {
	if s.shown == nil {
		return nil
	}
	t := s.shown.Track()
	if _, counts := display.As[display.Counting](t.Geometry); counts {
		return nil
	}
	var gone *judge.Span
	var at step
	other := false
	s.sequences(func(_ int, v judge.Verdict) {
		for i, l := range v.Alignment {
			switch {
			case l.Operation == judge.Wrong || l.Operation == judge.Extra:
				other = true
			case l.Operation != judge.Missing:
			case i == 0 || i+1 == len(v.Alignment) || v.Alignment[i-1].Seen == nil || v.Alignment[i+1].Seen == nil ||
				!merges(*v.Alignment[i-1].Seen.State, l.Expected.State, *v.Alignment[i+1].Seen.State):
				other = true
			default:
				here := step{v.Alignment[i-1].Seen.Text, v.Alignment[i+1].Seen.Text}
				other = other || gone != nil && (at != here || gone.Text != l.Expected.Text)
				gone, at = l.Expected, here
			}
		}
	})
	if other || gone == nil {
		return nil
	}
	return []Size{s.moved(fmt.Sprintf("What %s lit before stays lit when %s should come: it shows %s at once.", s.Part.Name,
		gone.Text, at.after), func(_ string, t *display.Track) (list []display.Frame, _ clock.Time) {
		for i, f := range t.Frames {
			if length := gone.To - gone.From; i > 0 && t.Short(f.State) == at.after && f.Length() > length &&
				t.Short(t.Frames[i-1].State) == at.before {
				list = append(list, display.Frame{State: *gone.State, From: f.From, To: f.From + length})
				f.From += length
			}
			list = append(list, f)
		}
		return list, 0
	})}
}

// merges reports whether a state becomes the next one by lights of the one before.
func merges(before display.State, gone *display.State, next display.State) bool {
	if gone == nil || len(before.Lights) == 0 || len(before.Lights) != len(gone.Lights) ||
		len(next.Lights) != len(gone.Lights) {
		return false
	}
	for i, l := range next.Lights {
		if l != gone.Lights[i] && (l == display.Dark || before.Lights[i] != l) {
			return false
		}
	}
	return true
}
