package fault

import (
	"fmt"
	"strings"

	"hemble/core/display"
	"hemble/core/finding"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "no-line-end", Price: finding.Form,
		Doc:      "the texts that a program sends are not ended: they stand behind each other in one line",
		Catch:    "expect several lines with `says`",
		Subsumes: []finding.Code{"never-changes"}}, Once: true, Sizes: lineEnds})
}

// lineEnds has what came after each pause of a terminal be a line of its own.
func lineEnds(s *Subject) []Size {
	if s.Verdicts == nil || s.shown == nil || !s.shown.Geometry.Type().Traits().Lines {
		return nil
	}
	lines, texts := 0, 0
	for _, r := range s.Reels {
		if t := r.Track(s.Part.Name); t != nil {
			lines += len(t.Frames) - 1
			texts += len(ended(t)) - 1
		}
	}
	if texts < 3 || texts < 2*lines {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("%s gets no line ends: the texts that the program sends stand behind each other in one line.",
		s.Part.Name), Reel: frames(s.Part.Name, func(_ string, t *display.Track) []display.Frame { return ended(t) })}}
}

// pageWidth is where a terminal begins a new line by itself.
const pageWidth = 120

// ended are the frames of a terminal with a line for what came after each pause.
func ended(t *display.Track) (out []display.Frame) {
	full := false
	for _, f := range t.Frames {
		was := ""
		for i := range len(f.Stages) + 1 {
			part := f
			part.Stages, part.To = nil, f.To
			if part.State.Line = f.State.Line; i < len(f.Stages) {
				part.State.Line, part.To = f.Stages[i].Line, f.Stages[i].To
			}
			if i > 0 {
				part.From = f.Stages[i-1].To
			}
			whole := part.State.Line
			part.State.Line = strings.TrimPrefix(whole, was)
			was = whole
			switch last := len(out) - 1; {
			case i == 0 && full: // the page was not wide enough
				out[last].State.Line += part.State.Line
				out[last].To = part.To
			case strings.TrimSpace(part.State.Line) == "" && last >= 0:
				out[last].To = part.To
			default:
				out = append(out, part)
			}
		}
		full = len([]rune(f.State.Line)) == pageWidth
	}
	for i := range out {
		out[i].State.Line = strings.TrimSpace(out[i].State.Line)
	}
	return out
}
