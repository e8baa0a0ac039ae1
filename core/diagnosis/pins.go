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
)

// neverLit are what a light brings about that never comes on.
var neverLit = []finding.Code{"dark", "goes-dark", "dot", "pattern", "step-missing", "segment-stuck"}

// pins are the signs that the chip's pins give: a light that should have been lit and never was, at a pin that is no
// output.
var pins = []symptom{
	{finding.Entry{Code: "no-output", Doc: "a pin that should light something is never made an output", Order: 2,
		Sure: true, Fact: true, Subsumes: neverLit},
		func(v *view) (string, clock.Time, bool) {
			pin := v.silent()
			if pin == "" || v.elsewhere() {
				return "", 0, false
			}
			return fmt.Sprintf("%s is not an output: what it should light on %s stays dark.", pin, v.track.Display), 0,
				true
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
