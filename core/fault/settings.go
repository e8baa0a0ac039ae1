package fault

import (
	"cmp"
	"slices"

	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: machine.SettingCode, Price: finding.Behaviour, Order: 1,
		Doc: "a setting of the chip's configuration keeps the program from working: the watchdog is on, a pin belongs to " +
			"programming",
		Subsumes: []finding.Code{"dark", "not-shown", "ignored-key", "goes-dark"}}, Once: true,
		Sizes: settings(machine.SettingCode)})
	register(&Fault{Entry: finding.Entry{Code: machine.NarrowCode, Price: finding.Behaviour, Order: 1,
		Doc:      "a register of a design is too narrow for the number that it is compared with",
		Subsumes: []finding.Code{"never-changes", "ignored-key"}}, Once: true, Sizes: settings(machine.NarrowCode)})
	register(&Fault{Entry: finding.Entry{Code: machine.NumberCode, Price: finding.Wiring, Order: 1,
		Doc:      "a script's pins are numbered as on the header where the processor's numbers are meant, or the reverse",
		Subsumes: []finding.Code{"dark", "ignored-key", "never-changes", "wrong-pin", "no-output", "too-early", "floating"}},
		Once: true, Sizes: settings(machine.NumberCode)})
}

// settings are those of a chip that the run told of: without them, the program is run again.
func settings(code finding.Code) func(*Subject) []Size {
	return func(s *Subject) (out []Size) {
		if s.Exercise.Chip == nil || s.Part.Kind.Geometry == nil || s.Verdicts == nil {
			return nil
		}
		for _, setting := range s.Exercise.Chip.Settings {
			if setting.Code != code {
				continue
			}
			if text := told(s.Reels, setting.Note); text != "" {
				out = append(out, Size{Text: cmp.Or(setting.Text, text), Likely: true,
					Bench: mended(setting.Change)})
			}
		}
		return out
	}
}

// told is what runs say under a code, as a sentence; "" for nothing.
func told(reels []*reel.Reel, code string) string {
	for _, r := range reels {
		for _, n := range r.Notes {
			if n.Code == code && n.Text != "" {
				return n.Text + "."
			}
		}
	}
	return ""
}

// mended has a change of the firmware made before it is run.
func mended(change func(*firmware.Image) *firmware.Image) func(*exercise.Exercise) {
	return func(x *exercise.Exercise) { x.Mended = append(slices.Clone(x.Mended), change) }
}
