package diagnosis

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/part"
)

// neverLit are what a light brings about that never comes on.
var neverLit = []finding.Code{"dark", "goes-dark", "dot", "pattern", "step-missing", "segment-stuck"}

// pins are the signs that the chip's pins give: a light that should have been lit and never was, at a pin that is no
// output.
var pins = []symptom{
	{finding.Entry{Code: "no-output", Doc: "a pin that should light something is never made an output", Order: 1,
		Sure: true, Fact: true, Subsumes: neverLit},
		func(v *view) (string, clock.Time, bool) {
			pin := v.silent()
			if pin == "" || v.elsewhere() {
				return "", 0, false
			}
			return fmt.Sprintf("%s is not an output: what it should light on %s stays dark.", pin, v.track.Display), 0,
				true
		}},
	{finding.Entry{Code: "no-output", Subsumes: []finding.Code{"not-shown", "never-changes"}},
		func(v *view) (string, clock.Time, bool) {
			text := v.undriven()
			return text, 0, text != ""
		}},
	{finding.Entry{Code: "wrong-pin", Doc: "the program drives another pin than the one that is wired", Order: 2,
		Sure: true, Fact: true, Subsumes: neverLit},
		func(v *view) (string, clock.Time, bool) {
			pin := v.silent()
			if pin == "" || !v.elsewhere() {
				return "", 0, false
			}
			return fmt.Sprintf("%s is not an output, and what it should light on %s stays dark; %s is driven, and wired to nothing.",
				pin, v.track.Display, strings.Join(v.reel.Pins.Loose, ", ")), 0, true
		}},
}

// undriven tells of lines of the display, or of what is between it and the chip, that no output is at, where nothing is
// shown that should be; "" where there are none.
func (v *view) undriven() string {
	if v.x.Chip == nil || slices.ContainsFunc(fault.Pairs(v.reel, v.track.Display, v.all),
		func(p display.Pair) bool { return !p.Wrong && !p.Want.Blank() }) {
		return ""
	}
	for _, p := range v.x.Parts {
		if p.Kind.Driven == nil || !v.feeds(p) {
			continue
		}
		var pins, lines []string
		for _, line := range p.Kind.Driven(*p) {
			if pin := p.Wired[p.Kind.Terminal(line)]; slices.Contains(v.reel.Pins.Silent, pin) {
				pins, lines = append(pins, pin), append(lines, line)
			}
		}
		switch len(pins) {
		case 0:
			continue
		case 1:
			return fmt.Sprintf("%s is not an output: nothing drives the line %s of %s.", pins[0], lines[0], p.Name)
		}
		return fmt.Sprintf("%s are not outputs: nothing drives the lines %s of %s.", strings.Join(pins, ", "),
			strings.Join(lines, ", "), p.Name)
	}
	return ""
}

// feeds reports whether a part is the display, one of its group, or wired to it by a net of the board's own.
func (v *view) feeds(p *part.Instance) bool {
	members := []string{v.track.Display}
	for _, g := range v.x.Groups {
		if g.Name == v.track.Display {
			members = g.Of
		}
	}
	return slices.ContainsFunc(members, func(name string) bool {
		shown := v.x.Part(name)
		return name == p.Name || shown != nil && slices.ContainsFunc(shown.Wired, func(net string) bool {
			return net != "" && net != "GND" && net != "VCC" && slices.Contains(p.Wired, net)
		})
	})
}

// elsewhere reports whether the program drives a pin that is wired to nothing, and not a whole port.
func (v *view) elsewhere() bool {
	p := v.reel.Pins
	return len(p.Loose) > 0 && len(p.Loose) <= fault.MostLoose(p.Silent)
}

// silent is the pin behind a light that should be lit at some time and never is, where that pin is no output; "" where
// there is none. Of a group it is that of a member.
func (v *view) silent() string {
	if v.x.Chip == nil {
		return ""
	}
	i := slices.IndexFunc(v.x.Groups, func(g exercise.Group) bool { return g.Name == v.track.Display })
	if i < 0 {
		return v.silentAt(v.track.Display, 0)
	}
	before := 0
	for _, name := range v.x.Groups[i].Of {
		if pin := v.silentAt(name, before); pin != "" {
			return pin
		}
		if p := v.x.Part(name); p != nil {
			before += p.Kind.Geometry(*p).Lights()
		}
	}
	return ""
}

// silentAt is the pin of a part whose lights come behind so many others.
func (v *view) silentAt(name string, before int) string {
	p := v.x.Part(name)
	if p == nil || p.Kind.Ends == nil {
		return ""
	}
	asked := v.sighting().Asked
	single := v.track.Geometry.Type().Traits().Single && !v.follows() // one that is rightly dark loses nothing
	for light, ends := range p.Kind.Ends(*p) {
		light += before
		if !single && !lit(asked, light) {
			continue
		}
		shone := slices.ContainsFunc(v.track.Frames,
			func(f display.Frame) bool { return lit([]display.State{f.State}, light) })
		for _, terminal := range ends {
			if !shone && terminal >= 0 && slices.Contains(v.reel.Pins.Silent, p.Wired[terminal]) {
				return p.Wired[terminal]
			}
		}
	}
	return ""
}

// lit reports whether a light is lit in one of some states.
func lit(states []display.State, light int) bool {
	return slices.ContainsFunc(states, func(s display.State) bool {
		return light < len(s.Lights) && s.Lights[light] == display.Lit
	})
}
