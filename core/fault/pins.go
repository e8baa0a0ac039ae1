package fault

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "wrong-pull", Price: finding.Behaviour, Order: 1,
		Doc:      "an input is pulled to the side to which its contact connects it, and never changes",
		Subsumes: []finding.Code{"ignored-key", "too-early", "input-inverted", "never-changes"}}, Once: true, Sizes: wrongPull})
	register(&Fault{Entry: finding.Entry{Code: "input-elsewhere", Price: finding.Behaviour, Order: 1,
		Doc:      "a contact is read at another pin than the one that it is wired to",
		Subsumes: []finding.Code{"ignored-key", "too-early", "dark", "never-changes", "pull-up"}}, Once: true,
		Sizes: inputElsewhere})
	register(&Fault{Entry: finding.Entry{Code: "output-elsewhere", Price: finding.Wiring, Order: 1,
		Doc:      "a display is driven at another pin than the one that it is wired to",
		Subsumes: []finding.Code{"wrong-pin", "no-output", "dark", "goes-dark"}}, Once: true, Sizes: outputElsewhere})
}

// Bounds of what is tried of pins that are wired to nothing.
const (
	mostWaiting = 4
	mostLoose   = 3
)

// MostLoose is how many pins that are driven and wired to nothing tell of wrong ones, by those that are wired and no
// outputs: who makes a whole port outputs means none of them.
func MostLoose(silent []string) int { return max(mostLoose, len(silent)) }

// contact reports whether the part is one that a person touches, at a chip whose pins are known.
func (s *Subject) contact() bool {
	return s.Part.Kind.Geometry == nil && s.Exercise.Chip != nil && len(s.Part.Kind.Cues) > 0 && s.Verdicts != nil
}

// stood gives what is true of the chip's pins at the end of every run.
func (s *Subject) stood(which func(reel.Pins) []string) (out []string) {
	for i, r := range s.Reels {
		if i == 0 {
			out = slices.Clone(which(r.Pins))
			continue
		}
		out = slices.DeleteFunc(out, func(pin string) bool { return !slices.Contains(which(r.Pins), pin) })
	}
	return out
}

func down(p reel.Pins) []string    { return p.Down }
func up(p reel.Pins) []string      { return p.Up }
func silent(p reel.Pins) []string  { return p.Silent }
func loose(p reel.Pins) []string   { return p.Loose }
func waiting(p reel.Pins) []string { return p.Waiting }

func wrongPull(s *Subject) (out []Size) {
	if !s.contact() {
		return nil
	}
	for _, side := range []struct {
		net, is, needs string
		pulled         func(reel.Pins) []string
	}{{"GND", "down", "up", down}, {"VCC", "up", "down", up}} {
		if !slices.Contains(s.Part.Wired, side.net) {
			continue
		}
		pulled := s.stood(side.pulled)
		for _, pin := range s.Part.Wired {
			if !slices.Contains(pulled, pin) {
				continue
			}
			out = append(out, Size{Likely: true,
				Text: fmt.Sprintf("%s is pulled %s, and %s connects it to %s: it stays the same, pressed or not. It needs a pull-%s.",
					pin, side.is, s.Part.Name, side.net, side.needs),
				Bench: func(x *exercise.Exercise) {
					x.Pulled = append(slices.Clone(x.Pulled), exercise.Pull{Pin: pin, Down: side.needs == "down"})
				}})
		}
	}
	return out
}

func inputElsewhere(s *Subject) (out []Size) {
	if s.Part.Kind.Volts && s.Exercise.Chip != nil && s.Verdicts != nil {
		return s.measuredElsewhere()
	}
	if !s.contact() || !slices.Contains(s.Part.Wired, "GND") {
		return nil
	}
	quiet := s.stood(silent)
	for _, pin := range append(s.stood(up), s.stood(down)...) { // at which somebody looks
		quiet = slices.DeleteFunc(quiet, func(q string) bool { return q == pin })
	}
	return s.elsewhere(quiet, s.stood(waiting), mostWaiting, func(_, at, pin string) string {
		return fmt.Sprintf("The program reads %s at %s; it is wired to %s.", s.Part.Name, at, pin)
	})
}

// measuredElsewhere is for a voltage that the program may take from a pin to which nothing is wired.
func (s *Subject) measuredElsewhere() (out []Size) {
	var at []string
	for _, r := range s.Reels {
		for _, n := range r.Notes {
			pin, floats := strings.CutPrefix(n.Code, "floating-")
			wired := slices.ContainsFunc(s.Exercise.Parts, func(p *part.Instance) bool {
				return slices.Contains(p.Wired, pin)
			})
			if floats && !wired && !slices.Contains(at, pin) {
				at = append(at, pin)
			}
		}
	}
	var own []string
	for _, pin := range s.Part.Wired {
		if _, ok := s.Exercise.Chip.Pin(pin); ok && pin != "" {
			own = append(own, pin)
		}
	}
	return s.elsewhere(own, at, mostWaiting, func(_, at, pin string) string {
		return fmt.Sprintf("The program measures %s at %s; it is wired to %s.", s.Part.Name, at, pin)
	})
}

func outputElsewhere(s *Subject) (out []Size) {
	if s.Part.Kind.Geometry == nil || s.Exercise.Chip == nil || s.Verdicts == nil {
		return nil
	}
	driven := s.stood(loose)
	if len(driven) > MostLoose(s.stood(silent)) {
		return nil
	}
	return s.elsewhere(s.stood(silent), driven, mostLoose, func(terminal, at, pin string) string {
		return fmt.Sprintf("The program drives %s of %s at %s; it is wired to %s.", terminal, s.Part.Name, at, pin)
	})
}

// elsewhere tries the part's terminals that are wired to some pins at others, one at a time.
func (s *Subject) elsewhere(own, others []string, most int, text func(terminal, at, pin string) string) (out []Size) {
	others = others[:min(most, len(others))]
	for i, pin := range s.Part.Wired {
		if !slices.Contains(own, pin) || len(out) >= most*most {
			continue
		}
		for _, at := range others {
			out = append(out, Size{Likely: true, Text: text(s.Part.Kind.Pins[i].Name, at, pin),
				Bench: func(x *exercise.Exercise) { x.Part(s.Part.Name).Wired[i] = at }})
		}
	}
	return out
}
