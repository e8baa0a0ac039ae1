package fault

import (
	"slices"

	"hemble/core/exercise"
	"hemble/core/finding"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "chip-settings", Price: finding.Behaviour, Order: 1,
		Doc: "a setting of the chip's configuration keeps the program from working: the watchdog is on, a pin belongs to " +
			"programming",
		Subsumes: []finding.Code{"dark", "not-shown", "ignored-key", "goes-dark"}}, Once: true, Sizes: settings})
}

// settings are those of the chip's configuration that the run told of: without them, the program is run again.
func settings(s *Subject) (out []Size) {
	if s.Exercise.Chip == nil || s.Part.Kind.Geometry == nil || s.Verdicts == nil {
		return nil
	}
	for _, setting := range s.Exercise.Chip.Settings {
		told := false
		for _, r := range s.Reels {
			for _, n := range r.Notes {
				told = told || n.Code == setting.Note
			}
		}
		if told {
			out = append(out, Size{Text: setting.Text, Likely: true,
				Bench: func(x *exercise.Exercise) { x.Fuses = append(slices.Clone(x.Fuses), setting.Change) }})
		}
	}
	return out
}
