package author

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/spec"
)

// usual is the current of a light in nA that resistors are chosen for: half of what a pin bears.
const usual = 20_000_000

// pinOhms is the resistance of a pin that drives (see circuit.Strength.Ohms).
const pinOhms = 25

// Check looks at an exercise more deeply than reading does. In its wiring: what can never light, what shorts the
// supply, and currents above what pins bear, with the resistor that would be right. In its times: what leaves open
// which state is meant.
func Check(file string, x *exercise.Exercise) []spec.Problem {
	ps := &spec.Problems{File: file}
	for _, p := range x.Parts {
		checkContact(p, ps)
		checkSource(x, p, ps)
		if p.Kind.Ends != nil {
			checkLights(x, p, ps)
		}
	}
	checkDeductions(x, ps)
	checkClean(x, ps)
	for i := range x.Trials {
		checkTiming(&x.Trials[i], ps)
		checkEnding(&x.Trials[i], ps)
	}
	return ps.Sorted()
}

// checkDeductions warns of deductions for what no finding is called.
func checkDeductions(x *exercise.Exercise, ps *spec.Problems) {
	var codes []string
	for _, e := range finding.All() {
		if e.Source != finding.Refused {
			codes = append(codes, string(e.Code))
		}
	}
	for _, d := range x.Deductions {
		name := string(d.Finding)
		if part, code, ok := strings.Cut(name, " "); ok && x.Part(part) != nil {
			name = code
		}
		if !slices.ContainsFunc(codes, func(code string) bool {
			return finding.Family(name, code) ||
				finding.Family(code, name)
		}) {
			ps.Warn(d.At, "no finding is called %q, so that nothing is ever taken off for it%s", d.Finding,
				spec.Nearest(name, codes))
		}
	}
}

// checkEnding asks what comes behind a sequence that its trial outlasts.
func checkEnding(t *exercise.Trial, ps *spec.Problems) {
	for _, e := range t.Expect {
		s, ok := e.Expectation.(judge.Ending)
		if !ok {
			continue
		}
		name, left := s.Outlasts()
		if left == 0 {
			continue
		}
		ps.Warn(spec.Pos{Line: e.Line, Col: 1},
			"the trial lasts about %s longer than the frames of %s, and the file does not say what should follow, so nothing is deducted for it: write %s",
			left.Brief(), name, judge.Find(e.Kind).Ends)
	}
}

// checkClean tells of digits that a program scans where ghosts cost nothing: nothing about them asks for a clean
// display.
func checkClean(x *exercise.Exercise, ps *spec.Problems) {
	first, asked := map[string]int{}, map[string]bool{} // by display: the line of its first sequence
	for _, t := range x.Trials {
		for _, e := range t.Expect {
			c, ok := e.Expectation.(judge.Cleanable)
			if !ok {
				continue
			}
			if name, asks := c.Clean(); asks {
				asked[name] = true
			} else if first[name] == 0 {
				first[name] = e.Line
			}
		}
	}
	for _, p := range x.Parts {
		if line := first[p.Name]; line > 0 && !asked[p.Name] && p.Kind.Ends != nil && scanned(p) {
			ps.Warn(spec.Pos{Line: line, Col: 1},
				"ghosts on %s cost no marks: `clean: 10%%` here would take a tenth off for them, and `steady: %s` asks for a display without", p.Name, p.Name)
		}
	}
}

// checkContact warns of a contact between the supply's ends.
func checkContact(p *part.Instance, ps *spec.Problems) {
	if slices.Contains(p.Kind.Cues, part.Press) && p.Kind.Geometry == nil && slices.Contains(p.Wired, "VCC") &&
		slices.Contains(p.Wired, "GND") {
		ps.Warn(p.Settings.At("pins"), "%s joins VCC and GND while it is pressed: a short circuit", p.Name)
	}
}

// checkSource warns of a source of voltage whose output something else decides: a rail, another source, or a contact.
func checkSource(x *exercise.Exercise, p *part.Instance, ps *spec.Problems) {
	const output = 0 // of all kinds that put a voltage on a net
	net := p.Wired[output]
	if !p.Kind.Volts || net == "" {
		return
	}
	if net == "VCC" || net == "GND" {
		ps.Warn(p.Settings.At("pins"), "%s gives its voltage to %s, which is stronger: it does nothing", p.Name, net)
		return
	}
	for _, other := range x.Parts {
		if other == p || !slices.Contains(other.Wired, net) {
			continue
		}
		switch {
		case other.Kind.Volts && other.Wired[output] == net && p.Name < other.Name:
			ps.Warn(p.Settings.At("pins"), "%s and %s both give a voltage to %s: what it is at is neither's", p.Name,
				other.Name, net)
		case !other.Kind.Volts && len(other.Kind.Cues) > 0 && other.Kind.Geometry == nil:
			ps.Warn(p.Settings.At("pins"), "%s gives its voltage to %s, which %s decides, too", p.Name, net, other.Name)
		}
	}
}

// checkLights warns of lights that can never shine, and of those that take too much of a pin.
func checkLights(x *exercise.Exercise, p *part.Instance, ps *spec.Problems) {
	vf := part.FindColour(p.Settings.Text("colour")).Vf
	series := p.Settings.Int("resistor")
	// nA of each pin, were all lights on that share it: of one digit, where digits take turns
	through := map[string]int64{}
	lights := map[string]int64{}
	one, count, digit := map[string]int64{}, map[string]int64{}, 0 // of the digit under way
	digits := map[int]int{}
	for _, s := range p.Kind.Geometry(*p).Shapes {
		digits[s.Light] = s.Digit
	}
	never := 0
	ends := p.Kind.Ends(*p)
	for light, e := range ends {
		if digits[light] != digit {
			digit = digits[light]
			clear(one)
			clear(count)
		}
		var nets [2]string
		pins := int64(0)
		for i, terminal := range e {
			if terminal < 0 {
				nets[i] = map[int]string{0: "VCC", 1: "GND"}[i] // inside the part
				continue
			}
			nets[i] = p.Wired[terminal]
			if isPin(x, nets[i]) {
				pins++
			}
		}
		if nets[0] == "" || nets[1] == "" {
			continue
		}
		if nets[0] == "GND" || nets[1] == "VCC" || nets[0] == nets[1] {
			never++
			continue
		}
		if p.Supply <= vf {
			continue
		}
		nA := (p.Supply - vf) * 1000 / max(1, series+pins*pinOhms)
		for _, net := range nets {
			if isPin(x, net) {
				one[net] += nA
				count[net]++
				if one[net] > through[net] {
					through[net], lights[net] = one[net], count[net]
				}
			}
		}
	}
	if never > 0 && never == len(ends) {
		ps.Warn(p.Settings.At("pins"), "%s can never light: its anode is at GND, or its cathode at VCC", p.Name)
	}
	if x.Chip == nil {
		return
	}
	worst, more := "", 0 // the first pin that is over, in the order of the file, and how many others are
	for _, net := range p.Wired {
		nA, ok := through[net]
		if delete(through, net); !ok || nA <= x.Chip.Limits.Pin {
			continue
		}
		if worst != "" {
			more++
			continue
		}
		worst = fmt.Sprintf("%s can carry %d mA of %s; the %s bears %d mA at a pin", net, nA/1_000_000, p.Name,
			x.Chip.Title, x.Chip.Limits.Pin/1_000_000)
		if n := lights[net]; n > 1 && series >= 100 {
			worst += fmt.Sprintf(", and %d lights share it: a transistor for it would be right", n)
		} else {
			worst += fmt.Sprintf(": a resistor of %d Ω keeps it to %d mA", standard((p.Supply-vf)*1000*n/usual-pinOhms),
				usual/1_000_000)
		}
	}
	if more > 0 {
		worst += fmt.Sprintf("; so can %d other pins", more)
	}
	if worst != "" {
		ps.Warn(p.Settings.At("pins"), "%s", worst)
	}
}

func isPin(x *exercise.Exercise, net string) bool {
	if x.Chip == nil || net == "" {
		return false
	}
	_, ok := x.Chip.Pin(net)
	return ok
}

// standard is the next resistance up that resistors of the E12 series have (IEC 60063).
func standard(ohms int64) int64 {
	for scale := int64(1); ; scale *= 10 {
		for _, step := range []int64{10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82} {
			if v := step * scale; v >= ohms {
				return v
			}
		}
	}
}

// scanned reports whether a display has several digits, which a program lights in turn.
func scanned(p *part.Instance) bool {
	counting, ok := display.As[display.Counting](p.Kind.Geometry(*p))
	return ok && counting.Figures(p.Kind.Geometry(*p)) > 1
}
